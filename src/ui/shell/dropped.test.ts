// Which dropped files go to the server in one request.

import { expect, test } from '@jest/globals';
import { loadsOf } from './dropped';

test('small ones together, large ones alone, what is left out in none; each once', () => {
  const megabyte = 1024 ** 2;
  expect(loadsOf([1, 2, null, 3, 20 * megabyte, 4])).toEqual([[4], [0, 1, 3, 5]]);
  expect(loadsOf([5 * megabyte, 4 * megabyte, 4 * megabyte, 0])).toEqual([[0], [1, 2, 3]]);
  expect(loadsOf(Array.from({ length: 1200 }, () => 10)).map((l) => l.length)).toEqual([500, 500, 200]);
  expect(loadsOf([])).toEqual([]);
});
