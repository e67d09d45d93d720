// A tree of files that are held in something else (a bag, a snapshot), for reading: scenes in it are read and judged as they lie there.

import { AppError } from '@/core/errors';
import type { ByteRange, ByteStream, FileStat, FileTree } from '@/core/files/fileTree';
import { comparePaths, folderOf, nameOf, type TreePath } from '@/core/files/treePath';
import { startHash } from './blake';

/** `open`: the content of one of the files, from its beginning. `where`: what it is held in, for errors. */
export function heldTree(
  files: ReadonlyMap<TreePath, FileStat>,
  open: (path: TreePath) => ByteStream,
  where: string,
): FileTree {
  const folders = new Map<string, Map<string, 'file' | 'folder'>>([['', new Map()]]);
  for (const path of files.keys()) {
    let at: string = path;
    let kind: 'file' | 'folder' = 'file';
    while (at !== '') {
      const parent = folderOf(at);
      if (!folders.has(parent)) folders.set(parent, new Map());
      folders.get(parent)!.set(nameOf(at), kind);
      at = parent;
      kind = 'folder';
    }
  }
  const stream = async function* (path: TreePath, range?: ByteRange): ByteStream {
    if (!files.has(path)) throw new AppError('not-found', `${path} is not in ${where}.`);
    let at = 0;
    for await (const part of open(path)) {
      const from = range ? Math.max(0, range[0] - at) : 0;
      const to = range ? Math.min(part.length, range[1] - at) : part.length;
      if (to > from) yield part.subarray(from, to);
      at += part.length;
      if (range && at >= range[1]) break;
    }
  };
  return {
    async *list(folder = '' as TreePath) {
      for (const path of [...files.keys()].sort(comparePaths))
        if (folder === '' || path.startsWith(`${folder}/`)) yield files.get(path)!;
    },
    async entries(folder) {
      const names = folders.get(folder);
      return names
        ? [...names].map(([name, kind]) => ({ name, kind })).sort((a, b) => comparePaths(a.name, b.name))
        : null;
    },
    async kind(path) {
      return files.has(path) ? 'file' : folders.has(path) ? 'folder' : null;
    },
    readLink: async () => null,
    stat: async (path) => files.get(path) ?? null,
    async read(path, range) {
      const parts: Uint8Array[] = [];
      for await (const part of stream(path, range)) parts.push(new Uint8Array(part));
      return Buffer.concat(parts);
    },
    stream,
    startHash,
    async digest(path) {
      if (!files.has(path)) return null;
      const hasher = startHash();
      for await (const part of stream(path)) hasher.update(part);
      return hasher.digest();
    },
  };
}
