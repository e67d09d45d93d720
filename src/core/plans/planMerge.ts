// Files with the same content, merged to one: every path to the others is made to lead to the one that stays, the others go to the bin.
// Only files that stand for themselves are looked at. Scenes mean something else in another folder; a geometry buffer beside a scene is that
// scene's own, and one shared by several versions would change all of them at the next save; frames and tiles belong to their row.

import { binAt, isOwn } from '../files/records';
import type { Note, PathChange, Plan, Step } from '../changes/plan';
import type { CancelSignal } from '../files/fileTree';
import { linkTarget, linkText } from '../files/links';
import { comparePaths, folderOf, nameOf, treePath, type TreePath, insideOf } from '../files/treePath';
import { kindAtHome, kindOfName, type FileKind } from '../layouts/homes';
import { filesOf, type JudgedReference } from '../references/scan';
import { plainMoves } from './moveSteps';
import { linksOf } from './placing';
import { SceneSet, type Scene } from './sceneSet';
import { writtenAbsolute, writtenRelative, type Rewriting } from './rewrite';
import { understand } from '../references/written';
import type { Workspace } from './workspace';

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
): Promise<{ uses: Map<string, number>; inRows: Set<string>; scenes: SceneSet }> {
  const uses = new Map<string, number>();
  const inRows = new Set<string>();
  const scenes = await SceneSet.of(workspace, { signal, onScene: (done, _, path) => onFile?.(done, path) });
  for await (const { references } of scenes.each())
    for (const r of references)
      for (const file of filesOf(r)) {
        uses.set(file, (uses.get(file) ?? 0) + 1);
        if (r.members) inRows.add(file);
      }
  return { uses, inRows, scenes };
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
  const { inRows, scenes } = await usesOf(workspace, watched);
  for (const path of inRows)
    if (instead.delete(path))
      notes.push({
        level: 'warning',
        code: 'held',
        message: `${path} stays: it is one of a row of frames or tiles.`,
        path,
      });
  await stayNamed(scenes, instead, notes);
  const { puts: steps, paths, links } = await pointTo(workspace, scenes, instead, notes);
  const bin = binAt(now);
  const moved = await plainMoves(workspace, new Map([...instead.keys()].map((p) => [p, `${bin}/${p}`])), [
    ...Object.values(workspace.file.homes),
    ...[...instead.values()].map((p) => folderOf(p)),
  ]);
  if (instead.size === 0)
    notes.push({ level: 'info', code: 'nothing', message: 'There is nothing to merge.' });
  return {
    kind: 'merge',
    title: `Merge ${instead.size === 1 ? `one file into ${[...instead.values()][0]}` : `${instead.size} files that are there twice`}`,
    steps: [...steps, ...links, ...moved.steps],
    notes: [
      ...notes,
      ...(instead.size > 0
        ? scenes.notes('blocker', 'It may use what would go; nothing is merged before it can be read.')
        : []),
      ...moved.notes,
    ],
    paths,
    readiness: null,
    basis: scenes.basis(),
  };
}

/** What a file names whose paths cannot be read stays. */
async function stayNamed(scenes: SceneSet, instead: Map<string, TreePath>, notes: Note[]): Promise<void> {
  const names = new Map([...instead.keys()].map((p) => [nameOf(p), p]));
  for (const naming of await scenes.namingFiles(new Set(names.keys()), notes))
    for (const name of naming.names)
      for (const path of instead.keys())
        if (nameOf(path) === name && instead.delete(path))
          notes.push({
            level: 'warning',
            code: 'held',
            message: `${path} stays: ${naming.path} names it, and its paths cannot be changed here.`,
            path,
          });
}

interface Pointed {
  puts: Step[];
  paths: PathChange[];
  /** Links that are pointed to the file that stays. */
  links: Step[];
}

/** Points every path and link to the file that stays; what cannot be said keeps its file. */
async function pointTo(
  workspace: Workspace,
  scenes: SceneSet,
  instead: Map<string, TreePath>,
  notes: Note[],
): Promise<Pointed> {
  const links = await linksOf(workspace.tree);
  // A link is nobody's copy: it stays a link, and leads to what stays.
  for (const link of links.keys()) instead.delete(link);
  for (;;) {
    const done: Pointed = { puts: [], paths: [], links: [] };
    const failed = await pointScenes(workspace, scenes, instead, done);
    if (!failed) {
      for (const [path, text] of links) {
        const target = linkTarget(path, text, workspace.root);
        const keep = target === null ? undefined : instead.get(target);
        if (keep !== undefined)
          done.links.push({
            do: 'link',
            path,
            before: text,
            after: linkText(path, keep, text, workspace.root),
          });
      }
      return done;
    }
    // What it uses has to stay, and so do the paths of others to it.
    for (const path of failed.files)
      if (instead.delete(path))
        notes.push({
          level: 'warning',
          code: 'held',
          message: `${path} stays: ${failed.scene} uses it by a path that cannot be changed.`,
          path,
        });
  }
}

async function pointScenes(
  workspace: Workspace,
  scenes: SceneSet,
  instead: ReadonlyMap<string, TreePath>,
  done: Pointed,
): Promise<{ scene: string; files: string[] } | null> {
  for await (const scene of scenes.each()) {
    const wishes: Rewriting[] = [];
    const files: string[] = [];
    for (const reference of scene.references) {
      const [file] = reference.members ? [] : filesOf(reference);
      const keep = file === undefined ? undefined : instead.get(file);
      if (keep === undefined) continue;
      files.push(file!);
      wishes.push({ reference, written: writtenTo(workspace.root, scene, reference, keep) });
    }
    if (wishes.length === 0) continue;
    const rewritten = await scenes.rewriteStep(scene, wishes);
    if (!rewritten.step || rewritten.failed) return { scene: scene.path, files };
    done.puts.push(rewritten.step);
    done.paths.push(...rewritten.paths);
  }
  return null;
}

/** How a scene writes the path to another file of the root, absolute where it was. */
function writtenTo(root: string, scene: Scene, reference: JudgedReference, to: TreePath): string | null {
  const syntax = reference.syntax ?? scene.reading.format.syntax;
  const understood = understand(`${reference.prefix ?? ''}${reference.written}`, syntax);
  const isAbsolute = understood.form === 'absolute' && insideOf(root, understood.path) !== null;
  return isAbsolute
    ? writtenAbsolute(scene.reading, `${root}/${to}`, reference)
    : writtenRelative(scene.reading, scene.path, to, reference);
}
