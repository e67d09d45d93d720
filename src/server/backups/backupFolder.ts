// A folder of backups, on any drive or share: a marker, a page of text that says what it is, snapshots, a store. Several workspaces share it, and what is
// equal is kept once. One writes at a time.

import { randomBytes } from 'node:crypto';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { z } from 'zod';
import { AppError } from '@/core/errors';
import { fileError, isAbsence } from '@/core/files/fileErrors';
import { once } from '@/core/files/fileTree';
import { ownFolder, placeholderPath, storeFolder } from '@/core/files/records';
import { treePath, type TreePath } from '@/core/files/treePath';
import {
  nextOrder,
  readSnapshot,
  snapshotCopyPath,
  snapshotPath,
  snapshotsFolder,
  writeSnapshot,
  type Snapshot,
} from '@/core/backups/snapshot';
import { decodeText, utf8 } from '@/core/text/bytes';
import { startHash } from '../disk/blake';
import { DiskTree } from '../disk/diskTree';
import { isOfDrive } from '../disk/listing';
import { takeFolderLock, type LockResult } from '../disk/folderLock';
import { currentLimits } from '../disk/limits';
import { toSystem } from '../disk/system';

export const markerName = 'loyal-satchel-backups.json';
const markerFile = treePath(markerName);
const readMe = treePath('read me.txt');

const markerSchema = z.looseObject({
  format: z.literal(1),
  id: z.string(),
  made: z.string(),
  /** After how many days every byte is to be proven anew. */
  proveEvery: z.number().int().min(1).max(3650).default(90),
});
export type BackupMarker = z.infer<typeof markerSchema>;

export interface BackupFolder {
  folder: string;
  tree: DiskTree;
  marker: BackupMarker;
}

const about = `Backups made by Loyal Satchel.

snapshots/   what lay in each workspace, and when: one file for each snapshot, a line for each file
             (path, size, time, rights, BLAKE3 of its content), and a copy of it beside.
.satchel/    what the files held, in pieces, each kept once (a hidden folder: copy it along).

To get files back: satchel give-back FOLDER ID --to EMPTY-FOLDER, or Travel > Backups in the application.
To check every byte: satchel prove FOLDER.

Do not change anything in here by hand.
`;

export const sumOf = (text: string): string => {
  const hash = startHash();
  hash.update(utf8(text));
  return hash.digest();
};

/** Whether a folder is one of backups: by its marker, or, where that was spoilt, by its snapshots. */
export function isBackupFolder(folder: string): boolean {
  const at = toSystem(folder);
  return fs.existsSync(path.join(at, markerName)) || fs.existsSync(path.join(at, snapshotsFolder));
}

/** Opens one. Throws AppError where it is none, or of a newer application. */
export async function openBackups(folder: string): Promise<BackupFolder> {
  currentLimits().bounds.checkPath(folder);
  if (!fs.existsSync(toSystem(folder))) throw new AppError('offline', `${folder} is not there just now.`);
  if (!isBackupFolder(folder)) throw new AppError('not-found', `${folder} is no folder of backups.`);
  const tree = new DiskTree(folder);
  return { folder, tree, marker: await readMarker(tree, folder) };
}

async function readMarker(tree: DiskTree, folder: string): Promise<BackupMarker> {
  try {
    const value: unknown = JSON.parse(decodeText(await tree.read(markerFile)).text);
    if (typeof value === 'object' && value !== null && 'format' in value && Number(value.format) > 1)
      throw new AppError('newer-format', `${folder} was made by a newer version of Loyal Satchel.`);
    return markerSchema.parse(value);
  } catch (cause) {
    if (cause instanceof AppError && cause.code !== 'not-found') throw cause;
    // Spoilt or gone: the snapshots tell by themselves what they are.
    return { format: 1, id: '', made: '', proveEvery: 90 };
  }
}

/**
 * Works with one that is opened, or made in a folder that is new or empty; if the work fails before there is a snapshot, what was made for it is
 * removed again. Throws AppError where something else lies there.
 */
export async function inBackups<T>(folder: string, work: (backups: BackupFolder) => Promise<T>): Promise<T> {
  const at = toSystem(folder);
  currentLimits().bounds.checkPath(folder);
  if (fs.existsSync(at) && isBackupFolder(folder)) return work(await openBackups(folder));
  const isNew = !fs.existsSync(at);
  const backups = await makeBackups(folder);
  try {
    return await work(backups);
  } catch (cause) {
    await unmake(backups, isNew).catch(() => undefined);
    throw cause;
  }
}

