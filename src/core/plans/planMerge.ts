// Files with the same content, merged to one: every path to the others is made to lead to the one that stays, the others go to the bin.
// Only files that stand for themselves are looked at. Scenes mean something else in another folder; a geometry buffer beside a scene is that
// scene's own, and one shared by several versions would change all of them at the next save; frames and tiles belong to their row.

import type { Note, PathChange, Plan, Step } from '../changes/plan';
import type { CancelSignal } from '../files/fileTree';
import { comparePaths, folderOf, treePath, type TreePath } from '../files/treePath';
import { kindAtHome, kindOfName, type FileKind } from '../layouts/homes';
import { filesOf, judge, readScene, scenePaths } from '../references/scan';
import { isOwn, plainMoves } from './moving';
import { rewrite, writtenRelative, type Rewriting } from './rewrite';
import { spell, understand } from '../references/written';
import { settingOf, stateOf, type Workspace } from './workspace';

const merged: ReadonlySet<FileKind> = new Set(['texture', 'audio', 'video', 'font', 'reference']);

export interface Duplicates {
  /** Bytes of one of them. */
  size: number;
  /** The one to stay first: the most used, then the one in the home of its kind, then the one least deep. */
  files: { path: TreePath; uses: number }[];
}

interface Watched {
  signal?: CancelSignal | undefined;
  onFile?: ((done: number, path: string) => void) | undefined;
}

/** What every scene uses: file → how often, and those that only a row of frames or tiles uses. */
async function usesOf(
  workspace: Workspace,
  { signal, onFile }: Watched,
): Promise<{ uses: Map<string, number>; inRows: Set<string> }> {
  const uses = new Map<string, number>();
  const inRows = new Set<string>();
  const setting = settingOf(workspace);
  let done = 0;
  for (const scene of await scenePaths(workspace.tree)) {
    signal?.throwIfAborted();
    onFile?.(++done, scene);
    const reading = await readScene(workspace.tree, scene);
    if (!reading || !('format' in reading)) continue;
    for (const r of (await judge(scene, reading, setting)).references)
      for (const file of filesOf(r)) {
        uses.set(file, (uses.get(file) ?? 0) + 1);
        if (r.members) inRows.add(file);
      }
  }
  return { uses, inRows };
}

/** Groups of files with the same content, those that take most room first. */
export async function duplicates(workspace: Workspace, watched: Watched = {}): Promise<Duplicates[]> {
  const { uses, inRows } = await usesOf(workspace, watched);
  const bySize = new Map<number, TreePath[]>();
  for await (const f of workspace.tree.list()) {
    if (
      f.size === 0 ||
      isOwn(f.path) ||
      inRows.has(f.path) ||
      f.path.split('/').some((part) => part.startsWith('.')) ||
      !merged.has(kindOfName(f.path))
    )
      continue;
    bySize.set(f.size, [...(bySize.get(f.size) ?? []), f.path]);
  }
  const found: Duplicates[] = [];
  let done = 0;
  for (const [size, paths] of bySize) {
    if (paths.length < 2) continue;
    const byDigest = new Map<string, TreePath[]>();
    for (const path of paths) {
      watched.signal?.throwIfAborted();
      watched.onFile?.(++done, path);
      const digest = await workspace.tree.digest(path);
      if (digest !== null) byDigest.set(digest, [...(byDigest.get(digest) ?? []), path]);
    }
    for (const same of byDigest.values())
      if (same.length > 1) found.push({ size, files: order(workspace, same, uses) });
  }
  return found.sort(
    (a, b) =>
      b.size * (b.files.length - 1) - a.size * (a.files.length - 1) ||
      comparePaths(a.files[0]!.path, b.files[0]!.path),
  );
}

function order(
  workspace: Workspace,
  paths: readonly TreePath[],
  uses: ReadonlyMap<string, number>,
): Duplicates['files'] {
  const isHome = (p: string) => (kindAtHome(p, workspace.file.homes) === kindOfName(p) ? 0 : 1);
  const depth = (p: string) => p.split('/').length;
  return paths
    .map((path) => ({ path, uses: uses.get(path) ?? 0 }))
    .sort(
      (a, b) =>
        b.uses - a.uses ||
        isHome(a.path) - isHome(b.path) ||
        depth(a.path) - depth(b.path) ||
        comparePaths(a.path, b.path),
    );
}

