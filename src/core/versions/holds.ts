// A scene that somebody holds while they work on it in another program, seen by all who work in the workspace. One line for each word on it,
// `.satchel/holds.jsonl`, so that it is said who broke a hold and why. Nothing is locked: whoever changes a held scene is told, and decides.

import { isTreePath, treePath, type TreePath } from '../files/treePath';
import { plainName } from '../names/counters';

/** One word on a scene: held, let go by who held it, or broken by somebody else. `time`: ISO 8601, UTC. */
export interface HoldLine {
  do: 'hold' | 'release' | 'break';
  scene: TreePath;
  by: string;
  time: string;
  /** What it is held for, or why it was broken. */
  why: string;
}

/** A scene that is held. */
export interface Hold {
  scene: TreePath;
  by: string;
  since: string;
  why: string;
}

const isText = (x: unknown, most: number): x is string => typeof x === 'string' && x.length <= most;

/** Lines of the log, the oldest first; what is torn or no line of ours is passed over. */
export function readHolds(text: string): HoldLine[] {
  return text.split('\n').flatMap((line) => {
    let v: Partial<Record<keyof HoldLine, unknown>> | null;
    try {
      v = JSON.parse(line) as typeof v;
    } catch {
      return [];
    }
    if (typeof v !== 'object' || v === null) return [];
    const { do: what, scene, by, time, why } = v;
    if (what !== 'hold' && what !== 'release' && what !== 'break') return [];
    if (!isText(scene, 4000) || !isTreePath(scene) || !isText(by, 200) || !isText(why, 2000)) return [];
    if (!isText(time, 40) || Number.isNaN(Date.parse(time))) return [];
    return [{ do: what, scene: treePath(scene), by, time, why }];
  });
}

/** A line as it is written: by itself, whatever the one before it came to. */
export const writeHold = (line: HoldLine): string => `\n${JSON.stringify(line)}`;

/** What is held, by the scene's name without its number: a hold is of a scene in all its versions. Of two who hold it at the same moment the first line counts. */
export function heldNow(lines: readonly HoldLine[]): Map<string, Hold> {
  const held = new Map<string, Hold>();
  for (const { do: what, scene, by, time, why } of lines) {
    const name = plainName(scene);
    if (what === 'hold') {
      if (!held.has(name)) held.set(name, { scene, by, since: time, why });
    } else if (what === 'break' || held.get(name)?.by === by) held.delete(name);
  }
  return held;
}
