// Which texture tiles the meshes of a file reach: UDIM numbers, from texture coordinates.
//
// Sources: UDIM = 1001 + u + 10·v (MaterialX Specification 1.39, "Filename Substitutions"); glTF 2.0, §3.6 and §3.7.2 (accessors, TEXCOORD_n, indices);
// Wavefront OBJ, "vt" and "f"; OpenUSD, primvars of type texCoord2f; PLY, properties s/t or u/v (common practice, no source).
// A face that only touches the border of a tile shows nothing of it.

import { udimOf } from '../names/sequences';
import type { FormatId } from '../formats/format';
import { readGlb, readJson } from '../documents/gltfFile';
import { decodeText } from '../text/bytes';

/** Tiles by their number; null where it is not known what the file reaches. `beside` gives a buffer of a glTF by how it is written. */
export async function tilesIn(
  format: FormatId,
  bytes: Uint8Array,
  beside: (uri: string) => Promise<Uint8Array | null>,
): Promise<Set<number> | null> {
  const tiles = new Tiles();
  try {
    switch (format) {
      case 'gltf':
      case 'glb': {
        const file = format === 'glb' ? readGlb(bytes) : readJson(bytes);
        return file && gltfTiles(file.json as Gltf, await file.buffers(beside), tiles) ? tiles.found : null;
      }
      case 'obj':
        objTiles(decodeText(bytes).text, tiles);
        return tiles.found;
      case 'usda':
        return usdTiles(decodeText(bytes).text, tiles) ? tiles.found : null;
      case 'ply':
        return plyTiles(bytes, tiles) ? tiles.found : null;
      case 'mtl':
      case 'mtlx':
      case 'otio':
        return tiles.found;
      default:
        return null;
    }
  } catch {
    // Broken in some way: nothing is known of it.
    return null;
  }
}

class Tiles {
  readonly found = new Set<number>();

  /** What lies between the outermost of some coordinates: u and v by turns. */
  add(uv: ArrayLike<number>): void {
    if (uv.length < 2) return;
    let [uMin, uMax, vMin, vMax] = [Infinity, -Infinity, Infinity, -Infinity];
    for (let i = 0; i + 1 < uv.length; i += 2) {
      uMin = Math.min(uMin, uv[i]!);
      uMax = Math.max(uMax, uv[i]!);
      vMin = Math.min(vMin, uv[i + 1]!);
      vMax = Math.max(vMax, uv[i + 1]!);
    }
    if (![uMin, uMax, vMin, vMax].every(Number.isFinite)) throw new RangeError('no coordinates');
    // A row has ten tiles; what lies left of the first or below it is in none.
    for (let v = Math.max(0, Math.floor(vMin)); v <= last(vMin, vMax) && v < 1000; v++)
      for (let u = Math.max(0, Math.floor(uMin)); u <= Math.min(9, last(uMin, uMax)); u++)
        this.found.add(udimOf(u, v));
  }
}

const last = (min: number, max: number) => Math.max(Math.floor(min), Math.ceil(max) - 1);

interface Gltf {
  extensionsUsed?: string[];
  bufferViews?: { buffer: number; byteOffset?: number; byteStride?: number; extensions?: object }[];
  accessors?: {
    bufferView?: number;
    byteOffset?: number;
    componentType: number;
    normalized?: boolean;
    count: number;
    sparse?: object;
  }[];
  meshes?: {
    primitives: {
      attributes: Record<string, number>;
      indices?: number;
      mode?: number;
      extensions?: object;
    }[];
  }[];
}

/** Bytes of a component, and how it is read. */
const components: Record<number, [size: number, read: (v: DataView, at: number) => number, whole: number]> = {
  5120: [1, (v, at) => v.getInt8(at), 127],
  5121: [1, (v, at) => v.getUint8(at), 255],
  5122: [2, (v, at) => v.getInt16(at, true), 32767],
  5123: [2, (v, at) => v.getUint16(at, true), 65535],
  5125: [4, (v, at) => v.getUint32(at, true), 4294967295],
  5126: [4, (v, at) => v.getFloat32(at, true), 1],
};

function gltfTiles(gltf: Gltf, bufferAt: (n: number) => Uint8Array | null, tiles: Tiles): boolean {
  // Coordinates that are moved by the material, or packed in a way that is not read here.
  const strange = /KHR_texture_transform|draco|meshopt|EXT_/;
  if (gltf.extensionsUsed?.some((e) => strange.test(e))) return false;
  /** Values of an accessor; null where they are not known. */
  const values = (n: number, width: number): Float64Array | null => {
    const accessor = gltf.accessors?.[n];
    const view = accessor && gltf.bufferViews?.[accessor.bufferView ?? -1];
    if (!accessor || !view || accessor.sparse || view.extensions) return null;
    const bytes = bufferAt(view.buffer);
    const kind = components[accessor.componentType];
    if (!bytes || !kind) return null;
    const [size, read, whole] = kind;
    const data = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    const start = (view.byteOffset ?? 0) + (accessor.byteOffset ?? 0);
    const stride = view.byteStride ?? size * width;
    const found = new Float64Array(accessor.count * width);
    for (let i = 0; i < accessor.count; i++)
      for (let c = 0; c < width; c++) {
        const value = read(data, start + i * stride + c * size);
        found[i * width + c] = accessor.normalized ? value / whole : value;
      }
    return found;
  };
  for (const mesh of gltf.meshes ?? [])
    for (const p of mesh.primitives) {
      if (p.extensions && Object.keys(p.extensions).some((e) => strange.test(e))) return false;
      for (const [name, n] of Object.entries(p.attributes)) {
        if (!name.startsWith('TEXCOORD_')) continue;
        const uv = values(n, 2);
        if (!uv) return false;
        const indices = p.indices === undefined ? null : values(p.indices, 1);
        if (p.indices !== undefined && !indices) return false;
        // Strips and fans: all of them together.
        if ((p.mode ?? 4) !== 4) tiles.add(uv);
        else {
          const count = indices ? indices.length : uv.length / 2;
          for (let i = 0; i + 2 < count; i += 3) {
            const [a, b, c] = [0, 1, 2].map((k) => (indices ? indices[i + k]! : i + k) * 2) as [
              number,
              number,
              number,
            ];
            tiles.add([uv[a]!, uv[a + 1]!, uv[b]!, uv[b + 1]!, uv[c]!, uv[c + 1]!]);
          }
        }
      }
    }
  return true;
}

