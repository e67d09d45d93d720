// Many names by one pattern: order, counters, clashes told before anything is done.

import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { foldName } from './portable';
import { inOrder, orders, renameAll, wrongPattern } from './renaming';

const day = (d: number) => new Date(2026, 10, d, 12).getTime();
const files = [
  { name: 'hull10.png', modified: day(1) },
  { name: 'hull9.png', modified: day(3) },
  { name: 'a.png', modified: day(2) },
];

test.each([
  ['name', ['a.png', 'hull9.png', 'hull10.png']],
  ['length', ['a.png', 'hull9.png', 'hull10.png']],
  ['date', ['hull10.png', 'a.png', 'hull9.png']],
] as const)('ordered by %s', (order, names) => {
  expect(inOrder(files, order).map((f) => f.name)).toEqual(names);
});
test('the old name, a counter and the day', () => {
  expect(renameAll(files, [], '{date} {name}_{number:3}', 'date', 5).map((r) => r.to)).toEqual([
    '2026-11-01 hull10_005.png',
    '2026-11-02 a_006.png',
    '2026-11-03 hull9_007.png',
  ]);
});
test('a clash is told on both sides, with what stays too', () => {
  expect(renameAll(files, ['Boat.PNG'], 'boat', 'name', 1).map((r) => r.wrong !== null)).toEqual([
    true,
    true,
    true,
  ]);
  expect(renameAll([files[0]!], ['boat_1.png'], 'boat_{number}', 'name', 2)[0]).toEqual({
    from: 'hull10.png',
    to: 'boat_2.png',
    wrong: null,
  });
});
test.each([
  ['', 'nothing to rename'],
  ['{nam}', 'no token'],
  ['{name', 'no token'],
  ['a/b', 'Windows'],
  ['{name}_{number:2}', null],
])('%j: %s', (pattern, says) => {
  if (says === null) expect(wrongPattern(pattern)).toBeNull();
  else expect(wrongPattern(pattern)).toContain(says);
});
test('what is let through is legal, and no two are one (property)', () => {
  const name = fc.constantFrom('a.png', 'B.png', 'b.jpg', 'hull 1.png', 'ü.exr', 'no extension');
  fc.assert(
    fc.property(
      fc.uniqueArray(name, { minLength: 1 }),
      fc.constantFrom(...orders),
      fc.constantFrom('{name}', 'x{number:2}', '{name}_{number}', '{date}', '{number}{name}', 'same'),
      fc.nat(50),
      (names, order, pattern, first) => {
        const made = renameAll(
          names.map((n, i) => ({ name: n, modified: day(1 + i) })),
          ['other.png'],
          pattern,
          order,
          first,
        ).filter((r) => r.wrong === null);
        expect(new Set(made.map((r) => foldName(r.to))).size).toBe(made.length);
      },
    ),
  );
});
