// Which snapshots belong together: those of one workspace, wherever it was moved, and never those of a copy of it. Clearing by a rule thins each series by
// itself, so two workspaces in one series would cost one of them its only backup.

import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import type { Snapshot } from '@/core/backups/snapshot';
import { toSystem } from '../disk/system';
import { folderIdOf, shortDigest } from '../workspaces/folderId';
import { hasMarker, readWorkspace, type OpenWorkspace } from '../workspaces/open';
import { latestOf, type BackupFolder } from './backupFolder';

type Named = Pick<OpenWorkspace, 'root' | 'file'>;

/** What a workspace and its copies have in common: when and as what it was created; for a folder that is none, its path. */
export function keyOf({ root, file: { created, name } }: Named): string {
  return shortDigest(created === '' ? `${os.hostname()}\n${root}` : `${created}\n${name}`);
}

/**
 * The series that a workspace's next snapshot belongs to. A copy, and one of which it is not known whether it was copied or moved, gets its own:
 * equal contents are kept once all the same.
 */
export async function seriesOf(
  backups: BackupFolder,
  workspace: Named,
): Promise<Pick<Snapshot['workspace'], 'key' | 'folderId'>> {
  const folderId = folderIdOf(workspace.root) ?? undefined;
  const common = keyOf(workspace);
  const own = shortDigest(`${common}\n${os.hostname()}\n${workspace.root}`);
  const before = async (key: string) => (await latestOf(backups, key))?.workspace ?? null;
  if ((await before(own)) !== null) return { key: own, folderId };
  const last = await before(common);
  const isSame = last === null || (await isOrWas(last, workspace, folderId ?? null));
  return { key: isSame ? common : own, folderId };
}

/** Whether the folder of an earlier snapshot is this one, or was it before it was moved here. */
async function isOrWas(last: Snapshot['workspace'], here: Named, folderId: string | null): Promise<boolean> {
  if (last.host !== os.hostname()) return false;
  if (last.root === here.root) return true;
  if (last.folderId !== undefined) return last.folderId === folderId;
  // Snapshots of version 0.1.0 name no folder: it was moved if its old place can be looked at, and it is not there any more.
  const old = toSystem(last.root);
  return fs.existsSync(path.dirname(old)) && !(await isStillAt(last.root, here));
}

async function isStillAt(root: string, here: Named): Promise<boolean> {
  if (!(await hasMarker(root))) return false;
  try {
    return keyOf(await readWorkspace(root)) === keyOf(here);
  } catch {
    // It cannot be read: it may be.
    return true;
  }
}