/** Removes what `makeBackups` made, unless there is a snapshot by now or somebody else is at work there. */
async function unmake(backups: BackupFolder, isNew: boolean): Promise<void> {
  const at = toSystem(backups.folder);
  const isUsed = await withBackupLock(backups, async () => {
    if (fs.existsSync(path.join(at, snapshotsFolder))) return true;
    for (const name of [storeFolder, markerName, readMe])
      fs.rmSync(path.join(at, name), { recursive: true, force: true });
    return false;
  });
  if (isUsed) return;
  fs.rmdirSync(path.join(at, ownFolder));
  if (isNew) fs.rmdirSync(at);
}

async function makeBackups(folder: string): Promise<BackupFolder> {
  const at = toSystem(folder);
  const isNew = !fs.existsSync(at);
  if (isNew) {
    if (!fs.existsSync(path.dirname(at)))
      throw new AppError('offline', `${path.dirname(folder)} is not there just now.`);
    fs.mkdirSync(at);
  }
  if (!fs.statSync(at).isDirectory()) throw new AppError('exists', `${folder} is a file.`);
  const others = fs.readdirSync(at).filter((n) => !isOfDrive(n) && !n.startsWith('.'));
  if (others.length > 0)
    throw new AppError(
      'not-empty',
      `${folder} holds other things (${others[0]!}). Choose an empty or a new folder for the backups.`,
    );
  const tree = new DiskTree(folder);
  const marker: BackupMarker = {
    format: 1,
    id: randomBytes(8).toString('hex'),
    made: new Date().toISOString(),
    proveEvery: 90,
  };
  const json = utf8(`${JSON.stringify(marker, null, 2)}\n`);
  try {
    // The marker first: a folder that holds only the page would be taken for somebody else's.
    await tree.write(markerFile, once(json), { replace: false, tag: 't' });
    await tree.write(readMe, once(utf8(about)), { replace: true, tag: 't' });
  } catch (cause) {
    for (const name of [markerName, readMe]) fs.rmSync(path.join(at, name), { force: true });
    if (isNew) fs.rmdirSync(at);
    throw cause;
  }
  return { folder, tree, marker };
}

/** Works while nobody else writes there. Throws AppError('busy') where somebody does. */
export async function withBackupLock<T>({ folder, tree }: BackupFolder, work: () => Promise<T>): Promise<T> {
  let taken: LockResult;
  try {
    if ((await tree.kind(ownFolder)) === null) await tree.makeFolder(ownFolder);
    taken = takeFolderLock(`${folder}/${ownFolder}`);
  } catch (cause) {
    throw fileError(folder, cause);
  }
  if ('heldBy' in taken)
    throw new AppError(
      'busy',
      `Somebody else is writing to the backups in ${folder} just now (${taken.heldBy.host}, process ${taken.heldBy.pid}).`,
    );
  try {
    return await work();
  } finally {
    taken.lock.release();
  }
}

/** A snapshot that cannot be read, in either of its copies. */
export interface Damaged {
  key: string;
  id: string;
  path: string;
  newer: boolean;
}

/** One snapshot's record: the file, else its copy. `isWhole`: both are there and right. */
async function readRecord(
  tree: DiskTree,
  key: string,
  id: string,
  both = true,
): Promise<{ snapshot: Snapshot | 'newer' | null; isWhole: boolean }> {
  const read = async (path: TreePath) => {
    try {
      return readSnapshot(decodeText(await tree.read(path)).text, sumOf);
    } catch (cause) {
      if (cause instanceof AppError) return null;
      throw cause;
    }
  };
  const first = await read(snapshotPath(key, id));
  // The copy of a record that is right is only looked at where it is asked whether both are.
  if (first !== null && !both) return { snapshot: first, isWhole: true };
  const second = await read(snapshotCopyPath(key, id));
  return { snapshot: first ?? second, isWhole: first !== null && second !== null };
}

export interface Snapshots {
  /** The newest first. */
  all: Snapshot[];
  damaged: Damaged[];
  /** Those of which one copy is spoilt. */
  halves: { key: string; id: string }[];
}

/** The series of a backup folder. */
async function keysOf(tree: DiskTree): Promise<string[]> {
  const entries = (await tree.entries(snapshotsFolder)) ?? [];
  return entries.filter((e) => e.kind === 'folder' && /^[\w-]+$/.test(e.name)).map((e) => e.name);
}

/** The ids of a series, also of snapshots whose records are damaged. */
async function idsOf(tree: DiskTree, key: string): Promise<string[]> {
  const entries = (await tree.entries(treePath(`${snapshotsFolder}/${key}`))) ?? [];
  return [...new Set(entries.flatMap((e) => /^([\w-]+?)(?:\.copy)?\.json$/.exec(e.name)?.[1] ?? []))];
}

