// Parts of scenes, one file and back, and settings taken over, cut off at every write: afterwards all is as before or as meant. And sources that changed in between.

import { describe, expect, test } from '@jest/globals';
import { zipSync } from 'fflate';
import { apply } from '../changes/apply';
import { applying, ledgerIn, recovering } from '../changes/testing/contexts';
import { crashing, type CrashKind } from '../changes/testing/crashingTree';
import { memoryOutside } from '../changes/testing/memoryOutside';
import type { Plan } from '../changes/plan';
import { outsideTree, type OutsideFiles } from '../files/fileTree';
import { MemoryTree } from '../files/memoryTree';
import { treePath } from '../files/treePath';
import { Lookup } from '../references/lookup';
import type { Both } from './carryNodes';
import { planCarryNodes } from './planCarryNodes';
import { planEmbed } from './planEmbed';
import { planExtract } from './planExtract';
import { planTakeOverScene } from './planTakeOver';

type Files = Record<string, string | Uint8Array>;

const bothOf = (tree: MemoryTree, outside: OutsideFiles): Both => ({
  source: {
    root: '/src',
    outside,
    setting: {
      root: '/src',
      lookup: new Lookup(outsideTree(outside, '/src'), '/src'),
      outside,
      libraries: [],
      places: [],
    },
    homes: {},
  },
  target: { root: '/w', tree, outside, file: { homes: {}, libraries: [], places: [] } },
});
const said = (tree: MemoryTree) =>
  Object.fromEntries(
    [...tree.files]
      .filter(([p]) => !p.startsWith('.satchel'))
      .map(([p, f]) => [p, Buffer.from(f.bytes).toString('base64')])
      .sort(),
  );
const asset = { version: '2.0' };
const png = Uint8Array.of(
  137,
  80,
  78,
  71,
  13,
  10,
  26,
  10,
  0,
  0,
  0,
  13,
  73,
  72,
  68,
  82,
  0,
  0,
  0,
  1,
  0,
  0,
  0,
  1,
  8,
  2,
  0,
  0,
  0,
);
const lamp = JSON.stringify({
  asset,
  nodes: [{ name: 'lamp', mesh: 0 }],
  meshes: [{ primitives: [{ attributes: { POSITION: 0 }, material: 0 }] }],
  materials: [{ name: 'brass', pbrMetallicRoughness: { baseColorTexture: { index: 0 } } }],
  textures: [{ source: 0 }],
  images: [{ uri: 'brass.png' }],
  accessors: [{ bufferView: 0, componentType: 5126, count: 3, type: 'VEC3' }],
  bufferViews: [{ buffer: 0, byteLength: 36 }],
  buffers: [{ uri: 'lamp.bin', byteLength: 36 }],
});
const source: Files = {
  '/src/lamp.gltf': lamp,
  '/src/lamp.bin': new Uint8Array(36).fill(7),
  '/src/brass.png': png,
  '/src/a.usda': '#usda 1.0\ndef "A"\n{\n    asset t = @t/w.png@\n}\n',
  '/src/t/w.png': 'W',
  '/src/p.zip': zipSync({
    'm/x.obj': Buffer.from('mtllib ../x.mtl\nv 0 0 0\n'),
    'x.mtl': Buffer.from('newmtl a\nmap_Kd t/w.png\n'),
    't/w.png': Buffer.from('W'.repeat(300)),
  }),
};
const nodes = (from: string, ids: string[], into: string) => ({
  from,
  nodes: ids,
  into: treePath(into),
  under: null,
  place: 'world' as const,
  clash: {},
  pictures: 'as-there' as const,
  buffer: 'own' as const,
});

const cases: [name: string, start: Files, plan: (b: Both) => Promise<Plan>, from: string][] = [
  [
    'a node of a glTF into another',
    { 's/b.gltf': JSON.stringify({ asset }) },
    async (b) => (await planCarryNodes(b, nodes('/src/lamp.gltf', ['0'], 's/b.gltf'))).plan,
    '/src/lamp.bin',
  ],
  [
    'a prim of a USD text into another',
    { 's/b.usda': '#usda 1.0\n' },
    async (b) => (await planCarryNodes(b, nodes('/src/a.usda', ['/A'], 's/b.usda'))).plan,
    '/src/t/w.png',
  ],
  [
    'a scene as one file',
    { 'x.txt': 'x' },
    (b) => planEmbed(b, { from: '/src/lamp.gltf', to: treePath('lamp.glb') }),
    '/src/lamp.bin',
  ],
  [
    'a package apart into the homes',
    { 'x.txt': 'x' },
    (b) => planExtract(b, { from: '/src/p.zip', into: null }),
    '/src/p.zip',
  ],
  [
    'settings of a scene',
    { 's/b.usda': '#usda 1.0\n' },
    (b) =>
      planTakeOverScene(
        b.target,
        {
          into: treePath('s/b.usda'),
          from: { name: 'a', format: 'usda', bytes: Buffer.from('#usda 1.0\n(\n    endTimeCode = 9\n)\n') },
          keys: new Set(['endTimeCode']),
        },
        'usda',
      ),
    '',
  ],
];

describe.each(cases)('%s', (_, start, planned, from) => {
  test.each<CrashKind>(['lost', 'torn', 'unreported'])('write %s', async (kind) => {
    const outside = memoryOutside(source);
    const plan = await planned(bothOf(new MemoryTree(start), outside));
    const dry = new MemoryTree(start);
    const counted = crashing(dry, 0, kind);
    await apply(counted, plan, applying('c1', { outside }));
    const [before, after] = [said(new MemoryTree(start)), said(dry)];
    expect(after).not.toEqual(before);
    for (let n = 1; n <= counted.writes(); n++) {
      const tree = new MemoryTree(start);
      await apply(crashing(tree, n, kind), plan, applying('c1', { outside })).catch(() => undefined);
      await recovering(tree, outside);
      const isWhole = (await ledgerIn(tree))[0]?.state === 'applied';
      expect([n, said(tree)]).toEqual([n, isWhole ? after : before]);
    }
  });

  if (from !== '')
    test('a source that changed since the plan is noticed, and all is put back', async () => {
      const tree = new MemoryTree(start);
      const plan = await planned(bothOf(tree, memoryOutside(source)));
      const outside = memoryOutside({ ...source, [from]: 'saved since' });
      const before = said(tree);
      await expect(apply(tree, plan, applying('c2', { outside }))).rejects.toMatchObject({
        code: 'stale-plan',
      });
      expect(said(tree)).toEqual(before);
    });
});
