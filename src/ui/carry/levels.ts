// What is carried over, level by level: what was picked, what that needs, what those need.

import { neededIn } from '@/core/collect/reach';
import { linesOf, type Line, type Needs } from '../collect/needs';

export interface Level {
  /** 0: what was picked. */
  number: number;
  lines: Line[];
  files: number;
  size: number;
}

/** Lines of everything, each at the level at which it is met first. */
export function levelsOf(all: Needs, kept: Pick<Needs, 'files'>, unticked: ReadonlySet<string>): Level[] {
  const needs = neededIn(all.files.values());
  const depth = new Map<string, number>();
  let at = [...all.files.values()].filter((f) => f.chosen).map((f) => f.from);
  for (let n = 0; at.length > 0; n++) {
    const next: string[] = [];
    for (const from of at) {
      const key = all.files.get(from)!.set ?? from;
      if (!depth.has(key)) depth.set(key, n);
      if (depth.get(key) === n) next.push(...(needs.get(from) ?? []).map((f) => f.from));
    }
    at = [...new Set(next)].filter((from) => !depth.has(all.files.get(from)!.set ?? from));
  }
  const levels: Level[] = [];
  for (const line of linesOf(all, kept, unticked)) {
    const number = depth.get(line.key) ?? 0;
    const level = (levels[number] ??= { number, lines: [], files: 0, size: 0 });
    level.lines.push(line);
    level.files += line.kept.files;
    level.size += line.kept.size;
  }
  return levels.filter(Boolean);
}
