// What the page counts of a choice.

import { expect, test } from '@jest/globals';
import { usualChoice, type TravelLook } from '@/core/bags/travelling';
import { byHand, classLines, countOf, placesIn, withClass } from './choice';

const look: TravelLook = {
  files: [
    { path: 'scenes/a.gltf', size: 10, class: 'scenes' },
    { path: 'textures/wood/a.png', size: 100, class: 'textures' },
    { path: 'textures/b.png', size: 900, class: 'textures' },
    { path: '.satchel/store/x', size: 5, class: 'history' },
  ],
  needs: [[0, 1]],
  outside: [],
  missing: [],
};

test('classes of which there is something, with what leaving them out breaks', () => {
  const lines = classLines(countOf(look, withClass(usualChoice, 'textures', false)));
  expect(lines.map((l) => [l.id, l.is, l.breaks?.files ?? 0])).toEqual([
    ['scenes', 'in', 0],
    ['textures', 'out', 1],
    ['history', 'out', 0],
  ]);
  expect(classLines(countOf(look, byHand(usualChoice, 'textures/wood', false)))[1]!.is).toBe('some');
});

test('a place of the tree shows what lies right in it, the largest first', () => {
  const { travels } = countOf(look, byHand(usualChoice, 'textures/wood', false));
  expect(placesIn(look, travels, 'textures').map((p) => [p.name, p.isFolder, p.files, p.travelling])).toEqual(
    [
      ['b.png', false, 1, 1],
      ['wood', true, 1, 0],
    ],
  );
  expect(placesIn(look, travels, '').map((p) => p.name)).toEqual(['textures', 'scenes', '.satchel']);
});

test('a folder chosen by hand takes back what was chosen in it', () => {
  const first = byHand(usualChoice, 'textures/wood/a.png', false);
  expect(byHand(first, 'textures', true).byHand).toEqual([{ path: 'textures', travels: true }]);
  expect(byHand(byHand(usualChoice, 'a', false), 'ab', false).byHand).toHaveLength(2);
  expect(byHand(first, '', false).byHand).toEqual([{ path: '', travels: false }]);
});
