// Names against the published Windows rules (Microsoft, "Naming Files, Paths, and Namespaces"), and counters.

import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { usualPattern } from '../versions/habit';
import { seriesOf } from '../versions/series';

const beside = (scene: string, there: string[]) =>
  seriesOf({ kind: 'numbered', pattern: usualPattern }, treePath(scene), { there, compact: [] });
import { treePath } from '../files/treePath';
import { parseNumbered, withNumber } from './counters';
import { checkName, freeName, makeLegal, numberedBeside } from './portable';

const codes = (name: string) => checkName(name).map((p) => p.code);

describe('Windows naming rules', () => {
  test.each([...'<>:"/\\|?*'])('reserved character %s', (c) =>
    expect(codes(`a${c}b`)).toContain('reserved-character'),
  );
  test('control characters 1 to 31 and NUL', () => {
    for (let i = 0; i < 32; i++) expect(codes(`a${String.fromCharCode(i)}`)).toContain('reserved-character');
  });
  test.each([
    'CON',
    'PRN',
    'AUX',
    'NUL',
    ...Array.from({ length: 10 }, (_, i) => [`COM${i}`, `LPT${i}`]).flat(),
    'COM¹',
    'LPT³',
  ])('reserved name %s, any case, any extension', (name) => {
    for (const form of [name, name.toLowerCase(), `${name}.png`, `${name.toLowerCase()}.tar.gz`])
      expect(codes(form)).toContain('reserved-name');
  });
  test.each(['a.', 'a ', 'a. '])('%j ends in a dot or blank', (name) =>
    expect(codes(name)).toContain('trailing-dot-or-blank'),
  );
  test('255 is the longest, in units and in bytes', () => {
    expect(codes('a'.repeat(255))).toEqual([]);
    expect(codes('a'.repeat(256))).toContain('too-long');
    expect(codes('é'.repeat(128))).toContain('too-long');
  });
  test.each([
    'hull_base.png',
    '.gitkeep',
    'console.png',
    'com10.txt',
    'Näh.png',
    'a#1 (2).png',
    '2026-11 Harbour Lantern',
  ])('%s is legal', (name) => expect(codes(name)).toEqual([]));
  test('what makeLegal makes is legal (property)', () =>
    fc.assert(fc.property(fc.string({ maxLength: 60 }), (s) => codes(makeLegal(s)).length === 0)));
});

test('a free name keeps the extension', () => {
  const taken = new Set(['rope.png', 'rope(2).png']);
  expect(freeName('rope.png', (n) => taken.has(n))).toBe('rope(3).png');
});

describe('counters', () => {
  test.each([
    ['name_01.gltf', 'name_02.gltf'],
    ['name_001.gltf', 'name_002.gltf'],
    ['name.3.obj', 'name.4.obj'],
    ['name.3', 'name.4'],
    ['boat_v009.glb', 'boat_v010.glb'],
    ['boat-V7.glb', 'boat-V8.glb'],
    ['n_99.obj', 'n_100.obj'],
  ])('%s is followed by %s', (name, next) => {
    const parsed = parseNumbered(name)!;
    expect(withNumber(parsed, parsed.number)).toBe(name);
    expect(withNumber(parsed, parsed.number + 1)).toBe(next);
  });
  test.each(['harbour.gltf', 'mk2.gltf', '1001', 'a.gltf'])('%s has no number of its own', (name) =>
    expect(parseNumbered(name)).toBeNull(),
  );
  test('the next version is one above the highest, in the file’s own padding', () => {
    const series = beside('scenes/boat_v004.gltf', [
      'boat_v004.gltf',
      'boat_v012.gltf',
      'boat.gltf',
      'boat_v013.glb',
      'other_v020.gltf',
    ]);
    expect(series.versions.map((v) => v.number)).toEqual([null, 4, 12]);
    expect(series.next.path).toBe('scenes/boat_v013.gltf');
  });
  test('an unnumbered scene gets its first version beside it', () => {
    expect(beside('harbour.gltf', ['harbour.gltf']).next.path).toBe('harbour_v001.gltf');
    expect(beside('harbour.gltf', ['harbour.gltf', 'harbour_02.gltf']).next.path).toBe('harbour_03.gltf');
  });
});

test('a name beside one that is taken is no version and no frame, and never too long', () => {
  const long = `${'ü'.repeat(125)}.png`;
  const [next, deep] = [numberedBeside(long, 2), numberedBeside(`x.${'y'.repeat(253)}`, 12)];
  for (const name of [next, deep]) expect(checkName(name)).toEqual([]);
  expect([next.endsWith('(2).png'), deep.endsWith('(12)')]).toEqual([true, true]);
  const free = numberedBeside('boat.gltf', 2);
  expect([free, parseNumbered(free)]).toEqual(['boat(2).gltf', null]);
  expect(beside('scenes/boat.gltf', ['boat.gltf', free]).versions).toHaveLength(1);
});
