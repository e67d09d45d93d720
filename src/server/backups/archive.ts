// Finished work archived in a backup folder, and restored from there. A file is removed here only once every byte of it was read back from the backup
// folder, and only if it is still, at that moment, what was kept; a placeholder stays that says where it is.
//
// Invariants, each with its test (archive.test.ts; a crash at every call of the disk):
// 1. Both run under the workspace's lock. While the placeholder is there nothing else changes the workspace (changing.ts).
// 2. The snapshot is marked as the only copy before the first file is removed, until the last one is restored: clearing keeps it.
// 3. Files first, the records of what was done after them, the journal last.
// 4. Cut off anywhere, the same call again goes on: archiving removes what is left, restoring writes what is missing. Neither touches a file that is
//    not as it was kept.

import fs from 'node:fs';
import path from 'node:path';
import { z } from 'zod';
import type { Snapshot } from '@/core/backups/snapshot';
import { AppError, withUnchanged } from '@/core/errors';
import type { Digest } from '@/core/files/digest';
import { once, type CancelSignal } from '@/core/files/fileTree';
import {
  isOwn,
  isPassing,
  journalFolder,
  markerPath,
  ownFolder,
  placeholderPath,
} from '@/core/files/records';
import { folderOf, isWithin, join, rootPath, treePath, type TreePath } from '@/core/files/treePath';
import { StoreReading } from '@/core/store/reading';
import { isKept } from '@/core/store/store';
import { decodeText, utf8 } from '@/core/text/bytes';
import { bytes as bytesText, count } from '@/core/text/figures';
import type { KeptFile } from '@/core/versions/folderState';
import { makeFolders, type DiskTree } from '../disk/diskTree';
import { currentLimits } from '../disk/limits';
import { toSystem } from '../disk/system';
import { freeBytes } from '../disk/use';
import { withLock, withSettled } from '../workspaces/changing';
import { hasMarker } from '../workspaces/open';
import {
  markArchived,
  markRestored,
  openBackups,
  snapshotOf,
  withBackupLock,
  type BackupFolder,
} from './backupFolder';
import type { GivenBack } from './giveBack';
import { takeSnapshot } from './takeSnapshot';

const pagePath = treePath('where this is.txt');

const stubSchema = z.object({
  format: z.literal(1),
  folder: z.string(),
  snapshot: z.string(),
  time: z.string(),
  name: z.string(),
  files: z.number(),
  bytes: z.number(),
});
export type Stub = z.infer<typeof stubSchema>;

export interface ArchiveOptions {
  signal?: CancelSignal | undefined;
  onProgress?: ((done: { files: number; bytes: number; path: string }) => void) | undefined;
}

/** Where a workspace is archived; null: it is here, or its placeholder cannot be read. */
export async function stubOf(root: string): Promise<Stub | null> {
  try {
    return readStub(root);
  } catch {
    return null;
  }
}

/** Null: there is no placeholder. Throws AppError for one that cannot be read. */
function readStub(root: string): Stub | null {
  const at = path.join(toSystem(root), ...placeholderPath.split('/'));
  if (!fs.existsSync(at)) return null;
  try {
    return stubSchema.parse(JSON.parse(fs.readFileSync(at, 'utf8')));
  } catch {
    throw new AppError(
      'disk-error',
      `${root} is archived, but its placeholder ${placeholderPath} is damaged: restore a snapshot from its backup folder instead.`,
    );
  }
}

const pageOf = (stub: Stub) =>
  utf8(
    `${stub.name} was archived on ${stub.time.slice(0, 10)}.\n\nIt is in ${stub.folder}, snapshot ${stub.snapshot}: ${count(stub.files, 'file')}, ${bytesText(stub.bytes)}.\nTo restore it: satchel bring-back, or open it in Loyal Satchel.\n`,
  );

