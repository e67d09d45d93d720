// Numbers, sizes and times as people read them.

import { expect, test } from '@jest/globals';
import { ago, bytes, count, exactBytes, exactTime, inWords, timeLeft } from './figures';

test.each([
  [0, '0 B'],
  [999, '999 B'],
  [1000, '1.00 kB'],
  [12_345, '12.3 kB'],
  [999_499, '999 kB'],
  [999_500, '1.00 MB'],
  [9_994_999_999, '9.99 GB'],
  [2e15, '2.00 PB'],
  [5e18, '5000 PB'],
  [null, '–'],
])('%d bytes are %s', (n, text) => expect(bytes(n)).toBe(text));
test('the exact count', () =>
  expect([exactBytes(1234567), exactBytes(null)]).toEqual(['1,234,567 bytes', '']));
test.each([
  [0, 'just now'],
  [44, 'just now'],
  [60, '1 min ago'],
  [3599, '60 min ago'],
  [7200, '2 h ago'],
  [86_400, '1 day ago'],
  [86_400 * 3, '3 days ago'],
  [86_400 * 40, '2026-10-14'],
])('%d s before is %s', (s, text) => {
  const now = Date.UTC(2026, 10, 23, 12);
  expect(ago(now - s * 1000, now)).toBe(text);
});
test('a time ahead of the clock is now', () => expect(ago(2000, 1000)).toBe('just now'));
test('exact times are of this clock', () =>
  expect(exactTime(new Date(2026, 0, 2, 3, 4).getTime())).toBe('2026-01-02 03:04'));
test('words and counts', () =>
  expect([
    inWords(0),
    inWords(12),
    inWords(13),
    inWords(1300),
    count(1, 'file'),
    count(2, 'file'),
    count(0, 'entry', 'entries'),
  ]).toEqual(['no', 'twelve', '13', '1,300', '1 file', '2 files', '0 entries']));
test.each([
  [50, 100, 10_000, '10 s left'],
  [1, 100, 10_000, '17 min left'],
  [1, 10_000, 10_000, '27.8 h left'],
  [0, 100, 10_000, ''],
  [50, null, 10_000, ''],
  [50, 100, 1000, ''],
])('%d of %d after %d ms: %s', (done, total, ms, text) => expect(timeLeft(done, total, ms)).toBe(text));
