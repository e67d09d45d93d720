// Frames of a clip, its size, and how long each is shown.

import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { clipFrames, clipLabel, clipSize, delays, holesText } from './clip';

test('holes are held or marked; nothing is held before the first', () => {
  const there = [2, 3, 5];
  expect(clipFrames(there, 1, 6, 'hold').map((f) => f.shows)).toEqual([null, 2, 3, 3, 5, 5]);
  expect(clipFrames(there, 1, 6, 'mark').map((f) => f.shows)).toEqual([null, 2, 3, null, 5, null]);
  // A clip that begins in a hole holds what came before it.
  expect(clipFrames(there, 4, 5, 'hold').map((f) => f.shows)).toEqual([3, 5]);
  // Every second frame was rendered.
  expect(clipFrames([0, 2, 4, 8], 0, 8, 'mark').map((f) => f.frame)).toEqual([0, 2, 4, 6, 8]);
  expect(holesText(clipFrames(there, 1, 6, 'hold'))).toBe('Frames 1, 4, 6 are missing');
  expect(holesText(clipFrames([1, 2], 1, 2, 'hold'))).toBeNull();
});

test('sizes are even and within the longest side, in the picture’s own shape', () => {
  expect(clipSize(1920, 1080, 1280)).toEqual({ width: 1280, height: 720 });
  expect(clipSize(321, 181, 1280)).toEqual({ width: 322, height: 182 });
  expect(clipSize(4000, 3, 640)).toEqual({ width: 640, height: 2 });
});

test('the times of all frames add up to what was asked for', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 400 }),
      fc.double({ min: 1, max: 50, noNaN: true }),
      fc.constantFrom(1, 10),
      (count, fps, grain) => {
        const all = delays(count, fps, grain);
        expect(all.every((d) => d % grain === 0 && Math.abs(d - 1000 / fps) <= grain)).toBe(true);
        expect(Math.abs(all.reduce((s, d) => s + d, 0) - (count * 1000) / fps)).toBeLessThanOrEqual(
          grain / 2 + 1e-6,
        );
      },
    ),
  );
});

test('what is written into a frame', () => {
  expect(clipLabel({ scene: 'boat', version: 4, camera: 'Pier' }, 7)).toBe('boat · v004 · Pier · 0007');
  expect(clipLabel({ scene: 'boat', version: null, camera: null }, -3)).toBe('boat · -0003');
});
