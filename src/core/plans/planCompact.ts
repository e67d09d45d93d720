// Old versions kept compact: their files go from the disk into the store, where they cost what they differ by, and come back byte for byte. What
// anything still uses stays a file.

import { foldersFor, type Note, type Plan, type Step } from '../changes/plan';
import type { CancelSignal } from '../files/fileTree';
import { nameOf, type TreePath } from '../files/treePath';
import { filesOf } from '../references/scan';
import type { StoredFile, VersionNote } from '../versions/note';
import { SceneSet } from './sceneSet';
import { putStored } from './storedTree';
import { contentOf, ownFiles, readNote, readSeries } from './versionFiles';
import { noteSteps, versionTitle } from './versionCopy';
import { stateOf, type Workspace } from './workspace';

export interface CompactRequest {
  versions: readonly TreePath[];
  /** ISO time. */
  now: string;
  signal?: CancelSignal | undefined;
  onScene?: ((done: number, of: number, path: string) => void) | undefined;
}

/** The plan that keeps versions compact. */
export async function planCompact(workspace: Workspace, request: CompactRequest): Promise<Plan> {
  const { tree } = workspace;
  const scenes = await SceneSet.of(workspace, request);
  const notes: Note[] = [];
  const users = await usersOf(scenes);
  const steps: Step[] = [];
  const made: TreePath[] = [];
  for (const version of request.versions) {
    const why = await whyNot(workspace, version);
    if (why) {
      notes.push({ level: 'warning', code: 'held', message: why, path: version });
      continue;
    }
    const scene = await scenes.read(version);
    const files = [...(scene ? ownFiles(scene) : []), version];
    const user = files.flatMap((f) => [...(users.get(f) ?? [])]).find((u) => !files.includes(u));
    if (user) {
      const message = `${version} stays a file: ${user} uses it.`;
      notes.push({ level: 'warning', code: 'in-use', message, path: version });
      continue;
    }
    const stored: StoredFile[] = [];
    for (const path of files) {
      const state = (await stateOf(tree, path))!;
      const digest = await contentOf(tree, path, state);
      const mode = (await tree.stat(path))?.mode;
      stored.push({ path, digest, size: state.size, modified: state.modified, mode });
      steps.push({ do: 'remove', path, before: { ...state, digest } });
    }
    const old = await readNote(workspace, version);
    const note: VersionNote = old ?? {
      note: '',
      from: version,
      saved: new Date(stored.at(-1)!.modified).toISOString(),
    };
    steps.push(...(await noteSteps(workspace, version, { ...note, compact: stored })));
    made.push(version);
  }
  if (made.length === 0)
    notes.push({ level: 'info', code: 'nothing', message: 'No version is to be kept compact.' });
  return {
    kind: 'compact',
    title: `Keep ${versionTitle(made)} compact`,
    steps: onceMade(steps),
    notes: [
      ...notes,
      ...(made.length > 0
        ? scenes.notes('warning', 'If it uses one of these versions, it will not find it as a file.')
        : []),
    ],
    paths: [],
    readiness: null,
    basis: scenes.basis(),
  };
}

/** A folder is made once. */
function onceMade(steps: readonly Step[]): Step[] {
  const made = new Set<string>();
  return steps.filter((s) => {
    if (s.do !== 'make-folder') return true;
    if (made.has(s.path)) return false;
    made.add(s.path);
    return true;
  });
}

/** Which scenes use each file. */
async function usersOf(scenes: SceneSet): Promise<Map<string, Set<TreePath>>> {
  const users = new Map<string, Set<TreePath>>();
  for await (const { path, references } of scenes.each())
    for (const file of references.flatMap(filesOf)) {
      const known = users.get(file);
      if (known) known.add(path);
      else users.set(file, new Set([path]));
    }
  return users;
}

async function whyNot(workspace: Workspace, version: TreePath): Promise<string | null> {
  if ((await workspace.tree.kind(version)) !== 'file') return `${version} is no file.`;
  const series = await readSeries(workspace, version);
  if (series.scene === version) return `${nameOf(version)} is the present one; it stays a file.`;
  return series.versions.some((v) => v.path === version)
    ? null
    : `${nameOf(version)} is no version of a scene.`;
}

/** The plan that makes compact versions files again. */
export async function planSpread(workspace: Workspace, versions: readonly TreePath[]): Promise<Plan> {
  const steps: Step[] = [];
  const notes: Note[] = [];
  const made: TreePath[] = [];
  for (const version of versions) {
    const note = await readNote(workspace, version);
    if (!note?.compact) {
      notes.push({
        level: 'warning',
        code: 'not-found',
        message: `${version} is not kept compact.`,
        path: version,
      });
      continue;
    }
    for (const file of note.compact) {
      if ((await workspace.tree.kind(file.path)) !== null)
        notes.push({
          level: 'blocker',
          code: 'in-the-way',
          message: `${file.path} is there again; it would be overwritten.`,
          path: file.path,
        });
      for (const folder of foldersFor(file.path, () => false))
        if ((await workspace.tree.kind(folder.path)) === null) steps.push(folder);
      steps.push(putStored(file));
    }
    steps.push(...(await noteSteps(workspace, version, { ...note, compact: undefined })));
    made.push(version);
  }
  const title = `Make ${versionTitle(made)} ${made.length === 1 ? 'a file' : 'files'} again`;
  return { kind: 'compact', title, steps: onceMade(steps), notes, paths: [], readiness: null };
}
