// What was asked, held against what is handed in: each point met and not met.

import { describe, expect, test } from '@jest/globals';
import { checkHandIn, handInSentence, isLike, picturesAsked, type HandedIn, type HandInList } from './list';

const given: HandedIn = {
  name: 'week6_ada.zip',
  form: 'zip',
  files: [
    { path: 'scenes/boat_v001.gltf', size: 10 },
    { path: 'scenes/pier.gltf', size: 10 },
    { path: 'textures/a.png', size: 100 },
    { path: 'textures/wood/b.tga', size: 5000 },
  ],
  folders: ['scenes', 'textures', 'textures/wood', 'renders'],
  references: [
    {
      scene: 'scenes/boat_v001.gltf',
      written: '../textures/a.png',
      state: 'travels',
      isReady: true,
      gaps: 0,
    },
    { scene: 'scenes/pier.gltf', written: 'C:/x.png', state: 'missing', isReady: false, gaps: 0 },
    { scene: 'scenes/pier.gltf', written: 'gone.png', state: 'missing', isReady: false, gaps: 0 },
    { scene: 'scenes/pier.gltf', written: 'sea.####.ply', state: 'travels', isReady: false, gaps: 2 },
  ],
  units: [
    { path: 'scenes/boat_v001.gltf', metres: 1, upAxis: 'Y', by: 'definition' },
    { path: 'scenes/q.usda', metres: 0.01, upAxis: 'Z', by: 'file' },
    { path: 'm.obj', metres: null, upAxis: null, by: 'nobody' },
  ],
  pictures: new Map([
    ['textures/a.png', { width: 64, height: 48, bits: 8 }],
    ['textures/wood/b.tga', { width: null, height: null, bits: null }],
  ]),
  frames: null,
  profile: null,
};
const points = (list: Omit<HandInList, 'format' | 'name'>, of: Partial<HandedIn> = {}) =>
  checkHandIn({ format: 1, name: 'x', ...list }, { ...given, ...of });
const found = (list: Omit<HandInList, 'format' | 'name'>, of: Partial<HandedIn> = {}) =>
  points(list, of).map((p) => [p.ok, p.found.map((f) => `${f.path ?? ''} ${f.message}`.trim())]);

describe('each point', () => {
  test('what has to be there, files and folders, at least and at most', () => {
    expect(
      found({
        require: [
          { path: 'scenes/*.gltf', least: 2 },
          { path: 'renders/' },
          { path: 'exports' },
          { path: '*.gltf', most: 1 },
          { path: 'textures/**', least: 3 },
        ],
      }),
    ).toEqual([
      [true, []],
      [true, []],
      [false, ['there is none']],
      [false, ['there are 2']],
      [true, []],
    ]);
  });
  test('what must not be there; names; formats', () => {
    expect(found({ forbid: [{ path: '**/*.tga' }, { path: '*.psd' }] })).toEqual([
      [false, ['textures/wood/b.tga is not to be handed in']],
      [true, []],
    ]);
    const named = points({ names: [{ of: 'scenes/*', like: '*_v###' }] })[0]!;
    expect([named.found.map((f) => f.path), named.repair]).toEqual([['scenes/pier.gltf'], 'rename']);
    expect(found({ formats: [{ of: 'textures/**', allow: ['.PNG', 'exr'] }] })).toEqual([
      [false, ['textures/wood/b.tga is .tga']],
    ]);
  });
  test('pictures by their pixels; one that cannot be read is none', () => {
    const list = { pictures: [{ of: 'textures/**', most: 64, powersOfTwo: true }] };
    expect(found(list)).toEqual([
      [false, ['textures/a.png is 64 × 48', 'textures/wood/b.tga cannot be read as a picture']],
    ]);
    expect(picturesAsked({ format: 1, name: 'x', ...list }, given.files)).toHaveLength(2);
    expect(found({ pictures: [{ of: 'textures/a.png', most: 64, least: 48, bits: 8 }] })).toEqual([
      [true, []],
    ]);
    expect(found({ pictures: [{ of: 'textures/a.png', bits: 16 }] })[0]![0]).toBe(false);
  });
  test('nothing missing, nothing absolute: each told once', () => {
    const [complete, relative] = points({ references: { complete: true, relative: true } });
    expect(complete!.found.map((f) => f.message)).toEqual([
      'gone.png: missing',
      'sea.####.ply: 2 frames of it missing',
    ]);
    expect([relative!.found.length, relative!.repair, complete!.repair]).toEqual([1, 'relative', 'relink']);
  });
  test('units: what a format does not say is nobody’s fault', () => {
    expect(found({ units: { unit: 'm', upAxis: 'Y' } })).toEqual([
      [false, ['scenes/q.usda is in centimetres']],
    ]);
    expect(found({ units: { upAxis: 'Y' } })).toEqual([[false, ['scenes/q.usda has Z up']]]);
  });
  test('sizes, form and name of the delivery', () => {
    expect(found({ size: { file: 1000, all: 5000 }, form: { as: 'folder', named: 'week6_*' } })).toEqual([
      [false, ['textures/wood/b.tga has 5.00 kB']],
      [false, ['it has 5.12 kB']],
      [false, ['it is a ZIP']],
      [true, []],
    ]);
    // Of a workspace that is checked before it is packed, the form is still to come.
    expect(found({ form: { as: 'zip', named: 'other' } }, { form: 'workspace' })).toEqual([[true, []]]);
  });
  test('frames and the bag’s own rules as they were found', () => {
    expect(found({}, { frames: [] }).length).toBe(0);
    const profile = { 'BagIt-Profile-Info': { 'BagIt-Profile-Identifier': 'p' } };
    expect(found({ form: { profile } })).toEqual([[false, ['it is no bag']]]);
    expect(found({ form: { profile } }, { profile: [{ message: 'no' }] })).toEqual([[false, ['no']]]);
  });
});

test('a pattern of names: # one digit, * anything, the rest letter for letter', () => {
  expect([isLike('shot_v###')('shot_v012'), isLike('shot_v###')('shot_v12'), isLike('a.b*')('aXb')]).toEqual([
    true,
    false,
    false,
  ]);
  expect(isLike('w(e)ek+[6]')('w(e)ek+[6]')).toBe(true);
});

test('one sentence', () => {
  const list = points({ require: [{ path: 'renders' }, { path: 'exports' }] });
  expect(handInSentence(list)).toBe('1 of 2 points are met; one is not.');
  expect(handInSentence(list.slice(0, 1))).toBe('The one point is met.');
  expect(handInSentence([])).toBe('Nothing was asked for.');
});
