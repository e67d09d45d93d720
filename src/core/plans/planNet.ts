// Brings a state that the net kept, or an automatic save of another program, back: side by side as a new version, or into the one current file, whose
// present content is saved first.

import type { Plan, Step } from '../changes/plan';
import { AppError } from '../errors';
import { folderOf, nameOf, type TreePath } from '../files/treePath';
import type { StoredFile } from '../versions/note';
import type { KeptState } from '../versions/net';
import { fromStored, withContent, withStored } from './storedTree';
import { saveFirst, hasCurrent } from './planRestore';
import { contentOf, readSeries } from './versionFiles';
import { versionCopy } from './versionCopy';
import { stateOf, type Workspace } from './workspace';

export interface NetRequest {
  scene: TreePath;
  state: KeptState;
  /** The time of the state in words, for the note. */
  when: string;
  /** ISO time. */
  now: string;
}

/** The plan that brings a kept state back. */
export async function planNet(workspace: Workspace, request: NetRequest): Promise<Plan> {
  const { state, when, now } = request;
  const series = await readSeries(workspace, request.scene);
  const note = `as it was kept ${when}`;
  const kept = state.files.at(-1);
  if (!kept) throw new AppError('not-found', 'There is no such state.');
  if (hasCurrent(series)) {
    const saved = await saveFirst(workspace, series, `as it was before ${when} was brought back`, now);
    const steps: Step[] = [...saved.steps];
    for (const file of placedAt(state.files, kept.path, series.scene)) {
      const before = await stateOf(workspace.tree, file.path);
      if (before?.digest === file.digest) continue;
      steps.push({
        do: 'put',
        path: file.path,
        before,
        size: file.size,
        modified: null,
        from: { from: 'store', digest: file.digest },
      });
    }
    const title = `Bring ${nameOf(series.scene)} back as it was ${when}`;
    return { kind: 'restore', title, steps, notes: saved.notes, paths: saved.paths, readiness: null };
  }
  const shown = { ...workspace, tree: withStored(workspace.tree, state.files) };
  const copied = await versionCopy(shown, kept.path, series.next.path, { note, now });
  return {
    kind: 'restore',
    title: `Bring ${nameOf(kept.path)} back as it was ${when}, as ${nameOf(series.next.path)}`,
    steps: fromStored(copied.steps, state.files),
    notes: copied.notes,
    paths: copied.paths,
    readiness: null,
  };
}

/** Files of a state where the scene lies now: it may have been moved to another folder since. */
function placedAt(files: readonly StoredFile[], from: TreePath, to: TreePath): StoredFile[] {
  if (from === to) return [...files];
  const folder = folderOf(to);
  return files.map((f) => ({
    ...f,
    path: (f.path === from ? to : folder === '' ? nameOf(f.path) : `${folder}/${nameOf(f.path)}`) as TreePath,
  }));
}

/** The plan that brings an automatic save of another program back. Such a copy lies elsewhere, but its paths are those of the scene's own place. */
export async function planOtherSave(
  workspace: Workspace,
  request: { scene: TreePath; path: TreePath; now: string },
): Promise<Plan> {
  const { path, now } = request;
  const { tree } = workspace;
  const series = await readSeries(workspace, request.scene);
  const state = await stateOf(tree, path);
  if (!state) throw new AppError('not-found', `${path} is not there any more.`);
  const note = `${nameOf(path)} brought back`;
  if (hasCurrent(series)) {
    const saved = await saveFirst(
      workspace,
      series,
      `as it was before ${nameOf(path)} was brought back`,
      now,
    );
    const put: Step = {
      do: 'put',
      path: series.scene,
      before: await stateOf(tree, series.scene),
      size: state.size,
      modified: null,
      from: { from: 'tree', path, state, pieces: null },
    };
    const title = `Bring ${nameOf(path)} back as ${nameOf(series.scene)}`;
    return { ...saved, kind: 'restore', title, steps: [...saved.steps, put], readiness: null };
  }
  const digest = await contentOf(tree, path, state);
  const alias = { path: series.scene, size: state.size, modified: state.modified, digest };
  const shown = { ...workspace, tree: withContent(tree, [alias], () => path) };
  const copied = await versionCopy(shown, series.scene, series.next.path, { note, now });
  const steps = copied.steps.map((step): Step => {
    if (step.do !== 'put' || step.from.from !== 'tree' || step.from.path !== series.scene) return step;
    return { ...step, from: { from: 'tree', path, state, pieces: step.from.pieces } };
  });
  const title = `Bring ${nameOf(path)} back as ${nameOf(series.next.path)}`;
  return { ...copied, kind: 'restore', title, steps, readiness: null };
}
