// Where things lay before the moves of a plan were made, in steps of one look-up for each folder of a path: plans move tens of thousands.

import { folderOf, type TreePath } from '../files/treePath';

interface Move {
  order: number;
  path: string;
}

/** Moves made so far, in order. */
export class Moves {
  private readonly arrivals = new Map<string, Move[]>();
  private readonly sources = new Set<string>();
  private order = 0;

  add(path: string, to: string): void {
    const held = this.arrivals.get(to);
    const move = { order: this.order++, path };
    if (held) held.push(move);
    else this.arrivals.set(to, [move]);
    this.sources.add(path);
  }

  /** Where what is found at `path` now lay before all of them. */
  before(path: string): TreePath {
    let at = path;
    let until = this.order;
    for (;;) {
      const found = this.lastInto(at, until);
      if (!found) return at as TreePath;
      at = found.move.path + at.slice(found.folder.length);
      until = found.move.order;
    }
  }

  /** The last move before `until` that brought the path, or a folder around it. */
  private lastInto(path: string, until: number): { move: Move; folder: string } | null {
    let best: { move: Move; folder: string } | null = null;
    for (let folder = path; folder !== ''; folder = folderOf(folder)) {
      const move = this.arrivals.get(folder)?.findLast((m) => m.order < until);
      if (move && (!best || move.order > best.move.order)) best = { move, folder };
    }
    return best;
  }

  /** Whether something was moved away from the path, or from a folder around it. */
  hasLeft(path: string): boolean {
    for (let at = path; at !== ''; at = folderOf(at)) if (this.sources.has(at)) return true;
    return false;
  }
}
