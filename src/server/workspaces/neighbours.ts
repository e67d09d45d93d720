// What a plan on one workspace breaks in the others that are known, told with it (core/plans/neighbours.ts).

import fs from 'node:fs';
import type { Plan } from '@/core/changes/plan';
import type { CancelSignal } from '@/core/files/fileTree';
import { brokenElsewhere, standsForMany, type Neighbour } from '@/core/plans/neighbours';
import type { KnownNeighbour } from '@/wire/jobs';
import { fromSystem, toSystem } from '../disk/system';
import { readWorkspace } from './open';

function realOf(path: string): string {
  try {
    return fromSystem(fs.realpathSync.native(toSystem(path)));
  } catch {
    return path;
  }
}

/** A plan with warnings about what it breaks in other workspaces. */
export async function withNeighbours(
  plan: Plan,
  root: string,
  others: readonly KnownNeighbour[],
  signal: CancelSignal,
): Promise<Plan> {
  const neighbours: Neighbour[] = [];
  for (const { root: at, name, leads } of others) {
    const workspace = await readWorkspace(at).catch(() => null);
    if (!workspace) continue;
    const known = new Map<string, { size: number; modified: number; leadTo: string[] }>();
    for (const { scene, size, modified, target } of leads) {
      const held = known.get(scene) ?? { size, modified, leadTo: [] };
      if (target !== null) held.leadTo.push(target);
      known.set(scene, held);
    }
    for (const [scene, { leadTo }] of known) if (leadTo.some(standsForMany)) known.delete(scene);
    neighbours.push({ name, workspace, known });
  }
  const notes = await brokenElsewhere(plan, root, neighbours, realOf, signal);
  return notes.length === 0 ? plan : { ...plan, notes: [...notes, ...plan.notes] };
}
