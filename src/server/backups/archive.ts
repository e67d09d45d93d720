// Finished work moved off to a folder of backups, and back. It is removed here only once every byte of it was read back there and is right, and only what
// lies here as it was kept; a small stub stays that says where it is.

import fs from 'node:fs';
import path from 'node:path';
import { z } from 'zod';
import type { Snapshot } from '@/core/backups/snapshot';
import { AppError } from '@/core/errors';
import { once, type CancelSignal } from '@/core/files/fileTree';
import { markerPath, ownFolder } from '@/core/files/records';
import { sameTime } from '@/core/files/times';
import { isWithin, rootPath, treePath, type TreePath } from '@/core/files/treePath';
import { isKept } from '@/core/store/store';
import { utf8 } from '@/core/text/bytes';
import { bytes as bytesText, count } from '@/core/text/figures';
import { DiskTree } from '../disk/diskTree';
import { currentLimits } from '../disk/limits';
import { toSystem } from '../disk/system';
import { clearAway } from '../bags/wholeFile';
import { hasMarker } from '../workspaces/open';
import { openBackups, snapshotOf } from './backupFolder';
import { giveBack, type GivenBack } from './giveBack';
import { takeSnapshot } from './takeSnapshot';

/** Says where the work went: beside the marker of the workspace. */
export const stubPath = treePath(`${ownFolder}/moved-off.json`);
const stubPage = treePath('where this is.txt');

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

/** Where a workspace was moved off to; null: it lies here. */
export async function stubOf(root: string): Promise<Stub | null> {
  const at = path.join(toSystem(root), ...stubPath.split('/'));
  if (!fs.existsSync(at)) return null;
  try {
    return stubSchema.parse(JSON.parse(fs.readFileSync(at, 'utf8')));
  } catch {
    return null;
  }
}

/** Moves a workspace off. Throws AppError where it is not proven to be there whole; then all of it stays here. */
export async function archiveTo(root: string, folder: string, options: ArchiveOptions = {}): Promise<Stub> {
  if (!(await hasMarker(root))) throw new AppError('not-a-workspace', `${root} is no workspace.`);
  // One that was cut off while it was being removed here goes on with the same snapshot.
  const before = await stubOf(root);
  const stub = before ?? (await proven(root, folder, options));
  const snapshot = await snapshotOf(await openBackups(stub.folder), stub.snapshot);
  await removeHere(root, snapshot, stub, options.signal);
  return stub;
}

/** A snapshot of all of it, every byte read anew here and there. */
async function proven(root: string, folder: string, options: ArchiveOptions): Promise<Stub> {
  const { snapshot } = await takeSnapshot(root, folder, {
    ...options,
    readAll: true,
    onFile: options.onProgress,
  });
  if (snapshot.unread.length > 0)
    throw new AppError(
      'no-access',
      `${snapshot.unread[0]!} cannot be read, so it is not there; nothing was removed here.`,
      'Everything is here as it was.',
      snapshot.unread,
    );
  const { tree } = await openBackups(folder);
  const bytes = snapshot.files.reduce((sum, f) => sum + f[1], 0);
  let done = 0;
  for (const [n, [at, size, , , digest]] of snapshot.files.entries()) {
    options.signal?.throwIfAborted();
    if (!(await isKept(tree, digest)))
      throw new AppError('disk-error', `${at} reads back wrong from ${folder}; nothing was removed here.`);
    done += size;
    options.onProgress?.({ files: n + 1, bytes: done, path: at });
  }
  const { id, time, workspace } = snapshot;
  return { format: 1, folder, snapshot: id, time, name: workspace.name, files: snapshot.files.length, bytes };
}

