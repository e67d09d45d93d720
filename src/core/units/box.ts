// The box around points, and 4 × 4 matrices (column after column, as glTF writes them) that place points in a scene.

export type Matrix = readonly number[];

export const identity: Matrix = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];

/** First b, then a. */
export function times(a: Matrix, b: Matrix): Matrix {
  const out = new Array<number>(16).fill(0);
  for (let c = 0; c < 4; c++)
    for (let r = 0; r < 4; r++) for (let k = 0; k < 4; k++) out[c * 4 + r]! += a[k * 4 + r]! * b[c * 4 + k]!;
  return out;
}

export function translation([x, y, z]: readonly number[]): Matrix {
  return [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x!, y!, z!, 1];
}

export function scaling([x, y, z]: readonly number[]): Matrix {
  return [x!, 0, 0, 0, 0, y!, 0, 0, 0, 0, z!, 0, 0, 0, 0, 1];
}

/** A turn about an axis, in degrees. */
export function turning([x, y, z]: readonly number[], degrees: number): Matrix {
  const n = Math.hypot(x!, y!, z!) || 1;
  const [a, b, c] = [x! / n, y! / n, z! / n];
  const t = (degrees * Math.PI) / 180;
  const [s, k] = [Math.sin(t), Math.cos(t)];
  const m = 1 - k;
  return [
    k + a * a * m,
    b * a * m + c * s,
    c * a * m - b * s,
    0,
    a * b * m - c * s,
    k + b * b * m,
    c * b * m + a * s,
    0,
    a * c * m + b * s,
    b * c * m - a * s,
    k + c * c * m,
    0,
    0,
    0,
    0,
    1,
  ];
}

/** A turn by a unit quaternion x y z w. */
export function quaternion([x, y, z, w]: readonly number[]): Matrix {
  const [a, b, c, d] = [x!, y!, z!, w!];
  return [
    1 - 2 * (b * b + c * c),
    2 * (a * b + c * d),
    2 * (a * c - b * d),
    0,
    2 * (a * b - c * d),
    1 - 2 * (a * a + c * c),
    2 * (b * c + a * d),
    0,
    2 * (a * c + b * d),
    2 * (b * c - a * d),
    1 - 2 * (a * a + b * b),
    0,
    0,
    0,
    0,
    1,
  ];
}

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
