// Whether files are as a plan saw them. A plan that does not fit any more is stale: nothing of it is made.

import { AppError } from '../errors';
import type { Digest } from '../files/digest';
import type { FileStat, FileTree, OutsideFiles } from '../files/fileTree';
import { sameTime } from '../files/times';
import { treePath, type TreePath } from '../files/treePath';
import { Moves } from './moves';
import type { Basis, FileState, Plan, Source } from './plan';

export function stale(path: string, what: string): AppError {
  return new AppError('stale-plan', `${path} ${what} since the plan was made.`);
}

/** What checking needs beside the tree. */
export interface CheckContext {
  outside: OutsideFiles;
  /** Paths of all scenes there are. */
  scenesOf: (tree: FileTree) => Promise<readonly TreePath[]>;
}

/** Finds most stale plans before anything is begun: sizes and times, and what the plan rests on. */
export async function checkAll(tree: FileTree, plan: Plan, context: CheckContext): Promise<void> {
  const planned = new Set<string>();
  const moves = new Moves();
  for (const step of plan.steps) {
    const at = moves.before(step.path);
    if (!planned.has(at)) {
      const isNew = (step.do === 'put' || step.do === 'link') && step.before === null;
      if (isNew && (await tree.kind(at)) !== null && !moves.hasLeft(at))
        throw stale(step.path, 'has appeared');
      if (step.do === 'make-folder' && step.fresh && (await tree.kind(at)) !== null)
        throw stale(step.path, 'has appeared');
      if (step.do === 'link' && step.before !== null) await checkLink(tree, at, step.before);
      const before =
        step.do === 'put' || step.do === 'remove' ? step.before : step.do === 'move' ? step.content : null;
      if (before?.link !== undefined) await checkLink(tree, at, before.link);
      else if (before) {
        const stat = await tree.stat(at);
        if (!stat) throw stale(step.path, 'has gone');
        if (stat.size !== before.size) throw stale(step.path, 'was changed');
      }
    }
    planned.add(at);
    if (step.do === 'move' || step.do === 'move-folder') moves.add(step.path, step.to);
  }
  if (plan.basis) await checkBasis(tree, plan.basis, context);
}

/** What a plan rests on must be as it was. */
async function checkBasis(tree: FileTree, basis: Basis, { outside, scenesOf }: CheckContext): Promise<void> {
  for (const { path, outside: isOutside, state } of basis.files ?? []) {
    const stat = isOutside ? await outside.stat(path) : await tree.stat(path as TreePath);
    if (!stat) throw stale(path, 'has gone');
    const digest =
      stat.size === state.size && state.digest !== null && !sameTime(stat.modified, state.modified)
        ? await (isOutside ? outside.digest(path) : tree.digest(path as TreePath))
        : state.digest;
    if (stat.size !== state.size || digest !== state.digest) throw stale(path, 'was changed');
    if (state.digest === null && !sameTime(stat.modified, state.modified)) throw stale(path, 'was changed');
  }
  if (!basis.scenes) return;
  const unread = new Set(basis.unread);
  const known = new Map(basis.scenes.map(([path, size, modified]) => [path, { size, modified }]));
  for (const path of await scenesOf(tree)) {
    const was = known.get(path);
    if (!was && unread.has(path)) continue;
    if (!was) throw stale(path, 'has appeared');
    known.delete(path);
    const stat = await tree.stat(path);
    if (!stat) throw stale(path, 'has gone');
    if (stat.size !== was.size || !sameTime(stat.modified, was.modified)) throw stale(path, 'was saved');
  }
  for (const path of known.keys()) throw stale(path, 'has gone');
}

/** Checks that a link says what the plan saw. */
export async function checkLink(tree: FileTree, path: TreePath, text: string): Promise<void> {
  const now = await tree.readLink(path);
  if (now === null) throw stale(path, 'has gone');
  if (now !== text) throw stale(path, 'was changed');
}

/** Checks size, and time where there is no content id; returns what was found. */
export async function checkStat(tree: FileTree, path: TreePath, before: FileState): Promise<FileStat> {
  if ((await tree.kind(path)) === 'link') throw stale(path, 'has become a link');
  const stat = await tree.stat(path);
  if (!stat) throw stale(path, 'has gone');
  if (stat.size !== before.size || (before.digest === null && !sameTime(stat.modified, before.modified)))
    throw stale(path, 'was changed');
  return stat;
}

/** Checks that a file is in the state the plan saw; returns its content id. */
export async function checkState(
  tree: FileTree,
  path: TreePath,
  before: FileState,
): Promise<{ digest: Digest; stat: FileStat }> {
  const stat = await checkStat(tree, path, before);
  const digest = await tree.digest(path);
  if (digest === null) throw stale(path, 'has gone');
  if (before.digest !== null && digest !== before.digest) throw stale(path, 'was changed');
  return { digest, stat };
}

/** A source must be, after it was read, what the plan saw. */
export async function checkSource(tree: FileTree, source: Source, outside: OutsideFiles): Promise<void> {
  if (source.from === 'files')
    for (const { path, state, outside: isOutside } of source.files) {
      const one: Source = isOutside
        ? { from: 'outside', path, state, pieces: null }
        : { from: 'tree', path: treePath(path), state, pieces: null };
      await checkSource(tree, one, outside);
    }
  if (source.from !== 'outside' && source.from !== 'tree' && source.from !== 'made') return;
  const isOutside = source.from === 'outside' || (source.from === 'made' && source.outside === true);
  const stat = isOutside ? await outside.stat(source.path) : await tree.stat(treePath(source.path));
  if (!stat) throw stale(source.path, 'has gone');
  if (stat.size !== source.state.size || !sameTime(stat.modified, source.state.modified))
    throw stale(source.path, 'was changed');
}
