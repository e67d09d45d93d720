// What is still needed without what is left out.

import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { LeftOut, Need } from './closure';
import { reach } from './reach';

const need = (scene: string): Need => ({ scene, at: '', written: '' });
const file = (from: string, by: string[]) => ({
  set: from.startsWith('f.') ? 'f.#' : null,
  from,
  chosen: by.length === 0,
  neededBy: by.map(need),
  state: { size: 1, modified: 0, digest: null },
});
const all = (files: [string, string[]][], sets: [string, string[]][] = [], left: LeftOut[] = []) => ({
  files: new Map(files.map(([from, by]) => [from, file(from, by)])),
  sets: new Map(sets),
  left,
});
const kept = (of: ReturnType<typeof all>, ...unticked: string[]) => {
  const { files, left } = reach(of, new Set(unticked));
  return {
    files: [...files.keys()],
    left: left.map((l) => `${l.why} ${l.files === 1 ? '' : `${l.files} of `}${l.path}`),
  };
};

const harbour = all(
  [
    ['a.gltf', []],
    ['b.gltf', []],
    ['kit.mtlx', ['a.gltf']],
    ['parent.mtlx', ['kit.mtlx']],
    ['iron.png', ['kit.mtlx', 'b.gltf']],
    ['f.1', ['a.gltf']],
    ['f.2', ['a.gltf']],
  ],
  [['f.#', ['f.1', 'f.2']]],
  [{ why: 'missing', path: 'gone.png', files: 1, size: 0, via: null, neededBy: [need('parent.mtlx')] }],
);

test('what only a scene needs that stays behind, stays too; what is needed and left out is said with who needs it', () => {
  expect(kept(harbour).files).toHaveLength(7);
  expect(kept(harbour, 'kit.mtlx')).toEqual({
    files: ['a.gltf', 'b.gltf', 'iron.png', 'f.1', 'f.2'],
    left: ['unticked kit.mtlx'],
  });
  expect(kept(harbour, 'parent.mtlx')).toMatchObject({ left: ['unticked parent.mtlx'] });
  expect(kept(harbour, 'a.gltf')).toEqual({ files: ['b.gltf', 'iron.png'], left: ['unticked a.gltf'] });
  expect(reach(harbour, new Set(['kit.mtlx'])).files.get('iron.png')!.neededBy).toEqual([need('b.gltf')]);
});
test('a set by its path with marks, or single frames of it', () => {
  expect(kept(harbour, 'f.#').left).toEqual(['missing gone.png', 'unticked 2 of f.#']);
  expect(reach(harbour, new Set(), new Set(['f.2'])).left).toMatchObject([
    { why: 'missing' },
    { why: 'not-used', path: 'f.#', files: 1 },
  ]);
  expect(kept(harbour, 'f.2').files).toContain('f.1');
});

test('whatever needs whatever, rings too: all that is kept is needed by something kept, and nothing that is needed is forgotten', () => {
  const names = ['a', 'b', 'c', 'd', 'e', 'f'];
  const graph = fc.array(fc.tuple(fc.constantFrom(...names), fc.constantFrom(...names)), { maxLength: 20 });
  fc.assert(
    fc.property(graph, fc.subarray(names), (edges, unticked) => {
      const of = all(
        names.map((n) => [n, n === 'a' ? [] : edges.filter(([, to]) => to === n).map(([from]) => from)]),
      );
      const { files, left } = reach(of, new Set(unticked));
      for (const f of files.values()) {
        expect(unticked).not.toContain(f.from);
        expect(f.chosen || f.neededBy.some((n) => files.has(n.scene))).toBe(true);
      }
      const said = new Set(left.map((l) => l.path));
      for (const [from, to] of edges)
        if (files.has(from) && to !== 'a') expect(files.has(to) || said.has(to)).toBe(true);
    }),
  );
});
