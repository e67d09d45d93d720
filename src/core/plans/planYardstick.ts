// Puts the reference grid and box of a workspace's units into it, as scenes in the formats chosen.

import type { Note, Plan, Step } from '../changes/plan';
import { foldersFor, putBytes } from '../changes/plan';
import { join, treePath } from '../files/treePath';
import { homeOf } from '../layouts/homes';
import { freeName, foldName } from '../names/portable';
import { yardstickName, yardstickScene, type YardstickFormat } from '../units/yardstickScene';
import { usualUnits, type WorkspaceUnits } from '../units/units';
import type { Workspace } from './workspace';
import { foldedNamesIn } from './workspace';

/** The plan. The files go to the home of reference material; a name that is taken there gives way. */
export async function planYardstick(
  workspace: Workspace,
  request: { units: WorkspaceUnits | undefined; formats: readonly YardstickFormat[] },
): Promise<Plan> {
  const units = request.units ?? usualUnits;
  const home = treePath(homeOf('reference', workspace.file.homes));
  const taken = await foldedNamesIn(workspace.tree, home);
  const steps: Step[] = [];
  const notes: Note[] = [];
  for (const step of foldersFor(join(home, 'x'), () => false))
    if ((await workspace.tree.kind(step.path)) === null) steps.push(step);
  for (const format of request.formats) {
    const name = freeName(yardstickName(units, format), (n) => taken.has(foldName(n)));
    taken.add(foldName(name));
    steps.push(putBytes(join(home, name), yardstickScene(units, format)));
    if (format === 'obj' || format === 'ply')
      notes.push({
        level: 'info',
        code: 'no-unit',
        message: `${name}: this format knows no unit. Its numbers are in the workspace's; say so when a program asks.`,
        path: join(home, name),
      });
    if (format === '3mf')
      notes.push({
        level: 'info',
        code: 'no-lines',
        message: `${name}: this format knows no lines, so it holds the box alone.`,
        path: join(home, name),
      });
  }
  return {
    kind: 'bring',
    title: `Make a grid and box in ${request.formats.length} ${request.formats.length === 1 ? 'format' : 'formats'}`,
    steps,
    notes,
    paths: [],
    readiness: null,
  };
}
