// Saves the next version of scenes: of one, of several in one step, or of all that changed since their last version.

import type { Note, PathChange, Plan, Step } from '../changes/plan';
import type { Digest } from '../files/digest';
import type { CancelSignal } from '../files/fileTree';
import { folderOf, isWithin, join, nameOf, type TreePath } from '../files/treePath';
import type { Names, Series, VersionFile } from '../versions/series';
import { formatOfName, isSceneFormat } from '../formats/formats';
import { parseNumbered } from '../names/counters';
import { scenePaths } from '../references/scan';
import { SceneSet } from './sceneSet';
import { isFiledVersion, ownFiles, readNote, readSeries } from './versionFiles';
import { versionCopy, versionTitle } from './versionCopy';
import type { Workspace } from './workspace';

export interface SaveRequest {
  /** Null: all that changed since their last version. */
  scenes: readonly TreePath[] | null;
  note: string;
  /** ISO time. */
  now: string;
  signal?: CancelSignal | undefined;
  onScene?: ((done: number, of: number, path: string) => void) | undefined;
}

/** The plan that saves scenes as their next versions. */
export async function planSave(workspace: Workspace, request: SaveRequest): Promise<Plan> {
  const chosen = request.scenes ?? (await changedScenes(workspace, request)).map((s) => s.scene);
  const steps: Step[] = [];
  const notes: Note[] = [];
  const paths: PathChange[] = [];
  const made: TreePath[] = [];
  const folders = new Set<string>();
  for (const [i, asked] of chosen.entries()) {
    request.signal?.throwIfAborted();
    request.onScene?.(i + 1, chosen.length, asked);
    const series = await readSeries(workspace, asked);
    // Side by side, the file that was asked for is the one that is copied, whichever it is.
    const from = series.versions.some((v) => v.path === asked && !isFiledVersion(series.habit, asked))
      ? asked
      : series.scene;
    const copied = await versionCopy(workspace, from, series.next.path, request);
    for (const step of copied.steps) {
      if (step.do === 'make-folder' && folders.has(step.path)) continue;
      if (step.do === 'make-folder') folders.add(step.path);
      steps.push(step);
    }
    notes.push(...copied.notes);
    paths.push(...copied.paths);
    made.push(series.next.path);
  }
  if (made.length === 0)
    notes.push({
      level: 'info',
      code: 'nothing',
      message: 'Every scene is as it was when its last version was saved.',
    });
  const title = `Save ${made.length === 1 ? nameOf(made[0]!) : versionTitle(made)}`;
  return { kind: 'save', title, steps, notes, paths, readiness: null };
}

/** The series of a workspace whose scene changed since its last version, in path order. One whose last version nobody noted counts as changed. */
export async function changedScenes(
  workspace: Workspace,
  watched: Pick<SaveRequest, 'signal' | 'onScene'> = {},
): Promise<Series[]> {
  const found: Series[] = [];
  const all = await allSeries(workspace);
  for (const [i, series] of all.entries()) {
    watched.signal?.throwIfAborted();
    watched.onScene?.(i + 1, all.length, series.scene);
    if (await isChanged(workspace, series)) found.push(series);
  }
  return found;
}

/** Every series there is, by the scene that is worked on. */
export async function allSeries(workspace: Workspace): Promise<Series[]> {
  const bySeries = new Map<string, Series>();
  const known = new Map<TreePath, Names>();
  const seen = new Set<string>();
  for (const path of (await scenePaths(workspace.tree)).scenes) {
    if (seen.has(path) || !isWorkedOn(workspace, path)) continue;
    // A version in a folder of versions whose scene is gone still has its series.
    const series = await readSeries(workspace, path, known);
    for (const v of series.versions) seen.add(v.path);
    if (!bySeries.has(series.scene)) bySeries.set(series.scene, series);
  }
  return [...bySeries.values()];
}

/** Whether a file is a scene somebody works on: no part of one, no frame of a row, nothing that programs leave in the homes of caches, renders and backups. */
function isWorkedOn({ file }: Workspace, path: TreePath): boolean {
  const format = formatOfName(path);
  if (!format || !isSceneFormat(format.id)) return false;
  const { cache, render, backup } = file.homes;
  if ([cache, render, backup].some((home) => home !== undefined && isWithin(path, home))) return false;
  // Four digits behind a dot are a frame (common practice, no source).
  const parsed = parseNumbered(nameOf(path));
  return !(parsed?.separator === '.' && parsed.width >= 4);
}

/** Whether a scene, or what belongs to it alone, is not what its last version was made from. */
export async function isChanged(workspace: Workspace, series: Series): Promise<boolean> {
  const last = series.versions.filter((v) => v.number !== null).at(-1);
  return last === undefined || (await versionOfPresent(workspace, series, [last])) === null;
}

/** The version that holds what is present, with what belongs to the scene alone; null: none of those given. */
export async function versionOfPresent(
  workspace: Workspace,
  { scene, versions }: Series,
  among: readonly VersionFile[] = versions,
): Promise<VersionFile | null> {
  const { tree } = workspace;
  const digests = new Map<TreePath, Digest | null>();
  const digestAt = async (path: TreePath) => {
    if (!digests.has(path)) digests.set(path, (await tree.stat(path)) ? await tree.digest(path) : null);
    return digests.get(path)!;
  };
  const read = await (await SceneSet.of(workspace, {}, [scene])).read(scene);
  const own = read ? ownFiles(read) : [];
  // Side by side, the last version is itself what is worked on: it is as it was made, or not.
  const isNumbered = versions.some((v) => v.path === scene);
  for (const version of [...among].reverse()) {
    const parts = (await readNote(workspace, version.path))?.parts ?? [];
    const wanted = new Map(
      parts.map((p) => [join(folderOf(scene), isNumbered ? p.to : p.from), isNumbered ? p.made : p.content]),
    );
    if (!wanted.has(scene) || own.some((path) => !wanted.has(path))) continue;
    let isSame = true;
    for (const [path, digest] of wanted) isSame &&= (await digestAt(path)) === digest;
    if (isSame) return version;
  }
  return null;
}
