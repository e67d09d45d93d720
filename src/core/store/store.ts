// The store: content kept under its content id, `.satchel/store/<2 digits>/<id>`. Undo, recovery and the bin's like rest on it, and nobody
// else writes there. Kept is only what was read back and is right; what comes out is checked by whoever writes it (`beforeCommit` tells the
// content id of what was read). A copy that was spoilt since (a program that writes into a file sharing its content, a failing drive) is
// set aside, never trusted and never removed.
//
// Callers know ids only, so that content can come to lie in chunks without their seeing it.

import { AppError } from '../errors';
import type { Digest } from '../files/digest';
import type { ByteStream, FileTree, WritableFileTree } from '../files/fileTree';
import { storeFolder } from '../files/records';
import { folderOf, treePath, type TreePath } from '../files/treePath';

/** Path under which content is kept. */
export function storePath(digest: Digest): TreePath {
  return treePath(`${storeFolder}/${digest.slice(0, 2)}/${digest}`);
}

/** Keeps the content of a file under its id; done when it lies there and reads back right. Throws AppError when it cannot be kept. `tag`: of the temporary file, see `clearKeeping`. */
export async function keepContent(
  tree: WritableFileTree,
  path: TreePath,
  digest: Digest,
  tag: string,
): Promise<void> {
  const kept = storePath(digest);
  await tree.makeFolder(storeFolder);
  await tree.makeFolder(folderOf(kept));
  if ((await tree.kind(kept)) !== null) {
    if ((await tree.digest(kept)) === digest) return;
    await setAside(tree, kept);
  }
  await tree.keep(path, kept, { tag, via: storeFolder });
  if ((await tree.digest(kept)) === digest) return;
  await setAside(tree, kept);
  throw new AppError(
    'disk-error',
    `What ${path} holds could not be kept: it reads back different from the drive.`,
  );
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

/** Kept content as a stream. What it yields is checked by the writer against `digest` before it appears anywhere. */
export function openContent(tree: FileTree, digest: Digest): ByteStream {
  return tree.stream(storePath(digest));
}

/** Whether content is kept and right. Reads all of it. */
export async function isKept(tree: FileTree, digest: Digest): Promise<boolean> {
  return (await tree.digest(storePath(digest))) === digest;
}

/** Throws where what was read from the store is not what its id says. */
export function checkContent(wanted: Digest, read: Digest, path: string): void {
  if (read !== wanted)
    throw new AppError(
      'disk-error',
      `What was kept of ${path} is spoilt: it is not what it was when it was kept. It is not written back.`,
    );
}
