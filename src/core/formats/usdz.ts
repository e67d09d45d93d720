// USD packages (.usdz): a ZIP whose entries are stored as they are, the first being the root layer. Its layers are read where they lie;
// what they name inside the package is complete by itself, what leads out of it is listed, since a package is meant to need nothing:
//
//     boat.usdz[boat.usda]   asset inputs:file = @textures/hull.png@     inside, no reference
//                            asset inputs:file = @../shared/sea.exr@     listed, as 'boat.usda: /Boat/Tex.inputs:file'
//
// Read only. Source: usdz File Format Specification (OpenUSD): ZIP without compression or encryption, data at multiples of 64 bytes.

import type { ByteRange } from '../files/fileTree';
import { folderOf, joinInside } from '../files/treePath';
import type { Problem } from '../problem';
import { decodeText, latin1 } from '../text/bytes';
import type { Format, Reading, Reference } from './format';
import { usda } from './usda';
import { usdc } from './usdc';

interface Entry {
  name: string;
  /** Offset of its data; size in bytes. */
  at: number;
  size: number;
  method: number;
}

const mostEntries = 100_000;
const mostLayer = 512 * 1024 * 1024;

type Read = (range: ByteRange) => Promise<Uint8Array>;
const viewOf = (b: Uint8Array) => new DataView(b.buffer, b.byteOffset, b.byteLength);

/** The entries of a ZIP by its central directory; null where there is none. */
async function readDirectory(read: Read, size: number): Promise<Entry[] | null> {
  const tailAt = Math.max(0, size - 65_557);
  const tail = (await read([tailAt, size])).slice();
  let end = -1;
  for (let i = tail.length - 22; i >= 0 && end < 0; i--) if (tail[i] === 0x50 && tail[i + 1] === 0x4b && tail[i + 2] === 5 && tail[i + 3] === 6) end = i;
  if (end < 0) return null;
  const record = viewOf(tail.subarray(end));
  let [count, length, at] = [record.getUint16(10, true), record.getUint32(12, true), record.getUint32(16, true)];
  if (at === 0xffffffff || count === 0xffff) {
    const locator = tail.subarray(Math.max(0, end - 20), end);
    if (locator.length < 20 || viewOf(locator).getUint32(0, true) !== 0x07064b50) return null;
    const where = Number(viewOf(locator).getBigUint64(8, true));
    const wide = await read([where, Math.min(size, where + 56)]);
    if (wide.length < 56) return null;
    [count, length, at] = [Number(viewOf(wide).getBigUint64(32, true)), Number(viewOf(wide).getBigUint64(40, true)), Number(viewOf(wide).getBigUint64(48, true))];
  }
  if (count > mostEntries || at + length > size) return null;
  const directory = (await read([at, at + length])).slice();
  const entries: Entry[] = [];
  let i = 0;
  for (let n = 0; n < count; n++) {
    if (i + 46 > directory.length) return null;
    const v = viewOf(directory.subarray(i));
    if (v.getUint32(0, true) !== 0x02014b50) return null;
    const [nameLength, extra, comment] = [v.getUint16(28, true), v.getUint16(30, true), v.getUint16(32, true)];
    const raw = directory.subarray(i + 46, i + 46 + nameLength);
    const name = (v.getUint16(8, true) & 0x800) !== 0 ? decodeText(raw).text : latin1(raw);
    const local = v.getUint32(42, true);
    const head = await read([local, Math.min(size, local + 30)]);
    if (head.length < 30) return null;
    const headView = viewOf(head);
    entries.push({ name, at: local + 30 + headView.getUint16(26, true) + headView.getUint16(28, true), size: v.getUint32(20, true), method: v.getUint16(10, true) });
    i += 46 + nameLength + extra + comment;
  }
  return entries;
}

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
  for (const n of names) if (n.startsWith(path.slice(0, at)) && n.endsWith(path.slice(at + 6)) && /^\d{4}$/.test(n.slice(at, n.length - (path.length - at - 6)))) return true;
  return false;
}

async function readParts(read: Read, size: number): Promise<Reading> {
  const problem = (code: string, message: string, at = 0): Problem => ({ code, message, span: [Math.min(at, size), Math.min(at + 4, size)] });
  const entries = size < 22 ? null : await readDirectory(read, size);
  if (!entries) return { references: [], problems: [problem(size === 0 ? 'empty-file' : 'truncated', size === 0 ? 'The file is empty.' : 'This package has no whole list of what is in it.')] };
  const reading: Reading = { references: [], problems: [] };
  const names = new Set(entries.map((e) => e.name));
  if (!/\.usd[ac]?$/i.test(entries[0]?.name ?? '')) reading.problems.push(problem('no-root-layer', 'The first file of a USD package must be its root layer; USD programs refuse this one.'));
  for (const e of entries) {
    if (e.method !== 0) {
      reading.problems.push(problem('compressed', `${e.name} is compressed inside the package; USD programs refuse that.`, e.at));
      continue;
    }
    if (e.at % 64 !== 0 && e.size > 0) reading.problems.push(problem('not-aligned', `${e.name} does not begin at a multiple of 64 bytes inside the package, as the specification demands.`, e.at));
    if (!/\.usd[ac]?$/i.test(e.name) || e.size > mostLayer || e.at + e.size > size) continue;
    const part: Read = async ([from, to]) => read([e.at + from, e.at + Math.min(to, e.size)]);
    const head = (await part([0, 8])).slice();
    const layer = usdc.sniff(head) ? await usdc.readParts!(part, e.size) : usda.read(await part([0, e.size]));
    for (const r of layer.references) {
      if (insidePackage(r.written, e.name, names)) continue;
      const out: Reference = { ...r, at: `${e.name}: ${r.at}`, span: r.span && [r.span[0] + e.at, r.span[1] + e.at] };
      reading.references.push(out);
    }
    reading.problems.push(...layer.problems.map((p) => ({ ...p, message: `${e.name}: ${p.message}`, span: p.span && ([p.span[0] + e.at, p.span[1] + e.at] as const) })));
  }
  return reading;
}

export const usdz: Format = {
  id: 'usdz',
  name: 'USD package',
  extensions: ['.usdz'],
  syntax: 'usd',
  sniff: (head) => head[0] === 0x50 && head[1] === 0x4b && head[2] === 3 && head[3] === 4,
  read() {
    throw new Error('a package is read in parts');
  },
  readParts,
  // Its layers are changed outside, and the package made anew.
  encode: () => null,
};