/** An id for a snapshot that is taken now: after all that are there, whatever the clock says. */
export async function nextId({ tree }: BackupFolder, now: Date): Promise<string> {
  const ids = (await Promise.all((await keysOf(tree)).map((key) => idsOf(tree, key)))).flat();
  return `${nextOrder(now.getTime(), ids)}-${randomBytes(3).toString('hex')}`;
}

/** All snapshots of a folder, or of one workspace. */
export async function readSnapshots({ tree }: BackupFolder, only?: string): Promise<Snapshots> {
  const found: Snapshots = { all: [], damaged: [], halves: [] };
  for (const key of await keysOf(tree)) {
    if (only !== undefined && key !== only) continue;
    for (const id of await idsOf(tree, key)) {
      const { snapshot, isWhole } = await readRecord(tree, key, id);
      if (snapshot === null || snapshot === 'newer')
        found.damaged.push({ key, id, path: snapshotPath(key, id), newer: snapshot === 'newer' });
      else {
        found.all.push(snapshot);
        if (!isWhole) found.halves.push({ key, id });
      }
    }
  }
  found.all.sort((a, b) => (a.id < b.id ? 1 : -1));
  return found;
}

/** The newest snapshot of a workspace that can be read; null: there is none. Older ones are not read. */
export async function latestOf({ tree }: BackupFolder, key: string): Promise<Snapshot | null> {
  for (const id of (await idsOf(tree, key)).sort().reverse()) {
    const { snapshot } = await readRecord(tree, key, id, false);
    if (snapshot !== null && snapshot !== 'newer') return snapshot;
  }
  return null;
}

/** One by its id, or by the beginning of it. Throws AppError where there is none, or it is spoilt. */
export async function snapshotOf(backups: BackupFolder, id: string): Promise<Snapshot> {
  const { all, damaged } = await readSnapshots(backups);
  if (id === 'latest' && all[0]) return all[0];
  const found = all.filter((s) => s.id === id || s.id.startsWith(id));
  if (found.length === 1 && id !== '') return found[0]!;
  if (damaged.some((d) => d.id.startsWith(id)) && id !== '')
    throw new AppError('disk-error', `The record of snapshot ${id} is spoilt, and so is its copy.`);
  throw new AppError(
    'not-found',
    `There is ${found.length > 1 ? 'more than one' : 'no'} snapshot ${id} in ${backups.folder}.`,
  );
}

/** Beside the record of a snapshot that is the only copy of archived work: it is not cleared until that was restored, or is given up by name. */
const pinPath = (key: string, id: string): TreePath =>
  treePath(`${snapshotsFolder}/${key}/${id}.archived.json`);

/** Marks a snapshot as the archive of the workspace at `root`. */
export async function markArchived(
  { tree }: BackupFolder,
  { workspace, id }: Snapshot,
  root: string,
): Promise<void> {
  const pin = { format: 1, root, host: os.hostname(), time: new Date().toISOString() };
  await tree.write(pinPath(workspace.key, id), once(utf8(`${JSON.stringify(pin, null, 2)}\n`)), {
    replace: true,
    tag: 't',
  });
}

/** Takes the mark away: the work is restored, or given up. */
export async function markRestored({ tree }: BackupFolder, { workspace, id }: Snapshot): Promise<void> {
  await tree.remove(pinPath(workspace.key, id));
}

/**
 * Whether a snapshot is the archive of work that was not restored yet. Version 0.1.0 left no mark: for its archives the placeholder tells, where it can
 * be looked at.
 */
export async function isArchive({ tree }: BackupFolder, { workspace, id }: Snapshot): Promise<boolean> {
  if ((await tree.kind(pinPath(workspace.key, id))) !== null) return true;
  try {
    const at = path.join(toSystem(workspace.root), ...placeholderPath.split('/'));
    return fs.readFileSync(at, 'utf8').includes(JSON.stringify(id));
  } catch (cause) {
    return !isAbsence(cause);
  }
}

/** Writes a snapshot's record, with its copy; it is there once this resolves. */
export async function writeRecord({ tree }: BackupFolder, snapshot: Snapshot): Promise<void> {
  const { key } = snapshot.workspace;
  for (const folder of [snapshotsFolder, treePath(`${snapshotsFolder}/${key}`)])
    if ((await tree.kind(folder)) === null) await tree.makeFolder(folder);
  const bytes = utf8(writeSnapshot(snapshot, sumOf));
  // The copy first: what counts as a snapshot has both.
  for (const at of [snapshotCopyPath(key, snapshot.id), snapshotPath(key, snapshot.id)])
    await tree.write(at, once(bytes), { replace: true, tag: 't' });
}