/** Merges each group to its first file. `now`: ISO time, which names the folder in the bin. */
export async function planMerge(
  workspace: Workspace,
  groups: readonly (readonly string[])[],
  now: string,
  watched: Watched = {},
): Promise<Plan> {
  const notes: Note[] = [];
  const instead = new Map<string, TreePath>();
  for (const [keep, ...others] of groups) {
    const digest = keep === undefined ? null : await workspace.tree.digest(treePath(keep));
    for (const path of others) {
      if (digest !== null && (await workspace.tree.digest(treePath(path))) === digest)
        instead.set(path, treePath(keep!));
      else
        notes.push({
          level: 'warning',
          code: 'changed-since',
          message: `${path} is not the same as ${keep} any more; it stays.`,
          path,
        });
    }
  }
  const { inRows } = await usesOf(workspace, watched);
  for (const path of inRows)
    if (instead.delete(path))
      notes.push({
        level: 'warning',
        code: 'held',
        message: `${path} stays: it is one of a row of frames or tiles.`,
        path,
      });
  const setting = settingOf(workspace);
  let steps: Step[] = [];
  let paths: PathChange[] = [];
  for (let again = true; again;) {
    again = false;
    [steps, paths] = [[], []];
    for (const scene of await scenePaths(workspace.tree)) {
      watched.signal?.throwIfAborted();
      const reading = await readScene(workspace.tree, scene);
      if (!reading || !('format' in reading)) continue;
      const rewritings: Rewriting[] = [];
      const dropped: string[] = [];
      for (const reference of (await judge(scene, reading, setting)).references) {
        const keep =
          reference.inside && reference.target !== null && !reference.members
            ? instead.get(reference.target)
            : undefined;
        if (keep === undefined) continue;
        dropped.push(reference.target!);
        const syntax = reference.syntax ?? reading.format.syntax;
        const understood = understand(`${reference.prefix ?? ''}${reference.written}`, syntax);
        const isAbsolute = understood.form === 'absolute' && understood.path.startsWith(`${workspace.root}/`);
        rewritings.push({
          reference,
          written: isAbsolute
            ? spell(`${workspace.root}/${keep}`, syntax, reference.written) + understood.tail
            : writtenRelative(reading, scene, keep, reference),
        });
      }
      if (rewritings.length === 0) continue;
      const state = (await stateOf(workspace.tree, scene))!;
      const done = rewrite(reading, state.size, rewritings, scene);
      if (!done.pieces || done.notes.some((n) => n.code === 'cannot-say')) {
        // What it uses has to stay, and so do the paths of others to it.
        for (const path of dropped)
          if (instead.delete(path))
            notes.push({
              level: 'warning',
              code: 'held',
              message: `${path} stays: ${scene} uses it by a path that cannot be changed.`,
              path,
            });
        again = true;
        break;
      }
      paths.push(...done.paths);
      steps.push({
        do: 'put',
        path: scene,
        before: state,
        size: done.size,
        modified: null,
        from: { from: 'tree', path: scene, state, pieces: done.pieces },
      });
    }
  }
  const bin = `.satchel/bin/${now.replace(/[:.]/g, '-')}`;
  const moved = await plainMoves(workspace, new Map([...instead.keys()].map((p) => [p, `${bin}/${p}`])), [
    ...Object.values(workspace.file.homes),
    ...[...instead.values()].map((p) => folderOf(p)),
  ]);
  if (instead.size === 0)
    notes.push({ level: 'info', code: 'nothing', message: 'There is nothing to merge.' });
  return {
    kind: 'merge',
    title: `Merge ${instead.size === 1 ? `one file into ${[...instead.values()][0]}` : `${instead.size} files that are there twice`}`,
    steps: [...steps, ...moved.steps],
    notes: [...notes, ...moved.notes],
    paths,
    readiness: null,
  };
}
