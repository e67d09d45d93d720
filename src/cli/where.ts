// Which root a call speaks of, and the paths inside it.

import { AppError } from '@/core/errors';
import type { Problem } from '@/core/problem';
import { rootPath, treePath, type TreePath } from '@/core/files/treePath';
import { scenePaths } from '@/core/references/scan';
import { formatOfName } from '@/core/formats/formats';
import { diskOutside } from '@/server/disk/diskOutside';
import { dataFolder } from '@/server/dataFolder';
import { openEntries } from '@/server/workspaces/changing';
import { hasMarker, plainFolder, readWorkspace, rootOf, type OpenWorkspace } from '@/server/workspaces/open';
import { recordsAbout } from '@/server/workspaces/shelf';
import { absolute } from './call';

/** The workspace of a path: the given root, the root its marker tells, or the folder itself, taken as a plain one. */
export async function workspaceOf(given: string, root?: string): Promise<OpenWorkspace> {
  const at = absolute(given);
  const kind = await diskOutside.kind(at);
  if (kind === null) throw new AppError('not-found', `${at} is not there.`);
  const found =
    root !== undefined
      ? absolute(root)
      : ((await rootOf(at)) ?? (kind === 'folder' ? at : at.slice(0, at.lastIndexOf('/')) || '/'));
  if ((await diskOutside.kind(found)) !== 'folder') throw new AppError('not-found', `${found} is no folder.`);
  await sayUnfinished(found);
  return (await hasMarker(found)) ? readWorkspace(found) : plainFolder(found);
}

/** Looking changes nothing: what is unfinished in a folder is said, and put back by `put-back` or by the next change. */
export async function sayUnfinished(root: string): Promise<void> {
  for (const of of await recordsAbout(root, dataFolder()))
    for (const open of await openEntries(of))
      process.stderr.write(
        open.why === 'unfinished'
          ? `“${open.title}” was begun here and is not finished: files may lie half way. Put it back with: satchel put-back "${root}" --yes\n`
          : `The record ${open.id} is ${open.why === 'newer' ? 'of a newer version' : 'damaged'}; it is left as it is.\n`,
      );
}

/** The workspace of a path that need not be there: an old version may lie in the store. */
export async function workspaceAround(given: string): Promise<OpenWorkspace> {
  let at = absolute(given);
  while ((await diskOutside.kind(at)) === null && at.lastIndexOf('/') > 0)
    at = at.slice(0, at.lastIndexOf('/'));
  return workspaceOf(at);
}

/** The workspace of a folder, which must be one. */
export async function realWorkspaceOf(given: string): Promise<OpenWorkspace> {
  const workspace = await workspaceOf(given);
  if (!(await hasMarker(workspace.root)))
    throw new AppError('not-a-workspace', `${absolute(given)} lies in no workspace.`);
  return workspace;
}

/** A path of the call inside the root. */
export function inRoot(workspace: OpenWorkspace, given: string): TreePath {
  const at = absolute(given);
  if (at === workspace.root) return rootPath;
  const prefix = workspace.root === '/' ? '/' : `${workspace.root}/`;
  if (!at.startsWith(prefix))
    throw new AppError('bad-request', `${at} does not lie inside the root ${workspace.root}.`);
  return treePath(at.slice(prefix.length));
}

/** The scenes that the given paths speak of: files themselves, folders with all below them; in path order, each once. `unread`: folders that may not be read. */
export async function scenesOf(
  workspace: OpenWorkspace,
  given: readonly string[],
): Promise<{ scenes: TreePath[]; unread: Problem[] }> {
  const found = new Set<TreePath>();
  const unread: Problem[] = [];
  for (const word of given) {
    const at = inRoot(workspace, word);
    const kind = await workspace.tree.kind(at);
    if (kind === 'folder') {
      const below = await scenePaths(workspace.tree, at);
      for (const path of below.scenes) found.add(path);
      unread.push(...below.unread);
    } else if (kind === null) throw new AppError('not-found', `${absolute(word)} is not there.`);
    else if (!formatOfName(at))
      throw new AppError('unsupported', `${at} is of no scene format that is known here.`);
    else found.add(at);
  }
  return { scenes: [...found].sort(), unread };
}
