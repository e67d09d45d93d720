// Clearing snapshots: by a rule, or chosen ones. First told, snapshot by snapshot; then their records go, and the store is swept of what no other needs.

import { goingOf, type KeepRule } from '@/core/backups/thinning';
import {
  snapshotCopyPath,
  snapshotPath,
  summaryOf,
  type Snapshot,
  type SnapshotMade,
} from '@/core/backups/snapshot';
import { AppError } from '@/core/errors';
import type { Digest } from '@/core/files/digest';
import { sweep, type Swept } from '@/core/store/sweep';
import { readSnapshots, withBackupLock, type BackupFolder } from './backupFolder';

export interface Clearing {
  going: SnapshotMade[];
  staying: number;
  /** Bytes of contents that only those need which go: about what is freed. */
  frees: number;
}

/** Which snapshots a rule clears, of every workspace by itself. */
export const byRule =
  (rule: KeepRule, now: number) =>
  (all: readonly Snapshot[]): Snapshot[] =>
    [...new Set(all.map((s) => s.workspace.key))].flatMap((key) =>
      goingOf(
        all.filter((s) => s.workspace.key === key).map((s) => ({ s, time: Date.parse(s.time) })),
        rule,
        now,
      ).map(({ s }) => s),
    );

/** Those with one of the ids. */
export const byId =
  (ids: readonly string[]) =>
  (all: readonly Snapshot[]): Snapshot[] =>
    all.filter((s) => ids.includes(s.id));

async function chosen(backups: BackupFolder, which: (all: readonly Snapshot[]) => Snapshot[]) {
  const { all, damaged } = await readSnapshots(backups);
  // What a snapshot needs whose record cannot be read, nobody knows: the store is left as it is.
  if (damaged.length > 0)
    throw new AppError(
      'disk-error',
      `${damaged[0]!.path} cannot be read${damaged[0]!.newer ? ': it is of a newer version' : ', nor its copy'}; what it needs is not known, so nothing is cleared.`,
    );
  const going = which(all);
  return { going, staying: all.filter((s) => !going.includes(s)) };
}

/** What clearing would do. */
export async function planClearing(
  backups: BackupFolder,
  which: (all: readonly Snapshot[]) => Snapshot[],
): Promise<Clearing> {
  const { going, staying } = await chosen(backups, which);
  const needed = new Set(staying.flatMap((s) => s.files.map((f) => f[4])));
  const freed = new Map(
    going.flatMap((s) => s.files.filter((f) => !needed.has(f[4])).map((f) => [f[4], f[1]])),
  );
  return {
    going: going.map(summaryOf),
    staying: staying.length,
    frees: [...freed.values()].reduce((sum, size) => sum + size, 0),
  };
}

/** Does it. Only what was told before goes. */
export function clearSnapshots(backups: BackupFolder, ids: readonly string[]): Promise<Swept> {
  return withBackupLock(backups, async () => {
    const { going, staying } = await chosen(backups, byId(ids));
    const { tree } = backups;
    for (const { workspace, id } of going)
      for (const path of [snapshotPath(workspace.key, id), snapshotCopyPath(workspace.key, id)])
        if ((await tree.kind(path)) === 'file') await tree.remove(path);
    return sweep(tree, new Set<Digest>(staying.flatMap((s) => s.files.map((f) => f[4]))));
  });
}
