// The box around points.

import type { Matrix } from './matrix';

/** Grows around points. */
// So many points are placed for one scene, at most; a node weighs as much as some of them.
const mostWork = 20_000_000;
const perNode = 30;

export class Box {
  readonly min: [number, number, number] = [Infinity, Infinity, Infinity];
  readonly max: [number, number, number] = [-Infinity, -Infinity, -Infinity];

  private work = 0;

  /** Counts a node that is placed. Throws RangeError where a scene places more than any real one: nodes that stand in each other grow without end. */
  visit(): void {
    if ((this.work += perNode) > mostWork) throw new RangeError('more than can be measured');
  }

  add(x: number, y: number, z: number): void {
    if (++this.work > mostWork) throw new RangeError('more than can be measured');
    if (!Number.isFinite(x + y + z)) return;
    const { min, max } = this;
    if (x < min[0]) min[0] = x;
    if (y < min[1]) min[1] = y;
    if (z < min[2]) min[2] = z;
    if (x > max[0]) max[0] = x;
    if (y > max[1]) max[1] = y;
    if (z > max[2]) max[2] = z;
  }

  /** A point, placed by a matrix. */
  addPlaced(m: Matrix, x: number, y: number, z: number): void {
    this.add(
      m[0]! * x + m[4]! * y + m[8]! * z + m[12]!,
      m[1]! * x + m[5]! * y + m[9]! * z + m[13]!,
      m[2]! * x + m[6]! * y + m[10]! * z + m[14]!,
    );
  }

  /** The eight corners of another box, placed. */
  addCorners(m: Matrix, min: readonly number[], max: readonly number[]): void {
    for (const x of [min[0]!, max[0]!])
      for (const y of [min[1]!, max[1]!]) for (const z of [min[2]!, max[2]!]) this.addPlaced(m, x, y, z);
  }

  isEmpty(): boolean {
    return this.min[0] > this.max[0];
  }

  size(): [number, number, number] {
    return [this.max[0] - this.min[0], this.max[1] - this.min[1], this.max[2] - this.min[2]];
  }
}
