// What a plan says of scenes that somebody else holds while they work on them in another program.

import type { Note, Plan } from '../changes/plan';
import { isWithin } from '../files/treePath';
import { plainName } from '../names/counters';
import type { Hold } from '../versions/holds';

/** Warnings (a hold is of a scene in all its versions), one for each scene that somebody else holds and that the plan changes, moves, takes away or copies. `by`: whose plan it is. */
export function holdNotes(plan: Plan, held: ReadonlyMap<string, Hold>, by: string | null): Note[] {
  if (held.size === 0) return [];
  const touched = new Set<Hold>();
  const near = (path: string) => {
    for (const [name, hold] of held)
      if (isWithin(hold.scene, path) || name === plainName(path)) touched.add(hold);
  };
  for (const step of plan.steps) {
    near(step.path);
    if (step.do === 'put' && step.from.from === 'tree') near(step.from.path);
  }
  const others = [...touched].filter((hold) => hold.by !== by);
  return others
    .sort((a, b) => (a.scene < b.scene ? -1 : 1))
    .map(({ scene, by: holder, since, why }) => ({
      level: 'warning' as const,
      code: 'held-scene',
      message: `${scene} is held by ${holder} since ${since.slice(0, 16).replace('T', ' ')} UTC${why === '' ? '' : `: “${why}”`}. What they save there may be lost, or not be in this.`,
      path: scene,
    }));
}
