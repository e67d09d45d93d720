// What later plans stand on: a plan can be undone, in any order, as long as no later one that still holds has touched the same files.

import { folderOf, isWithin } from '../files/treePath';
import type { Plan, Step } from './plan';

/** Paths a step concerns; of a folder that moves, the folder's. */
function touchedBy(step: Step): string[] {
  switch (step.do) {
    case 'move':
    case 'move-folder':
      return [step.path, step.to];
    case 'put':
    case 'remove':
    case 'link':
      return [step.path];
    default:
      return [];
  }
}

/** What a plan touches: files and folders, each once, and which of them are folders that moved with all below them. */
export interface Touched {
  paths: readonly string[];
  folders: readonly string[];
}

export function touched(plan: Pick<Plan, 'steps'>): Touched {
  return {
    paths: [...new Set(plan.steps.flatMap(touchedBy))],
    folders: plan.steps.flatMap((s) => (s.do === 'move-folder' ? [s.path, s.to] : [])),
  };
}

/** Whether a plan touches a path, or a folder it lies in. */
export function touches({ paths, folders }: Touched, path: string): boolean {
  return paths.includes(path) || folders.some((f) => isWithin(path, f));
}

/** A plan that still holds, in short. */
export interface Holding extends Touched {
  id: string;
  title: string;
}

export interface LaterPlan {
  id: string;
  title: string;
}

/** For each plan that still holds, the later ones that have touched the same files since: they have to be undone first, the latest first. `plans`: oldest first. */
export function laterPlans(plans: readonly Holding[]): Map<string, LaterPlan[]> {
  const later = new Map<string, LaterPlan[]>();
  // Which plans that came after touch a path, or something below a folder; walking back in time.
  const at = new Map<string, number[]>();
  const below = new Map<string, number[]>();
  const moved: { folder: string; n: number }[] = [];
  const note = (map: Map<string, number[]>, path: string, n: number) => {
    const held = map.get(path);
    if (!held) map.set(path, [n]);
    else if (held.at(-1) !== n) held.push(n);
  };
  for (let n = plans.length - 1; n >= 0; n--) {
    const { id, paths, folders } = plans[n]!;
    const found = new Set<number>();
    const meet = (ns: readonly number[] | undefined) => ns?.forEach((m) => found.add(m));
    for (const path of paths) meet(at.get(path));
    for (const { folder, n: m } of moved)
      if (!found.has(m) && paths.some((p) => isWithin(p, folder))) found.add(m);
    for (const folder of folders) meet(below.get(folder));
    later.set(
      id,
      [...found].sort((a, b) => b - a).map((m) => ({ id: plans[m]!.id, title: plans[m]!.title })),
    );
    for (const path of paths) {
      note(at, path, n);
      for (let f: string = folderOf(path); f !== ''; f = folderOf(f)) note(below, f, n);
    }
    for (const folder of folders) moved.push({ folder, n });
  }
  return later;
}
