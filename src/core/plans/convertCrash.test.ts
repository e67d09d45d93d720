// Conversions and what is taken out of scenes, cut off at every write: afterwards all is as before or as meant. And a source that changed in between.

import { describe, expect, test } from '@jest/globals';
import { Document, NodeIO } from '@gltf-transform/core';
import { zipSync } from 'fflate';
import { apply } from '../changes/apply';
import { applying, ledgerIn, recovering } from '../changes/testing/contexts';
import { crashing, type CrashKind } from '../changes/testing/crashingTree';
import { memoryOutside } from '../changes/testing/memoryOutside';
import type { Plan } from '../changes/plan';
import { layers } from '../convert/crate/testing/layers';
import { MemoryTree } from '../files/memoryTree';
import { treePath } from '../files/treePath';
import { partsOf } from '../repeats/parts';
import { planConvert } from './planConvert';
import { digestOf, planTakeOut } from './planTakeOut';
import type { Workspace } from './workspace';

type Files = Record<string, Uint8Array | string>;
const outside = memoryOutside({});
const workspaceOf = (tree: MemoryTree): Workspace => ({
  root: '/w',
  tree,
  outside,
  file: { homes: {}, libraries: [], places: [] },
});
const said = (tree: MemoryTree) =>
  Object.fromEntries(
    [...tree.files]
      .filter(([p]) => !p.startsWith('.satchel'))
      .map(([p, f]) => [p, Buffer.from(f.bytes).toString('base64')])
      .sort(),
  );
const text = (s: string) => new TextEncoder().encode(s);

async function glb(): Promise<Uint8Array> {
  const document = new Document();
  const picture = Uint8Array.from({ length: 200 }, (_, i) => (i * 37) & 255);
  picture.set([
    137, 80, 78, 71, 13, 10, 26, 10, 0, 0, 0, 13, 73, 72, 68, 82, 0, 0, 0, 1, 0, 0, 0, 1, 8, 2, 0, 0, 0,
  ]);
  const texture = document.createTexture('wood').setImage(picture).setMimeType('image/png');
  document.createMaterial('wood').setBaseColorTexture(texture);
  document.createBuffer();
  document.createScene();
  return new NodeIO().writeBinary(document);
}

const cases: [name: string, start: Files, plan: (w: Workspace) => Promise<Plan>][] = [
  [
    'PLY',
    { 'a.ply': 'ply\nformat ascii 1.0\nelement v 2\nproperty float x\nend_header\n1.5\n-2\n' },
    (w) => planConvert(w, { path: treePath('a.ply'), to: treePath('b.ply'), follow: false }),
  ],
  [
    'X3D in its classic form',
    {
      's/a.x3d': `<X3D version='3.3' profile='Core'><Scene><Shape><Box size='1 2 3'/></Shape></Scene></X3D>`,
    },
    (w) => planConvert(w, { path: treePath('s/a.x3d'), to: treePath('s/a.x3dv'), follow: false }),
  ],
  [
    'a USD crate in text',
    { 's/a.usdc': layers.variants! },
    (w) => planConvert(w, { path: treePath('s/a.usdc'), to: treePath('s/a.usda'), follow: false }),
  ],
  [
    'a package',
    { 's/a.usda': '#usda 1.0\ndef "A"\n{\n    asset t = @t/w.png@\n}\n', 's/t/w.png': 'W' },
    (w) => planConvert(w, { path: treePath('s/a.usda'), to: treePath('s/a.usdz'), follow: false }),
  ],
  [
    'a package apart',
    { 's/a.zae': zipSync({ 'x.dae': text('<COLLADA/>'), 't/w.png': text('W'.repeat(300)) }) },
    (w) => planConvert(w, { path: treePath('s/a.zae'), to: treePath('s/a.dae'), follow: false }),
  ],
  [
    'a picture taken out',
    { 'a.glb': await glb(), 'b.glb': await glb() },
    async (w) => {
      const [part] = await partsOf('glb', await w.tree.read(treePath('a.glb')));
      return planTakeOut(w, { scenes: ['a.glb', 'b.glb'].map(treePath), digest: digestOf(w, part!) });
    },
  ],
];

describe.each(cases)('%s', (_, start, planned) => {
  test.each<CrashKind>(['lost', 'torn', 'unreported'])('write %s', async (kind) => {
    const plan = await planned(workspaceOf(new MemoryTree(start)));
    const dry = new MemoryTree(start);
    const counted = crashing(dry, 0, kind);
    await apply(counted, plan, applying('c1'));
    const [before, after] = [said(new MemoryTree(start)), said(dry)];
    expect(after).not.toEqual(before);
    expect(counted.writes()).toBeGreaterThan(4);
    for (let n = 1; n <= counted.writes(); n++) {
      const tree = new MemoryTree(start);
      await apply(crashing(tree, n, kind), plan, applying('c1')).catch(() => undefined);
      await recovering(tree, outside);
      const isWhole = (await ledgerIn(tree))[0]?.state === 'applied';
      expect([n, said(tree)]).toEqual([n, isWhole ? after : before]);
    }
  });

  test('a source that changed since the plan is left, and nothing is made of it', async () => {
    const tree = new MemoryTree(start);
    const plan = await planned(workspaceOf(tree));
    const [first] = Object.keys(start);
    tree.set(first!, 'changed since');
    const before = said(tree);
    await expect(apply(tree, plan, applying('c2'))).rejects.toMatchObject({ code: 'stale-plan' });
    expect(said(tree)).toEqual(before);
  });
});
