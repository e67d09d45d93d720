// Checkpoints on disk: made, listed, measured. Making one reads only what changed since the last; the rest is known by its size and time.

import { randomBytes } from 'node:crypto';
import { AppError } from '@/core/errors';
import type { CancelSignal, FileStat, FileTree } from '@/core/files/fileTree';
import { once } from '@/core/files/fileTree';
import { checkpointsFolder, isOwn, ownFolder } from '@/core/files/records';
import { treePath, type TreePath } from '@/core/files/treePath';
import { filesNow, holdsFile } from '@/core/plans/planBack';
import { packSizes } from '@/core/store/packIndex';
import { bytes as inBytes } from '@/core/text/figures';
import { decodeText, utf8 } from '@/core/text/bytes';
import { checkpointPath, isInScope, readCheckpoint, type Checkpoint } from '@/core/versions/checkpoint';
import { bytesOf, compareWithState } from '@/core/versions/folderState';
import { freeBytes } from '../disk/use';
import { withLock } from './changing';
import type { OpenWorkspace } from './open';
import { KnownContents, surveyState, Taking } from './takeState';

export interface CheckpointRequest {
  name: string;
  /** Files and folders; empty: the whole workspace. */
  scope: readonly TreePath[];
  signal?: CancelSignal | undefined;
  onFile?: ((done: { files: number; bytes: number; path: string }) => void) | undefined;
}

/** A checkpoint as it is listed. Bytes: of its files; `added`: what the store took for it. */
export interface CheckpointMade {
  id: string;
  name: string;
  time: string;
  scope: TreePath[];
  by: string | null;
  files: number;
  bytes: number;
}

export interface Made extends CheckpointMade {
  read: number;
  added: number;
  unread: string[];
}

/** So many checkpoints are asked what files held. */
const lookedBack = 2;

/** Every checkpoint that can be read, the newest first; or so many. */
async function* newestFirst(tree: FileTree, most = Infinity): AsyncIterable<Checkpoint> {
  // Their names begin with their times.
  const entries = [...((await tree.entries(checkpointsFolder)) ?? [])].sort((a, b) =>
    a.name < b.name ? 1 : -1,
  );
  for (const { name, kind } of entries) {
    if (most <= 0) return;
    if (kind !== 'file' || !name.endsWith('.json')) continue;
    const read = readCheckpoint(decodeText(await tree.read(treePath(`${checkpointsFolder}/${name}`))).text);
    if (read === null || read === 'newer') continue;
    most--;
    yield read;
  }
}

/** All of them. */
export async function readCheckpoints(tree: FileTree): Promise<Checkpoint[]> {
  const found: Checkpoint[] = [];
  for await (const checkpoint of newestFirst(tree)) found.push(checkpoint);
  return found.sort((a, b) => (a.time < b.time ? 1 : a.time > b.time ? -1 : 0));
}

/** One by its id. Throws AppError where there is none, or it is damaged. */
export async function checkpointOf(tree: FileTree, id: string): Promise<Checkpoint> {
  const path = checkpointPath(id.replace(/[^\w-]/g, ''));
  if ((await tree.kind(path)) !== 'file') throw new AppError('not-found', `There is no checkpoint ${id}.`);
  const read = readCheckpoint(decodeText(await tree.read(path)).text);
  if (read === 'newer')
    throw new AppError('newer-format', `${path} was written by a newer version of Loyal Satchel.`);
  if (!read) throw new AppError('disk-error', `${path} is damaged; nothing goes back to it.`);
  return read;
}

export const summaryOf = (c: Checkpoint): CheckpointMade => ({
  id: c.id,
  name: c.name,
  time: c.time,
  scope: c.scope,
  // What a stranger's file says is looked at.
  by: typeof c.by === 'string' ? c.by : null,
  files: c.files.length,
  bytes: bytesOf(c),
});

/** What changed since a checkpoint, counted, with the first paths of each. */
export async function sinceCheckpoint(workspace: OpenWorkspace, checkpoint: Checkpoint) {
  const files = await filesNow(workspace, checkpoint.scope);
  const since = await compareWithState(checkpoint, files, (path) => workspace.tree.digest(path));
  const first = (paths: readonly string[]) => ({ count: paths.length, paths: paths.slice(0, 200) });
  return {
    changed: first(since.changed.map((f) => f[0])),
    gone: first(since.gone.map((f) => f[0])),
    fresh: first(since.fresh.map((f) => f.path)),
    same: since.same,
  };
}

/** Makes a checkpoint. */
export function makeCheckpoint(workspace: OpenWorkspace, request: CheckpointRequest): Promise<Made> {
  return withLock(workspace.root, async ({ tree }) => {
    const now = new Date();
    const { scope, signal, onFile } = request;
    const surveyed = await surveyState(tree, (path) => covers(scope, path), signal);
    const known = await knownContents(tree, surveyed.files);
    checkHasRoom(workspace.root, known.unknownBytes(surveyed.files));
    const taking = new Taking(tree, tree, known, { signal, onFile });
    const { files, unread } = await taking.take(surveyed.files);
    await taking.finish();
    const time = now.toISOString();
    const id = `${time.replace(/[-:]/g, '').replace('T', '-').slice(0, 15)}-${randomBytes(3).toString('hex')}`;
    const checkpoint: Checkpoint = {
      format: 1,
      id,
      name: request.name.trim() || time.slice(0, 16).replace('T', ' '),
      time,
      ...(workspace.by === undefined ? {} : { by: workspace.by }),
      scope: [...scope],
      ...surveyed,
      files,
      unread: [...surveyed.unread, ...unread],
      packs: await packSizes(tree),
    };
    for (const folder of [ownFolder, checkpointsFolder])
      if ((await tree.kind(folder)) === null) await tree.makeFolder(folder);
    await tree.write(checkpointPath(id), once(utf8(JSON.stringify(checkpoint))), {
      replace: false,
      tag: 't',
    });
    return {
      ...summaryOf(checkpoint),
      read: taking.read.size,
      added: taking.added,
      unread: checkpoint.unread,
    };
  });
}

/** True for what a checkpoint of a scope covers: users' files, and of our own records those that `holdsFile` lists. */
const covers = (scope: readonly string[], path: string) =>
  isOwn(path) ? holdsFile(scope, path) : isInScope(scope, path);

/** Contents by the newest checkpoints. Older ones are read only where the newest one lacks a file. */
async function knownContents(tree: FileTree, files: readonly FileStat[]): Promise<KnownContents> {
  const known = await KnownContents.of(tree);
  for await (const checkpoint of newestFirst(tree, lookedBack)) {
    await known.add(checkpoint, Date.parse(checkpoint.time));
    if (files.every((f) => known.has(f.path))) break;
  }
  return known;
}

/** Throws AppError('disk-full') where the drive has less than `needed` bytes free. */
function checkHasRoom(root: string, needed: number): void {
  const free = freeBytes(root);
  if (needed > free)
    throw new AppError(
      'disk-full',
      `The checkpoint may need ${inBytes(needed)} and the drive has ${inBytes(free)} free.`,
    );
}
