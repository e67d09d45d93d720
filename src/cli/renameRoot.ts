// The root of a rename outside any workspace: the nearest folder that holds the file and every scene that names it, so that no path is lost.

import os from 'node:os';
import { folderOf, isWithin } from '@/core/files/treePath';
import { settingOf } from '@/core/plans/workspace';
import { filesOf, scan } from '@/core/references/scan';
import { fromSystem } from '@/server/disk/system';
import { plainFolder } from '@/server/workspaces/open';

// So many folders above a file are looked through for scenes that name it; never a home folder, nor the top of a drive.
const mostLevels = 3;

/** Folders above a path that are looked through, the nearest first. */
export function foldersAbove(path: string, home: string): string[] {
  const found: string[] = [];
  for (let at: string = folderOf(path); found.length < mostLevels; at = folderOf(at)) {
    if (at === '' || /^[A-Za-z]:$/.test(at) || isWithin(home, at)) break;
    found.push(at);
  }
  return found;
}

/** The root for renaming `path` (absolute, '/'-separated). */
export async function renameRoot(path: string): Promise<string> {
  const above = foldersAbove(path, fromSystem(os.homedir()));
  const top = above.at(-1);
  if (top === undefined) return folderOf(path) || '/';
  const workspace = plainFolder(top);
  let needed = 0;
  for await (const report of scan(workspace.tree, settingOf(workspace)))
    if (report.references.some((r) => filesOf(r).some((f) => isWithin(`${top}/${f}`, path))))
      needed = Math.max(
        needed,
        above.findIndex((folder) => isWithin(`${top}/${report.path}`, folder)),
      );
  return above[needed]!;
}
