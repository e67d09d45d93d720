// Clearing the store of what nobody needs any more. Packs that hold much of it are written anew without it, and go only when all that is
// needed of them lies elsewhere, read back and right. A crash in between leaves the store whole, and some of it there twice until the next time.

import { AppError } from '../errors';
import type { Digest } from '../files/digest';
import type { FileTree, WritableFileTree } from '../files/fileTree';
import { storeFolder } from '../files/records';
import { join, treePath } from '../files/treePath';
import { Appending, extend } from './keeping';
import { forgetIndex, packIndex, packPath, type PackIndex } from './packIndex';
import { wordsOf, type Extent } from './packRecord';
import { asItLies } from './store';

/** A pack is written anew when more than this part of it is not needed. */
const tooMuch = 0.25;

/** What sweeping did: bytes of the store before and after. */
export interface Swept {
  before: number;
  after: number;
}

/** Clears the store of all contents but those named. Nobody else may write in it meanwhile. */
export async function sweep(tree: WritableFileTree, needed: ReadonlySet<Digest>): Promise<Swept> {
  const before = await storeSize(tree);
  const index = await packIndex(tree);
  for (const digest of index.contents.keys()) if (!needed.has(digest)) index.contents.delete(digest);
  const going = goingPacks(index);
  try {
    if (going.size > 0) await carryOver(tree, index, going);
    for (const pack of going) await tree.remove(packPath(pack));
  } finally {
    forgetIndex(tree);
  }
  for (const { name: folder, kind } of (await tree.entries(storeFolder)) ?? []) {
    if (kind !== 'folder' || !/^[0-9a-f]{2}$/.test(folder)) continue;
    const at = join(storeFolder, folder);
    for (const { name } of (await tree.entries(at)) ?? [])
      // What was set aside as spoilt is nobody's any more, but may be all there is: it stays.
      if (/^[0-9a-f]{64}$/.test(name) && !needed.has(name as Digest)) await tree.remove(join(at, name));
    await tree.removeFolder(at);
  }
  return { before, after: await storeSize(tree) };
}

/** Bytes that the store takes on the disk. */
export async function storeSize(tree: FileTree): Promise<number> {
  let size = 0;
  for await (const file of tree.list(treePath(storeFolder))) size += file.size;
  return size;
}

/** Packs of which too much is not needed by any content. */
function goingPacks(index: PackIndex): Set<number> {
  const needed = new Map<number, number>();
  for (const { place } of neededChunks(index))
    needed.set(place.pack, (needed.get(place.pack) ?? 0) + place.length);
  const told = new Set([...index.contents.values()].map((c) => c.told));
  return new Set(
    [...index.packs]
      .filter(([pack, { size }]) => {
        const rest = size - (needed.get(pack) ?? 0);
        return needed.has(pack) || told.has(pack) ? rest > tooMuch * size : true;
      })
      .map(([pack]) => pack),
  );
}

/** Chunks that contents consist of. */
function* neededChunks(index: PackIndex): Iterable<{ id: readonly number[]; place: Extent }> {
  const spans = new Map<number, [number, number][]>();
  for (const content of index.contents.values())
    for (const e of asItLies(index, content.extents)) {
      const list = spans.get(e.pack) ?? [];
      list.push([e.offset, e.offset + e.length]);
      spans.set(e.pack, list);
    }
  for (const [pack, list] of spans) spans.set(pack, joined(list));
  for (const chunk of index.chunks())
    if (holds(spans.get(chunk.place.pack) ?? [], chunk.place.offset)) yield chunk;
}

/** Stretches that touch or lie over one another, as one. */
function joined(spans: [number, number][]): [number, number][] {
  const out: [number, number][] = [];
  for (const [start, end] of spans.sort((a, b) => a[0] - b[0])) {
    const last = out.at(-1);
    if (last && start <= last[1]) last[1] = Math.max(last[1], end);
    else out.push([start, end]);
  }
  return out;
}

function holds(spans: readonly [number, number][], offset: number): boolean {
  let [low, high] = [0, spans.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (spans[middle]![1] <= offset) low = middle + 1;
    else high = middle;
  }
  return low < spans.length && spans[low]![0] <= offset;
}

/** Writes what is needed of some packs into new ones, with all contents that those packs tell of or hold a part of. */
async function carryOver(
  tree: WritableFileTree,
  index: PackIndex,
  going: ReadonlySet<number>,
): Promise<void> {
  const appending = new Appending(tree, index, index.last() + 1);
  const chunks = [...neededChunks(index)].filter((c) => going.has(c.place.pack));
  for (const { id, place } of chunks) {
    const bytes = await tree.read(packPath(place.pack), [place.offset, place.offset + place.length]);
    const hash = tree.startHash();
    hash.update(bytes);
    if (!wordsOf(hash.digest(), id.length).every((word, i) => word === id[i]))
      throw new AppError(
        'disk-error',
        `A part of the store is spoilt (${packPath(place.pack)}). It is left as it is.`,
      );
    await appending.add(id, bytes);
  }
  for (const { told, ...content } of index.contents.values())
    if (going.has(told) || content.extents.some((e) => going.has(e.pack))) {
      const extents: Extent[] = [];
      for (const place of asItLies(index, content.extents)) extend(extents, place);
      appending.whole({ ...content, extents });
    }
  await appending.flush();
}
