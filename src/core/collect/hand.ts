// What a hand changes in the tree of a new folder: steps, done again one after the other whenever ticks or the rule change. So what was changed stays, a step can be taken
// back, and what comes to lie in a renamed folder later lies in it under its new name.

import { isWithin } from '../files/treePath';

/** `from`: what a file comes from, or a set by its path with marks. Paths are tree paths of the new folder. */
export type HandStep =
  | { do: 'put'; from: string; to: string }
  /** A folder, with all in it, moved or renamed. */
  | { do: 'folder'; path: string; to: string }
  | { do: 'make'; path: string }
  /** Back to where the rule has it. */
  | { do: 'rule'; from: string }
  | { do: 'rule-in'; path: string };

export interface Handed {
  /** Where each file or set lies that a hand placed. */
  to: ReadonlyMap<string, string>;
  /** Folders that were made, whatever lies in them. */
  folders: readonly string[];
}

const moved = (at: string, path: string, to: string) => to + at.slice(path.length);

/** Where the steps lead. `byRule`: where the rule has each file and each set. */
export function handed(steps: readonly HandStep[], byRule: ReadonlyMap<string, string>): Handed {
  const to = new Map<string, string>();
  let folders: string[] = [];
  const inside = (path: string) =>
    [...byRule.keys()].filter((from) => isWithin(to.get(from) ?? byRule.get(from)!, path));
  for (const step of steps)
    switch (step.do) {
      case 'put':
        if (byRule.has(step.from)) to.set(step.from, step.to);
        break;
      case 'folder':
        for (const from of inside(step.path))
          to.set(from, moved(to.get(from) ?? byRule.get(from)!, step.path, step.to));
        folders = folders.map((f) => (isWithin(f, step.path) ? moved(f, step.path, step.to) : f));
        break;
      case 'make':
        if (!folders.includes(step.path)) folders.push(step.path);
        break;
      case 'rule':
        to.delete(step.from);
        break;
      case 'rule-in':
        for (const from of inside(step.path)) to.delete(from);
        folders = folders.filter((f) => !isWithin(f, step.path));
        break;
    }
  return { to, folders };
}
