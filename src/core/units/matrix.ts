// 4 × 4 matrices, column after column as glTF writes them, that place points in a scene.

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

/** Of a translation, a turn as a unit quaternion, and a scale. */
export const placedBy = (t: readonly number[], turn: readonly number[], s: readonly number[]): Matrix =>
  times(translation(t), times(quaternion(turn), scaling(s)));

/** What undoes a matrix whose last row is 0 0 0 1; null: nothing does, since it flattens space. */
export function inverse(m: Matrix): Matrix | null {
  const [a, b, c] = [m.slice(0, 3), m.slice(4, 7), m.slice(8, 11)];
  const cross = (u: readonly number[], v: readonly number[]) => [
    u[1]! * v[2]! - u[2]! * v[1]!,
    u[2]! * v[0]! - u[0]! * v[2]!,
    u[0]! * v[1]! - u[1]! * v[0]!,
  ];
  const dot = (u: readonly number[], v: readonly number[]) => u[0]! * v[0]! + u[1]! * v[1]! + u[2]! * v[2]!;
  const determinant = dot(a, cross(b, c));
  const size = Math.hypot(...a) * Math.hypot(...b) * Math.hypot(...c);
  if (!Number.isFinite(determinant) || !(Math.abs(determinant) > 1e-12 * size)) return null;
  const rows = [cross(b, c), cross(c, a), cross(a, b)].map((r) => r.map((x) => x / determinant));
  const t = m.slice(12, 15);
  return [...[0, 1, 2].flatMap((k) => [...rows.map((r) => r[k]!), 0]), ...rows.map((r) => -dot(r, t)), 1].map(
    (x) => x + 0,
  );
}

/** Whether two matrices are the same within `grain` of their own size. */
export function isSameMatrix(a: Matrix, b: Matrix, grain = 1e-9): boolean {
  const size = Math.max(1, ...a.map(Math.abs));
  return a.every((x, i) => Math.abs(x - b[i]!) <= grain * size);
}

/** A matrix as translation, unit quaternion and scale; null where it shears, and no three of those say it. */
export function parted(m: Matrix): { t: number[]; turn: number[]; s: number[] } | null {
  const columns = [m.slice(0, 3), m.slice(4, 7), m.slice(8, 11)];
  const s = columns.map((c) => Math.hypot(...c));
  if (s.some((x) => !(x > 0))) return null;
  const turned = columns.map((c, i) => c.map((x) => x / s[i]!));
  const [a, b, c] = turned as [number[], number[], number[]];
  const determinant =
    a[0]! * (b[1]! * c[2]! - b[2]! * c[1]!) -
    b[0]! * (a[1]! * c[2]! - a[2]! * c[1]!) +
    c[0]! * (a[1]! * b[2]! - a[2]! * b[1]!);
  if (determinant < 0) {
    // A mirrored space is a turn and a scale that is negative along one axis.
    s[0] = -s[0]!;
    turned[0] = a.map((x) => -x);
  }
  const dot = (u: readonly number[], v: readonly number[]) => u[0]! * v[0]! + u[1]! * v[1]! + u[2]! * v[2]!;
  const [x, y, z] = turned as [number[], number[], number[]];
  if (![dot(x, y), dot(y, z), dot(z, x)].every((cosine) => Math.abs(cosine) <= float32Shear)) return null;
  return { t: m.slice(12, 15), turn: turnOf([x, y, z]), s };
}

/** Files have float32 numbers: axes that are at right angles may have a cosine of several times 2^-24 once such matrices are multiplied and inverted. */
const float32Shear = 1e-6;

/** The unit quaternion x y z w of a turn, by its three columns (Shepperd 1978: the largest part first, so that nothing is divided by little). */
function turnOf([a, b, c]: readonly [number[], number[], number[]]): number[] {
  const [xx, yy, zz] = [a[0]!, b[1]!, c[2]!];
  const four = [1 + xx - yy - zz, 1 - xx + yy - zz, 1 - xx - yy + zz, 1 + xx + yy + zz];
  const k = four.indexOf(Math.max(...four));
  const big = Math.sqrt(four[k]!) / 2;
  const d = 1 / (4 * big);
  const [yz, zx, xy] = [b[2]! - c[1]!, c[0]! - a[2]!, a[1]! - b[0]!];
  const [pxy, pzx, pyz] = [a[1]! + b[0]!, c[0]! + a[2]!, b[2]! + c[1]!];
  const q = [
    [big, pxy * d, pzx * d, yz * d],
    [pxy * d, big, pyz * d, zx * d],
    [pzx * d, pyz * d, big, xy * d],
    [yz * d, zx * d, xy * d, big],
  ][k]!;
  const length = Math.hypot(...q);
  return q.map((x) => x / length);
}
