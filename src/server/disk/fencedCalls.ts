// Calls on the disk that commit something only while a lock is held. A worker that slept past its lease, a laptop that was closed, a share that hung: whoever
// took the lock over settles what was begun here, and nothing may be written into that.
//
//     const tree = new DiskTree(root, fencedCalls(lock, root));
//
// The lock file is read again before each call that commits; its content is unique to each time it was taken, so a lock that was taken over, also by this
// process, is never mistaken for ours. What only prepares (bytes of a temporary file, a flush) is not checked: it commits nothing.

import fs from 'node:fs';
import { AppError } from '@/core/errors';
import { nodeCalls, type DiskCalls } from './calls';
import type { FolderLock } from './folderLock';

/** Throws AppError('lock-lost') where the lock is lost; `root` is named in it. */
export function checkHeld(lock: Pick<FolderLock, 'isLost'>, root: string): void {
  if (!lock.isLost()) return;
  throw new AppError(
    'lock-lost',
    `Another program took over the work in ${root}: this one did not respond for too long.`,
    'Nothing was changed after that. The other program undoes what was begun here, or finishes it.',
  );
}

const commits = [
  'append',
  'truncate',
  'rename',
  'link',
  'symlink',
  'unlink',
  'mkdir',
  'rmdir',
  'utimes',
  // It creates its target where that is gone.
  'takeAttributes',
] as const satisfies readonly (keyof DiskCalls)[];

/** The calls of `calls`, of which those that commit throw AppError('lock-lost') once the lock is lost. */
export function fencedCalls(
  lock: Pick<FolderLock, 'isLost'>,
  root: string,
  calls: DiskCalls = nodeCalls,
): DiskCalls {
  const fenced: Partial<Record<keyof DiskCalls, unknown>> = {};
  for (const name of commits)
    fenced[name] = (...args: unknown[]) => {
      checkHeld(lock, root);
      return (calls[name] as (...args: unknown[]) => unknown)(...args);
    };
  return {
    ...calls,
    ...(fenced as Partial<DiskCalls>),
    // A temporary file of ours would be left behind: nobody else removes what was created after the next holder had settled.
    open(path, flags, mode) {
      if (flags & fs.constants.O_CREAT) checkHeld(lock, root);
      return calls.open(path, flags, mode);
    },
  };
}
