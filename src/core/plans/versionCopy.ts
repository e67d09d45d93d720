// A version of a scene written anew: the next one, or an old one brought back. The present file is never touched.
// What belongs to the scene alone (geometry buffer, material library: beside it, with its stem) is saved with it, so that the next export over it
// cannot spoil the version. A version that comes to lie in another folder has its relative paths written for there, and its note says how to get
// back the very bytes that the scene had at its own place.

import {
  foldersFor,
  type FileState,
  type Note,
  type PathChange,
  type PlanPiece,
  type Step,
  putBytes,
} from '../changes/plan';
import { AppError } from '../errors';
import type { FileTree } from '../files/fileTree';
import { ownFolder } from '../files/records';
import { extensionOf, folderOf, isAbsolutePath, join, nameOf, type TreePath } from '../files/treePath';
import { fullPath } from '../formats/format';
import { foldName, freeName } from '../names/portable';
import { meaningOf } from '../references/meant';
import type { JudgedReference } from '../references/scan';
import { understand } from '../references/written';
import { utf8 } from '../text/bytes';
import { versionNotePath, writeVersionNote, type VersionNote, type VersionPart } from '../versions/note';
import { digestOfPieces, inverseOf } from './pieces';
import { rewrite, writtenRelative, type Rewriting } from './rewrite';
import { SceneSet, type Scene } from './sceneSet';
import { alikeName, contentOf, ownFiles } from './versionFiles';
import { foldedNamesIn, stateOf, type Workspace } from './workspace';

/** The parts of a plan that save something. */
export interface Copied {
  steps: Step[];
  notes: Note[];
  paths: PathChange[];
}

/** A file that is copied, and what it becomes. */
interface Copy {
  from: TreePath;
  to: TreePath;
  state: FileState;
  pieces: PlanPiece[] | null;
  size: number;
}

/** A copy of a version under a new name, with all that belongs to it alone, and the note about it. */
export async function versionCopy(
  workspace: Workspace,
  from: TreePath,
  to: TreePath,
  request: { note: string; now: string },
): Promise<Copied> {
  if (extensionOf(from) !== extensionOf(to)) throw new Error('a version keeps its extension');
  const { copies, notes, paths } = await copiesOf(workspace, from, to);
  const { tree } = workspace;
  const parts: VersionPart[] = [];
  const steps: Step[] = [];
  for (const folder of foldersFor(to, () => false))
    if ((await tree.kind(folder.path)) === null) steps.push(folder);
  for (const copy of copies) {
    if ((await tree.kind(copy.to)) !== null)
      notes.push({
        level: 'blocker',
        code: 'in-the-way',
        message: `${copy.to} is there already.`,
        path: copy.to,
      });
    parts.push(await partOf(tree, copy));
    steps.push({
      do: 'put',
      path: copy.to,
      before: null,
      size: copy.size,
      modified: null,
      from: { from: 'tree', path: copy.from, state: copy.state, pieces: copy.pieces },
    });
  }
  steps.push(
    ...(await noteSteps(workspace, to, {
      note: request.note,
      from,
      saved: request.now,
      by: workspace.by,
      parts,
    })),
  );
  return { steps, notes, paths };
}

/** What is noted about a copied file. */
async function partOf(tree: FileTree, copy: Copy): Promise<VersionPart> {
  const content = await contentOf(tree, copy.from, copy.state);
  const names = { from: nameOf(copy.from), to: nameOf(copy.to), content };
  if (!copy.pieces) return { ...names, made: content };
  return {
    ...names,
    made: await digestOfPieces(tree, copy.from, copy.pieces),
    back: await inverseOf(copy.pieces, copy.state.size, (range) => tree.read(copy.from, range)),
  };
}

