// Where each workspace is backed up to from this machine, and what came of it last. Kept with the application's settings: drives and shares are this
// machine's.

import { z } from 'zod';
import type { BackupTarget } from '@/wire/backups';
import { backupTarget } from '@/wire/backups';
import { readSetting, writeSetting } from '../database/queries';
import type { Hub } from '../hub';

const nameOf = (workspace: string) => `backups ${workspace}`;
type Of = Pick<Hub, 'db'>;

/** The targets of a workspace; none where they cannot be read. */
export async function targetsOf({ db }: Of, workspace: string): Promise<BackupTarget[]> {
  try {
    return z.array(backupTarget).parse(JSON.parse((await readSetting(db, nameOf(workspace))) ?? '[]'));
  } catch {
    return [];
  }
}

/** Says which there are; what came of those that stay is kept. */
export async function setTargets(
  h: Of,
  workspace: string,
  wanted: readonly Pick<BackupTarget, 'folder' | 'as' | 'auto'>[],
): Promise<void> {
  const before = new Map((await targetsOf(h, workspace)).map((t) => [t.folder, t.last]));
  const targets = wanted.map((t) => ({ ...t, last: before.get(t.folder) ?? null }));
  await writeSetting(h.db, nameOf(workspace), JSON.stringify(targets));
}

/** Notes what came of a backup; one to a new folder is a target from then on. */
export async function noteBackup(
  h: Of,
  workspace: string,
  of: Pick<BackupTarget, 'folder' | 'as'>,
  last: NonNullable<BackupTarget['last']>,
): Promise<void> {
  const targets = await targetsOf(h, workspace);
  const known = targets.find((t) => t.folder === of.folder && t.as === of.as);
  if (known) known.last = last;
  else targets.push({ ...of, auto: false, last });
  await writeSetting(h.db, nameOf(workspace), JSON.stringify(targets));
}

/** When a workspace was backed up last, in ms; null: never. */
export async function lastBackup(h: Of, workspace: string): Promise<number | null> {
  const times = (await targetsOf(h, workspace)).flatMap((t) => (t.last?.ok ? [Date.parse(t.last.time)] : []));
  return times.length === 0 ? null : Math.max(...times);
}
