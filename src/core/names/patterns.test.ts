// Names by pattern are legal on every system and sort by date; what each file system forbids, against its published rules.

import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { systemRules, whereLegal } from './fileSystems';
import { checkPattern, examplesOf, nameOfPattern, tokens, usualPatterns } from './patterns';
import { checkName } from './portable';

const date = { year: 2026, month: 3, day: 7 };

test.each([
  [usualPatterns.workspace, { title: 'Harbour Lantern' }, '2026-03 Harbour Lantern'],
  ['{date} {title} {person}', { title: 'Quay', person: 'Ada' }, '2026-03-07 Quay Ada'],
  ['{date} {title} {person}', { title: 'Quay' }, '2026-03-07 Quay'],
  ['{category}_{title}', { title: 'Quay' }, 'Quay'],
  [usualPatterns.scene, { title: 'quay', version: 4 }, 'quay_v004'],
  [usualPatterns.scene, { title: 'quay' }, 'quay'],
  ['{title}', { title: 'CON' }, '_CON'],
  ['{title}', { title: 'a/b: <c>?' }, 'a-b-c'],
  ['{title}', { title: '  ' }, 'untitled'],
  ['{year}{month}{day}_{number:4}', { number: 12 }, '20260307_0012'],
])('%s', (pattern, values, name) => expect(nameOfPattern(pattern, { date, ...values })).toBe(name));

test.each([
  ['{month} {title}', 'year'],
  ['{day}.{month}.{year}', 'only as year'],
  ['{titel}', 'no token'],
  ['{year}/{month}', 'means a folder'],
  ['boat', 'every name would be the same'],
  ['{year', 'no token'],
])('%s is told what is wrong', (pattern, says) => {
  expect(checkPattern(pattern).join(' ')).toContain(says);
});
test('the usual ones are right', () => {
  for (const p of Object.values(usualPatterns)) expect(checkPattern(p)).toEqual([]);
});

test('examples sort by time where the date comes first', () => {
  expect(
    examplesOf('{year}-{month} {title}', { date: { year: 2026, month: 9, day: 1 }, title: 'A' }),
  ).toEqual({ names: ['2026-09 A', '2027-01 A', '2027-05 A'], sorts: true });
  expect(examplesOf('{title} {number:1}', { date, title: 'A', number: 8 }).sorts).toBe(false);
});

describe('whatever is put in (properties)', () => {
  const pattern = fc
    .array(
      fc.oneof(
        fc.constantFrom(...tokens.map((t) => `{${t}}`)),
        fc.constantFrom(' ', '-', '_', ' - ', '.', 'v'),
      ),
      { minLength: 1, maxLength: 8 },
    )
    .map((p) => p.join(''));
  test('the name is legal on every system', () => {
    fc.assert(
      fc.property(
        pattern,
        fc.string({ unit: 'binary', maxLength: 400 }),
        fc.string({ maxLength: 20 }),
        fc.nat(20000),
        (p, title, person, number) => {
          const name = nameOfPattern(p, {
            date,
            title,
            person,
            category: 'x',
            scene: 'y',
            camera: '',
            number,
            version: number,
          });
          expect(checkName(name)).toEqual([]);
          expect(whereLegal(name).flatMap((w) => w.wrong)).toEqual([]);
        },
      ),
      { numRuns: 500 },
    );
  });
  test('names with the date in front sort by date', () => {
    const day = fc.record({
      year: fc.integer({ min: 1000, max: 9999 }),
      month: fc.integer({ min: 1, max: 12 }),
      day: fc.integer({ min: 1, max: 31 }),
    });
    const key = (d: { year: number; month: number; day: number }) => d.year * 10000 + d.month * 100 + d.day;
    fc.assert(
      fc.property(
        day,
        day,
        fc.constantFrom('{date} {title}', '{year}{month}{day}_{title}', '{year}-{month}-{day}'),
        fc.string(),
        (a, b, p, title) => {
          if (key(a) === key(b)) return;
          const [x, y] = [nameOfPattern(p, { date: a, title }), nameOfPattern(p, { date: b, title })];
          expect(x < y).toBe(key(a) < key(b));
        },
      ),
    );
  });
});

describe('what file systems allow', () => {
  const wrong = (name: string) =>
    whereLegal(name)
      .filter((w) => w.wrong.length > 0)
      .map((w) => w.id);
  test.each([
    ['boat.gltf', []],
    ['a:b', ['windows', 'macos', 'exfat', 'fat32']],
    ['a/b', ['windows', 'macos', 'linux', 'exfat', 'fat32']],
    ['what?', ['windows', 'exfat', 'fat32']],
    ['nul.txt', ['windows']],
    ['end.', ['windows', 'fat32']],
    ['ü'.repeat(200), ['macos', 'linux']],
    ['x'.repeat(256), ['windows', 'macos', 'linux', 'exfat', 'fat32']],
    ['tab\there', ['windows', 'exfat', 'fat32']],
  ])('%j fails on %j', (name, systems) => expect(wrong(name)).toEqual(systems));
  test('every character of the exFAT table is refused there', () => {
    for (const c of [...'"*/:<>?\\|', ...Array.from({ length: 32 }, (_, i) => String.fromCharCode(i))])
      expect(systemRules.find((r) => r.id === 'exfat')!.check(`a${c}b`)).not.toEqual([]);
  });
  test('a FAT32 stick takes files up to one byte below 4 GiB', () =>
    expect(systemRules.find((r) => r.id === 'fat32')!.longestFile).toBe(4294967295));
});
