// Checkpoints on disk: made, listed, measured. Making one reads only what changed since the last; the rest is known by its size and time.

import { randomBytes } from 'node:crypto';
import { AppError } from '@/core/errors';
import type { Digest } from '@/core/files/digest';
import type { CancelSignal, FileTree } from '@/core/files/fileTree';
import { once } from '@/core/files/fileTree';
import { checkpointsFolder, ownFolder } from '@/core/files/records';
import { isWithin, treePath, type TreePath } from '@/core/files/treePath';
import { sameTime } from '@/core/files/times';
import { filesNow, holdsFile } from '@/core/plans/planBack';
import { startKeeping, type Keeping } from '@/core/store/keeping';
import { packSizes } from '@/core/store/packIndex';
import { inPacks } from '@/core/store/store';
import { bytes as inBytes } from '@/core/text/figures';
import { decodeText, utf8 } from '@/core/text/bytes';
import {
  changedSince,
  checkpointPath,
  isInScope,
  readCheckpoint,
  type Checkpoint,
  type CheckpointFile,
} from '@/core/versions/checkpoint';
import { freeBytes } from '../disk/use';
import type { DiskTree } from '../disk/diskTree';
import { withLock } from './changing';
import type { OpenWorkspace } from './open';

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
  bytes: c.files.reduce((sum, f) => sum + f[1], 0),
});

/** What changed since a checkpoint, counted, with the first paths of each. */
export async function sinceCheckpoint(workspace: OpenWorkspace, checkpoint: Checkpoint) {
  const files = await filesNow(workspace, checkpoint.scope);
  const since = await changedSince(checkpoint, files, (path) => workspace.tree.digest(path));
  const first = (paths: readonly string[]) => ({ count: paths.length, paths: paths.slice(0, 200) });
  return {
    changed: first(since.changed.map((f) => f[0])),
    gone: first(since.gone.map((f) => f[0])),
    fresh: first(since.fresh.map((f) => f.path)),
    same: since.same,
  };
}

interface Found {
  path: TreePath;
  size: number;
  modified: number;
  mode: number;
}

/** Makes a checkpoint. */
export function makeCheckpoint(workspace: OpenWorkspace, request: CheckpointRequest): Promise<Made> {
  return withLock(workspace.root, async ({ tree }) => {
    const now = new Date();
    const found = await look(workspace, request);
    const known = await knownContents(tree, found.files);
    const { files, read, added, unread } = await keepAll(
      { root: workspace.root, tree },
      found.files,
      known,
      request,
    );
    const time = now.toISOString();
    const id = `${time.replace(/[-:]/g, '').replace('T', '-').slice(0, 15)}-${randomBytes(3).toString('hex')}`;
    const checkpoint: Checkpoint = {
      format: 1,
      id,
      name: request.name.trim() || time.slice(0, 16).replace('T', ' '),
      time,
      ...(workspace.by === undefined ? {} : { by: workspace.by }),
      scope: [...request.scope],
      files,
      links: found.links,
      folders: found.folders,
      unread: [...found.unread, ...unread],
      packs: await packSizes(tree),
    };
    for (const folder of [ownFolder, checkpointsFolder])
      if ((await tree.kind(folder)) === null) await tree.makeFolder(folder);
    await tree.write(checkpointPath(id), once(utf8(JSON.stringify(checkpoint))), {
      replace: false,
      tag: 't',
    });
    return { ...summaryOf(checkpoint), read, added, unread: checkpoint.unread };
  });
}

/** What a file held, by the newest checkpoint that has it. */
interface KnownContent {
  size: number;
  modified: number;
  digest: Digest;
  time: number;
  /** Whether the packs of then are all there still. */
  isKept: boolean;
}

/** What files held. Older checkpoints are asked only where the newest one lacks a file. */
async function knownContents(
  tree: FileTree,
  files: readonly Found[],
): Promise<ReadonlyMap<string, KnownContent>> {
  const known = new Map<string, KnownContent>();
  const now = new Map(await packSizes(tree));
  for await (const { files: held, packs, time } of newestFirst(tree, lookedBack)) {
    const isKept = packs?.every(([pack, size]) => (now.get(pack) ?? -1) >= size) ?? false;
    for (const [path, size, modified, , digest] of held)
      if (!known.has(path)) known.set(path, { size, modified, digest, time: Date.parse(time), isKept });
    if (files.every((f) => known.has(f.path))) break;
  }
  return known;
}

