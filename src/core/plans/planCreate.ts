// Creates a workspace: its folders and its marker, in a root that is new and empty.

import { putBytes, type Plan, type Step } from '../changes/plan';
import { treePath } from '../files/treePath';
import { keeper, writeLayout, type Layout } from '../layouts/layout';
import type { WorkspaceFile } from '../layouts/workspace';
import { newMarkerStep } from './marker';
import { usualNet } from '../versions/net';

/** What the marker of a new workspace says. `without`: folders of the layout that are not wanted, with all below them. */
export function newWorkspaceFile(request: {
  name: string;
  layout: Layout;
  without: readonly string[];
  created: string;
}): WorkspaceFile {
  const wanted = (f: string) => !request.without.some((w) => f === w || f.startsWith(`${w}/`));
  const homes = Object.fromEntries(
    Object.entries(request.layout.homes).filter(([, folder]) => wanted(folder)),
  );
  return {
    format: 1,
    name: request.name,
    created: request.created,
    layout: request.layout.id,
    layoutText: writeLayout(request.layout),
    folders: request.layout.folders.filter(wanted),
    kept: request.layout.kept.filter(wanted),
    homes,
    net: usualNet,
    libraries: [],
    places: [],
  };
}

/** The empty file that keeps a folder. */
export function keeperStep(folder: string): Step {
  return putBytes(treePath(`${folder}/${keeper}`), new Uint8Array());
}

/** The plan, for the tree of the new root. */
export function planCreate(file: WorkspaceFile): Plan {
  const steps: Step[] = file.folders.flatMap((f): Step[] => [
    { do: 'make-folder', path: treePath(f) },
    ...(file.kept?.includes(f) ? [keeperStep(f)] : []),
  ]);
  steps.push(newMarkerStep(file));
  return { kind: 'create', title: `Create ${file.name}`, steps, notes: [], paths: [], readiness: null };
}
