// Clearing snapshots: by a rule, or chosen ones. First told, snapshot by snapshot; then their records go, and the store is swept of what no other needs.

import { goingOf, type KeepRule } from '@/core/backups/thinning';
import {
  orderOf,
  snapshotCopyPath,
  snapshotPath,
  summaryOf,
  type Snapshot,
  type SnapshotMade,
} from '@/core/backups/snapshot';
import { AppError } from '@/core/errors';
import type { Digest } from '@/core/files/digest';
import { sweep, type Swept } from '@/core/store/sweep';
import { isArchive, markRestored, readSnapshots, withBackupLock, type BackupFolder } from './backupFolder';

export interface Clearing {
  going: SnapshotMade[];
  /** Chosen, and kept all the same: the only copies of archived work. */
  archived: SnapshotMade[];
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
        all.filter((s) => s.workspace.key === key).map((s) => ({ s, time: timeOf(s) })),
        rule,
        now,
      ).map(({ s }) => s),
    );

/** When it was taken, in the order in which snapshots were taken: a clock that was set back makes none of them older than the one before. */
function timeOf({ id, time }: Snapshot): number {
  const order = orderOf(id);
  return Number.isNaN(order) ? Date.parse(time) : order;
}

/** Those with one of the ids. */
export const byId =
  (ids: readonly string[]) =>
  (all: readonly Snapshot[]): Snapshot[] =>
    all.filter((s) => ids.includes(s.id));

/** `givenUp`: ids of snapshots that may go although they are the only copy of archived work. */
async function chosen(
  backups: BackupFolder,
  which: (all: readonly Snapshot[]) => Snapshot[],
  givenUp: readonly string[],
) {
  const { all, damaged } = await readSnapshots(backups);
  // What a snapshot needs whose record cannot be read, nobody knows: the store is left as it is.
  if (damaged.length > 0)
    throw new AppError(
      'disk-error',
      `${damaged[0]!.path} cannot be read${damaged[0]!.newer ? ': it is of a newer version' : ', nor its copy'}; what it needs is not known, so nothing is cleared.`,
    );
  const archived: Snapshot[] = [];
  const going: Snapshot[] = [];
  for (const s of which(all))
    (!givenUp.includes(s.id) && (await isArchive(backups, s)) ? archived : going).push(s);
  return { going, archived, staying: all.filter((s) => !going.includes(s)) };
}

/** What clearing would do. */
export async function planClearing(
  backups: BackupFolder,
  which: (all: readonly Snapshot[]) => Snapshot[],
  givenUp: readonly string[] = [],
): Promise<Clearing> {
  const { going, archived, staying } = await chosen(backups, which, givenUp);
  const needed = new Set(staying.flatMap((s) => s.files.map((f) => f[4])));
  const freed = new Map(
    going.flatMap((s) => s.files.filter((f) => !needed.has(f[4])).map((f) => [f[4], f[1]])),
  );
  return {
    going: going.map(summaryOf),
    archived: archived.map(summaryOf),
    staying: staying.length,
    frees: [...freed.values()].reduce((sum, size) => sum + size, 0),
  };
}

/** Does it. Only what was told before goes. Throws AppError('archived') where one has become the only copy of archived work, and is not `givenUp`. */
export function clearSnapshots(
  backups: BackupFolder,
  ids: readonly string[],
  givenUp: readonly string[] = [],
): Promise<Swept> {
  return withBackupLock(backups, async () => {
    const { going, archived, staying } = await chosen(backups, byId(ids), givenUp);
    const [kept] = archived;
    if (kept)
      throw new AppError(
        'archived',
        `Snapshot ${kept.id} is the only copy of ${kept.workspace.root}, which is archived.`,
        'Nothing was cleared.',
        archived.map((s) => s.id),
      );
    const { tree } = backups;
    for (const snapshot of going) {
      const { workspace, id } = snapshot;
      for (const path of [snapshotPath(workspace.key, id), snapshotCopyPath(workspace.key, id)])
        if ((await tree.kind(path)) === 'file') await tree.remove(path);
      await markRestored(backups, snapshot);
    }
    return sweep(tree, new Set<Digest>(staying.flatMap((s) => s.files.map((f) => f[4]))));
  });
}
