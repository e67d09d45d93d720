// Lists of passes: every file they expect, and the list that a complete folder shows.

import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  checkFilePattern,
  expectedRows,
  listOfFolder,
  outputPath,
  readOutputPath,
  wholeText,
  type PassList,
} from './passes';
import { readPassList } from '@/wire/passes';

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
  test.each([
    ['renders/boat/{pass}.{frame:4}.exr', 'boat'],
    ['renders/{pass}/{frame:4}.exr', 'renders'],
    ['{frame:4}.exr', 'outputs'],
  ])('a pattern without {scene} has one scene, called after its folder: %s', (pattern, name) => {
    const path = outputPath(pattern, { scene: '', camera: '', pass: 'beauty', frame: 7 });
    const list = listOfFolder(pattern, [path])!;
    expect(readPassList(JSON.stringify(list), 'passes.json')).toEqual(list);
    expect(list.scenes[0]!.name).toBe(name);
    expect(expectedRows(list).flatMap((r) => r.frames.map((f) => f.path))).toEqual([path]);
  });
  test('nothing like it', () => expect(listOfFolder(file, ['a.png'])).toBeNull());
});

test.each(['renders/{scene}.exr', '../{frame}.exr', '/{frame}.exr', 'r/{shot}/{frame:4}.exr', ''])(
  '%s is told',
  (pattern) => expect(checkFilePattern(pattern)).not.toEqual([]),
);

test.each([
  [{ expected: 4, whole: 4, unchecked: 0 }, 'All 4 files are there and whole.'],
  [{ expected: 4, whole: 3, unchecked: 0 }, '3 of 4 files are there and whole; 1 left.'],
  [
    { expected: 4, whole: 4, unchecked: 4 },
    'All 4 files are there. 4 of them are in a format that cannot be checked for files that are cut off: open them to be sure.',
  ],
])('the result of %j as a sentence', (of, text) => expect(wholeText(of)).toBe(text));
