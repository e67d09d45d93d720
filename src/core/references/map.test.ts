// The map: every reference is drawn in it or told by a number, however many there are, and what needs a hand is never hidden behind what is well.

import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { mapOf } from './map';
import type { SheetRow } from './sheet';

const row = (scene: string, target: string | null, more: Partial<SheetRow> = {}): SheetRow => ({
  scene,
  format: 'gltf',
  ord: 0,
  at: `/x/${target}`,
  kind: 'texture',
  written: `../${target ?? 'gone/a.png'}`,
  state: target === null ? 'missing' : 'travels',
  target,
  ready: target !== null,
  oddities: [],
  gaps: [],
  uses: [],
  size: 1,
  ...more,
});

test('scenes, the scenes they lead to, and what lies in each folder in each state', () => {
  const map = mapOf(
    [
      row('s/a.usda', 's/rig.usda', { kind: 'scene' }),
      row('s/a.usda', 't/1.png'),
      row('s/rig.usda', 't/2.png'),
      row('s/rig.usda', null),
    ],
    new Set(),
  );
  expect(map.nodes.map((n) => [n.id, n.column, n.files, n.references, n.attention])).toEqual([
    ['scene:s/a.usda', 0, 1, 2, 0],
    ['scene:s/rig.usda', 1, 1, 2, 1],
    ['folder:missing:../gone', 2, 1, 1, 1],
    ['folder:travels:t', 2, 2, 2, 0],
  ]);
  expect(map.links.map((l) => `${l.from} > ${l.to} ${l.references}/${l.attention}`)).toEqual([
    'scene:s/a.usda > scene:s/rig.usda 1/0',
    'scene:s/a.usda > folder:travels:t 1/0',
    'scene:s/rig.usda > folder:travels:t 1/0',
    'scene:s/rig.usda > folder:missing:../gone 1/1',
  ]);
  expect([map.scenes, map.files]).toEqual([2, 2]);
  const open = mapOf([row('s/a.usda', 't/1.png'), row('s/a.usda', 't/2.png')], new Set(['folder:travels:t']));
  expect(open.nodes.filter((n) => n.kind === 'file').map((n) => [n.label, n.opens])).toEqual([
    ['1.png', 'open'],
    ['2.png', 'open'],
  ]);
});

test('rings end, and a long chain does not run out of stack', () => {
  const ring = mapOf(
    [
      row('a.usda', 'b.usda', { kind: 'scene' }),
      row('b.usda', 'a.usda', { kind: 'scene' }),
      row('b.usda', 'b.usda', { kind: 'scene' }),
    ],
    new Set(),
  );
  expect(ring.links).toHaveLength(1);
  const chain = Array.from({ length: 5000 }, (_, i) => row(`${i}.usda`, `${i + 1}.usda`, { kind: 'scene' }));
  expect(mapOf(chain, new Set()).scenes).toBe(5001);
});

test('2,000 scenes stay readable: those that need a hand by themselves, first; the rest by folder; opened on demand', () => {
  const rows = Array.from({ length: 2000 }, (_, i) => [
    row(`shots/s${i % 30}/a${i}.gltf`, `textures/set${i % 90}/t${i}.png`),
    ...(i % 100 === 7 ? [row(`shots/s${i % 30}/a${i}.gltf`, null)] : []),
  ]).flat();
  const map = mapOf(rows, new Set());
  expect(map.nodes.length).toBeLessThan(80);
  expect(map.nodes.filter((n) => n.kind === 'scene')).toHaveLength(18);
  expect(map.nodes.filter((n) => n.kind === 'scene').every((n) => n.attention === 1)).toBe(true);
  const group = map.nodes.find((n) => n.kind === 'scenes')!;
  const opened = mapOf(rows, new Set([group.id]));
  expect(opened.nodes.filter((n) => n.opens === 'open' && n.kind === 'scene').length).toBeGreaterThan(10);
});

test('nothing is lost: references at the left and at the right add up, links lead from left to right between nodes that are there', () => {
  const some = fc.array(
    fc.record({
      scene: fc.integer({ min: 0, max: 40 }),
      to: fc.integer({ min: 0, max: 60 }),
      isScene: fc.boolean(),
      isLost: fc.boolean(),
    }),
    { maxLength: 120 },
  );
  fc.assert(
    fc.property(
      some,
      fc.array(fc.constantFrom('rest', 'scenes:f0', 'scenes:>f1', 'folder:travels:t0', 'folder:travels:t1')),
      (list, opened) => {
        const rows = list.map((r) =>
          row(
            `f${r.scene % 3}/${r.scene}.usda`,
            r.isLost ? null : r.isScene ? `f${r.to % 3}/${r.to}.usda` : `t${r.to % 25}/${r.to}.png`,
            r.isScene && !r.isLost ? { kind: 'scene' } : {},
          ),
        );
        const map = mapOf(rows, new Set(opened));
        const ids = new Set(map.nodes.map((n) => n.id));
        expect(ids.size).toBe(map.nodes.length);
        const from = map.nodes.filter((n) => n.kind === 'scene' || n.kind === 'scenes');
        expect(from.reduce((s, n) => s + n.references, 0)).toBe(rows.length);
        expect(from.reduce((s, n) => s + n.files, 0)).toBe(map.scenes);
        expect(map.nodes.filter((n) => !from.includes(n)).reduce((s, n) => s + n.references, 0)).toBe(
          rows.filter((r) => r.target === null || r.kind !== 'scene').length,
        );
        const column = new Map(map.nodes.map((n) => [n.id, n.column]));
        for (const l of map.links) expect(column.get(l.from)! < column.get(l.to)!).toBe(true);
      },
    ),
    { numRuns: 200 },
  );
});
