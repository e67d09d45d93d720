// The box around all that a scene file holds itself, in its own units and axes; what it references is not looked into. Read from what the
// files say: glTF's POSITION accessors must carry their bounds (glTF 2.0 §3.7.2.1); the others are measured point by point.
// Null: this format, or this file, is not measured here (binary USD, X3D, VRML; animation is not followed, one instance counts as it stands).

import type { FormatId } from '../formats/format';
import { decodeMarkup, eachMarkup, localName, openMarkup } from '../formats/markup';
import { decodeText, latin1 } from '../text/bytes';
import { Box } from './box';
import { identity, placedBy, scaling, times, translation, turning, type Matrix } from './matrix';
import { numbersIn, opsIn, placedByOps } from './usdXform';

export const measurable: ReadonlySet<FormatId> = new Set(['gltf', 'glb', 'obj', 'ply', 'dae', 'usda', '3mf']);

/** The box of a whole file (of 3MF: of its model part, unpacked); null where there is none to be told. Never throws on bad input. */
export function sceneBox(format: FormatId, bytes: Uint8Array): Box | null {
  try {
    const box = new Box();
    if (format === 'gltf') gltfBox(JSON.parse(decodeText(bytes).text) as GltfJson, box);
    else if (format === 'glb') {
      const length = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength).getUint32(12, true);
      gltfBox(JSON.parse(decodeText(bytes.subarray(20, 20 + length)).text) as GltfJson, box);
    } else if (format === 'obj') objBox(bytes, box);
    else if (format === 'ply') plyBox(bytes, box);
    else if (format === 'dae') daeBox(bytes, box);
    else if (format === '3mf') threemfBox(bytes, box);
    else if (format === 'usda') usdaBox(decodeText(bytes).text, box);
    return box.isEmpty() ? null : box;
  } catch {
    return null; // what a file says of itself does not fit together
  }
}

interface GltfJson {
  scene?: number;
  scenes?: { nodes?: number[] }[];
  nodes?: {
    mesh?: number;
    children?: number[];
    matrix?: number[];
    translation?: number[];
    rotation?: number[];
    scale?: number[];
  }[];
  meshes?: { primitives: { attributes: Record<string, number> }[] }[];
  accessors?: { min?: number[]; max?: number[] }[];
}

function gltfBox(json: GltfJson, box: Box): void {
  const { nodes = [], meshes = [], accessors = [], scenes = [] } = json;
  const children = new Set(nodes.flatMap((n) => n.children ?? []));
  const roots = scenes[json.scene ?? 0]?.nodes ?? nodes.map((_, i) => i).filter((i) => !children.has(i));
  const waiting: [number, Matrix, number][] = roots.map((n) => [n, identity, 0]);
  for (let at = waiting.pop(); at; at = waiting.pop()) {
    const [n, parent, depth] = at;
    const node = nodes[n];
    if (!node || depth > 1000) continue;
    box.visit();
    const own =
      node.matrix ??
      placedBy(node.translation ?? [0, 0, 0], node.rotation ?? [0, 0, 0, 1], node.scale ?? [1, 1, 1]);
    const m = times(parent, own);
    for (const p of (node.mesh === undefined ? undefined : meshes[node.mesh])?.primitives ?? []) {
      const { min, max } = accessors[p.attributes.POSITION ?? -1] ?? {};
      if (min?.length === 3 && max?.length === 3) box.addCorners(m, min, max);
    }
    for (const c of node.children ?? []) waiting.push([c, m, depth + 1]);
  }
}

function objBox(bytes: Uint8Array, box: Box): void {
  for (let at = 0; at < bytes.length;) {
    let end = bytes.indexOf(0x0a, at);
    if (end < 0) end = bytes.length;
    let i = at;
    while (bytes[i] === 0x20 || bytes[i] === 0x09) i++;
    if (bytes[i] === 0x76 && (bytes[i + 1] === 0x20 || bytes[i + 1] === 0x09)) {
      const [x, y, z] = latin1(bytes.subarray(i + 2, end))
        .trim()
        .split(/\s+/)
        .map(Number);
      box.add(x!, y!, z!);
    }
    at = end + 1;
  }
}

const plySizes: Record<string, number> = {
  char: 1,
  uchar: 1,
  int8: 1,
  uint8: 1,
  short: 2,
  ushort: 2,
  int16: 2,
  uint16: 2,
  int: 4,
  uint: 4,
  int32: 4,
  uint32: 4,
  float: 4,
  float32: 4,
  double: 8,
  float64: 8,
};