/** Removes what lies here as the snapshot has it. What was saved since, or is new, stays and is named. */
async function removeHere(
  root: string,
  snapshot: Snapshot,
  stub: Stub,
  signal?: CancelSignal,
): Promise<void> {
  const tree = new DiskTree(root);
  const then = new Map(snapshot.files.map((f) => [f[0], f]));
  const others: string[] = [];
  for await (const f of tree.list(rootPath)) {
    const old = then.get(f.path);
    if (isPassing(f.path) || f.path === stubPath || f.path === stubPage) continue;
    // The marker stays, and the records of what was done go: with their journal last.
    const isSame = old !== undefined && old[1] === f.size && sameTime(old[2], f.modified);
    if (!isSame) others.push(f.path);
  }
  if (others.length > 0)
    throw new AppError(
      'stale-plan',
      `${others[0]!} was saved or made while it was moved off; nothing was removed here.`,
      'Everything is here as it was.',
      others,
    );
  // First it is said where it is: cut off at any time after, it is known.
  await tree.write(stubPath, once(utf8(`${JSON.stringify(stub, null, 2)}\n`)), { replace: true, tag: 't' });
  const page = `${stub.name} was moved off on ${stub.time.slice(0, 10)}.\n\nIt lies in ${stub.folder}, snapshot ${stub.snapshot}: ${count(stub.files, 'file')}, ${bytesText(stub.bytes)}.\nTo bring it back: satchel bring-back, or open it in Loyal Satchel.\n`;
  await tree.write(stubPage, once(utf8(page)), { replace: true, tag: 't' });
  for (const [at] of snapshot.files) {
    signal?.throwIfAborted();
    if (at === markerPath || isPassing(at) || (await tree.kind(at)) !== 'file') continue;
    await tree.remove(at);
  }
  for (const [at] of snapshot.links)
    if ((await tree.kind(at)) === 'link') fs.unlinkSync(path.join(toSystem(root), ...at.split('/')));
  for (const folder of [...(await foldersIn(tree))].reverse())
    if (!isWithin(markerPath, folder)) await tree.removeFolder(folder).catch(() => undefined);
}

const isPassing = (p: string) => p === `${ownFolder}/lock` || p.startsWith(`${ownFolder}/.lock-`);

async function foldersIn(tree: DiskTree): Promise<TreePath[]> {
  const found: TreePath[] = [];
  const waiting: TreePath[] = [rootPath];
  for (let at = waiting.shift(); at !== undefined; at = waiting.shift())
    for (const e of (await tree.entries(at)) ?? [])
      if (e.kind === 'folder' && e.link === undefined) {
        const folder = treePath(at === '' ? e.name : `${at}/${e.name}`);
        found.push(folder);
        waiting.push(folder);
      }
  return found;
}

/** Brings work back that was moved off, into its root; what was made there meanwhile must be out of the way first. */
export async function bringBack(
  root: string,
  options: ArchiveOptions & { parts?: string | null } = {},
): Promise<GivenBack> {
  currentLimits().bounds.checkPath(root);
  const stub = await stubOf(root);
  if (!stub) throw new AppError('bad-request', `${root} was not moved off: there is nothing to bring back.`);
  const backups = await openBackups(stub.folder);
  const tree = new DiskTree(root);
  const own: TreePath[] = [stubPath, stubPage, markerPath];
  for await (const f of tree.list(rootPath))
    if (!own.includes(f.path) && !isPassing(f.path))
      throw new AppError(
        'not-empty',
        `${f.path} was made here meanwhile. Move it elsewhere first; then bring the work back.`,
      );
  const name = path.basename(toSystem(root));
  const beside = path.join(path.dirname(toSystem(root)), `${name} coming back`);
  const given = await giveBack(backups, stub.snapshot, [], beside, options);
  if (given.lost.length > 0)
    throw new AppError(
      'disk-error',
      `${given.lost[0]!.why} What could be read lies in ${beside}.`,
      `${root} still says where it is.`,
      given.lost.map((l) => l.path),
    );
  // The stub goes aside, the work takes its place, then the stub goes.
  const aside = path.join(path.dirname(toSystem(root)), `${name} stub`);
  fs.renameSync(toSystem(root), aside);
  try {
    fs.renameSync(beside, toSystem(root));
  } catch (cause) {
    fs.renameSync(aside, toSystem(root));
    throw cause;
  }
  clearAway(aside);
  return { ...given, root };
}
