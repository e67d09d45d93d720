// The new folder as a tree, what a hand does in it, and the lines of what is needed.

import { expect, test } from '@jest/globals';
import { place } from '@/core/collect/placement';
import { reach } from '@/core/collect/reach';
import { byKind } from '@/core/collect/rules';
import type { HandStep } from '@/core/collect/hand';
import type { NeededWire } from '@/wire/collect';
import { groupsOf, linesOf, needsIn } from './needs';
import { freshName, nodesOf, nudged, stepTo, stepsInto, treeOf, type Node } from './tree';

const file = (
  from: string,
  kind: NeededWire['files'][number]['kind'],
  by: number[],
  more: Partial<NeededWire['files'][number]> = {},
): NeededWire['files'][number] => ({
  from,
  size: 10,
  kind,
  below: '',
  lies: from.startsWith('/w/') ? { in: 'root' } : { in: 'outside' },
  chosen: by.length === 0,
  owner: null,
  by,
  set: null,
  ...more,
});
const all = needsIn({
  root: '/w',
  files: [
    file('/w/scenes/a.gltf', 'scene', []),
    file('/w/scenes/b.gltf', 'scene', []),
    file('/w/look.mtlx', 'material', [0]),
    file('/x/iron.png', 'texture', [2, 1]),
    file('/y/iron.png', 'texture', [1]),
    file('/w/f/s.1.ply', 'cache', [1], { set: '/w/f/s.#.ply' }),
    file('/w/f/s.2.ply', 'cache', [1], { set: '/w/f/s.#.ply' }),
  ],
  sets: [['/w/f/s.#.ply', [5, 6]]],
  left: [{ why: 'missing', path: null, written: '../gone.png', files: 1, size: 0, via: null, by: [2] }],
  notes: [],
});
const without = (...unticked: string[]) => ({ ...all, ...reach(all, new Set(unticked)) });
const tree = (steps: HandStep[] = [], kept = all) =>
  treeOf(kept, place(kept, { root: '/w', libraries: [], rule: byKind({}), byHand: steps }));
const drawn = (nodes: readonly Node[]): string[] =>
  nodes.flatMap((n) => [`${n.path}${n.isFolder ? '/' : ''} ${n.files}`, ...drawn(n.children)]);

test('folders first, with how much lies in them; a set is one line', () => {
  expect(drawn(tree())).toEqual([
    'caches/ 2',
    'caches/s.#.ply 2',
    'materials/ 1',
    'materials/look.mtlx 1',
    'scenes/ 2',
    'scenes/a.gltf 1',
    'scenes/b.gltf 1',
    'textures/ 2',
    'textures/iron(2).png 1',
    'textures/iron.png 1',
  ]);
  expect(nodesOf(tree()).get('f:/y/iron.png')!.told).toBe('another file of this name');
});

test('what a hand does: into a folder, out of it, renamed; never into itself; a clash stands where it is', () => {
  const nodes = tree();
  const at = (key: string) => nodesOf(nodes).get(key)!;
  expect(stepsInto([at('d:textures'), at('f:/x/iron.png'), at('f:/w/f/s.#.ply')], 'scenes')).toEqual([
    { do: 'folder', path: 'textures', to: 'scenes/textures' },
    { do: 'put', from: '/w/f/s.#.ply', to: 'scenes/s.#.ply' },
  ]);
  expect([stepTo(at('d:scenes'), 'scenes/old'), stepTo(at('d:scenes'), 'scenes')]).toEqual([null, null]);
  expect([
    nudged(nodes, at('f:/x/iron.png'), 'out'),
    nudged(nodes, at('d:textures'), 'out'),
    nudged(nodes, at('d:textures'), 'in'),
    nudged(nodes, at('d:caches'), 'in'),
    nudged(nodes, at('f:/x/iron.png'), 'in'),
  ]).toEqual(['', null, 'scenes', 'materials', null]);
  const clash: HandStep[] = [
    { do: 'put', from: '/x/iron.png', to: 'a/iron.png' },
    { do: 'put', from: '/y/iron.png', to: 'a/iron.png' },
    { do: 'make', path: 'a/CON' },
    { do: 'make', path: 'empty' },
  ];
  const wrong = nodesOf(tree(clash));
  expect(wrong.get('f:/y/iron.png')).toMatchObject({ clash: 'Another file will lie there.', byHand: true });
  expect(wrong.get('d:a/CON')!.clash).toMatch(/Windows/);
  expect(wrong.get('d:empty')).toMatchObject({ files: 0, clash: null });
  expect([freshName(tree(clash), 'a'), freshName(tree([{ do: 'make', path: 'a/New Folder' }]), 'a')]).toEqual(
    ['new folder', 'new folder 2'],
  );
});

test('what is needed: what is out says who needs it, what only that needs is apart; groups', () => {
  const out = new Set(['/w/look.mtlx']);
  const lines = linesOf(all, without('/w/look.mtlx'), out);
  expect(lines.map((l) => [l.key, l.is, l.files, l.neededBy])).toEqual([
    ['/w/scenes/a.gltf', 'in', 1, []],
    ['/w/scenes/b.gltf', 'in', 1, []],
    ['/w/look.mtlx', 'out', 1, ['a.gltf']],
    ['/x/iron.png', 'in', 1, ['b.gltf']],
    ['/y/iron.png', 'in', 1, ['b.gltf']],
    ['/w/f/s.#.ply', 'in', 2, ['b.gltf']],
  ]);
  expect(
    linesOf(all, without('/w/scenes/b.gltf'), new Set(['/w/scenes/b.gltf']))
      .filter((l) => l.is === 'apart')
      .map((l) => [l.key, l.neededBy]),
  ).toEqual([
    ['/y/iron.png', ['b.gltf']],
    ['/w/f/s.#.ply', ['b.gltf']],
  ]);
  expect(groupsOf(all, lines, 'kind').map((g) => [g.name, g.files, g.size])).toEqual([
    ['Scenes', 2, 20],
    ['Textures', 2, 20],
    ['Materials', 0, 0],
    ['Caches and geometry', 2, 20],
  ]);
  expect(groupsOf(all, lines, 'place').map((g) => [g.name, g.lines.length])).toEqual([
    ['In the workspace', 4],
    ['Outside, anywhere', 2],
  ]);
  expect(groupsOf(all, lines, 'scene').map((g) => [g.name, g.lines.map((l) => l.key)])).toEqual([
    ['a.gltf', ['/w/look.mtlx', '/w/scenes/a.gltf']],
    ['b.gltf', ['/w/f/s.#.ply', '/w/scenes/b.gltf', '/y/iron.png']],
    ['Several scenes', ['/x/iron.png']],
  ]);
  // What is missing is so only as long as something needs it.
  expect(without('/w/scenes/a.gltf').left.map((l) => l.why)).toEqual(['unticked']);
});
