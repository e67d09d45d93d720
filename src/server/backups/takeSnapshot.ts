// Takes a snapshot of a workspace: what did not change since the last one is not read again; what is new goes into the store of the backup folder, read
// back and right, before the record that counts it is written. So whatever happens in between, earlier snapshots stay whole. The record holds what lies
// there at one time: the last look is taken under the workspace's lock, while no rename or undo is half done.

import fs from 'node:fs';
import os from 'node:os';
import type { Snapshot, SnapshotFile } from '@/core/backups/snapshot';
import { AppError } from '@/core/errors';
import type { Digest } from '@/core/files/digest';
import { fileError } from '@/core/files/fileErrors';
import type { CancelSignal } from '@/core/files/fileTree';
import { isPassing, ownFolder } from '@/core/files/records';
import { sameTime } from '@/core/files/times';
import { nameOf, type TreePath } from '@/core/files/treePath';
import { sizesForBackups } from '@/core/store/chunking';
import { startKeeping, type Keeping } from '@/core/store/keeping';
import { packSizes } from '@/core/store/packIndex';
import { inPacks } from '@/core/store/store';
import { bytes as inBytes } from '@/core/text/figures';
import type { DiskReading } from '../disk/diskReading';
import { freeBytes } from '../disk/use';
import { liesIn } from '../disk/realPlace';
import { toSystem } from '../disk/system';
import { withLock } from '../workspaces/changing';
import { hasMarker, plainFolder, readWorkspace, type OpenWorkspace } from '../workspaces/open';
import { inBackups, latestOf, nextId, withBackupLock, writeRecord, type BackupFolder } from './backupFolder';
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

