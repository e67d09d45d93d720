// The store: content kept under its content id. Undo, recovery, the net, checkpoints and compact versions rest on it, and nobody else writes
// there. Kept is only what was read back and is right; what comes out is checked by whoever writes it (`beforeCommit` tells the content id of what
// was read).
//
// Content lies in chunks in pack files (packRecord.ts), so that a next version costs what changed. Very large files are kept as they are, under
// `.satchel/store/<2 digits>/<id>`, where a second name for the same content costs nothing; so lies what older versions of the application kept. A
// copy there that was spoilt since (a program that writes into a file sharing its content, a failing drive) is set aside, never trusted and never
// removed.
//
// Callers know ids only.

import { AppError } from '../errors';
import type { Digest } from '../files/digest';
import type { ByteRange, ByteStream, FileTree, WritableFileTree } from '../files/fileTree';
import { storeFolder } from '../files/records';
import { folderOf, treePath, type TreePath } from '../files/treePath';
import { startKeeping } from './keeping';
import { packIndex, packPath, type PackIndex } from './packIndex';
import type { Extent } from './packRecord';

/** From this size on content is kept as a file of its own: 256 MB. */
export const wholeFrom = 256 * 1024 * 1024;

/** Path under which content that is kept as a file of its own lies. */
export function wholePath(digest: Digest): TreePath {
  return treePath(`${storeFolder}/${digest.slice(0, 2)}/${digest}`);
}

/** Keeps the content of a file under its id; done when it lies there and reads back right. Throws AppError when it cannot be kept. `tag`: of the temporary file, see `clearKeeping`. */
export async function keepContent(
  tree: WritableFileTree,
  path: TreePath,
  digest: Digest,
  tag: string,
): Promise<void> {
  const size = (await tree.stat(path))?.size ?? 0;
  if (await isWholeKept(tree, digest)) return;
  if (size >= wholeFrom) return keepWhole(tree, path, digest, tag);
  const keeping = await startKeeping(tree);
  const kept = await keeping.put(tree.stream(path), size);
  if (kept.digest !== digest) {
    await keeping.finish();
    throw new AppError('stale-plan', `${path} was changed while it was read.`);
  }
  await keeping.finish();
}

async function keepWhole(tree: WritableFileTree, path: TreePath, digest: Digest, tag: string): Promise<void> {
  const kept = wholePath(digest);
  await tree.makeFolder(storeFolder);
  await tree.makeFolder(folderOf(kept));
  await tree.keep(path, kept, { tag, via: storeFolder });
  if ((await tree.digest(kept)) === digest) return;
  await setAside(tree, kept);
  throw new AppError(
    'disk-error',
    `What ${path} holds could not be kept: it reads back different from the drive.`,
  );
}

/** Whether content is kept as a file of its own, and right; one that is not is set aside. */
async function isWholeKept(tree: WritableFileTree, digest: Digest): Promise<boolean> {
  const kept = wholePath(digest);
  if ((await tree.kind(kept)) === null) return false;
  if ((await tree.digest(kept)) === digest) return true;
  await setAside(tree, kept);
  return false;
}

/** Clears what keeping with this tag may have left when it was cut off. */
export function clearKeeping(tree: WritableFileTree, tag: string): Promise<void> {
  return tree.clearTemporary(treePath(`${storeFolder}/any`), tag);
}

/** Takes a spoilt copy out of the way, under a name that says so. */
async function setAside(tree: WritableFileTree, kept: TreePath): Promise<void> {
  for (let n = 1; ; n++) {
    const aside = treePath(`${kept}.spoilt-${n}`);
    if ((await tree.kind(aside)) !== null) continue;
    return tree.move(kept, aside);
  }
}

/** Kept content, or bytes [start, end) of it, as a stream. What it yields is checked by the writer against `digest` before it appears anywhere. Throws AppError 'not-found' where it is not kept. */
export async function* openContent(tree: FileTree, digest: Digest, range?: ByteRange): ByteStream {
  const index = await packIndex(tree);
  const content = index.contents.get(digest);
  if (!content) {
    yield* tree.stream(wholePath(digest), range);
    return;
  }
  const [start, end] = range ?? [0, content.size];
  let at = 0;
  for (const { pack, offset, length } of asItLies(index, content.extents)) {
    const [from, to] = [Math.max(start - at, 0), Math.min(end - at, length)];
    if (to > from) yield* tree.stream(packPath(pack), [offset + from, offset + to]);
    at += length;
  }
}

/** Extents, with those chunks that were found spoilt and kept anew taken from where they lie now. */
export function asItLies(index: PackIndex, extents: readonly Extent[]): readonly Extent[] {
  if (index.replaced.size === 0) return extents;
  const moved = [...index.replaced].map(([key, now]) => {
    const [pack, offset] = key.split(':').map(Number) as [number, number];
    return { pack, offset, now: newest(index, now) };
  });
  return extents.flatMap((e) => {
    const inside = moved
      .filter((m) => m.pack === e.pack && m.offset >= e.offset && m.offset < e.offset + e.length)
      .sort((a, b) => a.offset - b.offset);
    const out: Extent[] = [];
    let at = e.offset;
    for (const { offset, now } of inside) {
      if (offset > at) out.push({ pack: e.pack, offset: at, length: offset - at });
      out.push(now);
      at = offset + now.length;
    }
    if (at < e.offset + e.length) out.push({ pack: e.pack, offset: at, length: e.offset + e.length - at });
    return out;
  });
}

/** Where a chunk lies that was kept anew, it may be more than once. */
function newest(index: PackIndex, place: Extent): Extent {
  for (let now = place; ;) {
    const next = index.replaced.get(`${now.pack}:${now.offset}`);
    if (!next) return now;
    now = next;
  }
}

/** Whether content is kept. Reads nothing of it. */
export async function hasContent(tree: FileTree, digest: Digest): Promise<boolean> {
  return (await packIndex(tree)).contents.has(digest) || (await tree.kind(wholePath(digest))) !== null;
}

/** Tells whether content lies in the packs, where no program can write into it, as they are now. Reads nothing of it. */
export async function inPacks(tree: FileTree): Promise<(digest: Digest) => boolean> {
  const { contents } = await packIndex(tree);
  return (digest) => contents.has(digest);
}

/** Whether content is kept and right. Reads all of it. */
export async function isKept(tree: FileTree, digest: Digest): Promise<boolean> {
  if (!(await hasContent(tree, digest))) return false;
  const hash = tree.startHash();
  for await (const part of openContent(tree, digest)) hash.update(part);
  return hash.digest() === digest;
}

/** Throws where what was read from the store is not what its id says. */
export function checkContent(wanted: Digest, read: Digest, path: string): void {
  if (read !== wanted)
    throw new AppError(
      'disk-error',
      `What was kept of ${path} is spoilt: it is not what it was when it was kept. It is not written back.`,
    );
}
