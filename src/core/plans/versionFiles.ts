// Versions as they lie on the disk: a scene's series, the notes about its versions, and what belongs to a scene alone.

import type { FileState } from '../changes/plan';
import type { Digest } from '../files/digest';
import type { FileTree } from '../files/fileTree';
import { versionsFolder } from '../files/records';
import { folderOf, join, nameOf, stemOf, treePath, type TreePath } from '../files/treePath';
import { decodeText } from '../text/bytes';
import { usualPattern, type Habit } from '../versions/habit';
import { readVersionNote, versionNotePath, type VersionNote } from '../versions/note';
import { filedIn, seriesOf, sceneOfVersion, type Names, type Series } from '../versions/series';
import type { Scene } from './sceneSet';
import type { Workspace } from './workspace';

type Reading = { tree: Pick<FileTree, 'entries' | 'kind' | 'read'>; file: Workspace['file'] };

/** The habit of a workspace. */
export function habitOf({ file }: Pick<Workspace, 'file'>): Habit {
  return { kind: file.versions?.habit ?? 'numbered', pattern: file.versions?.pattern ?? usualPattern };
}

/** The series of a scene as it lies on disk now. `known`: names that were read of folders before, for those who ask for many. */
export async function readSeries(
  workspace: Reading,
  asked: TreePath,
  known = new Map<TreePath, Names>(),
): Promise<Series> {
  const habit = habitOf(workspace);
  const scene = sceneOfVersion(habit, asked);
  const names = async (folder: TreePath) => {
    const found = known.get(folder) ?? (await namesIn(workspace, folder));
    known.set(folder, found);
    return found;
  };
  return seriesOf(habit, scene, await names(folderOf(scene)), await names(filedIn(habit, scene)));
}

async function namesIn(workspace: Reading, folder: TreePath): Promise<Names> {
  const { tree } = workspace;
  const there = ((await tree.entries(folder)) ?? [])
    .filter((e) => e.kind === 'file' && e.link === undefined)
    .map((e) => e.name);
  const compact: string[] = [];
  const known = new Set(there);
  for (const { name } of (await tree.entries(join(versionsFolder, folder))) ?? []) {
    const scene = name.endsWith('.json') ? name.slice(0, -'.json'.length) : '';
    if (scene === '' || known.has(scene)) continue;
    if ((await readNote(workspace, join(folder, scene)))?.compact) compact.push(scene);
  }
  return { there, compact };
}

/** The note about a version; null where there is none, or none that can be read. */
export async function readNote(
  { tree }: Pick<Reading, 'tree'>,
  version: TreePath,
): Promise<VersionNote | null> {
  const path = versionNotePath(version);
  if ((await tree.kind(path)) !== 'file') return null;
  const note = readVersionNote(decodeText(await tree.read(path)).text);
  return note && besideNote(note, version);
}

/** A note whose compact files are where it says by its own place: with a folder that was renamed since, they moved, too. */
function besideNote(note: VersionNote, version: TreePath): VersionNote {
  const scene = note.compact?.at(-1);
  if (!scene || scene.path === version) return note;
  const [from, to] = [folderOf(scene.path), folderOf(version)];
  const place = (path: TreePath) => {
    if (path === scene.path) return version;
    return folderOf(path) === from ? join(to, nameOf(path)) : path;
  };
  return { ...note, compact: note.compact!.map((f) => ({ ...f, path: place(f.path) })) };
}

/** Files that belong to a scene alone: its geometry buffer and material library, beside it and with its stem. */
export function ownFiles(scene: Pick<Scene, 'path' | 'references'>): TreePath[] {
  const found = new Set<TreePath>();
  for (const { target, inside, kind } of scene.references)
    if (
      target !== null &&
      inside &&
      (kind === 'buffer' || kind === 'material') &&
      folderOf(target) === folderOf(scene.path) &&
      stemOf(target) === stemOf(scene.path)
    )
      found.add(treePath(target));
  return [...found];
}

/** The content id of a file; read whole where its state does not say. */
export async function contentOf(tree: FileTree, path: TreePath, state: FileState): Promise<Digest> {
  return state.digest ?? (await tree.digest(path))!;
}

/** What is called as the scene is, with another stem: 'boat.bin' of 'boat.gltf' for 'boat_v002.gltf' → 'boat_v002.bin'. */
export function alikeName(own: TreePath, to: TreePath): string {
  return stemOf(to) + nameOf(own).slice(stemOf(own).length);
}

/** Whether a path is a version that lies in a folder of versions. */
export function isFiledVersion(habit: Habit, path: TreePath): boolean {
  return sceneOfVersion(habit, path) !== path;
}
