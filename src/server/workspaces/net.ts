// One round of the net over a workspace: every scene that changed is kept in the store, when it is whole and nobody is writing it; what could not be
// kept is written down with the reason. Nothing but `.satchel` is written.

import { AppError } from '@/core/errors';
import type { CancelSignal, FileStat } from '@/core/files/fileTree';
import { netFolder, netLog, ownFolder } from '@/core/files/records';
import type { TreePath } from '@/core/files/treePath';
import { allSeries } from '@/core/plans/planSave';
import { SceneSet } from '@/core/plans/sceneSet';
import { ownFiles } from '@/core/plans/versionFiles';
import { startKeeping } from '@/core/store/keeping';
import { seemsUnchanged } from '@/core/files/times';
import { decodeText, utf8 } from '@/core/text/bytes';
import {
  isNetUnderstood,
  readNetLog,
  sceneNets,
  thinned,
  writeNetLines,
  type KeptState,
  type NetLine,
  type NetSettings,
  type SceneNet,
  type SkipReason,
} from '@/core/versions/net';
import type { StoredFile } from '@/core/versions/note';
import { once } from '@/core/files/fileTree';
import { withLock } from './changing';
import type { DiskTree } from '../disk/diskTree';
import { readWorkspace, type OpenWorkspace } from './open';
import { sweepStore } from './storeOwners';

/** What a round needs beside the workspace: the time, a way to wait, and the run of the application that looks. */
export interface NetClock {
  /** ms since 1970 UTC. */
  now: () => number;
  wait: (ms: number) => Promise<void>;
  run: { id: string; from: number };
}

export interface NetRound {
  kept: { scene: TreePath; broken: string | null }[];
  skipped: { scene: TreePath; why: SkipReason; message: string }[];
  /** Scenes that are as they were kept last. */
  unchanged: number;
}

/** So long a file must stay the same to count as written, in ms, and so often it is looked at. */
const settles = 700;
const looks = 8;

/** The log of a workspace's net. */
export async function netLines(tree: OpenWorkspace['tree']): Promise<NetLine[]> {
  if ((await tree.kind(netLog)) !== 'file') return [];
  return readNetLog(decodeText(await tree.read(netLog)).text);
}

/** One round. `away`: the stretch before it in which the workspace could not be looked at. */
export async function netRound(
  root: string,
  settings: NetSettings,
  clock: NetClock,
  options: { signal?: CancelSignal | undefined; away?: { from: number; why: SkipReason } | undefined } = {},
): Promise<NetRound> {
  const workspace = await readWorkspace(root);
  const lines = await netLines(workspace.tree);
  const nets = sceneNets(lines);
  const fresh: NetLine[] = [];
  const { away } = options;
  if (away) fresh.push({ line: 'away', from: away.from, to: clock.now(), why: away.why });
  const round: NetRound = { kept: [], skipped: [], unchanged: 0 };
  const scenes = await scenesToKeep(workspace, options.signal);
  const changed: { scene: TreePath; stat: FileStat }[] = [];
  for (const scene of scenes) {
    const looked = await lookAtScene(workspace, scene, nets.get(scene));
    if (looked === 'unchanged') round.unchanged++;
    else if (looked instanceof AppError)
      round.skipped.push({ scene, why: 'unreadable', message: looked.message });
    else changed.push({ scene, stat: looked });
  }
  const { ready, writing } = await settled(workspace, changed, clock);
  for (const scene of writing)
    round.skipped.push({ scene, why: 'being-written', message: 'another program was writing it' });
  // Where there is nothing to keep and never was, nothing is written: a workspace that is still empty stays as it was made.
  if (lines.length === 0 && ready.length === 0 && round.skipped.length === 0) return round;
  try {
    await withLock(root, async ({ tree }) => {
      const locked = { ...workspace, tree };
      const keeping = await startKeeping(tree, options.signal);
      for (const scene of ready) {
        const done = await keepScene(locked, scene, keeping, nets, clock);
        if ('why' in done) round.skipped.push({ scene, ...done });
        else {
          if (done.line === 'kept') round.kept.push({ scene, broken: done.broken });
          else round.unchanged++;
          fresh.push(...movedFrom(done, nets, scenes, clock), done);
        }
      }
      await keeping.finish();
      for (const { scene, why, message } of round.skipped)
        fresh.push({ line: 'skipped', scene, from: seenAt(lines, clock), to: clock.now(), why, message });
      fresh.push({ line: 'run', run: clock.run.id, from: clock.run.from, to: clock.now() });
      await writeDown(locked, lines, fresh, settings, clock);
    });
  } catch (cause) {
    if (!(cause instanceof AppError) || cause.code !== 'busy') throw cause;
    for (const scene of ready) round.skipped.push({ scene, why: 'held', message: cause.message });
  }
  return round;
}

/** When the workspace was looked at before. */
function seenAt(lines: readonly NetLine[], clock: NetClock): number {
  let seen = clock.run.from;
  for (const l of lines) if (l.line === 'run' && l.to > seen) seen = l.to;
  return seen;
}

/** The scenes that are worked on: of each series the present one. */
async function scenesToKeep(workspace: OpenWorkspace, signal?: CancelSignal): Promise<TreePath[]> {
  const all = (await allSeries(workspace)).map((s) => s.scene);
  signal?.throwIfAborted();
  return all;
}

