// Names that stand for many files. UDIM = 1001 + u + 10·v, UVTILE from one (MaterialX Specification, "Filename Substitutions").

import { describe, expect, test } from '@jest/globals';
import { gapsOf, sequencePattern, udimOf } from './sequences';

const numbers = (pattern: string, names: string[], marks = true) =>
  names.map((n) => sequencePattern(pattern, marks)?.numberOf(n) ?? null);

test('tile numbers', () =>
  expect([udimOf(0, 0), udimOf(9, 0), udimOf(0, 1), udimOf(3, 2)]).toEqual([1001, 1010, 1011, 1024]));

describe('patterns', () => {
  test.each<[string, string[], (number | null)[]]>([
    [
      'w.<UDIM>.exr',
      ['w.1001.exr', 'w.1011.exr', 'w.101.exr', 'w.0999.exr', 'x.1001.exr', 'w.1001.png'],
      [1001, 1011, null, null, null, null],
    ],
    ['w_<UVTILE>.exr', ['w_u1_v1.exr', 'w_u3_v2.exr', 'w_u0.exr'], [1001, 1013, null]],
    [
      's.####.exr',
      ['s.0001.exr', 's.1234.exr', 's.12345.exr', 's.01234.exr', 's.-0001.exr', 's.1.exr'],
      [1, 1234, 12345, null, -1, null],
    ],
    ['s.%04d.exr', ['s.0007.exr', 's.7.exr'], [7, null]],
    ['s%d.exr', ['s7.exr', 's0007.exr'], [7, 7]],
    ['s.<frame>.exr', ['s.12.exr'], [12]],
    ['s.<frame04>.exr', ['s.0012.exr', 's.12.exr'], [12, null]],
    ['s.{frame}.exr', ['s.12.exr'], [12]],
    ['s.{04frame}.exr', ['s.0012.exr'], [12]],
    ['c.###.##.usd', ['c.001.50.usd', 'c.001.5.usd'], [1.5, null]],
    ['s.@@@@.exr', ['s.0001.exr'], [1]],
    ['a(b)+.##.png', ['a(b)+.01.png', 'aab.01.png'], [1, null]],
  ])('%s', (pattern, names, expected) => expect(numbers(pattern, names)).toEqual(expected));
  test('a name of one file is none; @ means nothing where it is a quote', () => {
    expect(sequencePattern('hull_0001.png')).toBeNull();
    expect(sequencePattern('s.@@@@.exr', false)).toBeNull();
  });
});

describe('gaps', () => {
  test('frames between the first and the last, in their own step', () => {
    expect(gapsOf([1, 2, 4, 7], 'frames')).toEqual([3, 5, 6]);
    expect(gapsOf([10, 12, 16], 'frames')).toEqual([14]);
    expect(gapsOf([5], 'frames')).toEqual([]);
    expect(gapsOf([1, 1.5, 3], 'frames')).toEqual([]);
  });
  test('of a range that is asked for', () =>
    expect(gapsOf([1001, 1003], 'frames', [1001, 1005, 1])).toEqual([1002, 1004, 1005]));
  test('tiles within each row that has any', () =>
    expect(gapsOf([1001, 1003, 1011, 1031, 1034], 'tiles')).toEqual([1002, 1032, 1033]));
  test('no more than can be read', () => expect(gapsOf([0, 1, 10_000_000], 'frames')).toHaveLength(10_000));
});
