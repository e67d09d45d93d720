// Where each workspace is backed up to from this machine, and what came of it last. Kept with the application's settings: drives and shares are this
// machine's.

import { z } from 'zod';
import type { BackupTarget } from '@/wire/backups';
import { backupTarget } from '@/wire/backups';
import { listSettings, readSetting, writeSetting } from '../database/queries';
import type { Hub } from '../hub';

const nameOf = (workspace: string) => `backups ${workspace}`;
type Of = Pick<Hub, 'db'>;

/** The targets of a workspace; none where they cannot be read. */
export async function targetsOf({ db }: Of, workspace: string): Promise<BackupTarget[]> {
  return targetsIn((await readSetting(db, nameOf(workspace))) ?? '[]');
}

function targetsIn(value: string): BackupTarget[] {
  try {
    return z.array(backupTarget).parse(JSON.parse(value));
  } catch {
    return [];
  }
}

/** The targets of every workspace, by its id. */
export async function allTargets({ db }: Of): Promise<Map<string, BackupTarget[]>> {
  const rows = await listSettings(db, nameOf(''));
  return new Map(rows.map(({ name, value }) => [name.slice(nameOf('').length), targetsIn(value)]));
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
  return lastOf(await targetsOf(h, workspace));
}

/** The latest that came well of some targets, in ms; null: none did. */
export function lastOf(targets: readonly BackupTarget[]): number | null {
  const times = targets.flatMap((t) => (t.last?.ok ? [Date.parse(t.last.time)] : []));
  return times.length === 0 ? null : Math.max(...times);
}
