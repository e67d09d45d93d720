import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { howMany } from '../files/testing/depth';
import { identity, inverse, isSameMatrix, parted, placedBy, times } from './matrix';

const number = fc.double({ min: -50, max: 50, noNaN: true });
const size = fc.oneof(
  fc.double({ min: 0.05, max: 20, noNaN: true }),
  fc.double({ min: -20, max: -0.05, noNaN: true }),
);
const turn = fc
  .tuple(number, number, number, number)
  .filter((q) => Math.hypot(...q) > 0.1)
  .map((q) => q.map((x) => x / Math.hypot(...q)));
const placed = fc
  .tuple(fc.tuple(number, number, number), turn, fc.tuple(size, size, size))
  .map(([t, q, s]) => placedBy(t, q, s));

describe('matrices', () => {
  it('are undone by their inverse', () => {
    fc.assert(
      fc.property(placed, (m) => {
        expect(isSameMatrix(times(inverse(m)!, m), identity, 1e-8)).toBe(true);
      }),
    );
  });

  it('are told as translation, turn and scale, mirrored ones too', () => {
    fc.assert(
      fc.property(placed, (m) => {
        const p = parted(m)!;
        expect(isSameMatrix(placedBy(p.t, p.turn, p.s), m)).toBe(true);
        expect(Math.hypot(...p.turn)).toBeCloseTo(1, 12);
      }),
    );
  });

  it('that shear or flatten are told apart', () => {
    const turned = placedBy([0, 0, 0], [0, 0, Math.SQRT1_2, Math.SQRT1_2], [1, 1, 1]);
    const half = placedBy([0, 0, 0], [0, 0, Math.sin(Math.PI / 8), Math.cos(Math.PI / 8)], [1, 1, 1]);
    const wide = placedBy([0, 0, 0], [0, 0, 0, 1], [3, 1, 1]);
    expect(parted(times(wide, turned))).not.toBeNull();
    expect(parted(times(wide, half))).toBeNull();
    expect(inverse(placedBy([1, 2, 3], [0, 0, 0, 1], [1, 0, 1]))).toBeNull();
  });

  it('are told also with the rounding of float32 files, however far from the origin', () => {
    const uniform = fc
      .tuple(fc.tuple(number, number, number), turn, fc.double({ min: 0.01, max: 100, noNaN: true }))
      .map(([t, q, k]) => placedBy(t, q, [k, k, k]).map(Math.fround));
    const chains = fc.tuple(uniform, uniform, uniform, uniform);
    fc.assert(
      fc.property(chains, ([a, b, c, d]) => {
        const m = times(times(inverse(a)!, inverse(b)!), times(c, d));
        const p = parted(m);
        expect(p).not.toBeNull();
        expect(isSameMatrix(placedBy(p!.t, p!.turn, p!.s), m, 1e-5)).toBe(true);
      }),
      { numRuns: howMany(2000) },
    );
    // A shear that files can hold is none of that, whatever the translation.
    const sheared = [1, 0, 0, 0, 1e-5, 1, 0, 0, 0, 0, 1, 0, 1e6, 0, 0, 1];
    expect(parted(sheared)).toBeNull();
  });
});