/** Archives a workspace, or goes on where that was cut off. Throws AppError; its `unchanged` says how far it came. */
export async function archiveTo(root: string, folder: string, options: ArchiveOptions = {}): Promise<Stub> {
  if (!(await hasMarker(root))) throw new AppError('not-a-workspace', `${root} is no workspace.`);
  const begun = readStub(root);
  if (begun)
    return withLock(
      root,
      async ({ tree }) => {
        const backups = await openBackups(begun.folder);
        const snapshot = await snapshotOf(backups, begun.snapshot);
        await withBackupLock(backups, () => markArchived(backups, snapshot, root));
        // What was right then may not be any more.
        await verifyContents(backups, await stillHere(tree, snapshot), options);
        await removeHere(tree, snapshot, begun, options);
        return begun;
      },
      root,
      { archived: 'allow' },
    );
  return withSettled(root, async ({ tree }) => {
    const { snapshot } = await takeSnapshot(root, folder, {
      ...options,
      readAll: true,
      isLocked: true,
      onFile: options.onProgress,
    });
    if (snapshot.unread.length > 0)
      throw new AppError(
        'no-access',
        `${snapshot.unread[0]!} cannot be kept, so nothing was removed here.`,
        'Everything is here as it was.',
        snapshot.unread,
      );
    const stub = await placeholderFor(tree, snapshot, folder, options);
    await removeHere(tree, snapshot, stub, options);
    return stub;
  });
}

/** Writes the placeholder, once everything is proven to be in the backup folder. Throws AppError where it is not; then nothing has changed. */
async function placeholderFor(
  tree: DiskTree,
  snapshot: Snapshot,
  folder: string,
  options: ArchiveOptions,
): Promise<Stub> {
  const backups = await openBackups(folder);
  // Under the backup folder's lock: clearing either sees the mark, or has ended, and the verification below misses what it removed.
  await withBackupLock(backups, () => markArchived(backups, snapshot, tree.root));
  try {
    const { id, time, workspace, files } = await snapshotOf(backups, snapshot.id);
    await verifyContents(backups, files, options);
    await checkUnchanged(tree, snapshot);
    const bytes = files.reduce((sum, f) => sum + f[1], 0);
    const stub: Stub = {
      format: 1,
      folder,
      snapshot: id,
      time,
      name: workspace.name,
      files: files.length,
      bytes,
    };
    const json = utf8(`${JSON.stringify(stub, null, 2)}\n`);
    await tree.write(placeholderPath, once(json), { replace: false, tag: 't' });
    return stub;
  } catch (cause) {
    if (readStub(tree.root) === null) await markRestored(backups, snapshot).catch(() => undefined);
    throw cause;
  }
}

/** The files of a snapshot that are here, but for the marker, which stays. */
async function stillHere(tree: DiskTree, { files }: Snapshot): Promise<KeptFile[]> {
  const here: KeptFile[] = [];
  for (const f of files) if (f[0] !== markerPath && (await tree.kind(f[0])) === 'file') here.push(f);
  return here;
}

/** Reads files back from the store of a backup folder, every byte. Throws AppError for the first that is not there as it was. */
async function verifyContents(
  { tree, folder }: BackupFolder,
  files: readonly KeptFile[],
  { signal, onProgress }: ArchiveOptions,
): Promise<void> {
  let done = 0;
  const right = new Set<Digest>();
  for (const [n, [at, size, , , digest]] of files.entries()) {
    signal?.throwIfAborted();
    if (!right.has(digest) && !(await isKept(tree, digest)))
      throw new AppError(
        'disk-error',
        `${at} reads back wrong from ${folder}; nothing was removed here.`,
        'Everything that is here stays.',
      );
    right.add(digest);
    done += size;
    onProgress?.({ files: n + 1, bytes: done, path: at });
  }
}

/** Throws AppError('stale-plan') where something was saved or made since the snapshot was taken. Saves do not ask for the lock. */
async function checkUnchanged(tree: DiskTree, { files, links, folders }: Snapshot): Promise<void> {
  const then = new Map(files.map((f) => [f[0], f]));
  const others: string[] = [];
  const now = tree.survey('');
  for (const [n, at] of now.paths.entries()) {
    const old = then.get(at);
    if (!isPassing(at) && (old?.[1] !== now.sizes[n] || old?.[2] !== now.times[n])) others.push(at);
  }
  const known = new Set<string>([...links.map((l) => l[0]), ...folders]);
  for (const { path: at } of now.passedOver) if (!known.has(at)) others.push(at);
  if (others.length > 0)
    throw new AppError(
      'stale-plan',
      `${others[0]!} was saved or created while the workspace was being archived; nothing was removed here.`,
      'Everything is here as it was.',
      others,
    );
}