function plyBox(bytes: Uint8Array, box: Box): void {
  const head = latin1(bytes.subarray(0, 65_536));
  const endAt = /(^|\n)end_header\r?\n/.exec(head);
  if (!endAt) return;
  const start = endAt.index + endAt[0].length;
  const form = /(?:^|\n)format\s+(\w+)/.exec(head)?.[1];
  const elements = [
    ...head
      .slice(0, endAt.index + 1)
      .matchAll(/(?:^|\n)element\s+(\w+)\s+(\d+)((?:\r?\n(?!element)[^\n]*)*)/g),
  ];
  const at = elements.findIndex((e) => e[1] === 'vertex');
  // What stands before the points is stepped over: so many lines, or so many bytes where no list makes its items of different lengths.
  const before = elements.slice(0, Math.max(at, 0)).map((e) => plyElement(e));
  const vertex = at < 0 ? null : plyElement(elements[at]!);
  if (!vertex) return;
  const { count, names, offsets, stride, sizes } = vertex;
  const [ix, iy, iz] = ['x', 'y', 'z'].map((n) => names.indexOf(n)) as [number, number, number];
  if (ix < 0 || iy < 0 || iz < 0) return;
  if (form === 'ascii') {
    const lines = latin1(bytes.subarray(start)).split('\n');
    const from = before.reduce((n, e) => n + e.count, 0);
    for (let n = from; n < from + count && n < lines.length; n++) {
      const v = lines[n]!.trim().split(/\s+/);
      box.add(Number(v[ix]), Number(v[iy]), Number(v[iz]));
    }
    return;
  }
  const from = before.reduce((n, e) => n + e.count * e.stride, start);
  if (!Number.isFinite(from + stride)) return;
  const little = form === 'binary_little_endian';
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const value = (i: number, n: number) => {
    const where = from + n * stride + offsets[i]!;
    return sizes[i] === 8 ? view.getFloat64(where, little) : view.getFloat32(where, little);
  };
  for (let n = 0; n < count; n++) box.add(value(ix, n), value(iy, n), value(iz, n));
}

/** An element of the header: how many, its properties, and bytes to each (not a number where it holds a list). */
function plyElement([, , count, body]: RegExpMatchArray) {
  const properties = [...body!.matchAll(/\n\s*property\s+(list\s+\w+\s+)?(\w+)\s+(\w+)/g)];
  const sizes = properties.map((p) => (p[1] === undefined ? (plySizes[p[2]!] ?? NaN) : NaN));
  let stride = 0;
  const offsets = sizes.map((size) => {
    const own = stride;
    stride += size;
    return own;
  });
  return { count: Number(count), names: properties.map((p) => p[3]!), sizes, offsets, stride };
}

interface Element {
  name: string;
  attributes: Record<string, string>;
  text: string;
  children: Element[];
}

/** The elements of a file as a tree, text joined. */
function elementsOf(bytes: Uint8Array): Element {
  const m = openMarkup(bytes);
  const root: Element = { name: '', attributes: {}, text: '', children: [] };
  const open = [root];
  eachMarkup(m, {
    open(name, attributes) {
      const element: Element = {
        name: localName(name),
        attributes: Object.fromEntries(
          attributes.map((a) => [localName(a.name), decodeMarkup(m, a.from, a.to).text]),
        ),
        text: '',
        children: [],
      };
      open.at(-1)!.children.push(element);
      open.push(element);
    },
    text(from, to, cdata) {
      open.at(-1)!.text += decodeMarkup(m, from, to, cdata).text;
    },
    close() {
      if (open.length > 1) open.pop();
    },
  });
  return root;
}

const numbersOf = (text: string) => text.trim().split(/\s+/).map(Number);
const child = (e: Element | undefined, name: string) => e?.children.find((c) => c.name === name);

function daeBox(bytes: Uint8Array, box: Box): void {
  const collada = child(elementsOf(bytes), 'COLLADA');
  const points = new Map<string, number[]>();
  for (const geometry of collada?.children
    .filter((c) => c.name === 'library_geometries')
    .flatMap((l) => l.children) ?? []) {
    const mesh = child(geometry, 'mesh');
    const source = child(mesh, 'vertices')
      ?.children.find((c) => c.name === 'input' && c.attributes.semantic === 'POSITION')
      ?.attributes.source?.slice(1);
    const array = mesh?.children.find((c) => c.name === 'source' && c.attributes.id === source);
    const numbers = child(array, 'float_array')?.text;
    if (numbers && geometry.attributes.id) points.set(geometry.attributes.id, numbersOf(numbers));
  }
  const byId = new Map<string, Element>();
  const collect = (e: Element) => {
    if (e.name === 'node' && e.attributes.id) byId.set(e.attributes.id, e);
    e.children.forEach(collect);
  };
  if (collada) collect(collada);
  const place = (node: Element, parent: Matrix, depth: number) => {
    if (depth > 200) return;
    box.visit();
    let m = parent;
    for (const c of node.children) {
      const n = /^(matrix|translate|rotate|scale)$/.test(c.name) ? numbersOf(c.text) : [];
      if (c.name === 'matrix' && n.length === 16)
        m = times(
          m,
          n.map((_, i) => n[(i % 4) * 4 + Math.floor(i / 4)]!),
        );
      else if (c.name === 'translate') m = times(m, translation(n));
      else if (c.name === 'scale') m = times(m, scaling(n));
      else if (c.name === 'rotate') m = times(m, turning(n, n[3]!));
      else if (c.name === 'instance_geometry') {
        const p = points.get(c.attributes.url?.slice(1) ?? '') ?? [];
        for (let i = 0; i + 2 < p.length; i += 3) box.addPlaced(m, p[i]!, p[i + 1]!, p[i + 2]!);
      } else if (c.name === 'node') place(c, m, depth + 1);
      else if (c.name === 'instance_node') {
        const other = byId.get(c.attributes.url?.slice(1) ?? '');
        if (other) place(other, m, depth + 1);
      }
    }
  };
  const scene = child(child(collada, 'scene'), 'instance_visual_scene')?.attributes.url?.slice(1);
  const visual = collada?.children
    .filter((c) => c.name === 'library_visual_scenes')
    .flatMap((l) => l.children)
    .find((v) => v.attributes.id === scene);
  for (const node of visual?.children.filter((c) => c.name === 'node') ?? []) place(node, identity, 0);
  if (!visual)
    for (const p of points.values())
      for (let i = 0; i + 2 < p.length; i += 3) box.add(p[i]!, p[i + 1]!, p[i + 2]!);
}

