// The holding area on workspaces in memory: packs come in as they are, what is needed leaves with its parts, the rest can go.

import { expect, test } from '@jest/globals';
import { apply } from '../changes/apply';
import { applying } from '../changes/testing/contexts';
import type { Plan } from '../changes/plan';
import { memoryOutside } from '../changes/testing/memoryOutside';
import { MemoryTree } from '../files/memoryTree';
import { treePath } from '../files/treePath';
import { shippedLayouts } from '../layouts/layout';
import { isReady } from '../references/resolve';
import { scan } from '../references/scan';
import { usualUnits } from '../units/units';
import { planBin } from './planBin';
import { planIntake } from './planIntake';
import { planTake } from './planTake';
import { planYardstick } from './planYardstick';
import { settingOf, type Workspace } from './workspace';

const now = () => '2026-11-25T10:00:00.000Z';
const gltf = (...uris: string[]) =>
  JSON.stringify({ images: uris.map((uri) => ({ uri })), buffers: [{ uri: 'm.bin' }] });
const pack = {
  '/dl/pack/m.gltf': gltf('maps/a.png', 'maps/b.png'),
  '/dl/pack/m.bin': 'BIN',
  '/dl/pack/maps/a.png': 'A',
  '/dl/pack/maps/b.png': 'B',
  '/dl/pack/maps/c.png': 'C',
  '/dl/pack/read me.txt': 'hi',
  '/dl/pack/what?.txt': '?',
};
function open(files: Record<string, string> = {}) {
  const tree = new MemoryTree({ 'scenes/x.txt': '', ...files });
  return {
    root: '/work/boat',
    tree,
    outside: memoryOutside(pack),
    file: { homes: shippedLayouts[0]!.homes, libraries: [], places: [] },
  };
}
let n = 0;
const applied = async (w: ReturnType<typeof open>, plan: Plan) =>
  apply(w.tree, plan, applying(String(++n).padStart(4, '0'), { outside: w.outside }));
const users = (w: ReturnType<typeof open>) =>
  [...w.tree.files.keys()].filter((p) => !p.startsWith('.satchel/')).sort();
const broken = async (w: Workspace) => {
  const out: string[] = [];
  for await (const r of scan(w.tree, settingOf(w)))
    for (const x of r.references) if (!isReady(x)) out.push(x.written);
  return out;
};

test('a pack lies in the holding area as it came; a second of its name gives way', async () => {
  const w = open({ 'intake/pack/old.txt': 'old' });
  const plan = await planIntake(w, { from: '/dl/pack', name: 'pack' });
  expect(plan.notes.map((x) => x.code)).toEqual(['renamed']);
  await applied(w, plan);
  expect(users(w).filter((p) => p.startsWith('intake/pack(2)/'))).toEqual(
    ['maps/a.png', 'maps/b.png', 'maps/c.png', 'm.bin', 'm.gltf', 'read me.txt', 'what_.txt']
      .map((p) => `intake/pack(2)/${p}`)
      .sort(),
  );
  expect(await broken(w)).toEqual([]);
});

test('a scene leaves with its textures and buffer; the rest is cleared, and nothing in use goes', async () => {
  const w = open();
  await applied(w, await planIntake(w, { from: '/dl/pack', name: 'pack' }));
  const plan = await planTake(w, { paths: ['intake/pack/m.gltf', 'intake/pack/read me.txt'] });
  expect(plan.title).toBe('Take 2 files out of intake with 2 files needed');
  expect(plan.notes.map((x) => x.code)).toEqual(['no-kind']);
  await applied(w, plan);
  expect(users(w)).toEqual([
    'intake/pack/maps/c.png',
    'intake/pack/read me.txt',
    'intake/pack/what_.txt',
    'scenes/m.bin',
    'scenes/m.gltf',
    'scenes/x.txt',
    'textures/a.png',
    'textures/b.png',
  ]);
  expect(await broken(w)).toEqual([]);
  await applied(
    w,
    await planBin(
      w,
      ['maps/c.png', 'read me.txt', 'what_.txt'].map((f) => treePath(`intake/pack/${f}`)),
      now(),
    ),
  );
  expect(users(w)).toEqual([
    'scenes/m.bin',
    'scenes/m.gltf',
    'scenes/x.txt',
    'textures/a.png',
    'textures/b.png',
  ]);
});

test('an empty pack is refused', async () => {
  expect((await planIntake(open(), { from: '/dl/none', name: 'none' })).notes[0]).toMatchObject({
    level: 'blocker',
    code: 'nothing',
  });
});

test('a grid and box in every format asked for, beside the reference material', async () => {
  const w = open({ 'reference/grid and box 1 m.gltf': 'mine' });
  await applied(w, await planYardstick(w, { units: usualUnits, formats: ['gltf', 'obj'] }));
  expect(users(w).filter((p) => p.startsWith('reference/'))).toEqual([
    'reference/grid and box 1 m(2).gltf',
    'reference/grid and box 1 m.gltf',
    'reference/grid and box 1 m.obj',
  ]);
  expect(new TextDecoder().decode(w.tree.files.get('reference/grid and box 1 m.gltf')!.bytes)).toBe('mine');
});
