// Brings outside files in before they are used: each to the home of its kind, scenes with everything they reference.

import type { Plan } from '../changes/plan';
import { nameOf, insideOf } from '../files/treePath';
import { Gathering } from './gather';
import { SceneSet } from './sceneSet';
import { type Workspace } from './workspace';

/** The plan that brings `files` (absolute paths) in. Files that are inside already are named and left. */
export async function planBring(workspace: Workspace, request: { files: readonly string[] }): Promise<Plan> {
  const scenes = await SceneSet.of(workspace);
  for await (const scene of scenes.each()) void scene;
  const gathering = new Gathering(workspace, scenes);
  for (const file of request.files) {
    if (insideOf(workspace.root, file) !== null)
      gathering.notes.push({
        level: 'info',
        code: 'inside',
        message: `${nameOf(file)} is in the workspace already.`,
        path: file,
      });
    else gathering.add(file);
  }
  await gathering.settle();
  const { steps, paths } = await gathering.steps();
  const count = gathering.copies().length;
  const what = request.files.length === 1 ? nameOf(request.files[0]!) : `${request.files.length} files`;
  if (count === 0 && steps.length === 0)
    gathering.notes.push({ level: 'info', code: 'nothing', message: 'There is nothing to bring in.' });
  const extra = count - request.files.length;
  return {
    kind: 'bring',
    title: `Bring in ${what}${extra > 0 ? ` with ${extra} ${extra === 1 ? 'file' : 'files'} it needs` : ''}`,
    steps,
    notes: gathering.notes,
    paths,
    readiness: null,
    basis: gathering.basis(),
  };
}
