// Files of a pack that the workspace has already: the same bytes under any name, or a picture that looks the same in another size or format.

import type { CancelSignal } from '@/core/files/fileTree';
import { isOwn } from '@/core/files/records';
import fs from 'node:fs';
import type { TreePath } from '@/core/files/treePath';
import { isWithin } from '@/core/files/treePath';
import { mayHavePicture } from '@/core/formats/kinds';
import { kindOfName } from '@/core/layouts/homes';
import { toSystem } from '../disk/system';
import { smallPicture, type PictureTask } from './picture';
import type { OpenWorkspace } from '../workspaces/open';

export interface Alike {
  path: string;
  /** The file of the workspace it is like. */
  like: string;
  how: 'same content' | 'looks the same';
}

/** What a picture looks like, from afar. */
export interface Print {
  /** Of nine by eight grey values, whether each is darker than its neighbour: 64 bits. */
  shape: bigint;
  /** Red, green and blue of the same cells. */
  colours: Uint8Array;
}

const mostPictures = 3000;
const prints = new Map<string, Print | null>();
const mostPrints = 20_000;
// Of 64 bits so many may differ, and so far may colours lie apart, of 441 at most: resized and recompressed pictures stay below, others are far above (as
// tried; common practice, no source).
const mostBits = 4;
const mostColour = 20;
const [columns, rows] = [9, 8];

/** The looks of a picture of any format that can be shown. Null: no picture, or a plain one that is like many. */
export async function printOf(absolute: string, allowed: PictureTask['allowed']): Promise<Print | null> {
  const stat = fs.statSync(toSystem(absolute));
  const key = `${absolute}\0${stat.size}\0${stat.mtimeMs}\0${stat.ctimeMs}`;
  const held = prints.get(key);
  if (held !== undefined) return held;
  let print: Print | null = null;
  try {
    const small = await smallPicture({ path: absolute, allowed, side: 64, use: 'exact' });
    const { default: sharp } = await import('sharp');
    const colours = await sharp(small)
      .toColourspace('srgb')
      .removeAlpha()
      .resize(columns, rows, { fit: 'fill', kernel: 'cubic' })
      .raw()
      .toBuffer();
    // Luma by ITU-R BT.601.
    const grey = (n: number) =>
      0.299 * colours[n * 3]! + 0.587 * colours[n * 3 + 1]! + 0.114 * colours[n * 3 + 2]!;
    let shape = 0n;
    let contrast = 0;
    for (let y = 0; y < rows; y++)
      for (let x = 0; x + 1 < columns; x++) {
        const [a, b] = [grey(y * columns + x), grey(y * columns + x + 1)];
        shape = (shape << 1n) | (a < b ? 1n : 0n);
        contrast += Math.abs(a - b);
      }
    // Where neighbours hardly differ the bits are noise.
    if (contrast > 64 * 3) print = { shape, colours: new Uint8Array(colours) };
  } catch {
    // No picture that can be read.
  }
  prints.set(key, print);
  if (prints.size > mostPrints) prints.delete(prints.keys().next().value!);
  return print;
}

/** How far two pictures lie apart; null where they do not look the same. */
export function apart(a: Print, b: Print): number | null {
  const bits = bitsApart(a.shape, b.shape);
  const colour = coloursApart(a.colours, b.colours);
  return bits <= mostBits && colour <= mostColour ? bits + colour / mostColour : null;
}

/** How far the colours of the same cells lie apart, on average. */
function coloursApart(a: Uint8Array, b: Uint8Array): number {
  let sum = 0;
  for (let i = 0; i < a.length; i += 3)
    sum += Math.hypot(a[i]! - b[i]!, a[i + 1]! - b[i + 1]!, a[i + 2]! - b[i + 2]!);
  return sum / (a.length / 3);
}

/** How many bits two shapes differ in. */
function bitsApart(a: bigint, b: bigint): number {
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
  const known: [TreePath, Print][] = [];
  const looksOf = (path: TreePath) => printOf(`${workspace.root}/${path}`, [workspace.root]);
  if (pictures.length > 0)
    for (const { path } of others.filter((o) => mayHavePicture(o.path)).slice(0, mostPictures)) {
      signal.throwIfAborted();
      onFile(++done, path);
      const print = await looksOf(path);
      if (print !== null) known.push([path, print]);
    }
  for (const path of pictures.slice(0, mostPictures)) {
    signal.throwIfAborted();
    const print = await looksOf(path);
    let near: [TreePath, number] | null = null;
    for (const [other, looks] of print === null ? [] : known) {
      const far = apart(print!, looks);
      if (far !== null && (near === null || far < near[1])) near = [other, far];
    }
    if (near) found.push({ path, like: near[0], how: 'looks the same' });
  }
  return found.sort((a, b) => (a.path < b.path ? -1 : 1));
}
