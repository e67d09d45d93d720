// Which snapshots stay as time goes by, and records that tell when they were spoilt.

import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Digest } from '../files/digest';
import { treePath } from '../files/treePath';
import { readSnapshot, writeSnapshot, type Snapshot } from './snapshot';
import { goingOf, readRule, usualRule, writeRule } from './thinning';

const day = 86_400_000;
const now = Date.parse('2026-11-27T18:00:00Z');
const at = (daysAgo: number, hour = 18) => ({ time: now - daysAgo * day - (18 - hour) * 3_600_000 });

test('all of the last days, one a day, one a week, one a month, none beyond', () => {
  const many = Array.from({ length: 900 }, (_, n) => [at(n, 9), at(n, 17)]).flat();
  const going = new Set(goingOf(many, usualRule, now));
  const staying = many.filter((s) => !going.has(s));
  const ages = staying.map((s) => (now - s.time) / day);
  expect(ages.filter((a) => a < 2)).toHaveLength(4);
  expect(ages.filter((a) => a >= 2 && a < 14)).toHaveLength(12);
  expect(ages.filter((a) => a >= 14 && a < 56).length).toBeGreaterThanOrEqual(6);
  expect(ages.filter((a) => a >= 14 && a < 56).length).toBeLessThanOrEqual(8);
  expect(Math.max(...ages)).toBeLessThan(24 * 31);
});

test('the newest always stays; doing it twice does nothing more; what goes is never newer than what its stretch keeps', () => {
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 0, max: 1200 * 24 }), { minLength: 1, maxLength: 80 }),
      fc.record({ all: fc.nat(5), days: fc.nat(20), weeks: fc.nat(12), months: fc.nat(30) }),
      (hours, rule) => {
        const all = hours.map((h) => ({ time: now - h * 3_600_000 }));
        const going = new Set(goingOf(all, rule, now));
        const staying = all.filter((s) => !going.has(s));
        expect(Math.max(...staying.map((s) => s.time))).toBe(Math.max(...all.map((s) => s.time)));
        expect(goingOf(staying, rule, now)).toEqual([]);
      },
    ),
  );
});

test('a rule as text', () => {
  expect(writeRule(usualRule)).toBe('2d,14d,8w,24m');
  expect(readRule(' 2d, 14d, 8w, 24m')).toEqual(usualRule);
  expect([readRule('2d'), readRule('all'), readRule('')]).toEqual([null, null, null]);
});

const digest = 'ab'.repeat(32) as Digest;
const snapshot: Snapshot = {
  format: 1,
  id: '20261127-180000-abcdef',
  workspace: { key: 'k1', name: 'Boat "ü"\n', root: 'D:/work/Boat', host: 'bench' },
  time: '2026-11-27T18:00:00.000Z',
  files: [[treePath('a b/ü\n.png'), 3, 1_764_000_000_345.5, 0o644, digest]],
  links: [[treePath('latest'), '../x']],
  folders: [treePath('renders')],
  unread: [],
  packs: [[1, 100]],
  added: 3,
};
// As good as any for this: what counts is that it tells two texts apart.
const sum = (text: string) =>
  String([...text].reduce((s, c) => (s * 31 + c.codePointAt(0)!) % 2147483647, 7));

test('a record is read as it was written; any change of it is seen', () => {
  const text = writeSnapshot(snapshot, sum);
  expect(readSnapshot(text, sum)).toEqual(snapshot);
  fc.assert(
    fc.property(fc.nat(text.length - 1), fc.integer({ min: 32, max: 126 }), (at, code) => {
      const spoilt = text.slice(0, at) + String.fromCharCode(code) + text.slice(at + 1);
      if (spoilt !== text) expect(readSnapshot(spoilt, sum)).toBeNull();
    }),
    // The very end counts, too, where a blank would say the same.
    { examples: [[text.length - 1, 32]] },
  );
  for (const cut of [0, 1, text.length >> 1, text.length - 2])
    expect(readSnapshot(text.slice(0, cut), sum)).toBeNull();
});

test('one of a newer application is told from a spoilt one', () => {
  const newer = writeSnapshot({ ...snapshot, format: 2 as 1 }, sum);
  expect(readSnapshot(newer, sum)).toBe('newer');
});
