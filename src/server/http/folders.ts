// Folders that a request names: allowed, there, and free of workspaces where one is to be made.

import { AppError } from '@/core/errors';
import { statInTime } from '../disk/asking';
import { type Hub } from '../hub';
import { allowedPath } from '../allowed';

/** A folder that is allowed and there. */
export async function folderIn(h: Hub, given: string): Promise<string> {
  const at = await allowedPath(h, given);
  if (!(await statInTime(at))?.isDirectory()) throw new AppError('not-found', `${at} is no folder.`);
  return at;
}

/** What is there of a path: itself, or the nearest folder above it. */
export async function nearestThere(at: string): Promise<string> {
  let near = at;
  while ((await statInTime(near)) === null && near.lastIndexOf('/') > 0)
    near = near.slice(0, near.lastIndexOf('/'));
  return near;
}

/** The folder itself, which must be no workspace and lie in none; the error names the root there is. */
export async function freeOfWorkspaces(h: Hub, at: string): Promise<string> {
  const holder = await h.ask('rootOf', at);
  // A damaged marker has a way out: the folder is adopted anew.
  if (holder === null || (holder === at && (await h.ask('markerDamage', at)) !== null)) return at;
  throw holder === at
    ? new AppError('exists', `${at} is a workspace already.`, 'Nothing was changed.', [holder])
    : new AppError('inside-workspace', `${at} lies inside the workspace ${holder}.`, 'Nothing was changed.', [
        holder,
      ]);
}