/** The order in which files go: the records after all others, the journal last. */
const turnOf = (at: TreePath) => (isWithin(at, journalFolder) ? 2 : isOwn(at) ? 1 : 0);

/** Removes what lies here as the snapshot has it. What is not as it was kept stays, and is named. */
async function removeHere(
  tree: DiskTree,
  snapshot: Snapshot,
  stub: Stub,
  options: ArchiveOptions,
): Promise<void> {
  let removed = 0;
  try {
    if (!snapshot.files.some((f) => f[0] === pagePath) && (await tree.kind(pagePath)) === null)
      await tree.write(pagePath, once(pageOf(stub)), { replace: false, tag: 't' });
    const changed: string[] = [];
    const here = await stillHere(tree, snapshot);
    for (const [at, , , , digest] of here.sort((a, b) => turnOf(a[0]) - turnOf(b[0]))) {
      options.signal?.throwIfAborted();
      if (await tree.removeContent(at, digest)) removed++;
      else changed.push(at);
    }
    for (const [at, text] of snapshot.links) if ((await tree.readLink(at)) === text) await tree.remove(at);
    // The deepest first. One that holds something stays.
    for (const at of [...foldersOf(snapshot)].sort().reverse())
      if (!isWithin(markerPath, at)) await tree.removeFolder(at);
    if (changed.length > 0)
      throw new AppError(
        'stale-plan',
        `${changed[0]!} was saved while the workspace was being archived, so it stays here.`,
        undefined,
        changed,
      );
  } catch (cause) {
    const all = `All files as they were are in ${stub.folder}, snapshot ${stub.snapshot}.`;
    throw withUnchanged(
      cause,
      `${removed === 0 ? 'No file was' : `${count(removed, 'file')} were`} removed here. ${all} Archive it again to go on, or restore it.`,
    );
  }
}

/** The folders of a snapshot, also those of the workspace's own records, which it does not name. */
function foldersOf({ folders, files }: Snapshot): Set<TreePath> {
  const all = new Set(folders);
  for (const [file] of files) for (let at = folderOf(file); at !== rootPath; at = folderOf(at)) all.add(at);
  return all;
}

export interface RestoreOptions extends ArchiveOptions {
  /** The backup folder, where it is not at its old place any more. */
  from?: string | undefined;
}

/**
 * Restores an archived workspace in its place, or goes on where that was cut off. Every byte is checked before a file appears. What was made here
 * meanwhile stays; where it is in the way, nothing is written: AppError('not-empty').
 */
export async function bringBack(root: string, options: RestoreOptions = {}): Promise<GivenBack> {
  currentLimits().bounds.checkPath(root);
  const stub = readStub(root);
  if (!stub) throw new AppError('bad-request', `${root} is not archived: there is nothing to restore.`);
  const backups = await openBackups(options.from ?? stub.folder);
  const snapshot = await snapshotOf(backups, stub.snapshot);
  return withLock(root, ({ tree }) => restore(tree, backups, snapshot, stub, options), root, {
    archived: 'allow',
  });
}

async function restore(
  tree: DiskTree,
  backups: BackupFolder,
  snapshot: Snapshot,
  stub: Stub,
  options: RestoreOptions,
): Promise<GivenBack> {
  const missing = await missingHere(tree, snapshot, stub);
  const needed = missing.reduce((sum, f) => sum + f[1], 0);
  const free = freeBytes(tree.root);
  if (needed > free)
    throw new AppError(
      'disk-full',
      `The workspace needs ${bytesText(needed)}; the drive has ${bytesText(free)} free.`,
    );
  const done = { files: snapshot.files.length - missing.length, bytes: 0 };
  const lost: GivenBack['lost'] = [];
  try {
    for (const folder of snapshot.folders) await makeFolders(tree, folder);
    const reading = await StoreReading.of(backups.tree);
    for (const file of missing) {
      options.signal?.throwIfAborted();
      const why = await restoreOne(tree, reading, file, options.signal);
      if (why !== null) lost.push({ path: file[0], why });
      else {
        done.files++;
        done.bytes += file[1];
      }
      options.onProgress?.({ ...done, path: file[0] });
    }
    for (const [at, text] of snapshot.links)
      if ((await tree.kind(at)) === null) {
        await makeFolders(tree, folderOf(at));
        await tree.makeLink(at, text);
      }
    if (lost.length > 0)
      throw new AppError(
        'disk-error',
        `${lost[0]!.path}: ${lost[0]!.why}`,
        undefined,
        lost.map((l) => `${l.path}: ${l.why}`),
      );
  } catch (cause) {
    throw withUnchanged(
      cause,
      `${done.files} of ${count(snapshot.files.length, 'file')} are here. The archive in ${backups.folder} stays; restore again to go on.`,
    );
  }
  // A program that died may have left one.
  for (const folder of [rootPath, ownFolder, ...foldersOf(snapshot)])
    await tree.clearTemporary(join(folder, 'x'), 't');
  if (!snapshot.files.some((f) => f[0] === pagePath)) await removePage(tree, stub);
  await tree.remove(placeholderPath);
  await markRestored(backups, snapshot);
  return { root: tree.root, ...done, lost };
}

