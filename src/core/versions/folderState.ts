// The state of a folder at one time: a manifest of its files, links and folders, with their contents in a store. Checkpoints and snapshots are folder
// states with different scopes, stores and lifetimes. This file defines the manifest, its validation, and the comparison with the folder now.

import type { Digest } from '../files/digest';
import type { FileStat } from '../files/fileTree';
import { seemsUnchanged } from '../files/times';
import { isTreePath, isWithin, type TreePath } from '../files/treePath';

/**
 * A file of a state: path, size in bytes, time of the last change in ms since 1970 UTC, permission bits (-1: not known), content id, and
 * `FileStat.changed` (absent: not known).
 */
export type KeptFile = readonly [
  path: TreePath,
  size: number,
  modified: number,
  mode: number,
  digest: Digest,
  changed?: number,
];

export type KeptLink = readonly [path: TreePath, text: string];

/** A pack of a store and its size in bytes. */
export type PackSize = readonly [pack: number, size: number];

export interface FolderState {
  files: KeptFile[];
  links: KeptLink[];
  folders: TreePath[];
  /** Paths that could not be read. Neither they nor anything below them are part of the state. */
  unread: string[];
  /** The packs of the store when the state was written. While each is at least this long, every content is in the store. Absent: not recorded. */
  packs?: PackSize[] | undefined;
}

/** The entry of a file with this content. */
export function keptFile(file: FileStat, digest: Digest): KeptFile {
  const { path, size, modified, mode = -1, changed } = file;
  return changed === undefined
    ? [path, size, modified, mode, digest]
    : [path, size, modified, mode, digest, changed];
}

/** The stat of a file when its state was recorded. */
export function statOfKept([path, size, modified, mode, , changed]: KeptFile): FileStat {
  return {
    path,
    size,
    modified,
    ...(mode < 0 ? {} : { mode }),
    ...(changed === undefined ? {} : { changed }),
  };
}

/** Size of a state's files in bytes. */
export function bytesOf({ files }: Pick<FolderState, 'files'>): number {
  return files.reduce((sum, f) => sum + f[1], 0);
}

const isText = (x: unknown): x is string => typeof x === 'string';
const isNumber = (x: unknown): x is number => typeof x === 'number' && Number.isFinite(x);

/** True for a path inside a root, and not the root itself. */
export const isPathBelow = (x: unknown): x is TreePath => isText(x) && x !== '' && isTreePath(x);

export const isKeptFile = (x: unknown): x is KeptFile =>
  Array.isArray(x) &&
  isPathBelow(x[0]) &&
  x.slice(1, 4).length === 3 &&
  x.slice(1, 4).every(isNumber) &&
  isText(x[4]) &&
  /^[0-9a-f]{64}$/.test(x[4]) &&
  (x[5] === undefined || isNumber(x[5]));

export const isKeptLink = (x: unknown): x is KeptLink =>
  Array.isArray(x) && isPathBelow(x[0]) && isText(x[1]);

export const isPackSize = (x: unknown): x is PackSize =>
  Array.isArray(x) && x.length >= 2 && x.every(isNumber);

/** True for a whole state; one with a single wrong entry is none, since nobody may restore a part of it unawares. */
export function isFolderState(x: Record<string, unknown>): boolean {
  const { files, links, folders, unread, packs = [] } = x;
  const all = (list: unknown, isRight: (entry: unknown) => boolean) =>
    Array.isArray(list) && list.every(isRight);
  return (
    all(files, isKeptFile) &&
    all(links, isKeptLink) &&
    all(folders, isPathBelow) &&
    all(unread, isText) &&
    all(packs, isPackSize)
  );
}

/** How a folder compares with a state of it. */
export interface Comparison {
  changed: KeptFile[];
  gone: KeptFile[];
  fresh: FileStat[];
  /** Number of files with the same content. */
  same: number;
}

/** Compares. `digestOf` is called only for files of the same size that may have been written since. */
export async function compareWithState(
  { files, unread }: Pick<FolderState, 'files' | 'unread'>,
  now: Iterable<FileStat>,
  digestOf: (path: TreePath) => Promise<Digest | null>,
): Promise<Comparison> {
  const then = new Map(files.map((f) => [f[0], f]));
  const found: Comparison = { changed: [], gone: [], fresh: [], same: 0 };
  for (const file of now) {
    const old = then.get(file.path);
    if (!old) {
      // Below a path that could not be read, a file may have been there already.
      if (!unread.some((path) => isWithin(file.path, path))) found.fresh.push(file);
      continue;
    }
    then.delete(file.path);
    const isSame =
      file.size === old[1] &&
      (seemsUnchanged(file, statOfKept(old)) || (await digestOf(file.path)) === old[4]);
    if (isSame) found.same++;
    else found.changed.push(old);
  }
  found.gone.push(...then.values());
  return found;
}
