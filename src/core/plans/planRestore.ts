// Brings an old version of a scene back. Side by side, as a new version; in the habit of one current file, into that file, whose present content is
// saved as a version first. What is present is never lost.

import type { FileState, Note, PathChange, Plan, PlanPiece } from '../changes/plan';
import { AppError } from '../errors';
import type { Digest } from '../files/digest';
import { folderOf, join, nameOf, type TreePath } from '../files/treePath';
import type { VersionNote } from '../versions/note';
import type { Series, VersionFile } from '../versions/series';
import { digestOfPieces, lengthOf } from './pieces';
import { versionOfPresent } from './planSave';
import { fromStored, withStored } from './storedTree';
import { SceneSet } from './sceneSet';
import { alikeName, ownFiles, readNote, readSeries } from './versionFiles';
import { versionCopy, wishesFor, type Copied } from './versionCopy';
import { rewrite } from './rewrite';
import { stateOf, type Workspace } from './workspace';

export interface RestoreRequest {
  scene: TreePath;
  number: number;
  /** Which of those that read as this number (`mix_1`, `mix_01`); where none is said, the scene itself where it is one. */
  version?: TreePath | undefined;
  note: string;
  /** ISO time. */
  now: string;
}

/** The version that is asked for. Throws AppError where there is none, or where several read alike and none is said. */
function versionAsked(series: Series, { scene, number, version }: RestoreRequest): VersionFile {
  const alike = series.versions.filter((v) => v.number === number);
  const said = alike.find((v) => v.path === version) ?? alike.find((v) => v.path === scene);
  if (said && (version === undefined || said.path === version)) return said;
  const [only] = alike;
  if (!only || version !== undefined)
    throw new AppError(
      'not-found',
      `${nameOf(scene)} has no version ${version === undefined ? number : nameOf(version)}. There are: ${series.versions.map((v) => v.number ?? 'the unnumbered one').join(', ')}.`,
    );
  if (alike.length > 1)
    throw new AppError(
      'bad-request',
      `${alike.map((v) => nameOf(v.path)).join(' and ')} both read as version ${number}: name the one that is meant in place of the scene.`,
    );
  return only;
}

/** The plan that brings version `number` back. */
export async function planRestore(workspace: Workspace, request: RestoreRequest): Promise<Plan> {
  const series = await readSeries(workspace, request.scene);
  const old = versionAsked(series, request);
  if (old.compact) return restoreCompact(workspace, series, old, request);
  const note = request.note || `${nameOf(old.path)} brought back`;
  if (hasCurrent(series)) return restoreInPlace(workspace, series, old, { ...request, note });
  const copied = await versionCopy(workspace, old.path, series.next.path, { note, now: request.now });
  const title = `Bring ${nameOf(old.path)} back as ${nameOf(series.next.path)}`;
  return { ...copied, kind: 'restore', title, readiness: null };
}

/** Whether there is one current file, which is none of the versions. */
export const hasCurrent = ({ habit, scene, versions }: Series) =>
  habit.kind === 'folder' && !versions.some((v) => v.path === scene);

/** Brings a version back into the one current file. */
async function restoreInPlace(
  workspace: Workspace,
  series: Series,
  old: VersionFile,
  request: RestoreRequest,
): Promise<Plan> {
  const note = `as it was before ${nameOf(old.path)} was brought back`;
  const saved = await saveFirst(workspace, series, note, request.now);
  const back = await backSteps(workspace, series.scene, old.path);
  return {
    kind: 'restore',
    title: `Bring ${nameOf(old.path)} back as ${nameOf(series.scene)}`,
    steps: [...saved.steps, ...back.steps],
    notes: [...saved.notes, ...back.notes],
    paths: [...saved.paths, ...back.paths],
    readiness: null,
  };
}

/** Saves what is present as the next version, unless a version holds it. */
export async function saveFirst(
  workspace: Workspace,
  series: Series,
  note: string,
  now: string,
): Promise<Copied> {
  if ((await workspace.tree.kind(series.scene)) === null) return { steps: [], notes: [], paths: [] };
  const held = await versionOfPresent(workspace, series);
  if (!held) return versionCopy(workspace, series.scene, series.next.path, { note, now });
  const message = `What ${nameOf(series.scene)} holds now is ${nameOf(held.path)}; it need not be saved again.`;
  return { steps: [], notes: [{ level: 'info', code: 'saved-already', message }], paths: [] };
}

/** A file of a version, and what gives from it what lay at the scene's own place. */
interface WayBack {
  from: TreePath;
  to: TreePath;
  pieces: PlanPiece[] | null;
  size: number;
  paths: PathChange[];
}

