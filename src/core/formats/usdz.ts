// USD packages (.usdz): a ZIP whose entries are stored as they are, the first being the root layer. Its layers are read where they lie;
// what they name inside the package is complete by itself, what leads out of it is listed, since a package is meant to need nothing:
//
//     boat.usdz[boat.usda]   asset inputs:file = @textures/hull.png@     inside, no reference
//                            asset inputs:file = @../shared/sea.exr@     listed, as 'boat.usda: /Boat/Tex.inputs:file'
//
// A rewrite changes the layer and packs the rest anew around it: data are copied, in their order, headers get the new places, and all data
// begin at multiples of 64 bytes. Source: usdz File Format Specification (OpenUSD): ZIP without compression or encryption, data at multiples of 64 bytes.

import { folderOf, joinInside } from '../files/treePath';
import type { Problem } from '../problem';
import { applyPieces, piecesOf, type Edit } from '../text/edits';
import type { Format, Reading, Reference } from './format';
import { usda } from './usda';
import { usdc } from './usdc';
import { crc32 } from '../text/crc32';
import { readDirectory, packageTrouble, type Read, type ZipEntry } from './zip';
import { viewOf } from '../text/bytes';

const mostLayer = 512 * 1024 * 1024;
const mostRewritten = 64 * 1024 * 1024;

