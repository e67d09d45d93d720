// Titles of plans that change paths: which one, or how many and where, so that lines of the ledger can be told apart.

import type { PathChange } from '../changes/plan';
import { nameOf } from '../files/treePath';
import { count } from '../text/figures';

/** 'Relink hull.png in boat.gltf', 'Relink 2 references of boat.gltf', 'Relink 12 references in 3 files'. `many`: what one of several is called; `after`: the rest of the sentence. */
export function titleOfPaths(does: string, paths: readonly PathChange[], many: string, after = ''): string {
  const scenes = new Set(paths.map((p) => p.scene));
  const [first] = paths;
  const end = after === '' ? '' : ` ${after}`;
  if (paths.length === 1) return `${does} ${nameOf(first!.after)} in ${nameOf(first!.scene)}${end}`;
  const where =
    scenes.size === 1
      ? ` of ${nameOf(first!.scene)}`
      : scenes.size > 1 && after === ''
        ? ` in ${count(scenes.size, 'file')}`
        : '';
  return `${does} ${count(paths.length, many)}${where}${end}`;
}