function threemfBox(bytes: Uint8Array, box: Box): void {
  const model = child(elementsOf(bytes), 'model');
  const objects = new Map(
    child(model, 'resources')
      ?.children.filter((c) => c.name === 'object')
      .map((o) => [o.attributes.id ?? '', o]) ?? [],
  );
  // A transform is twelve numbers, row after row, for points that stand before the matrix (3MF Core §3.3).
  const matrixOf = (text: string | undefined): Matrix => {
    const n = text ? numbersOf(text) : [];
    return n.length === 12
      ? [n[0]!, n[1]!, n[2]!, 0, n[3]!, n[4]!, n[5]!, 0, n[6]!, n[7]!, n[8]!, 0, n[9]!, n[10]!, n[11]!, 1]
      : identity;
  };
  const place = (id: string, m: Matrix, depth: number) => {
    const object = objects.get(id);
    if (!object || depth > 100) return;
    box.visit();
    for (const v of child(child(object, 'mesh'), 'vertices')?.children ?? [])
      box.addPlaced(m, Number(v.attributes.x), Number(v.attributes.y), Number(v.attributes.z));
    for (const c of child(object, 'components')?.children ?? [])
      place(c.attributes.objectid ?? '', times(m, matrixOf(c.attributes.transform)), depth + 1);
  };
  for (const item of child(model, 'build')?.children ?? [])
    place(item.attributes.objectid ?? '', matrixOf(item.attributes.transform), 0);
}

const usdToken =
  /"""[\s\S]*?"""|'''[\s\S]*?'''|"(?:\\.|[^"\\\n])*"|'(?:\\.|[^'\\\n])*'|#[^\n]*|@(?:@@[\s\S]*?@@)?[^@\n]*@|[{}]|\b(?:def|over|class)\b|([\w:]+)(?:\.timeSamples)?\s*=\s*/g;

// Each prim is placed by all above it: deeper than this no scene is, and a hostile one would take for ever.
const mostDeep = 500;

interface Prim {
  ops: string[];
  values: Map<string, number[]>;
  points: number[] | null;
}

function usdaBox(text: string, box: Box): void {
  const open: { prim: Prim; matrix: Matrix; kind: string }[] = [];
  let next = '';
  // A prim's values may come after its children begin; points are held until its brace closes.
  const waiting: { prim: Prim; depth: number; parents: Prim[] }[] = [];
  usdToken.lastIndex = 0;
  for (let m = usdToken.exec(text); m; m = usdToken.exec(text)) {
    const [all, key] = m;
    if (all === 'def' || all === 'over' || all === 'class') next = all;
    else if (all === '{') {
      if (open.length > mostDeep) throw new RangeError('nested deeper than can be measured');
      const prim: Prim = { ops: [], values: new Map(), points: null };
      // Braces of dictionaries, variant sets and such change nothing of where things stand.
      const kind = next === '' ? 'other' : next;
      open.push({
        prim: kind === 'other' && open.length > 0 ? open.at(-1)!.prim : prim,
        matrix: identity,
        kind,
      });
      if (kind === 'def')
        waiting.push({
          prim,
          depth: open.length,
          parents: open.filter((o) => o.kind !== 'other').map((o) => o.prim),
        });
      next = '';
    } else if (all === '}') open.pop();
    else if (key !== undefined && open.length > 0) {
      const at = usdToken.lastIndex;
      const { prim } = open.at(-1)!;
      if (key === 'xformOpOrder') prim.ops = opsIn(text.slice(at, text.indexOf(']', at)));
      else if (key.startsWith('xformOp:')) prim.values.set(key, numbersIn(text, at));
      else if (key === 'points' && text[at] === '[') {
        const end = text.indexOf(']', at);
        prim.points = (text.slice(at, end).match(/[-+\d.eE]+/g) ?? []).map(Number);
        usdToken.lastIndex = end;
      }
    }
  }
  for (const { prim, parents } of waiting) {
    if (!prim.points) continue;
    const m = parents.reduce<Matrix>((parent, p) => times(parent, placedByOps(p.ops, p.values)), identity);
    for (let i = 0; i + 2 < prim.points.length; i += 3)
      box.addPlaced(m, prim.points[i]!, prim.points[i + 1]!, prim.points[i + 2]!);
  }
}
