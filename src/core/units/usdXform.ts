// Where a prim stands below its parent, by its transform operations. Source: OpenUSD, UsdGeomXformable (operations, their order, !invert!).

import { identity, inverse, quaternion, scaling, times, translation, turning, type Matrix } from './matrix';

/** Names of operations in a list as it is written. */
export const opsIn = (list: string): string[] => [...list.matchAll(/"([^"]+)"/g)].map((m) => m[1]!);

const axes = { X: [1, 0, 0], Y: [0, 1, 0], Z: [0, 0, 1] } as const;

/** One operation, by its name and its numbers; the first stands outermost. */
function placedByOp(op: string, n: readonly number[]): Matrix {
  const kind = op.split(':')[1]!;
  if (kind === 'translate') return translation(n);
  if (kind === 'scale') return scaling(n);
  // Rows of a matrix for points in front of it are columns of one for points behind it.
  if (kind === 'transform') return n.length === 16 ? n : identity;
  if (kind === 'orient') return quaternion([n[1]!, n[2]!, n[3]!, n[0]!]);
  // rotateXYZ: X is applied first, so Z stands outermost.
  const order = /^rotate([XYZ]+)$/.exec(kind)?.[1] ?? '';
  const degrees = (axis: string) => (order.length === 1 ? n[0]! : n['XYZ'.indexOf(axis)]!);
  return [...order]
    .reverse()
    .reduce<Matrix>((m, axis) => times(m, turning(axes[axis as 'X' | 'Y' | 'Z'], degrees(axis))), identity);
}

/** All operations of a prim; one whose numbers are not told counts for nothing. */
export function placedByOps(ops: readonly string[], values: ReadonlyMap<string, readonly number[]>): Matrix {
  return ops.reduce<Matrix>((m, op) => {
    const isInverse = op.startsWith('!invert!');
    const name = isInverse ? op.slice('!invert!'.length) : op;
    const n = values.get(name);
    if (!n) return m;
    const own = placedByOp(name, n);
    return times(m, isInverse ? (inverse(own) ?? identity) : own);
  }, identity);
}

/** The numbers of one value: a tuple, a tuple of tuples, or a plain number. */
export function numbersIn(text: string, at: number): number[] {
  if (text[at] !== '(') return [Number.parseFloat(text.slice(at, at + 40))];
  let depth = 0;
  let end = at;
  for (; end < text.length; end++) {
    if (text[end] === '(') depth++;
    else if (text[end] === ')' && --depth === 0) break;
  }
  return (text.slice(at, end).match(/[-+\d.eE]+/g) ?? []).map(Number);
}