/** Removes the page that says where the work is, if it is ours. False: there is none, or a user's file has its name. */
async function removePage(tree: DiskTree, stub: Stub): Promise<boolean> {
  const stat = await tree.stat(pagePath);
  if ((await tree.kind(pagePath)) !== 'file' || !stat || stat.size > 10_000) return false;
  const bytes = await tree.read(pagePath);
  const text = decodeText(bytes).text;
  // Version 0.1.0 had other words, and the backup folder may have been moved since.
  if (!text.startsWith(`${stub.name} was `) || !text.includes(`snapshot ${stub.snapshot}:`)) return false;
  const hash = tree.startHash();
  hash.update(bytes);
  return tree.removeContent(pagePath, hash.digest());
}

/** The files of a snapshot that are not here. Throws AppError where something else is in the place of one. */
async function missingHere(tree: DiskTree, snapshot: Snapshot, stub: Stub): Promise<KeptFile[]> {
  const missing: KeptFile[] = [];
  const inTheWay: string[] = [];
  for (const file of snapshot.files) {
    const [at, , , , digest] = file;
    const kind = await tree.kind(at);
    if (kind === null) missing.push(file);
    // The marker was never removed; what was set in it since counts.
    else if (at === markerPath && kind === 'file') continue;
    else if (kind !== 'file' || (await tree.digest(at)) !== digest) {
      if (at === pagePath && kind === 'file' && (await removePage(tree, stub))) missing.push(file);
      else inTheWay.push(at);
    }
  }
  for (const at of new Set([...snapshot.folders, ...snapshot.links.map((l) => folderOf(l[0]))])) {
    const kind = at === rootPath ? 'folder' : await tree.kind(at);
    if (kind !== null && kind !== 'folder') inTheWay.push(at);
  }
  for (const [at, text] of snapshot.links)
    if ((await tree.kind(at)) !== null && (await tree.readLink(at)) !== text) inTheWay.push(at);
  if (inTheWay.length > 0)
    throw new AppError(
      'not-empty',
      `${inTheWay[0]!} was made here meanwhile, and the archive has something else there. Move it elsewhere, then restore again.`,
      'Nothing was changed.',
      inTheWay,
    );
  return missing;
}

/** What cannot be read from the backup folder, or is not what it was: no failure of the drive that is written to. */
class Unreadable extends Error {}

/** Writes one file; null: it is here, else why it cannot be. */
async function restoreOne(
  tree: DiskTree,
  reading: StoreReading,
  [at, , modified, mode, digest]: KeptFile,
  signal?: CancelSignal,
): Promise<string | null> {
  await makeFolders(tree, folderOf(at));
  const content = async function* () {
    try {
      yield* reading.open(digest);
    } catch (cause) {
      throw new Unreadable((cause as Error).message);
    }
  };
  try {
    await tree.write(at, content(), {
      replace: false,
      tag: 't',
      modified,
      mode: mode < 0 ? undefined : mode,
      signal,
      beforeCommit: async (written) => {
        if (written.digest !== digest)
          throw new Unreadable('The backup folder has other bytes than were kept.');
      },
    });
    return null;
  } catch (cause) {
    if (cause instanceof Unreadable) return cause.message;
    throw cause;
  }
}
