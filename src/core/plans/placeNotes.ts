// What the places of a workspace refuse of what a plan brings in or names anew: said while it can still be called otherwise.

import type { Note, Plan } from '../changes/plan';
import { isOwn } from '../files/records';
import { nameOf } from '../files/treePath';
import { checkFile } from '../places/fits';
import { machinesOf, type KnownPlace } from '../places/machine';

const toldAtMost = 20;

/** Warnings, one a file; what lay at a path that was refused before and stays is no news. */
export function placeNotes(plan: Plan, root: string, places: readonly KnownPlace[]): Note[] {
  const machines = machinesOf(places).map((m) => ({ ...m, root: m.root.replace('<name>', nameOf(root)) }));
  if (machines.length === 0) return [];
  const notes: Note[] = [];
  for (const { path, size } of newFiles(plan)) {
    const wrong = machines.flatMap((m) => checkFile(m, path, size) ?? [])[0];
    if (wrong)
      notes.push({
        level: 'warning',
        code: `place-${wrong.code}`,
        message: `${path}: ${wrong.message}`,
        path,
      });
  }
  if (notes.length <= toldAtMost) return notes;
  const rest = notes.length - toldAtMost;
  return [
    ...notes.slice(0, toldAtMost),
    {
      level: 'warning',
      code: 'place-more',
      message: `${rest} more files do not fit a place either: see Travel.`,
    },
  ];
}

function newFiles(plan: Plan): { path: string; size: number }[] {
  return plan.steps.flatMap((step) => {
    if (step.do === 'put' && step.before === null && !isOwn(step.path))
      return [{ path: step.path, size: step.size }];
    if (step.do === 'move' && !isOwn(step.to)) return [{ path: step.to, size: step.content?.size ?? 0 }];
    return [];
  });
}
