// Levels of what is needed.

import { expect, test } from '@jest/globals';
import { needsIn } from '../collect/needs';
import { levelsOf } from './levels';

const file = (from: string, by: number[], set: string | null = null) => ({
  from,
  size: 1,
  kind: 'texture' as const,
  below: '',
  lies: { in: 'root' as const },
  chosen: by.length === 0,
  owner: null,
  by,
  set,
});

test('each at the level at which it is met first, in rings too; a set is one line', () => {
  const all = needsIn({
    root: '/w',
    files: [
      file('/w/a', []),
      file('/w/b', [0]),
      file('/w/c', [1, 3]),
      file('/w/d', [2, 0]),
      file('/w/f.1', [2], '/w/f.#'),
      file('/w/f.2', [2], '/w/f.#'),
    ],
    sets: [['/w/f.#', [4, 5]]],
    left: [],
    notes: [],
  });
  const levels = levelsOf(all, all, new Set());
  expect(levels.map((l) => [l.number, l.lines.map((x) => x.key), l.files, l.size])).toEqual([
    [0, ['/w/a'], 1, 1],
    [1, ['/w/b', '/w/d'], 2, 2],
    [2, ['/w/c'], 1, 1],
    [3, ['/w/f.#'], 2, 2],
  ]);
});
