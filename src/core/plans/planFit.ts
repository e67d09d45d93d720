// Names and paths made such that a machine takes them, every reference kept: before the workspace is sent there.

import { isOwn } from '../files/records';
import type { Note, Plan } from '../changes/plan';
import type { CancelSignal } from '../files/fileTree';
import { rootPath } from '../files/treePath';
import { newPathsFor } from '../places/newPaths';
import type { Machine } from '../places/machine';
import { count } from '../text/figures';
import { markerAfter, markerStep, type MarkedWorkspace } from './marker';
import { moving } from './moving';

export interface FitRequest {
  /** With <name> for the workspace's folder. */
  machine: Machine;
  /** How that folder is called there. */
  name: string;
  what: 'names' | 'lengths' | 'both';
  signal?: CancelSignal | undefined;
  onScene?: ((done: number, of: number, path: string) => void) | undefined;
}

/** The plan. A file whose path cannot be made short enough is named. */
export async function planFit(workspace: MarkedWorkspace, request: FitRequest): Promise<Plan> {
  const { what, signal, onScene } = request;
  const machine = { ...request.machine, root: request.machine.root.replace('<name>', request.name) };
  const paths: string[] = [];
  for await (const f of workspace.tree.list(rootPath, (path, why) => why === 'link' && paths.push(path)))
    paths.push(f.path);
  const fitted = newPathsFor(paths.filter((p) => !isOwn(p)).sort(), {
    machine,
    names: what !== 'lengths',
    lengths: what !== 'names',
  });
  const moved = await moving(workspace, {
    files: fitted.files,
    clearEmptied: true,
    kept: workspace.file.folders,
    signal,
    onScene,
  });
  const marker =
    fitted.folders.length > 0 && workspace.file.created !== ''
      ? await markerStep(workspace, markerAfter(workspace.file, fitted.folders))
      : null;
  const notes: Note[] = fitted.unresolved.map((path) => ({
    level: 'warning',
    code: 'no-fit',
    message: `${path} stays too long for ${machine.name}: nothing in it is left to cut. Move it up, or let the workspace lie in a shorter folder there.`,
    path,
  }));
  if (moved.files.size === 0)
    notes.push({
      level: 'info',
      code: 'nothing',
      message: `${machine.name} takes every name and path as it is.`,
    });
  return {
    kind: 'fit',
    title: `Fit ${count(moved.files.size, 'file')} to ${machine.name}`,
    steps: [...moved.steps, ...(marker ? [marker] : [])],
    notes: [...notes, ...moved.notes],
    paths: moved.paths,
    readiness: null,
    basis: moved.basis,
  };
}
