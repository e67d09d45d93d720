// A checkpoint: the state of a workspace, of a folder or of chosen files, to go back to. One file, `.satchel/checkpoints/<id>.json`; what the files
// held lies in the store.

import type { Digest } from '../files/digest';
import { checkpointsFolder } from '../files/records';
import { isTreePath, isWithin, treePath, type TreePath } from '../files/treePath';
import { sameTime } from '../files/times';

/** A file of a checkpoint: path, size in bytes, time in ms, permission bits (-1: not known), content id. */
export type CheckpointFile = readonly [
  path: TreePath,
  size: number,
  modified: number,
  mode: number,
  digest: Digest,
];

export interface Checkpoint {
  format: 1;
  id: string;
  name: string;
  /** ISO 8601, UTC. */
  time: string;
  /** The name of who made it, where several work there. */
  by?: string | undefined;
  /** What it is of: files and folders; empty: the whole workspace. */
  scope: TreePath[];
  files: CheckpointFile[];
  links: (readonly [path: TreePath, text: string])[];
  folders: TreePath[];
  /** What could not be read, and so is not in it. */
  unread: string[];
  /** The packs of the store when it was made, each with its size in bytes: while all are there and none is shorter, all that it holds is kept. Absent: made before this was noted. */
  packs?: (readonly [pack: number, size: number])[] | undefined;
}

export const checkpointPath = (id: string): TreePath => treePath(`${checkpointsFolder}/${id}.json`);

/** Whether a path belongs to what a checkpoint is of. */
export function isInScope(scope: readonly string[], path: string): boolean {
  return scope.length === 0 || scope.some((s) => isWithin(path, s));
}

const isText = (x: unknown): x is string => typeof x === 'string';
const isPath = (x: unknown): x is TreePath => isText(x) && x !== '' && isTreePath(x);
const isNumber = (x: unknown): x is number => typeof x === 'number' && Number.isFinite(x);

function isFile(x: unknown): x is CheckpointFile {
  if (!Array.isArray(x) || x.length < 5) return false;
  const [path, size, modified, mode, digest] = x as unknown[];
  return (
    isPath(path) &&
    isNumber(size) &&
    isNumber(modified) &&
    isNumber(mode) &&
    typeof digest === 'string' &&
    digest.length === 64
  );
}

const isLink = (x: unknown): x is readonly [TreePath, string] =>
  Array.isArray(x) && isPath(x[0]) && isText(x[1]);

/** A checkpoint read; null where it is none, or not whole: nobody may go back to a part of it. 'newer': of a newer application. */
export function readCheckpoint(text: string): Checkpoint | 'newer' | null {
  let value: Record<string, unknown>;
  try {
    value = JSON.parse(text) as Record<string, unknown>;
  } catch {
    return null;
  }
  if (typeof value !== 'object' || value === null) return null;
  if (isNumber(value.format) && value.format > 1) return 'newer';
  const { id, name, time, scope, files, links, folders, unread, packs = [] } = value;
  const isRight =
    value.format === 1 &&
    [id, name, time].every(isText) &&
    [scope, files, links, folders, unread].every(Array.isArray) &&
    (scope as unknown[]).every(isPath) &&
    (files as unknown[]).every(isFile) &&
    (links as unknown[]).every(isLink) &&
    (folders as unknown[]).every(isPath) &&
    (unread as unknown[]).every(isText) &&
    Array.isArray(packs) &&
    packs.every((p) => Array.isArray(p) && p.length >= 2 && p.every(isNumber));
  return isRight ? (value as unknown as Checkpoint) : null;
}

/** A file as it is now. */
export interface FileNow {
  path: TreePath;
  size: number;
  modified: number;
  mode?: number | undefined;
}

/** What became of a checkpoint's files since. Files of which size or time differ may yet hold the same: `digest` tells. */
export interface Since {
  changed: CheckpointFile[];
  gone: CheckpointFile[];
  fresh: FileNow[];
  same: number;
}

/** What changed since. `digestOf` is asked only where the size is the same and the time is not. */
export async function changedSince(
  checkpoint: Checkpoint,
  now: Iterable<FileNow>,
  digestOf: (path: TreePath) => Promise<Digest | null>,
): Promise<Since> {
  const then = new Map(checkpoint.files.map((f) => [f[0], f]));
  const since: Since = { changed: [], gone: [], fresh: [], same: 0 };
  for (const file of now) {
    const old = then.get(file.path);
    // What could not be read then was there, or nobody knows: it did not come since.
    if (!old && checkpoint.unread.some((path) => isWithin(file.path, path))) continue;
    if (!old) {
      since.fresh.push(file);
      continue;
    }
    then.delete(file.path);
    const [, size, modified, , digest] = old;
    const isSame =
      file.size === size && (sameTime(file.modified, modified) || (await digestOf(file.path)) === digest);
    if (isSame) since.same++;
    else since.changed.push(old);
  }
  since.gone.push(...then.values());
  return since;
}
