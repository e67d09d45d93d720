// A version of a scene written anew: the next one, or an old one brought back. The present file is never touched.
// What belongs to the scene alone (geometry buffer, material library: beside it, with its stem) is saved with it, so that the
// next export over it cannot spoil the version.

import { versionsFolder, ownFolder } from '../files/records';
import { AppError } from '../errors';
import type { Note, Plan, Step } from '../changes/plan';
import { extensionOf, folderOf, nameOf, stemOf, treePath, type TreePath } from '../files/treePath';

import { freeName, foldName } from '../names/portable';
import { SceneSet } from './sceneSet';
import { latin1, utf8 } from '../text/bytes';
import { seriesOf, type Series } from '../versions/series';
import { rewrite, writtenRelative, type Rewriting } from './rewrite';
import { stateOf, type Workspace, foldedNamesIn } from './workspace';
import { foldersFor } from '../changes/plan';

/** What is noted about a version. */
export interface VersionNote {
  note: string;
  /** The file it was made from. */
  from: string;
  /** ISO 8601, UTC. */
  saved: string;
}

/** Where the note about a version is written. */
export function versionNotePath(version: TreePath): TreePath {
  return treePath(`${versionsFolder}/${version}.json`);
}

/** The series of a scene as it lies on disk now. */
export async function readSeries(workspace: Pick<Workspace, 'tree'>, scene: TreePath): Promise<Series> {
  const names = ((await workspace.tree.entries(folderOf(scene))) ?? [])
    .filter((e) => e.kind === 'file' && e.link === undefined)
    .map((e) => e.name);
  return seriesOf(scene, names);
}

/** A copy of a version under a new name, with all that belongs to it alone. */
export async function versionCopy(
  workspace: Workspace,
  from: TreePath,
  to: TreePath,
  request: { note: string; now: string },
): Promise<Omit<Plan, 'kind' | 'title'>> {
  const scenes = await SceneSet.of(workspace, {}, [from]);
  const scene = await scenes.read(from);
  const state = scene ? await scenes.stateOf(scene) : await stateOf(workspace.tree, from);
  if (!state) throw new AppError('not-found', `${from} is not there.`);
  const steps: Step[] = [];
  const notes: Note[] = [];
  const rewritings: Rewriting[] = [];
  if ((await workspace.tree.kind(to)) !== null)
    notes.push({
      level: 'blocker',
      code: 'in-the-way',
      message: `${to} is there already, as a link or a folder.`,
      path: to,
    });
  if (scene) {
    const names = await foldedNamesIn(workspace.tree, folderOf(from));
    const saved = new Map<string, TreePath>();
    for (const reference of scene.references) {
      const target = reference.target as TreePath | null;
      const own =
        target !== null &&
        reference.inside &&
        (reference.kind === 'buffer' || reference.kind === 'material') &&
        folderOf(target) === folderOf(from) &&
        stemOf(target) === stemOf(from);
      if (!own) continue;
      let copy = saved.get(target);
      if (!copy) {
        const name = freeName(stemOf(to) + nameOf(target).slice(stemOf(target).length), (n) =>
          names.has(foldName(n)),
        );
        copy = treePath(folderOf(from) === '' ? name : `${folderOf(from)}/${name}`);
        saved.set(target, copy);
        const own = (await stateOf(workspace.tree, target))!;
        steps.push({
          do: 'put',
          path: copy,
          before: null,
          size: own.size,
          modified: own.modified,
          from: { from: 'tree', path: target, state: own, pieces: null },
        });
      }
      rewritings.push({ reference, written: writtenRelative(scene.reading, to, copy, reference) });
    }
  }
  const done = scene
    ? await rewrite(scene.reading, state.size, rewritings, to, (range) => workspace.tree.read(from, range))
    : { pieces: null, size: state.size, paths: [], notes: [] };
  notes.push(...done.notes);
  steps.push({
    do: 'put',
    path: to,
    before: null,
    size: done.size,
    modified: null,
    from: { from: 'tree', path: from, state, pieces: done.pieces },
  });
  steps.push(...(await noteSteps(workspace, to, { note: request.note, from, saved: request.now })));
  if (extensionOf(from) !== extensionOf(to)) throw new Error('a version keeps its extension');
  return { steps, notes, paths: done.paths, readiness: null };
}

async function noteSteps(workspace: Workspace, version: TreePath, note: VersionNote): Promise<Step[]> {
  const path = versionNotePath(version);
  const steps: Step[] = [];
  for (const step of foldersFor(path, (folder) => folder === ownFolder))
    if ((await workspace.tree.kind(step.path)) === null) steps.push(step);
  const bytes = utf8(`${JSON.stringify(note, null, 2)}\n`);
  steps.push({
    do: 'put',
    path,
    before: await stateOf(workspace.tree, path),
    size: bytes.length,
    modified: null,
    from: { from: 'bytes', latin1: latin1(bytes) },
  });
  return steps;
}