/** Whether a scene, or what belongs to it alone, is as it was kept last. */
async function lookAtScene(
  { tree }: OpenWorkspace,
  scene: TreePath,
  net: SceneNet | undefined,
): Promise<FileStat | AppError | 'unchanged'> {
  try {
    const stat = await tree.stat(scene);
    if (!stat) return 'unchanged'; // it has gone: there is nothing to keep
    const last = net?.states.at(-1);
    const seen = net?.seen;
    if (!last || !seen || !seemsUnchanged(stat, seen)) return stat;
    for (const file of last.files.slice(0, -1)) {
      const own = await tree.stat(file.path);
      if (!own || !seemsUnchanged(own, file)) return stat;
    }
    return 'unchanged';
  } catch (cause) {
    if (cause instanceof AppError) return cause;
    throw cause;
  }
}

/** Of scenes that changed, those that stay the same for a while, and those that somebody goes on writing. */
async function settled(
  { tree }: OpenWorkspace,
  changed: readonly { scene: TreePath; stat: FileStat }[],
  clock: NetClock,
): Promise<{ ready: TreePath[]; writing: TreePath[] }> {
  const ready: TreePath[] = [];
  let waiting = [...changed];
  for (let n = 0; n < looks && waiting.length > 0; n++) {
    await clock.wait(settles);
    const still: typeof waiting = [];
    for (const { scene, stat } of waiting) {
      const now = await tree.stat(scene).catch(() => null);
      if (now && seemsUnchanged(now, stat)) ready.push(scene);
      else if (now) still.push({ scene, stat: now });
    }
    waiting = still;
  }
  return { ready: ready.sort(), writing: waiting.map((w) => w.scene) };
}

/** Keeps a scene as it is, with what belongs to it alone; all of it from one moment. */
async function keepScene(
  workspace: OpenWorkspace,
  scene: TreePath,
  keeping: Awaited<ReturnType<typeof startKeeping>>,
  nets: ReadonlyMap<TreePath, SceneNet>,
  clock: NetClock,
): Promise<Extract<NetLine, { line: 'kept' | 'same' }> | { why: SkipReason; message: string }> {
  const { tree } = workspace;
  for (let n = 0; n < 2; n++)
    try {
      const set = await SceneSet.of(workspace, {}, [scene]);
      const read = await set.read(scene);
      const files: StoredFile[] = [];
      const paths = [...(read ? ownFiles(read) : []), scene];
      for (const path of paths) {
        const stat = await tree.stat(path);
        if (!stat) throw new AppError('not-found', `${path} is not there any more.`);
        const { digest, size } = await keeping.put(tree.stream(path), stat.size);
        files.push({ path, digest, size, modified: stat.modified, changed: stat.changed });
      }
      if (!(await areStill(tree, files))) continue;
      const last = nets.get(scene)?.states.at(-1);
      const at = clock.now();
      if (last && isSameState(last, files)) {
        const { modified, changed } = files.at(-1)!;
        return { line: 'same', at, scene, modified, changed };
      }
      return { line: 'kept', at, scene, files, broken: set.unread.get(scene)?.message ?? null };
    } catch (cause) {
      if (!(cause instanceof AppError)) throw cause;
      if (cause.code === 'disk-full') throw cause;
      if (cause.code !== 'stale-plan') return { why: 'unreadable', message: cause.message };
    }
  return { why: 'being-written', message: 'another program was writing it' };
}

async function areStill(tree: OpenWorkspace['tree'], files: readonly StoredFile[]): Promise<boolean> {
  for (const f of files) {
    const stat = await tree.stat(f.path);
    if (!stat || !seemsUnchanged(stat, f)) return false;
  }
  return true;
}

const isSameState = (last: KeptState, files: readonly StoredFile[]) =>
  last.files.length === files.length &&
  last.files.every((f, i) => f.digest === files[i]!.digest && f.path === files[i]!.path);

/** A scene that is new, and holds what one held that is gone now, was renamed. */
function movedFrom(
  state: NetLine,
  nets: ReadonlyMap<TreePath, SceneNet>,
  there: readonly TreePath[],
  clock: NetClock,
): NetLine[] {
  if (state.line !== 'kept' || nets.has(state.scene)) return [];
  const digest = state.files.at(-1)!.digest;
  for (const [from, net] of nets)
    if (!there.includes(from) && net.states.at(-1)?.files.at(-1)!.digest === digest)
      return [{ line: 'moved', at: clock.now(), from, to: state.scene }];
  return [];
}

/** Appends what happened; writes the log anew where states are let go. */
async function writeDown(
  { root, tree }: { root: string; tree: DiskTree },
  old: readonly NetLine[],
  fresh: readonly NetLine[],
  settings: NetSettings,
  clock: NetClock,
): Promise<void> {
  for (const folder of [ownFolder, netFolder])
    if ((await tree.kind(folder)) === null) await tree.makeFolder(folder);
  const { lines, dropped } = thinned([...old, ...fresh], settings, clock.now());
  const runs = old.filter((l) => l.line === 'run').length;
  const text = (await tree.kind(netLog)) === 'file' ? decodeText(await tree.read(netLog)).text : '';
  // A line that is not understood is not lost by writing the others anew.
  if ((dropped === 0 && runs < 200) || !isNetUnderstood(text)) {
    await tree.append(netLog, utf8(writeNetLines(fresh)));
    return;
  }
  await tree.write(netLog, once(utf8(writeNetLines(lines))), { replace: true, tag: 't' });
  if (dropped > 0)
    await sweepStore({ root, tree }).catch((cause: unknown) => {
      // What cannot be cleared now stays: the states are kept all the same.
      if (!(cause instanceof AppError) || !['disk-error', 'unfinished'].includes(cause.code)) throw cause;
    });
}
