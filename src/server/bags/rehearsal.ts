// A rehearsal of whatever lies at a path: a workspace, a plain folder, a bag as a folder or as one file.

import { markerPath } from '@/core/files/records';
import fs from 'node:fs';
import path from 'node:path';
import { rehearse, type Rehearsal } from '@/core/bags/rehearse';
import { AppError } from '@/core/errors';
import type { WorkspaceFile } from '@/core/layouts/workspace';
import {
  inWords,
  knownMachines,
  machineOf,
  machinesOf,
  movedTo,
  type KnownPlace,
  type Machine,
} from '@/core/places/machine';
import { parseWorkspaceFile } from '@/wire/workspace';
import type { MachineView, RehearsalView } from '@/wire/views';
import { toSystem } from '../disk/system';
import { hasMarker, plainFolder, readWorkspace, rootOf } from '../workspaces/open';
import { openBag, payloadTree } from './openBag';

/** On which machines: one by its id or its place's name, with another root or letter; or all there are. */
export interface On {
  /** Places beside those that the workspace or the bag knows itself. */
  places: readonly KnownPlace[];
  place?: string | undefined;
  at?: string | undefined;
  drive?: string | undefined;
}

function machinesFor({ places, place, at, drive }: On, own: readonly KnownPlace[]): Machine[] {
  const known = [...own, ...places.filter((p) => !own.some((o) => o.name === p.name))];
  if (place !== undefined) return [movedTo(machineOf(place, known), at, drive)];
  return [...machinesOf(known), ...knownMachines];
}

/** Rehearses what lies at an absolute path. Throws AppError('not-found') when nothing does. */
export async function rehearsePath(
  given: string,
  on: On,
  onScene?: (path: string) => void,
): Promise<RehearsalView[]> {
  const system = toSystem(given);
  if (!fs.existsSync(system)) throw new AppError('not-found', `${given} is not there.`);
  if (fs.statSync(system).isDirectory() && !fs.existsSync(path.join(system, 'bagit.txt'))) {
    const root = await rootOf(given);
    const workspace = (await hasMarker(given))
      ? await readWorkspace(given)
      : root !== null
        ? await readWorkspace(root)
        : plainFolder(given);
    const { libraries, places } = workspace.file;
    const name = path.posix.basename(workspace.root);
    const machines = machinesFor(on, places);
    return viewsOf(await rehearse(workspace.tree, machines, { name, libraries, onScene }), machines);
  }
  const bag = await openBag(given);
  try {
    const tree = payloadTree(bag);
    const marker: Pick<WorkspaceFile, 'libraries' | 'places'> =
      (await tree.kind(markerPath)) === 'file'
        ? parseWorkspaceFile(new TextDecoder().decode(await tree.read(markerPath)), markerPath)
        : { libraries: [], places: [] };
    const name = path.posix.basename(given).replace(/\.zip$/i, '');
    const { libraries, places } = marker;
    const machines = machinesFor(on, places);
    return viewsOf(await rehearse(tree, machines, { name, libraries, onScene }), machines);
  } finally {
    bag.close();
  }
}

/** A machine as it is shown. */
export function machineView(machine: Machine): MachineView {
  const { id, name, system, fileSystem, free, speed } = machine;
  return {
    id,
    name,
    root: machine.root,
    system,
    fileSystem,
    words: inWords(machine),
    own: !knownMachines.some((k) => k.id === id),
    free,
    speed,
  };
}

/** In words the folder in which workspaces lie, not that of this one. */
const viewsOf = (rehearsals: readonly Rehearsal[], machines: readonly Machine[]): RehearsalView[] =>
  rehearsals.map((r, i) => ({ ...r, place: { ...machineView(r.place), words: inWords(machines[i]!) } }));