/** Everything that a checkpoint is of. */
async function look(
  { tree }: OpenWorkspace,
  { scope, signal }: CheckpointRequest,
): Promise<{ files: Found[]; links: Checkpoint['links']; folders: TreePath[]; unread: string[] }> {
  const survey = tree.survey('', signal);
  const files: Found[] = [];
  for (const [i, path] of survey.paths.entries())
    if (holdsFile(scope, path))
      files.push({ path, size: survey.sizes[i]!, modified: survey.times[i]!, mode: survey.modes[i]! });
  const links: [TreePath, string][] = [];
  const unread: string[] = [];
  for (const { path, why } of survey.passedOver) {
    if (!isInScope(scope, path) || isWithin(path, ownFolder)) continue;
    const text = why === 'link' ? await tree.readLink(path as TreePath) : null;
    if (text !== null) links.push([path as TreePath, text]);
    else unread.push(path);
  }
  const folders = [...survey.names.keys()].filter(
    (f) => f !== '' && !isWithin(f, ownFolder) && isInScope(scope, f),
  ) as TreePath[];
  return { files, links, folders, unread };
}

/** Keeps what is not known yet. */
async function keepAll(
  { root, tree }: { root: string; tree: DiskTree },
  found: readonly Found[],
  known: ReadonlyMap<string, KnownContent>,
  { signal, onFile }: CheckpointRequest,
): Promise<{ files: CheckpointFile[]; read: number; added: number; unread: string[] }> {
  const fresh: Found[] = [];
  const digests = new Map<string, Digest>();
  // The index of a large store takes longer to read than all the rest: only where packs went is it asked.
  const needsIndex = [...known.values()].some((k) => !k.isKept);
  const inStore = needsIndex ? await inPacks(tree) : () => true;
  for (const file of found) {
    const before = known.get(file.path);
    // Within the grain of a clock a file may change and keep its time.
    const isKnown =
      before?.size === file.size &&
      sameTime(before.modified, file.modified) &&
      file.modified < before.time - 2000 &&
      (before.isKept || inStore(before.digest));
    if (isKnown) digests.set(file.path, before.digest);
    else fresh.push(file);
  }
  const needed = fresh.reduce((sum, f) => sum + f.size, 0);
  const free = freeBytes(root);
  if (needed > free)
    throw new AppError(
      'disk-full',
      `The checkpoint may need ${inBytes(needed)} and the drive has ${inBytes(free)} free.`,
    );
  const unread: string[] = [];
  let [files, bytes, added] = [0, 0, 0];
  const keeping = fresh.length > 0 ? await startKeeping(tree, signal) : null;
  for (const file of fresh) {
    signal?.throwIfAborted();
    const kept = await keepOne(tree, file, keeping!);
    if (kept === null) unread.push(file.path);
    else {
      digests.set(file.path, kept.digest);
      added += kept.added;
    }
    onFile?.({ files: ++files, bytes: (bytes += file.size), path: file.path });
  }
  await keeping?.finish();
  return {
    files: found.flatMap((f): CheckpointFile[] => {
      const digest = digests.get(f.path);
      return digest ? [[f.path, f.size, f.modified, f.mode, digest]] : [];
    }),
    read: fresh.length,
    added,
    unread,
  };
}

/** Keeps one file; null where it cannot be read, or is being written. */
async function keepOne(
  tree: OpenWorkspace['tree'],
  file: Found,
  keeping: Keeping,
): Promise<{ digest: Digest; added: number } | null> {
  for (let n = 0; n < 2; n++)
    try {
      const kept = await keeping.put(tree.stream(file.path), file.size);
      const stat = await tree.stat(file.path);
      if (stat && stat.size === kept.size && stat.modified === file.modified) return kept;
      if (!stat) return null;
      Object.assign(file, { size: stat.size, modified: stat.modified });
    } catch (cause) {
      if (!(cause instanceof AppError) || cause.code === 'disk-full' || cause.code === 'disk-error')
        throw cause;
      return null;
    }
  return null;
}
