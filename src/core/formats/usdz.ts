// USD packages (.usdz): a ZIP whose entries are stored as they are, the first being the root layer. Its layers are read where they lie;
// what they name inside the package is complete by itself, what leads out of it is listed, since a package is meant to need nothing:
//
//     boat.usdz[boat.usda]   asset inputs:file = @textures/hull.png@     inside, no reference
//                            asset inputs:file = @../shared/sea.exr@     listed, as 'boat.usda: /Boat/Tex.inputs:file'
//
// Read only. Source: usdz File Format Specification (OpenUSD): ZIP without compression or encryption, data at multiples of 64 bytes.

import { folderOf, joinInside } from '../files/treePath';
import type { Problem } from '../problem';
import type { Format, Reading, Reference } from './format';
import { usda } from './usda';
import { usdc } from './usdc';
import { readDirectory, type Read } from './zip';

const mostLayer = 512 * 1024 * 1024;

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