interface Found {
  path: TreePath;
  size: number;
  modified: number;
  mode: number;
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
      const keep = new Keep(backups, workspace.tree, await latestOf(backups, series.key), options);
      // First without the lock, while others go on working; what changed meanwhile is read again under it, which takes a moment.
      if (!options.isLocked) {
        const { files } = look(workspace.tree, options.signal);
        await keep.prepare(files);
        for (const f of files) await keep.one(f);
      }
      return lockedIfWorkspace(root, options, async () => {
        const begun = new Date();
        const all = look(workspace.tree, options.signal);
        if (options.isLocked) await keep.prepare(all.files);
        keep.beginAgain();
        for (const f of all.files) await keep.one(f);
        if ((await workspace.tree.kind(ownFolder)) === 'folder')
          for (const f of await recordsIn(workspace.tree)) await keep.one(f);
        await keep.finish();
        const snapshot: Snapshot = {
          format: 1,
          id: await nextId(backups, begun),
          workspace: { ...series, name: workspace.file.name || nameOf(root), root, host: os.hostname() },
          time: begun.toISOString(),
          files: keep.files.sort((a, b) => (a[0] < b[0] ? -1 : 1)),
          links: await linksOf(workspace.tree, all.links),
          folders: all.folders,
          unread: [...all.unread, ...keep.unread],
          packs: await packSizes(backups.tree),
          added: keep.added,
        };
        await writeRecord(backups, snapshot);
        return { snapshot, read: keep.read.size };
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

/** The workspace's own records. */
async function recordsIn(tree: DiskReading): Promise<Found[]> {
  const found: Found[] = [];
  for await (const f of tree.list(ownFolder))
    if (!isPassing(f.path))
      found.push({ path: f.path, size: f.size, modified: f.modified, mode: f.mode ?? -1 });
  return found;
}

/** All but the workspace's own records. */
function look(tree: DiskReading, signal?: CancelSignal) {
  const survey = tree.survey(ownFolder, signal);
  const files = survey.paths.map((path, i): Found => ({
    path,
    size: survey.sizes[i]!,
    modified: survey.times[i]!,
    mode: survey.modes[i]!,
  }));
  const links: TreePath[] = [];
  const unread: string[] = [];
  for (const { path, why } of survey.passedOver)
    if (why === 'link') links.push(path as TreePath);
    else unread.push(path);
  const folders = [...survey.names.keys()].filter((f) => f !== '') as TreePath[];
  return { files, links, unread, folders: folders.sort() };
}

async function linksOf(tree: DiskReading, links: readonly TreePath[]): Promise<Snapshot['links']> {
  const found: [TreePath, string][] = [];
  for (const path of links) {
    const text = await tree.readLink(path);
    if (text !== null) found.push([path, text]);
  }
  return found;
}

/** Whether a file was not saved within the grain of a clock before `since` (ms): then it may have changed and kept its time. */
const isSettled = (file: Found, since: number) => file.modified < since - 2000;

/** What is kept of one workspace on its way into the store. */
class Keep {
  files: SnapshotFile[] = [];
  unread: string[] = [];
  added = 0;
  /** Paths of the files that were read. */
  readonly read = new Set<TreePath>();
  /** What this run has kept already, and since when (ms): what was not saved since is not read again. */
  private readonly keptNow = new Map<TreePath, SnapshotFile>();
  private readonly begun = Date.now();
  private done = { files: 0, bytes: 0 };
  private keeping: Keeping | null = null;
  private readonly known: ReadonlyMap<string, SnapshotFile>;
  private isThere: (digest: Digest) => boolean = () => false;

  constructor(
    private readonly backups: BackupFolder,
    private readonly source: DiskReading,
    private readonly before: Snapshot | null,
    private readonly options: TakeOptions,
  ) {
    this.known = new Map(before?.files.map((f) => [f[0], f]) ?? []);
  }

  /** Whether there is room, and what the last snapshot held is there still. */
  async prepare(files: readonly Found[]): Promise<void> {
    const { tree, folder } = this.backups;
    const now = new Map(await packSizes(tree));
    // The index of a large store takes longer to read than all the rest: only where packs went is it asked.
    const isWhole = this.before?.packs.every(([pack, size]) => (now.get(pack) ?? -1) >= size) ?? false;
    this.isThere = isWhole ? () => true : await inPacks(tree);
    const needed = files.reduce((sum, f) => sum + (this.isAsBefore(f) ? 0 : f.size), 0);
    const free = freeBytes(folder);
    // What only moved or changed a little needs less; what is left when all of it were new says whether it can end well.
    if (needed > free && this.before === null)
      throw new AppError(
        'disk-full',
        `The backup may need ${inBytes(needed)}; ${folder} has ${inBytes(free)} free.`,
      );
  }

  /** Begins the list anew, which has everything as it is at one time. */
  beginAgain(): void {
    for (const f of this.files) this.keptNow.set(f[0], f);
    this.files = [];
    this.unread = [];
  }

  private keptJustNow(file: Found): SnapshotFile | null {
    const now = this.keptNow.get(file.path);
    const isSame = now?.[1] === file.size && now[2] === file.modified;
    return isSame && isSettled(file, this.begun) ? now : null;
  }

  private isAsBefore(file: Found): SnapshotFile | null {
    const old = this.options.readAll ? undefined : this.known.get(file.path);
    if (!old || !this.before) return null;
    const [, size, modified, , digest] = old;
    const isSame =
      size === file.size &&
      sameTime(modified, file.modified) &&
      isSettled(file, Date.parse(this.before.time));
    return isSame && this.isThere(digest) ? old : null;
  }

  async one(file: Found): Promise<void> {
    const { signal, onFile } = this.options;
    signal?.throwIfAborted();
    const old = this.keptJustNow(file) ?? this.isAsBefore(file);
    if (old) {
      this.files.push([file.path, file.size, file.modified, file.mode, old[4]]);
      return;
    }
    const kept = await this.keepOne(file);
    if (kept === null) this.unread.push(file.path);
    else {
      this.read.add(file.path);
      this.added += kept.added;
      this.files.push([file.path, file.size, file.modified, file.mode, kept.digest]);
    }
    this.done = { files: this.done.files + 1, bytes: this.done.bytes + file.size };
    onFile?.({ ...this.done, path: file.path });
  }

  /** Null where it cannot be read, or is being written all the time. */
  private async keepOne(file: Found): Promise<{ digest: Digest; added: number } | null> {
    this.keeping ??= await startKeeping(this.backups.tree, this.options.signal, sizesForBackups);
    for (let n = 0; n < 3; n++)
      try {
        const kept = await this.keeping.put(readingOf(this.source, file.path), file.size);
        const stat = await this.source.stat(file.path);
        if (!stat) return null;
        if (stat.size === kept.size && stat.modified === file.modified) {
          file.size = kept.size;
          return kept;
        }
        Object.assign(file, { size: stat.size, modified: stat.modified });
      } catch (cause) {
        if (!(cause instanceof SourceFailure)) throw cause;
        // The store was left in the middle of it: begun anew, it knows what was written.
        await this.keeping.finish().catch(() => undefined);
        this.keeping = await startKeeping(this.backups.tree, this.options.signal, sizesForBackups);
        return null;
      }
    return null;
  }

  async finish(): Promise<void> {
    await this.keeping?.finish();
  }
}

/** A file of the source that cannot be read: no failure of the drive that is written to. */
class SourceFailure extends Error {}

async function* readingOf(tree: DiskReading, path: TreePath): AsyncIterable<Uint8Array> {
  try {
    yield* tree.stream(path);
  } catch (cause) {
    if (cause instanceof AppError) throw new SourceFailure(cause.message);
    throw cause;
  }
}