function objTiles(text: string, tiles: Tiles): void {
  const vt: number[] = [];
  for (const line of text.replace(/\\\r?\n/g, ' ').split(/\r?\n/)) {
    const words = line.trim().split(/\s+/);
    if (words[0] === 'vt') vt.push(Number(words[1]), Number(words[2] ?? 0));
    else if (words[0] === 'f') {
      const uv = words.slice(1).flatMap((w) => {
        const n = Number(w.split('/')[1] || NaN);
        if (Number.isNaN(n)) return [];
        const at = (n < 0 ? vt.length / 2 + n : n - 1) * 2;
        return [vt[at]!, vt[at + 1]!];
      });
      tiles.add(uv);
    }
  }
}

function usdTiles(text: string, tiles: Tiles): boolean {
  if (/UsdTransform2d/.test(text)) return false;
  const arrays = /\b(?:texCoord2[fdh]|float2|double2|half2)\[\]\s+primvars:[\w:]+(?:\.timeSamples)?\s*=\s*/g;
  for (let m = arrays.exec(text); m; m = arrays.exec(text)) {
    const open = text[arrays.lastIndex];
    const close = open === '{' ? '}' : open === '[' ? ']' : null;
    if (close === null) continue; // None, or blocked.
    const end = text.indexOf(close, arrays.lastIndex);
    if (end < 0) return false;
    const pairs = text.slice(arrays.lastIndex, end).matchAll(/\(\s*([^,()\s]+)\s*,\s*([^,()\s]+)\s*\)/g);
    tiles.add(Array.from(pairs).flatMap((p) => [Number(p[1]), Number(p[2])]));
  }
  return true;
}

const plySizes: Record<string, number> = {
  char: 1,
  int8: 1,
  uchar: 1,
  uint8: 1,
  short: 2,
  int16: 2,
  ushort: 2,
  uint16: 2,
  int: 4,
  int32: 4,
  uint: 4,
  uint32: 4,
  float: 4,
  float32: 4,
  double: 8,
  float64: 8,
};

function plyTiles(bytes: Uint8Array, tiles: Tiles): boolean {
  const head = decodeText(bytes.subarray(0, 65536)).text;
  const end = /end_header\r?\n/.exec(head);
  if (!end) return false;
  const lines = head.slice(0, end.index).split(/\r?\n/);
  if (lines.some((l) => /^property\s+list\s+\S+\s+\S+\s+texcoord/.test(l))) return false;
  const at = lines.findIndex((l) => l.startsWith('element vertex '));
  if (at < 0) return true;
  const count = Number(lines[at]!.split(/\s+/)[2]);
  const properties: [type: string, name: string][] = [];
  for (const line of lines.slice(at + 1)) {
    if (!line.startsWith('property ')) break;
    const [, type, name] = line.split(/\s+/) as [string, string, string];
    if (type === 'list') return false;
    properties.push([type, name]);
  }
  const place = (names: RegExp) => properties.findIndex(([, name]) => names.test(name));
  const [u, v] = [place(/^(?:s|u|texture_u)$/), place(/^(?:t|v|texture_v)$/)];
  if (u < 0 || v < 0) return true;
  // Vertices that are not the first element lie behind others, whose size may vary.
  if (lines.slice(0, at).some((l) => l.startsWith('element '))) return false;
  const uv: number[] = [];
  if (/^format\s+ascii/m.test(head)) {
    const rows = decodeText(bytes.subarray(end.index + end[0].length)).text.split(/\r?\n/);
    for (const row of rows.slice(0, count)) {
      const words = row.trim().split(/\s+/);
      uv.push(Number(words[u]), Number(words[v]));
    }
  } else {
    const little = !/^format\s+binary_big_endian/m.test(head);
    const data = new DataView(bytes.buffer, bytes.byteOffset + end.index + end[0].length);
    const offsets = properties.map((_, n) => properties.slice(0, n).reduce((s, [t]) => s + plySizes[t]!, 0));
    const stride = properties.reduce((s, [t]) => s + plySizes[t]!, 0);
    const read = (row: number, n: number) => {
      const where = row * stride + offsets[n]!;
      const size = plySizes[properties[n]![0]];
      return size === 8 ? data.getFloat64(where, little) : data.getFloat32(where, little);
    };
    if (![u, v].every((n) => /^(?:float|double)/.test(properties[n]![0]))) return false;
    for (let row = 0; row < count; row++) uv.push(read(row, u), read(row, v));
  }
  tiles.add(uv);
  return true;
}
