// Files of a pack that the workspace has already: the same bytes under any name, or a picture that looks the same in another size or format.

import type { CancelSignal } from '@/core/files/fileTree';
import { isOwn } from '@/core/files/records';
import fs from 'node:fs';
import type { TreePath } from '@/core/files/treePath';
import { isWithin } from '@/core/files/treePath';
import { mayHavePicture } from '@/core/formats/kinds';
import { kindOfName } from '@/core/layouts/homes';
import { toSystem } from '../disk/system';
import type { OpenWorkspace } from '../workspaces/open';

export interface Alike {
  path: string;
  /** The file of the workspace it is like. */
  like: string;
  how: 'same content' | 'looks the same';
}

const mostPictures = 3000;
const prints = new Map<string, bigint | null>();
const mostPrints = 20_000;
// Of 64 bits so many may differ: resized and recompressed pictures stay below, others are far above (as tried; common practice, no source).
const mostBits = 4;

/** The shape of a picture in 64 bits: of nine by eight grey values, whether each is darker than its neighbour. Null: no picture, or a plain one that is like many. */
export async function printOf(absolute: string): Promise<bigint | null> {
  const stat = fs.statSync(toSystem(absolute));
  const key = `${absolute}\0${stat.size}\0${stat.mtimeMs}`;
  const held = prints.get(key);
  if (held !== undefined) return held;
  let print: bigint | null = null;
  try {
    const { default: sharp } = await import('sharp');
    const grey = await sharp(toSystem(absolute), { limitInputPixels: 16_384 ** 2 })
      .flatten({ background: '#808080' })
      .greyscale()
      .resize(9, 8, { fit: 'fill', kernel: 'cubic' })
      .raw()
      .toBuffer();
    let bits = 0n;
    let contrast = 0;
    for (let y = 0; y < 8; y++)
      for (let x = 0; x < 8; x++) {
        const [a, b] = [grey[y * 9 + x]!, grey[y * 9 + x + 1]!];
        bits = (bits << 1n) | (a < b ? 1n : 0n);
        contrast += Math.abs(a - b);
      }
    // Where neighbours hardly differ the bits are noise.
    if (contrast > 64 * 3) print = bits;
  } catch {
    // No picture that can be read.
  }
  prints.set(key, print);
  if (prints.size > mostPrints) prints.delete(prints.keys().next().value!);
  return print;
}

/** How many bits two prints differ in. */
export function bitsApart(a: bigint, b: bigint): number {
  let n = 0;
  for (let x = a ^ b; x > 0n; x &= x - 1n) n++;
  return n;
}

/** Files below `pack` that are like files elsewhere in the workspace. */
export async function alikeIn(
  workspace: OpenWorkspace,
  pack: TreePath,
  signal: CancelSignal,
  onFile: (done: number, path: string) => void,
): Promise<Alike[]> {
  const own: { path: TreePath; size: number }[] = [];
  const others: { path: TreePath; size: number }[] = [];
  for await (const f of workspace.tree.list()) {
    // Geometry buffers belong to their scenes, like or not.
    if (isOwn(f.path) || f.size === 0 || f.path.endsWith('.bin')) continue;
    (isWithin(f.path, pack) ? own : others).push(f);
  }
  const bySize = new Map<number, TreePath[]>();
  for (const o of others) bySize.set(o.size, [...(bySize.get(o.size) ?? []), o.path]);
  const found: Alike[] = [];
  const pictures: TreePath[] = [];
  let done = 0;
  for (const { path, size } of own) {
    signal.throwIfAborted();
    onFile(++done, path);
    const same = bySize.get(size);
    const digest = same ? await workspace.tree.digest(path) : null;
    let like: TreePath | undefined;
    for (const o of same ?? [])
      if (like === undefined && (await workspace.tree.digest(o)) === digest) like = o;
    if (like !== undefined) found.push({ path, like, how: 'same content' });
    else if (mayHavePicture(path) && kindOfName(path) === 'texture') pictures.push(path);
  }
  const known: [TreePath, bigint][] = [];
  if (pictures.length > 0)
    for (const { path } of others.filter((o) => mayHavePicture(o.path)).slice(0, mostPictures)) {
      signal.throwIfAborted();
      onFile(++done, path);
      const print = await printOf(`${workspace.root}/${path}`);
      if (print !== null) known.push([path, print]);
    }
  for (const path of pictures.slice(0, mostPictures)) {
    signal.throwIfAborted();
    const print = await printOf(`${workspace.root}/${path}`);
    const near =
      print === null
        ? undefined
        : known
            .map(([p, k]) => [p, bitsApart(print, k)] as const)
            .filter(([, n]) => n <= mostBits)
            .sort((a, b) => a[1] - b[1])[0];
    if (near) found.push({ path, like: near[0], how: 'looks the same' });
  }
  return found.sort((a, b) => (a.path < b.path ? -1 : 1));
}
