// What a plan on one workspace breaks in the others that are known, told with it (core/plans/neighbours.ts).

import fs from 'node:fs';
import type { Plan } from '@/core/changes/plan';
import type { CancelSignal } from '@/core/files/fileTree';
import { brokenElsewhere, type Neighbour } from '@/core/plans/neighbours';
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

/** So long the scenes of others are read for one plan, in ms; a share of many workspaces would take minutes. */
const patience = 3000;

/** A plan with warnings about what it breaks in other workspaces. */
export async function withNeighbours(
  plan: Plan,
  root: string,
  others: readonly KnownNeighbour[],
  signal: CancelSignal,
): Promise<Plan> {
  const neighbours = others.map(({ root: at, name, whole, leads }): Neighbour => {
    const known = new Map<string, { size: number; modified: number; leadTo: string[] }>();
    for (const { scene, size, modified, target } of leads) {
      const held = known.get(scene) ?? { size, modified, leadTo: [] };
      if (target !== null) held.leadTo.push(target);
      known.set(scene, held);
    }
    return { name, root: at, open: () => readWorkspace(at).catch(() => null), whole, known };
  });
  const until = Date.now() + patience;
  const notes = await brokenElsewhere(plan, root, neighbours, realOf, {
    signal,
    isLate: () => Date.now() > until,
  });
  return notes.length === 0 ? plan : { ...plan, notes: [...notes, ...plan.notes] };
}
