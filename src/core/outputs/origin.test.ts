// Whose outputs are, told by names and times.

import { describe, expect, test } from '@jest/globals';
import type { TreePath } from '../files/treePath';
import { namePatternReader, nameOfPattern, usualPatterns } from '../names/patterns';
import { originsOf, outputSets, type KnownScene } from './origin';

const hour = 3600_000;
const file = (path: string, modified = 10 * hour) => ({ path: path as TreePath, size: 10, modified });
const scene = (at: string, versions: [number | null, number][], cameras: string[] | null): KnownScene => ({
  scene: at as TreePath,
  versions: versions.map(([number, modified]) => ({
    path: (number === null
      ? at
      : at.replace(/(_v\d+)?\./, `_v${String(number).padStart(3, '0')}.`)) as TreePath,
    number,
    modified: modified * hour,
  })),
  cameras,
});
const lamp = scene(
  'scenes/lamp_v003.gltf',
  [
    [1, 1],
    [2, 5],
    [3, 9],
  ],
  ['Front', 'Close up'],
);
const lampPost = scene('scenes/lamp_post.usda', [[null, 8]], ['main']);
const names = { pattern: usualPatterns.output, passes: null };
const of = (path: string, modified?: number, more: Partial<typeof names> = {}) => {
  const sets = outputSets([file(path, modified)]);
  return originsOf(sets, [lamp, lampPost], { ...names, ...more } as typeof names)[0];
};

describe('frames of one row are one output', () => {
  test('rows, versions, stills', () => {
    const sets = outputSets([
      file('renders/lamp.0001.png', 1),
      file('renders/lamp.0003.png', 3),
      file('renders/lamp_v001.png'),
      file('renders/lamp_v002.png'),
      file('renders/one.0007.exr'),
      file('renders/still 2.png'),
      file('renders/neg.-0001.exr'),
      file('renders/neg.0000.exr'),
      file('renders/a_9.png'),
      file('renders/a_10.png'),
    ]);
    expect(Object.fromEntries(sets.map((s) => [s.path, s.frames]))).toEqual({
      'renders/lamp.####.png': [1, 3],
      'renders/lamp_v001.png': null,
      'renders/lamp_v002.png': null,
      'renders/one.####.exr': [7],
      'renders/still 2.png': null,
      'renders/neg.####.exr': [-1, 0],
      'renders/a_#.png': [9, 10],
    });
    expect(sets.find((s) => s.path === 'renders/lamp.####.png')).toMatchObject({
      from: 1,
      to: 3,
      files: 2,
      size: 20,
    });
  });
});

describe('whose it is', () => {
  test.each([
    // Named by the pattern: sure.
    ['renders/2026-11-26 lamp v002 Front.png', 'lamp', 2, 'Front', 'sure'],
    ['renders/2026-11-26 lamp v002 close_up.0001.exr', 'lamp', 2, 'Close up', 'sure'],
    ['renders/2026-11-26 lamp_post main.png', 'lamp_post', null, 'main', 'likely'],
    // Its name is like one; the version stands in it, or in its folder.
    ['renders/lamp_v001_Front.png', 'lamp', 1, 'Front', 'sure'],
    ['renders/Lamp/v003/beauty.0001.exr', 'lamp', 3, null, 'likely'],
    ['renders/lamp-post.png', 'lamp_post', null, 'main', 'guess'],
    ['renders/lampPost_main.png', 'lamp_post', null, 'main', 'guess'],
    // A version that is not there is said, not made up.
    ['renders/lamp_v009.png', 'lamp', 9, null, 'guess'],
    // Only the time.
    ['renders/beauty.png', 'lamp', 3, null, 'guess'],
  ])('%s', (path, stem, number, camera, sure) => {
    const origin = of(path);
    expect(origin).toMatchObject({ number, camera, sure });
    expect(origin?.scene).toMatch(new RegExp(`/${stem}(_v003)?\\.`));
  });

  test('by time the version is the one that was worked on', () => {
    expect(of('renders/lamp beauty.png', 6 * hour)).toMatchObject({
      version: 'scenes/lamp_v002.gltf',
      number: 2,
    });
    expect(of('renders/lamp beauty.png', 0.5 * hour)).toMatchObject({
      version: null,
      number: null,
      sure: 'guess',
    });
    expect(of('renders/nothing.png', 40 * hour)).toBeNull();
  });

  test('an output is older than the version it names', () => {
    expect(of('renders/lamp_v002.png', 4 * hour)).toMatchObject({ changedSince: true });
    expect(of('renders/lamp_v002.png', 6 * hour)).toMatchObject({ changedSince: false });
  });

  test('by the list of passes', () => {
    const passes = 'renders/{scene}/{camera}/{pass}.{frame:4}.exr';
    expect(
      of('renders/lamp_v002/Front/depth.0001.exr', undefined, { passes: passes as never }),
    ).toMatchObject({
      number: 2,
      camera: 'Front',
      sure: 'sure',
    });
  });
});

test('what a pattern gave is read back, whatever was left out', () => {
  const date = { year: 2026, month: 11, day: 26 };
  for (const pattern of [
    usualPatterns.output,
    '{scene}_v{version:3}_{camera}_{date}',
    '{year}{month} {title} {scene}',
  ]) {
    const read = namePatternReader(pattern, { scene: 'the boat (2)' });
    for (const camera of ['', 'Top', 'a b'])
      for (const version of [undefined, 4]) {
        const name = nameOfPattern(pattern, { date, scene: 'the boat (2)', title: 'T', camera, version });
        const found = read(name);
        expect(found).not.toBeNull();
        if (pattern.includes('camera'))
          expect([found!.camera ?? '', found!.version ?? undefined]).toEqual([camera, version]);
      }
    expect(read('something else')).toBeNull();
  }
});
