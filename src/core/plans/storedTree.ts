// Files that lie in the store, seen as if they were on the disk: so that plans read, judge and rewrite them like any other. What a plan made of them
// takes from the disk is then taken from the store.

import type { Step } from '../changes/plan';
import { once, type ByteRange, type ByteStream, type Entry, type FileTree } from '../files/fileTree';
import { comparePaths, folderOf, isWithin, nameOf, type TreePath } from '../files/treePath';
import { concat } from '../text/bytes';
import { openContent } from '../store/store';
import type { StoredFile } from '../versions/note';

/** A tree in which files of the store lie too, in place of what is there. */
export function withStored(tree: FileTree, stored: readonly StoredFile[]): FileTree {
  return over(tree, stored, (file, range) => openContent(tree, file.digest, range));
}

/** A tree in which files have the content of others: `lies` tells where. */
export function withContent(
  tree: FileTree,
  shown: readonly StoredFile[],
  lies: (path: TreePath) => TreePath,
): FileTree {
  return over(tree, shown, (file, range) => tree.stream(lies(file.path), range));
}

/** A tree in which files hold the given bytes, in place of what is there. */
export function withBytes(
  tree: FileTree,
  files: ReadonlyMap<TreePath, { bytes: Uint8Array; modified: number }>,
): FileTree {
  const shown = [...files].map(([path, { bytes, modified }]) => {
    const hash = tree.startHash();
    hash.update(bytes);
    return { path, modified, size: bytes.length, digest: hash.digest() };
  });
  return over(tree, shown, (file, range) => {
    const { bytes } = files.get(file.path)!;
    return once(range ? bytes.subarray(range[0], range[1]) : bytes);
  });
}

function over(
  tree: FileTree,
  stored: readonly StoredFile[],
  open: (file: StoredFile, range?: ByteRange) => ByteStream,
): FileTree {
  const files = new Map<string, StoredFile>(stored.map((f) => [f.path, f]));
  const statOf = ({ path, size, modified }: StoredFile) => ({ path, size, modified });
  return {
    async *list(folder, passedOver) {
      for await (const f of tree.list(folder, passedOver)) if (!files.has(f.path)) yield f;
      for (const f of stored) if (isWithin(f.path, folder ?? '')) yield statOf(f);
    },
    async entries(folder) {
      const there = await tree.entries(folder);
      const own = stored.filter((f) => folderOf(f.path) === folder).map((f) => nameOf(f.path));
      if (there === null && own.length === 0) return null;
      const all: Entry[] = (there ?? []).filter((e) => !own.includes(e.name));
      for (const name of own) all.push({ name, kind: 'file' });
      return all.sort((a, b) => comparePaths(a.name, b.name));
    },
    // A folder of which only stored files tell is not there: who writes into it has to make it.
    kind: (path) => (files.has(path) ? Promise.resolve('file') : tree.kind(path)),
    readLink: (path) => (files.has(path) ? Promise.resolve(null) : tree.readLink(path)),
    stat: async (path) => (files.has(path) ? statOf(files.get(path)!) : tree.stat(path)),
    async read(path, range, into) {
      const file = files.get(path);
      if (!file) return tree.read(path, range, into);
      const parts: Uint8Array[] = [];
      for await (const part of open(file, range)) parts.push(new Uint8Array(part));
      return concat(parts);
    },
    stream: (path, range) => (files.has(path) ? open(files.get(path)!, range) : tree.stream(path, range)),
    digest: async (path) => files.get(path)?.digest ?? tree.digest(path),
    startHash: () => tree.startHash(),
  };
}

/** Steps that take the given files from the store instead of from the disk, and put no file that is not there. */
export function fromStored(steps: readonly Step[], stored: readonly StoredFile[]): Step[] {
  const files = new Map<string, StoredFile>(stored.map((f) => [f.path, f]));
  return steps.map((step) => {
    if (step.do !== 'put' || step.from.from !== 'tree') return step;
    const file = files.get(step.from.path);
    return file ? { ...step, from: { from: 'store', digest: file.digest, pieces: step.from.pieces } } : step;
  });
}

/** The step that puts a stored file where it lay. */
export function putStored(file: StoredFile): Step {
  const { path, size, modified, mode, digest } = file;
  return { do: 'put', path, before: null, size, modified, mode, from: { from: 'store', digest } };
}
