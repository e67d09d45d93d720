// Where a path really lies: what must not lie in itself is asked by that, not by how it is written.

import fs from 'node:fs';
import path from 'node:path';
import { isWithin } from '@/core/files/treePath';
import { fromSystem, toSystem } from './system';

/** The path with every link on the way followed, as far as it is there; '/'-separated. */
export function realPlace(at: string): string {
  const rest: string[] = [];
  for (let system = toSystem(at).replace(/(.)[\\/]+$/, '$1'); ; system = path.dirname(system))
    try {
      return fromSystem(path.join(fs.realpathSync.native(system), ...rest));
    } catch {
      if (path.dirname(system) === system) return at;
      rest.unshift(path.basename(system));
    }
}

/** Whether a path is a folder or lies in it, wherever links lead. */
export function liesIn(folder: string, at: string): boolean {
  const top = realPlace(folder).replace(/\/$/, '');
  return isWithin(realPlace(at), top);
}
