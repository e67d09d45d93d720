// Lists of passes: every file they expect, and the list that a complete folder shows.

import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  checkFilePattern,
  expectedRows,
  listOfFolder,
  outputPath,
  readOutputPath,
  type PassList,
} from './passes';

const file = 'renders/{scene}/{camera}/{pass}.{frame:4}.exr';

test('rows by scene, camera and pass; what a scene does not say the list says', () => {
  const list: PassList = {
    format: 1,
    file,
    frames: { first: 1, last: 3, step: 2 },
    passes: ['beauty', 'depth'],
    cameras: ['quay'],
    scenes: [
      { name: 'harbour', scene: 'scenes/harbour.gltf' },
      { name: 'boat', passes: ['beauty'], cameras: ['aft', 'bow'], frames: { first: -1, last: 0, step: 1 } },
    ],
  };
  expect(
    expectedRows(list).map((r) => [r.scene, r.camera, r.pass, r.from, r.frames.map((f) => f.path)]),
  ).toEqual([
    [
      'harbour',
      'quay',
      'beauty',
      'scenes/harbour.gltf',
      ['renders/harbour/quay/beauty.0001.exr', 'renders/harbour/quay/beauty.0003.exr'],
    ],
    [
      'harbour',
      'quay',
      'depth',
      'scenes/harbour.gltf',
      ['renders/harbour/quay/depth.0001.exr', 'renders/harbour/quay/depth.0003.exr'],
    ],
    [
      'boat',
      'aft',
      'beauty',
      null,
      ['renders/boat/aft/beauty.-0001.exr', 'renders/boat/aft/beauty.0000.exr'],
    ],
    [
      'boat',
      'bow',
      'beauty',
      null,
      ['renders/boat/bow/beauty.-0001.exr', 'renders/boat/bow/beauty.0000.exr'],
    ],
  ]);
});

test('a range that nobody could count is refused', () =>
  expect(() =>
    expectedRows({ format: 1, file, frames: { first: 0, last: 1e12, step: 1 }, scenes: [{ name: 'x' }] }),
  ).toThrow(RangeError));

test('what a path says is what it was made of', () => {
  const word = fc.stringMatching(/^[A-Za-z][A-Za-z0-9]{0,8}$/);
  fc.assert(
    fc.property(word, word, word, fc.integer({ min: -50, max: 20_000 }), (scene, camera, pass, frame) => {
      const path = outputPath(file, { scene, camera, pass, frame });
      expect(readOutputPath(file, path)).toEqual({ scene, camera, pass, frame });
    }),
  );
  expect(readOutputPath('{scene}/{scene}_{frame:2}.png', 'a/b_01.png')).toBeNull();
  expect(readOutputPath('{scene}/{scene}_{frame:2}.png', 'a/a_01.png')).toMatchObject({
    scene: 'a',
    frame: 1,
  });
  expect(readOutputPath('x(1)/{frame}.png', 'x(1)/7.png')).toMatchObject({ frame: 7 });
});

describe('the list of a complete folder', () => {
  test('expects what is there, and nothing else', () => {
    const paths = ['beauty', 'depth'].flatMap((pass) =>
      [10, 12, 14].map((frame) => outputPath(file, { scene: 's', camera: 'c', pass, frame })),
    );
    const list = listOfFolder(file, ['notes.txt', ...paths])!;
    expect(list.scenes).toEqual([
      { name: 's', cameras: ['c'], passes: ['beauty', 'depth'], frames: { first: 10, last: 14, step: 2 } },
    ]);
    expect(
      expectedRows(list)
        .flatMap((r) => r.frames.map((f) => f.path))
        .sort(),
    ).toEqual([...paths].sort());
  });
  test('nothing like it', () => expect(listOfFolder(file, ['a.png'])).toBeNull());
});

test.each(['renders/{scene}.exr', '../{frame}.exr', '/{frame}.exr', 'r/{shot}/{frame:4}.exr', ''])(
  '%s is told',
  (pattern) => expect(checkFilePattern(pattern)).not.toEqual([]),
);