/** The entry a layer's asset path means, after the package's own rules: beside the layer, else from the top of the package. */
function insidePackage(written: string, layer: string, names: ReadonlySet<string>): boolean {
  const path = written.replace(/:SDF_FORMAT_ARGS:.*$/s, '').replace(/(?<=\.usdz)\[.*$/is, '');
  const beside = joinInside(folderOf(layer), path);
  if (beside !== null && (names.has(beside) || hasMembers(beside, names))) return true;
  return !/^\.{1,2}\//.test(path) && names.has(path);
}

/** Tiles: any entry whose name fits. */
function hasMembers(path: string, names: ReadonlySet<string>): boolean {
  const at = path.indexOf('<UDIM>');
  if (at < 0) return false;
  for (const n of names)
    if (
      n.startsWith(path.slice(0, at)) &&
      n.endsWith(path.slice(at + 6)) &&
      /^\d{4}$/.test(n.slice(at, n.length - (path.length - at - 6)))
    )
      return true;
  return false;
}

async function readParts(read: Read, size: number): Promise<Reading> {
  const problem = (code: string, message: string, at = 0): Problem => ({
    code,
    message,
    span: [Math.min(at, size), Math.min(at + 4, size)],
  });
  const entries = size < 22 ? null : await readDirectory(read, size);
  const trouble = packageTrouble(entries, size);
  if (!entries || trouble)
    return { references: [], problems: trouble ? [problem(trouble.code, trouble.message)] : [] };
  const reading: Reading = { references: [], problems: [] };
  const layers: Layer[] = [];
  const names = new Set(entries.map((e) => e.name));
  if (!/\.usd[ac]?$/i.test(entries[0]?.name ?? ''))
    reading.problems.push(
      problem(
        'no-root-layer',
        'The first file of a USD package must be its root layer; USD programs refuse this one.',
      ),
    );
  for (const e of entries) {
    if (e.method !== 0) {
      reading.problems.push(
        problem('compressed', `${e.name} is compressed inside the package; USD programs refuse that.`, e.at),
      );
      continue;
    }
    if (e.at % 64 !== 0 && e.size > 0)
      reading.problems.push(
        problem(
          'not-aligned',
          `${e.name} does not begin at a multiple of 64 bytes inside the package, as the specification demands.`,
          e.at,
        ),
      );
    if (!/\.usd[ac]?$/i.test(e.name) || e.size > mostLayer || e.at + e.size > size) continue;
    const part: Read = async ([from, to]) => read([e.at + from, e.at + Math.min(to, e.size)]);
    const head = new Uint8Array(await part([0, 8]));
    // A copy: the reader may use the same room again. Larger layers are read, and not rewritten.
    const bytes = e.size <= mostRewritten ? new Uint8Array(await part([0, e.size])) : null;
    const layer = usdc.sniff(head)
      ? await usdc.readParts!(part, e.size)
      : usda.read(bytes ?? (await part([0, e.size])));
    layers.push({ entry: e, bytes, reading: layer, format: usdc.sniff(head) ? usdc : usda });
    for (const r of layer.references) {
      if (insidePackage(r.written, e.name, names)) continue;
      const out: Reference = {
        ...r,
        at: `${e.name}: ${r.at}`,
        span: r.span && [r.span[0] + e.at, r.span[1] + e.at],
      };
      reading.references.push(out);
    }
    reading.problems.push(
      ...layer.problems.map((p) => ({
        ...p,
        message: `${e.name}: ${p.message}`,
        span: p.span && ([p.span[0] + e.at, p.span[1] + e.at] as const),
      })),
    );
  }
  const headers = new Map<ZipEntry, Uint8Array>();
  for (const e of entries) headers.set(e, new Uint8Array(await read([e.local, e.at])));
  // Sizes behind the data, compression, ZIP64 and a comment at the end are not what the specification has; such a package is left as it is.
  const end = new Uint8Array(await read([size - 22, size]));
  const isPlain =
    viewOf(end).getUint32(0, true) === 0x06054b50 &&
    entries.every((e) => e.method === 0 && (e.flags & 8) === 0 && e.size !== 0xffffffff) &&
    size < 0xf0000000;
  if (isPlain && reading.references.length > 0)
    reading.rewrite = (changes) => repack(entries, headers, layers, changes, size);
  return reading;
}

interface Layer {
  entry: ZipEntry;
  bytes: Uint8Array | null;
  reading: Reading;
  format: Format;
}

/** A layer's new bytes; null where a path cannot be said in it. */
function rewriteLayer(layer: Layer, changes: readonly { at: string; value: string }[]): Uint8Array | null {
  const { bytes, reading, format } = layer;
  if (!bytes) return null;
  if (reading.rewrite) {
    const edits = reading.rewrite(changes);
    return edits && applyPieces(bytes, piecesOf(edits, bytes.length));
  }
  const edits: Edit[] = [];
  for (const { at, value } of changes) {
    const reference = reading.references.find((r) => r.at === at);
    const encoded = reference?.span ? format.encode(value, reference) : null;
    if (!encoded) return null;
    edits.push({ span: reference!.span!, bytes: encoded });
  }
  return applyPieces(bytes, piecesOf(edits, bytes.length));
}

const paddings = new Set([0x1986, 0x3039]); // extra fields that writers use to align data

/** A local header's extra fields without padding, then as much padding as brings the data to a multiple of 64. */
function alignedExtra(header: Uint8Array, at: number): Uint8Array {
  const v = viewOf(header);
  const start = 30 + v.getUint16(26, true);
  if ((at + header.length) % 64 === 0) return header.subarray(start);
  const kept: number[] = [];
  for (let i = start; i + 4 <= header.length; i += 4 + v.getUint16(i + 2, true)) {
    if (!paddings.has(v.getUint16(i, true)))
      kept.push(...header.subarray(i, i + 4 + v.getUint16(i + 2, true)));
  }
  const over = (at + start + kept.length) % 64;
  if (over === 0) return Uint8Array.from(kept);
  const room = 64 - over < 4 ? 128 - over : 64 - over;
  const out = new Uint8Array(kept.length + room);
  out.set(kept);
  viewOf(out).setUint16(kept.length, 0x1986, true);
  viewOf(out).setUint16(kept.length + 2, room - 4, true);
  return out;
}

/** The edits that put new paths into layers and everything behind them to its new place. */
function repack(
  entries: readonly ZipEntry[],
  headers: ReadonlyMap<ZipEntry, Uint8Array>,
  layers: readonly Layer[],
  changes: readonly { at: string; value: string }[],
  size: number,
): Edit[] | null {
  if (changes.length === 0) return [];
  const changed = new Map<ZipEntry, Uint8Array>();
  for (const layer of layers) {
    const own = changes
      .filter((c) => c.at.startsWith(`${layer.entry.name}: `))
      .map((c) => ({ at: c.at.slice(layer.entry.name.length + 2), value: c.value }));
    if (own.length === 0) continue;
    const bytes = rewriteLayer(layer, own);
    if (!bytes) return null;
    changed.set(layer.entry, bytes);
  }
  const edits: Edit[] = [];
  const directory: Uint8Array[] = [];
  const places = new Map<ZipEntry, { local: number; bytes: Uint8Array | undefined }>();
  let at = 0;
  let from = 0;
  for (const e of [...entries].sort((a, b) => a.local - b.local)) {
    if (e.local < from) return null; // entries that share bytes
    const old = headers.get(e)!;
    const bytes = changed.get(e);
    const head = old.subarray(0, 30 + viewOf(old).getUint16(26, true));
    const extra = alignedExtra(old, at);
    const header = new Uint8Array(head.length + extra.length);
    header.set(head);
    header.set(extra, head.length);
    const v = viewOf(header);
    v.setUint16(28, extra.length, true);
    if (bytes) {
      v.setUint32(14, crc32(bytes), true);
      v.setUint32(18, bytes.length, true);
      v.setUint32(22, bytes.length, true);
      edits.push({ span: [e.at, e.at + e.size], bytes });
    }
    edits.push({ span: [from, e.at], bytes: header });
    places.set(e, { local: at, bytes });
    at += header.length + (bytes?.length ?? e.size);
    from = e.at + e.size;
  }
  for (const e of entries) {
    const { local, bytes } = places.get(e)!;
    const central = new Uint8Array(e.central);
    const v = viewOf(central);
    if (bytes) {
      v.setUint32(16, crc32(bytes), true);
      v.setUint32(20, bytes.length, true);
      v.setUint32(24, bytes.length, true);
    }
    v.setUint32(42, local, true);
    directory.push(central);
  }
  const length = directory.reduce((n, d) => n + d.length, 0);
  const tail = new Uint8Array(length + 22);
  let i = 0;
  for (const d of directory) {
    tail.set(d, i);
    i += d.length;
  }
  const end = viewOf(tail.subarray(length));
  end.setUint32(0, 0x06054b50, true);
  end.setUint16(8, entries.length, true);
  end.setUint16(10, entries.length, true);
  end.setUint32(12, length, true);
  end.setUint32(16, at, true);
  return [...edits, { span: [from, size], bytes: tail }];
}

export const usdz: Format = {
  id: 'usdz',
  sealed: true,
  name: 'USD package',
  extensions: ['.usdz'],
  syntax: 'usd',
  searches: 'unanchored',
  sniff: (head) => head[0] === 0x50 && head[1] === 0x4b && head[2] === 3 && head[3] === 4,
  read() {
    throw new Error('a package is read in parts');
  },
  readParts,
  encode: () => null,
};
