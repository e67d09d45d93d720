// Takes a snapshot of a workspace: what did not change since the last one is not read again; what is new goes into the store of the backup folder, read
// back and right, before the record that counts it is written. So whatever happens in between, earlier snapshots stay whole. The record holds what lies
// there at one time: the last look is taken under the workspace's lock, while no rename or undo is half done.

import fs from 'node:fs';
import os from 'node:os';
import type { Snapshot } from '@/core/backups/snapshot';
import { AppError } from '@/core/errors';
import { fileError } from '@/core/files/fileErrors';
import type { CancelSignal } from '@/core/files/fileTree';
import { isOwn, isPassing } from '@/core/files/records';
import { nameOf } from '@/core/files/treePath';
import { sizesForBackups } from '@/core/store/chunking';
import { packSizes } from '@/core/store/packIndex';
import { bytes as inBytes } from '@/core/text/figures';
import type { DiskReading } from '../disk/diskReading';
import { freeBytes } from '../disk/use';
import { liesIn } from '../disk/realPlace';
import { toSystem } from '../disk/system';
import { withLock } from '../workspaces/changing';
import { hasMarker, plainFolder, readWorkspace, type OpenWorkspace } from '../workspaces/open';
import { KnownContents, surveyState, Taking } from '../workspaces/takeState';
import { inBackups, latestOf, nextId, withBackupLock, writeRecord } from './backupFolder';
import { seriesOf } from './series';

export interface TakeOptions {
  signal?: CancelSignal | undefined;
  onFile?: ((done: { files: number; bytes: number; path: string }) => void) | undefined;
  /** Reads every byte, also of what seems unchanged by its size and time. */
  readAll?: boolean | undefined;
  /** The caller holds the workspace's lock. */
  isLocked?: boolean | undefined;
}

export interface Taken {
  snapshot: Snapshot;
  /** Files that were read. */
  read: number;
}

/** A workspace or any folder, to be backed up. */
export async function openForBackup(root: string): Promise<OpenWorkspace> {
  if (!fs.existsSync(toSystem(root))) throw new AppError('offline', `${root} is not there just now.`);
  return (await hasMarker(root)) ? readWorkspace(root) : plainFolder(root);
}

/** Takes one. Throws AppError where the drive is full or away; then no snapshot is added, and none is lost. */
export async function takeSnapshot(root: string, folder: string, options: TakeOptions = {}): Promise<Taken> {
  try {
    return await take(root, folder, options);
  } catch (cause) {
    throw fileError(folder, cause);
  }
}

async function take(root: string, folder: string, options: TakeOptions): Promise<Taken> {
  if (liesIn(root, folder))
    throw new AppError('bad-request', 'Backups cannot lie inside the workspace that is backed up.');
  if (liesIn(folder, root)) throw new AppError('bad-request', `${root} lies inside the folder of backups.`);
  const workspace = await openForBackup(root);
  checkHasFiles(workspace.tree);
  return inBackups(folder, (backups) =>
    withBackupLock(backups, async () => {
      const series = await seriesOf(backups, workspace);
      const before = await latestOf(backups, series.key);
      const { signal, onFile, readAll, isLocked } = options;
      const known = await KnownContents.of(backups.tree);
      if (before && !readAll) await known.add(before, Date.parse(before.time));
      const taking = new Taking(workspace.tree, backups.tree, known, {
        signal,
        onFile,
        chunks: sizesForBackups,
      });
      const survey = async (covers: (path: string) => boolean) => {
        const surveyed = await surveyState(workspace.tree, covers, signal);
        // A file that only moved or changed a little needs less, so a later snapshot is tried in any case.
        if (before === null) checkHasRoom(folder, known.unknownBytes(surveyed.files));
        return surveyed;
      };
      // First without the lock, while others go on working; what changed meanwhile is read again under it, which takes a moment.
      if (!isLocked) await taking.take((await survey((path) => !isOwn(path))).files);
      return lockedIfWorkspace(root, options, async () => {
        const begun = new Date();
        const surveyed = await survey((path) => !isPassing(path));
        const { files, unread } = await taking.take(surveyed.files);
        await taking.finish();
        const snapshot: Snapshot = {
          format: 1,
          id: await nextId(backups, begun),
          workspace: { ...series, name: workspace.file.name || nameOf(root), root, host: os.hostname() },
          time: begun.toISOString(),
          ...surveyed,
          files: files.sort((a, b) => (a[0] < b[0] ? -1 : 1)),
          unread: [...surveyed.unread, ...unread],
          packs: await packSizes(backups.tree),
          added: taking.added,
        };
        await writeRecord(backups, snapshot);
        return { snapshot, read: taking.read.size };
      });
    }),
  );
}

/** Throws AppError('offline') for a folder with nothing in it: most likely its drive is not mounted, and the state before would seem to be gone. */
function checkHasFiles(tree: DiskReading): void {
  const { paths, passedOver } = tree.survey('');
  if (paths.length + passedOver.length === 0)
    throw new AppError(
      'offline',
      `There are no files in ${tree.root}. If it is on a drive of its own, check that the drive is mounted.`,
    );
}

async function lockedIfWorkspace<T>(
  root: string,
  { isLocked }: TakeOptions,
  work: () => Promise<T>,
): Promise<T> {
  return !isLocked && (await hasMarker(root)) ? withLock(root, work) : work();
}

/** Throws AppError('disk-full') where the drive of the backups has less than `needed` bytes free. */
function checkHasRoom(folder: string, needed: number): void {
  const free = freeBytes(folder);
  if (needed > free)
    throw new AppError(
      'disk-full',
      `The backup may need ${inBytes(needed)}; ${folder} has ${inBytes(free)} free.`,
    );
}
