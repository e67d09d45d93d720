// What travels: classes of files, what a choice leaves out and breaks, time, and volumes that hold what they promise.

import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { aboutTime, driveKinds, secondsFor } from '../places/drives';
import { bagInfo, readInfo } from './manifest';
import {
  classOf,
  brokenBy,
  travelClasses,
  travellingOf,
  usualChoice,
  type Classing,
  type TravelLook,
} from './travelling';
import { overheadOf, volumeName, volumesFor } from './volumes';

const homes = {
  scene: 'scenes',
  texture: 'textures',
  cache: 'caches',
  render: 'renders',
  backup: 'backups',
  other: 'intake',
  reference: 'reference',
};
const classing: Classing = {
  homes,
  outputs: ['renders', 'exports'],
  older: new Set(['scenes/boat_v001.gltf', 'scenes/boat_v001.bin']),
  parts: new Set(['scenes/boat_v002.bin']),
  isRemade: (path) => path.startsWith('caches/sea/'),
  isIdle: (path) => path === 'textures/old.png',
  notes: new Set(['.satchel/versions/scenes/boat_v001.gltf.json']),
};

test.each([
  ['.satchel/workspace.json', 'scenes'],
  ['.satchel/store/a', 'history'],
  ['.satchel/bin/x/textures/a.png', 'history'],
  ['.satchel/versions/scenes/boat_v001.gltf.json', 'versions'],
  ['.satchel/versions/scenes/boat_v000.gltf.json', 'history'],
  ['scenes/boat_v002.gltf', 'scenes'],
  ['scenes/boat_v002.bin', 'scenes'],
  ['scenes/boat_v001.gltf', 'versions'],
  ['scenes/boat_v001.bin', 'versions'],
  ['backups/all.zip', 'versions'],
  ['textures/a.png', 'textures'],
  ['textures/old.png', 'unused'],
  ['reference/photo.jpg', 'other'],
  ['caches/sea/sea.0001.ply', 'remade'],
  ['caches/rope.abc', 'caches'],
  ['renders/lamp.0001.png', 'outputs'],
  ['exports/boat.glb', 'outputs'],
  ['intake/pack/a.png', 'intake'],
  ['notes.txt', 'other'],
])('%s is in %s', (path, expected) => {
  expect(classOf(path, classing)).toBe(expected);
});

const look: TravelLook = {
  files: [
    { path: 'scenes/a.gltf', size: 10, class: 'scenes' },
    { path: 'textures/a.png', size: 100, class: 'textures' },
    { path: 'caches/sea/1.ply', size: 1000, class: 'remade' },
    { path: 'intake/b.gltf', size: 5, class: 'intake' },
    { path: 'intake/b.png', size: 7, class: 'intake' },
    { path: '.satchel/store/x', size: 3, class: 'history' },
  ],
  needs: [
    [0, 1],
    [0, 2],
    [3, 4],
  ],
  outside: [{ name: 'kit', files: 2, bytes: 50, by: [0] }],
  missing: [],
};

describe('a choice', () => {
  test('all but the history, unless something else is said', () => {
    const t = travellingOf(look, usualChoice);
    expect([t.files, t.bytes, t.broken, t.leansOn]).toEqual([5, 1122, [], ['kit']]);
  });
  test('what is left out and needed is told with who needs it; what only needs itself is not', () => {
    const t = travellingOf(look, { ...usualChoice, without: ['history', 'remade', 'intake'] });
    expect(t.broken).toEqual([{ scene: 'scenes/a.gltf', target: 'caches/sea/1.ply', because: 'remade' }]);
    expect(brokenBy(t.broken).get('remade')).toEqual({ files: 1, scenes: ['scenes/a.gltf'] });
    expect(t.byClass.get('remade')).toEqual({ files: 1, bytes: 1000, travelling: 0 });
  });
  test('a hand counts before the class, the nearest folder before one further up', () => {
    const t = travellingOf(look, {
      without: ['remade'],
      byHand: [
        { path: 'caches', travels: true },
        { path: 'intake', travels: false },
        { path: 'intake/b.gltf', travels: true },
      ],
      along: ['kit'],
    });
    expect(t.travels).toEqual([true, true, true, true, false, true]);
    expect(t.broken).toEqual([{ scene: 'intake/b.gltf', target: 'intake/b.png', because: 'by-hand' }]);
    expect([t.files, t.bytes, t.leansOn]).toEqual([5 + 2, 10 + 100 + 1000 + 5 + 3 + 50, []]);
  });
  test('sums of classes are sums of files, whatever is chosen', () => {
    fc.assert(
      fc.property(fc.subarray([...travelClasses]), fc.boolean(), (without, hand) => {
        const t = travellingOf(look, {
          without,
          byHand: hand ? [{ path: 'textures', travels: false }] : [],
          along: [],
        });
        const own = look.files.filter((_, n) => t.travels[n]);
        expect([t.files, t.bytes]).toEqual([own.length, own.reduce((s, f) => s + f.size, 0)]);
        expect([...t.byClass.values()].reduce((s, c) => s + c.travelling, 0)).toBe(own.length);
      }),
    );
  });
});

test('time goes by bytes and by files', () => {
  const usb2 = driveKinds[0].speed;
  expect(secondsFor({ bytes: 12e6, files: 0 }, usb2)).toBe(1);
  expect(secondsFor({ bytes: 0, files: 1200 }, usb2)).toBe(100);
  expect([3, 60, 240, 7200, 3 * 86400].map(aboutTime)).toEqual([
    'a few seconds',
    'about a minute',
    'about 4 min',
    'about 2 h',
    'about 3 days',
  ]);
});

describe('volumes', () => {
  const files = fc.array(
    fc.record({ at: fc.string({ minLength: 1, maxLength: 60 }), size: fc.nat(50_000) }),
    { maxLength: 60 },
  );
  test('hold every file once, and no more than they may', () => {
    fc.assert(
      fc.property(files, (all) => {
        const volumes = volumesFor(all, 100_000, 20_000);
        expect(volumes.flat().length).toBe(all.length);
        expect(new Set(volumes.flat())).toEqual(new Set(all));
        for (const v of volumes)
          expect(v.reduce((s, f) => s + f.size, 0) + overheadOf(v, 20_000)).toBeLessThanOrEqual(100_000);
      }),
    );
  });
  test('a file that fits into none is named', () => {
    expect(() => volumesFor([{ at: 'sea.abc', size: 5e9 }], 4e9, 1000)).toThrow(/sea\.abc has 5\.00 GB/);
  });
  test('are called so that they sort, and stand before their ending', () => {
    expect([volumeName('harbour.zip', 2, 12), volumeName('harbour', 1, 3)]).toEqual([
      'harbour 02 of 12.zip',
      'harbour 1 of 3',
    ]);
  });
});

test('what bag-info.txt says is read back; long values go on in the next line (RFC 8493 §2.2.2)', () => {
  const lines = [
    ['Bag-Count', '1 of 3'],
    ['External-Description', 'two\nlines'],
  ] as const;
  expect(readInfo(bagInfo(lines))).toEqual([
    ['Bag-Count', '1 of 3'],
    ['External-Description', 'two lines'],
  ]);
});
