// Repairs a workspace inside a workspace: it is unmarked, its folder staying what it is; or merged, its files going to the homes of the outer
// one. (Moving it out is planRelocate.) Its notes on versions come along; its own ledger stays in its hidden folder.

import { markerPath, versionsFolder, isOwnAnywhere } from '../files/records';
import type { Plan, Step } from '../changes/plan';
import { join, nameOf, treePath, type TreePath } from '../files/treePath';
import { type WorkspaceFile } from '../layouts/workspace';
import { markerStep, type MarkedWorkspace } from './marker';
import type { MoveRequest } from './moving';
import { kindOfFile, nestedIn, tidying } from './planTidy';
import { stateOf } from './workspace';

export interface NestedRequest extends Pick<MoveRequest, 'signal' | 'onScene'> {
  /** Root of the inner workspace, in the outer one's tree. */
  inner: TreePath;
  /** What its marker says; null where it is damaged. */
  file: WorkspaceFile | null;
  how: 'unmark' | 'merge';
}

/** The plan, on the outer workspace. */
export async function planNested(workspace: MarkedWorkspace, request: NestedRequest): Promise<Plan> {
  const { inner, file, how } = request;
  const marker = join(inner, markerPath);
  const state = await stateOf(workspace.tree, marker);
  const name = file?.name ?? nameOf(inner);
  const title = how === 'unmark' ? `Unmark ${name}` : `Merge ${name} into ${workspace.file.name}`;
  if (!state)
    return {
      kind: 'nested',
      title,
      steps: [],
      notes: [
        { level: 'blocker', code: 'not-found', message: `${inner} is no workspace any more.`, path: inner },
      ],
      paths: [],
      readiness: null,
    };
  const steps: Step[] = [{ do: 'remove', path: marker, before: state }];
  if ((await workspace.tree.kind(join(inner, versionsFolder))) === 'folder')
    steps.push(...(await noteSteps(workspace, inner)));
  // What it knew of places outside, the outer one must know now.
  const known = <T extends { name: string }>(own: readonly T[], more: readonly T[]) => [
    ...own,
    ...more.filter((m) => !own.some((o) => o.name === m.name)),
  ];
  const merged: WorkspaceFile = {
    ...workspace.file,
    libraries: known(workspace.file.libraries, file?.libraries ?? []),
    places: known(workspace.file.places, file?.places ?? []),
  };
  const put =
    JSON.stringify(merged) === JSON.stringify(workspace.file) ? null : await markerStep(workspace, merged);
  if (put) steps.push(put);
  if (how === 'unmark')
    return {
      kind: 'nested',
      title,
      steps,
      notes: [
        {
          level: 'info',
          code: 'stays',
          message: `${inner} stays as it is, as a folder of ${workspace.file.name}. Its own ledger stays in its hidden folder.`,
        },
      ],
      paths: [],
      readiness: null,
    };
  const only: string[] = [];
  for await (const f of workspace.tree.list(inner))
    if (!isOwnAnywhere(f.path) && (await kindOfFile(workspace, f.path)) !== 'other') only.push(f.path);
  const others = (await nestedIn(workspace)).filter((n) => n !== inner);
  const moved = await tidying(workspace, workspace.file.homes, {
    only,
    nested: others,
    signal: request.signal,
    onScene: request.onScene,
  });
  return {
    kind: 'nested',
    title,
    steps: [...steps, ...moved.steps],
    notes: moved.notes,
    paths: moved.paths,
    readiness: null,
    basis: moved.basis,
  };
}

async function noteSteps(workspace: MarkedWorkspace, inner: TreePath): Promise<Step[]> {
  const to = join(versionsFolder, inner);
  if ((await workspace.tree.kind(to)) !== null) return [];
  const steps: Step[] = [];
  for (const [i] of to.split('/').entries()) {
    const folder = to.split('/').slice(0, i).join('/');
    if (folder !== '' && (await workspace.tree.kind(treePath(folder))) === null)
      steps.push({ do: 'make-folder', path: treePath(folder) });
  }
  return [...steps, { do: 'move-folder', path: join(inner, versionsFolder), to }];
}