/** Each file that a version consists of, written for its new place; the scene last. */
async function copiesOf(
  workspace: Workspace,
  from: TreePath,
  to: TreePath,
): Promise<{ copies: Copy[]; notes: Note[]; paths: PathChange[] }> {
  const { tree } = workspace;
  const scenes = await SceneSet.of(workspace, {}, [from]);
  const scene = await scenes.read(from);
  const own = scene ? ownFiles(scene) : [];
  const names = await foldedNamesIn(tree, folderOf(to));
  const placed = new Map<TreePath, TreePath>([[from, to]]);
  for (const path of own)
    placed.set(
      path,
      join(
        folderOf(to),
        freeName(alikeName(path, to), (n) => names.has(foldName(n))),
      ),
    );
  const notes: Note[] = [];
  const paths: PathChange[] = [];
  const copies: Copy[] = [];
  for (const path of [...own, from]) {
    const at = placed.get(path)!;
    const read = path === from ? scene : await scenes.read(path);
    const state = read ? await scenes.stateOf(read) : await stateOf(tree, path);
    if (!state) throw new AppError('not-found', `${path} is not there.`);
    const wishes = read ? wishesFor(workspace, read, at, placed) : [];
    const done = read
      ? await rewrite(read.reading, state.size, wishes, at, (range) => tree.read(path, range))
      : { pieces: null, size: state.size, paths: [], notes: [] };
    notes.push(...done.notes);
    paths.push(...done.paths);
    copies.push({ from: path, to: at, state, pieces: done.pieces, size: done.size });
  }
  return { copies, notes, paths };
}

/** How the references of a scene are written in its copy at `to`; `placed`: where its own files come to lie. */
export function wishesFor(
  { root }: Workspace,
  scene: Scene,
  to: TreePath,
  placed: ReadonlyMap<string, TreePath>,
): Rewriting[] {
  const isElsewhere = folderOf(to) !== folderOf(scene.path);
  return scene.references.flatMap((reference): Rewriting[] => {
    const copy = reference.target === null ? undefined : placed.get(reference.target);
    if (copy !== undefined)
      return [{ reference, written: writtenRelative(scene.reading, to, copy, reference) }];
    if (!isElsewhere || reference.uncertain || !isMeasuredFromScene(scene, reference)) return [];
    const target = reference.target ?? meantBy(root, scene, reference);
    if (target === null) return [];
    const at = reference.inside && !isAbsolutePath(target) ? to : `${root}/${to}`;
    const full = at === to || isAbsolutePath(target) ? target : `${root}/${target}`;
    return [{ reference, written: writtenRelative(scene.reading, at, full, reference) }];
  });
}

/** Whether a path is relative and measured from the scene's folder, and stands in the scene as a path to another file. */
function isMeasuredFromScene(scene: Scene, r: JudgedReference): boolean {
  if (r.span === null && !scene.reading.rewrite) return false;
  const understood = understand(fullPath(r), r.syntax ?? scene.reading.format.syntax);
  const elsewhere = ['working-folder', 'home-folder'] as const;
  return (
    understood.form === 'relative' &&
    r.via !== 'search path' &&
    !elsewhere.some((o) => r.oddities.includes(o))
  );
}

/** What a missing reference means. */
function meantBy(root: string, scene: Scene, r: JudgedReference): string | null {
  const syntax = r.syntax ?? scene.reading.format.syntax;
  return meaningOf(root, scene.path, fullPath(r), syntax)?.meant ?? null;
}

/** The steps that write the note about a version. */
export async function noteSteps(workspace: Workspace, version: TreePath, note: VersionNote): Promise<Step[]> {
  const path = versionNotePath(version);
  const steps: Step[] = [];
  for (const step of foldersFor(path, (folder) => folder === ownFolder))
    if ((await workspace.tree.kind(step.path)) === null) steps.push(step);
  steps.push(putBytes(path, utf8(writeVersionNote(note)), await stateOf(workspace.tree, path)));
  return steps;
}

/** Names what a note is about, for titles. */
export function versionTitle(paths: readonly TreePath[]): string {
  return paths.length === 1 ? nameOf(paths[0]!) : `${paths.length} versions`;
}
