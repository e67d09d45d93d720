// What later plans stand on: a plan can be undone, in any order, as long as no later one that still holds has touched the same files.

import { isWithin } from '../files/treePath';
import { ledgerOf, type JournalRecord } from './journal';
import type { Plan, Step } from './plan';

/** Paths a step concerns; of a folder that moves, the folder's. */
function touchedBy(step: Step): string[] {
  switch (step.do) {
    case 'move':
    case 'move-folder':
      return [step.path, step.to];
    case 'put':
    case 'remove':
      return [step.path];
    default:
      return [];
  }
}

/** Files and folders a plan touches, each once. */
export function touched(plan: Pick<Plan, 'steps'>): string[] {
  return [...new Set(plan.steps.flatMap(touchedBy))];
}

/** Whether a plan touches a path, or a folder it lies in. */
export function touches(plan: Pick<Plan, 'steps'>, path: string): boolean {
  return plan.steps.some((s) =>
    touchedBy(s).some((p) => p === path || (s.do === 'move-folder' && isWithin(path, p))),
  );
}

/** Applied plans that still hold: not undone, and not the undoing of another. Oldest first. */
export function holding(records: readonly JournalRecord[]): JournalRecord[] {
  const state = new Map(ledgerOf(records).map((e) => [e.id, e.state]));
  return records.filter(
    (r) =>
      state.get(r.id) === 'applied' &&
      !(r.plan.undoes !== undefined && state.get(r.plan.undoes) === 'undone'),
  );
}

export interface LaterPlan {
  id: string;
  title: string;
}

/** For each plan that still holds, the later ones that have touched the same files since: they have to be undone first, the latest first. */
export function laterPlans(records: readonly JournalRecord[]): Map<string, LaterPlan[]> {
  const later = new Map<string, LaterPlan[]>();
  // Whose files and folders have been touched by plans that came after, walking back in time.
  const by = new Map<string, JournalRecord[]>();
  const folders: { folder: string; record: JournalRecord }[] = [];
  for (const record of holding(records).toReversed()) {
    const paths = touched(record.plan);
    const found = new Set<JournalRecord>();
    for (const path of paths) for (const r of by.get(path) ?? []) found.add(r);
    for (const { folder, record: r } of folders) if (paths.some((p) => isWithin(p, folder))) found.add(r);
    const moved = record.plan.steps.flatMap((s) =>
      s.do === 'move-folder' ? [s.path as string, s.to as string] : [],
    );
    for (const folder of moved)
      for (const [path, rs] of by) if (isWithin(path, folder)) for (const r of rs) found.add(r);
    later.set(
      record.id,
      [...found].sort((a, b) => (a.id < b.id ? 1 : -1)).map((r) => ({ id: r.id, title: r.plan.title })),
    );
    for (const path of paths) by.set(path, [...(by.get(path) ?? []), record]);
    for (const folder of moved) folders.push({ folder, record });
  }
  return later;
}
