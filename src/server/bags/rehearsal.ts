// A rehearsal of whatever lies at a path: a workspace, a plain folder, a bag as a folder or as one file.

import { markerPath } from '@/core/files/records';
import fs from 'node:fs';
import path from 'node:path';
import type { Machine } from '@/core/bags/machine';
import { rehearse, type Rehearsal } from '@/core/bags/rehearse';
import { AppError } from '@/core/errors';

import { parseWorkspaceFile } from '@/wire/workspace';
import { toSystem } from '../disk/system';
import { hasMarker, plainFolder, readWorkspace, rootOf } from '../workspaces/open';
import { openBag, payloadTree } from './openBag';

/** Rehearses what lies at an absolute path on a place. Throws AppError('not-found') when nothing does. */
export async function rehearsePath(
  given: string,
  place: Machine,
  onScene?: (path: string) => void,
): Promise<Rehearsal> {
  const system = toSystem(given);
  if (!fs.existsSync(system)) throw new AppError('not-found', `${given} is not there.`);
  if (fs.statSync(system).isDirectory() && !fs.existsSync(path.join(system, 'bagit.txt'))) {
    const root = await rootOf(given);
    const workspace = (await hasMarker(given))
      ? await readWorkspace(given)
      : root !== null
        ? await readWorkspace(root)
        : plainFolder(given);
    return rehearse(workspace.tree, place, path.posix.basename(workspace.root), workspace.file, onScene);
  }
  const bag = await openBag(given);
  try {
    const tree = payloadTree(bag);
    const marker =
      (await tree.kind(markerPath)) === 'file'
        ? parseWorkspaceFile(new TextDecoder().decode(await tree.read(markerPath)), markerPath)
        : { libraries: [] };
    return await rehearse(tree, place, path.posix.basename(given).replace(/\.zip$/i, ''), marker, onScene);
  } finally {
    bag.close();
  }
}