/** The steps that put a version's files at the scene's own place: the very bytes they had there where that is known, else with paths written for there. */
async function backSteps(workspace: Workspace, scene: TreePath, version: TreePath): Promise<Copied> {
  const { tree } = workspace;
  const done: Copied = { steps: [], notes: [], paths: [] };
  const note = await readNote(workspace, version);
  const ways =
    (note && (await exactWays(workspace, scene, version, note))) ??
    (await writtenWays(workspace, scene, version, done.notes));
  for (const way of ways) {
    const state = await stateOf(tree, way.from);
    const before = await stateOf(tree, way.to);
    if (!state) throw new AppError('not-found', `${way.from} is not there.`);
    if (before && way.pieces === null && before.digest !== null && before.digest === state.digest) continue;
    if (before === null && (await tree.kind(way.to)) !== null)
      done.notes.push({
        level: 'blocker',
        code: 'in-the-way',
        message: `${way.to} is there, as a link or a folder.`,
        path: way.to,
      });
    done.steps.push({
      do: 'put',
      path: way.to,
      before,
      size: way.size,
      modified: null,
      from: { from: 'tree', path: way.from, state, pieces: way.pieces },
    });
    done.paths.push(...way.paths);
  }
  if (done.steps.length === 0)
    done.notes.push({ level: 'info', code: 'nothing', message: `${nameOf(scene)} is that version already.` });
  return done;
}

/** By the note: null where a file is not what was made any more, or does not give what it was made from. */
async function exactWays(
  workspace: Workspace,
  scene: TreePath,
  version: TreePath,
  note: VersionNote,
): Promise<WayBack[] | null> {
  const ways: WayBack[] = [];
  const { tree } = workspace;
  // What was made of a scene of another name has other names in it.
  const isOfScene = note.parts?.some((p) => p.to === nameOf(version) && p.from === nameOf(scene));
  if (!note.parts || !isOfScene) return null;
  for (const part of note.parts) {
    const from = join(folderOf(version), part.to);
    const to = part.to === nameOf(version) ? scene : join(folderOf(scene), part.from);
    const stat = await tree.stat(from);
    if (!stat) return null;
    const pieces = part.back ?? null;
    if ((await digestOrNull(workspace, from, pieces, stat.size)) !== part.content) return null;
    const size = pieces ? pieces.reduce((sum, p) => sum + lengthOf(p), 0) : stat.size;
    ways.push({ from, to, pieces, size, paths: [] });
  }
  return ways;
}

/** The content id of what pieces of a file make; null where they reach beyond its end. */
async function digestOrNull(
  { tree }: Workspace,
  path: TreePath,
  pieces: PlanPiece[] | null,
  size: number,
): Promise<Digest | null> {
  if (pieces?.some((p) => 'copy' in p && (p.copy[1] > size || p.copy[0] > p.copy[1]))) return null;
  return digestOfPieces(tree, path, pieces);
}

/** By the paths: each file of the version, its relative paths written for the scene's own place. */
async function writtenWays(
  workspace: Workspace,
  scene: TreePath,
  version: TreePath,
  notes: Note[],
): Promise<WayBack[]> {
  const { tree } = workspace;
  const scenes = await SceneSet.of(workspace, {}, [version]);
  const read = await scenes.read(version);
  const own = read ? ownFiles(read) : [];
  const placed = new Map<TreePath, TreePath>([[version, scene]]);
  for (const path of own) placed.set(path, join(folderOf(scene), alikeName(path, scene)));
  const ways: WayBack[] = [];
  for (const path of [...own, version]) {
    const to = placed.get(path)!;
    const one = path === version ? read : await scenes.read(path);
    const state = (await stateOf(tree, path)) as FileState;
    const wishes = one ? wishesFor(workspace, one, to, placed) : [];
    const done = one
      ? await rewrite(one.reading, state.size, wishes, to, (range) => tree.read(path, range))
      : { pieces: null, size: state.size, paths: [], notes: [] };
    notes.push(...done.notes);
    ways.push({ from: path, to, pieces: done.pieces, size: done.size, paths: done.paths });
  }
  return ways;
}

/** Brings back a version that lies in the store: as a file again, from which it is brought back like any other. */
async function restoreCompact(
  workspace: Workspace,
  series: Series,
  old: VersionFile,
  request: RestoreRequest,
): Promise<Plan> {
  const stored = (await readNote(workspace, old.path))!.compact!;
  const shown = { ...workspace, tree: withStored(workspace.tree, stored) };
  const note = request.note || `${nameOf(old.path)} brought back`;
  const plan = hasCurrent(series)
    ? await restoreInPlace(shown, series, old, { ...request, note })
    : {
        ...(await versionCopy(shown, old.path, series.next.path, { note, now: request.now })),
        kind: 'restore' as const,
        title: `Bring ${nameOf(old.path)} back as ${nameOf(series.next.path)}`,
        readiness: null,
      };
  return { ...plan, steps: fromStored(plan.steps, stored) };
}
