// A checkpoint: the state of a workspace, of a folder or of chosen files, to go back to. One file, `.satchel/checkpoints/<id>.json`; what the files
// held lies in the store.

import { checkpointsFolder } from '../files/records';
import { isWithin, treePath, type TreePath } from '../files/treePath';
import { isFolderState, isPathBelow, type FolderState } from './folderState';

export interface Checkpoint extends FolderState {
  format: 1;
  id: string;
  name: string;
  /** ISO 8601, UTC. */
  time: string;
  /** The name of who made it, where several work there. */
  by?: string | undefined;
  /** What it is of: files and folders; empty: the whole workspace. */
  scope: TreePath[];
}

export const checkpointPath = (id: string): TreePath => treePath(`${checkpointsFolder}/${id}.json`);

/** Whether a path belongs to what a checkpoint is of. */
export function isInScope(scope: readonly string[], path: string): boolean {
  return scope.length === 0 || scope.some((s) => isWithin(path, s));
}

const isText = (x: unknown): x is string => typeof x === 'string';

/** A checkpoint read; null where it is none, or not whole: nobody may go back to a part of it. 'newer': of a newer application. */
export function readCheckpoint(text: string): Checkpoint | 'newer' | null {
  let value: Record<string, unknown>;
  try {
    value = JSON.parse(text) as Record<string, unknown>;
  } catch {
    return null;
  }
  if (typeof value !== 'object' || value === null) return null;
  if (typeof value.format === 'number' && value.format > 1) return 'newer';
  const { id, name, time, scope } = value;
  const isRight =
    value.format === 1 &&
    [id, name, time].every(isText) &&
    Array.isArray(scope) &&
    scope.every(isPathBelow) &&
    isFolderState(value);
  return isRight ? (value as unknown as Checkpoint) : null;
}
