// No two files of a drop fall into one, on any system; the same folder stays one; what a system wrote for itself is left out and said.

import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { checkName, foldName } from '../names/portable';
import { layDrop } from './drop';

describe('names', () => {
  test('three that become one legal name stay three files', () => {
    expect(layDrop(['a?.png', 'a*.png', 'a_.png'], []).files).toEqual(['a_.png', 'a_(2).png', 'a_(3).png']);
  });
  test('folders that differ in letter case stay two, the same one stays one', () => {
    expect(layDrop(['Kit/a.png', 'kit/a.png', 'Kit/b.png', 'Kit/A.png'], []).files).toEqual([
      'Kit/a.png',
      'kit(2)/a.png',
      'Kit/b.png',
      'Kit/A(2).png',
    ]);
  });
  test('a file and a folder of one name', () => {
    expect(layDrop(['x', 'x/a.png'], []).files).toEqual(['x', 'x(2)/a.png']);
  });
  test('what would leave the drop is refused; a backslash is a character like another', () => {
    for (const path of ['../a', '/a', 'a//b', 'a/./b', 'a\0', ''])
      expect(() => layDrop([path], [])).toThrow();
    expect(layDrop(['hull\\oak.png', 'C:'], []).files).toEqual(['hull_oak.png', 'C_']);
  });
  test('any names: legal, apart for every system, each told when it changed', () => {
    const part = fc.string({ minLength: 1, maxLength: 6, unit: fc.constantFrom(...'aAbB?*_ .:ä') });
    const path = fc.array(
      part.filter((p) => p !== '.' && p !== '..'),
      { minLength: 1, maxLength: 3 },
    );
    fc.assert(
      fc.property(fc.array(path, { maxLength: 30 }), (paths) => {
        const given = paths.map((p) => p.join('/'));
        const { files, notes } = layDrop(given, []);
        const here = files.filter((f) => f !== null);
        expect(here).toHaveLength(given.length);
        expect(new Set(here.map(foldName)).size).toBe(given.length);
        for (const f of here) expect(f.split('/').flatMap((p) => checkName(p))).toEqual([]);
        // No file lies where another needs a folder.
        const folders = new Set(
          here.flatMap((f) => f.split('/').map((_, i, all) => foldName(all.slice(0, i).join('/')))),
        );
        expect(here.filter((f) => folders.has(foldName(f)))).toEqual([]);
        expect(new Set(here).size === new Set(given).size || notes.length > 0).toBe(true);
      }),
    );
  });
});

test('what only a system reads stays outside, counted', () => {
  const laid = layDrop(
    ['kit/a.png', 'kit/.DS_Store', '__MACOSX/kit/._a.png', 'kit/Thumbs.db'],
    ['kit/empty'],
  );
  expect([laid.files, laid.folders]).toEqual([['kit/a.png', null, null, null], ['kit/empty']]);
  expect(laid.notes.map((n) => n.message)).toEqual([
    '3 entries that a system keeps for itself (__MACOSX, .DS_Store, Thumbs.db) stay outside.',
  ]);
});
