// Prims out of USD texts, judged by OpenUSD 22: the stage, flattened to one text, says the same before and after. And pictures out of glTF in text.

import { describe, expect, test } from '@jest/globals';
import { hasOpenUsd, openUsd } from '../convert/crate/testing/openUsd';
import { apply } from '../changes/apply';
import { planUndo } from '../changes/invert';
import { readJournals } from '../changes/journal';
import { applying } from '../changes/testing/contexts';
import { memoryOutside } from '../changes/testing/memoryOutside';
import { MemoryTree } from '../files/memoryTree';
import { treePath } from '../files/treePath';
import { partsOf } from '../repeats/parts';
import { latin1, utf8 } from '../text/bytes';
import { parseJournalLine } from '../../wire/plan';
import { digestOf, planTakeOut } from './planTakeOut';
import type { Workspace } from './workspace';

const workspace = (files: Record<string, string>): Workspace & { tree: MemoryTree } => ({
  root: '/w',
  tree: new MemoryTree(files),
  outside: memoryOutside({}),
  file: { homes: { texture: 'textures' }, libraries: [], places: [] },
});
type Files = Record<string, Uint8Array>;
const filesOf = (w: { tree: MemoryTree }): Files =>
  Object.fromEntries(
    [...w.tree.files].filter(([p]) => !p.startsWith('.satchel')).map(([p, f]) => [p, f.bytes]),
  );

const rig = (path: string) => `def SkelRoot "Rig" (
    prepend apiSchemas = ["SkelBindingAPI"]
    kind = "component"
    doc = """a } brace and a < path in a string"""
    variants = {
        string look = "wet"
    }
    prepend variantSets = "look"
)
{
    # a comment with </Elsewhere> in it
    rel skel:skeleton = <${path}/Rig/Bones>
    asset note = @../docs/</Out>.txt@

    def Skeleton "Bones"
    {
        uniform token[] joints = ["a", "a/b"]
        double3 xformOp:translate.timeSamples = {
            0: (0, 0, 0),
            24: (1, 2, 3.5),
        }
        uniform token[] xformOpOrder = ["xformOp:translate"]
        float from.connect = <${path}/Rig/Bones.to>
        float to = 0.1
    }
    variantSet "look" = {
        "wet" {
            over "Bones"
            {
                rel near = <${path}/Rig/Bones>
            }
        }
    }
}`;
const scene = (
  own: string,
  head = 'metersPerUnit = 1\n    upAxis = "Z"\n    timeCodesPerSecond = 30',
) => `#usda 1.0
(
    "a scene"
    defaultPrim = "Boat"
    ${head}
)

def Xform "Boat" (
    kind = "assembly"
)
{
    def Xform "Hull"
    {
        string own = "${own}"
    }

    ${rig('/Boat')}
    float after = 1
}
`;
const digestIn = async (w: Workspace & { tree: MemoryTree }, path: string, name: string) => {
  const parts = await partsOf('usda', w.tree.files.get(path)!.bytes);
  return digestOf(
    w,
    parts.find((p) => p.name === name)!,
  );
};
const takeRig = async (w: Workspace & { tree: MemoryTree }, ...scenes: string[]) =>
  planTakeOut(w, { scenes: scenes.map(treePath), digest: await digestIn(w, scenes[0]!, 'Rig') });

/** The stage of a scene as one text; the name it gives a layer without one left out. */
const stage = (files: Files, name: string): string =>
  openUsd([{ name, bytes: files[name]!, beside: files, to: 'stage' }])[0]!.toString();

(hasOpenUsd ? test : test.skip)(
  'the stage says the same, the scenes are lighter, and it is undone to the byte',
  async () => {
    const w = workspace({ 'a.usda': scene('a'), 'b.usda': scene('b') });
    const before = filesOf(w);
    const plan = await takeRig(w, 'a.usda', 'b.usda');
    expect(plan.notes.map((n) => n.code)).toEqual(['lighter']);
    await apply(w.tree, plan, applying('t1'));
    const after = filesOf(w);
    expect(Object.keys(after).sort()).toEqual(['Rig.usda', 'a.usda', 'b.usda']);
    for (const name of ['a.usda', 'b.usda']) {
      const [was, is] = [stage(before, name), stage(after, name)];
      expect(is).toBe(was);
      expect(was).toContain('to = 0.1');
      expect(was).toContain('</Boat/Rig/Bones.to>');
      expect(latin1(after[name]!)).toContain('prepend references = @./Rig.usda@');
      expect(after[name]!.length).toBeLessThan(before[name]!.length / 2);
    }
    const [record] = await readJournals(w.tree, parseJournalLine);
    await apply(w.tree, await planUndo(w.tree, record!), applying('t2'));
    expect(filesOf(w)).toEqual(before);
  },
);

test('the same again names the file that is there; another of its name stays', async () => {
  const w = workspace({ 'a.usda': scene('a'), 'b.usda': scene('b') });
  await apply(w.tree, await takeRig(w, 'a.usda'), applying('t1'));
  const second = await takeRig(w, 'b.usda');
  expect(second.steps.map((s) => s.path)).toEqual(['b.usda']);
  const other = workspace({ 'a.usda': scene('a'), 'Rig.usda': '#usda 1.0\n' });
  expect((await takeRig(other, 'a.usda')).steps.map((s) => s.path)).toEqual(['Rig(2).usda', 'a.usda']);
});

describe('what would say something else stays inside', () => {
  test.each([
    ['sublayers', { 'a.usda': scene('a', 'subLayers = [@b.usda@]') }, /sublayers/],
    [
      'a sublayer of another scene',
      { 'a.usda': scene('a'), 'shot.usda': '#usda 1.0\n(\n    subLayers = [@./a.usda@]\n)\n' },
      /shot\.usda has it as a sublayer/,
    ],
    [
      'a path out of it',
      { 'a.usda': scene('a').replace('</Boat/Rig/Bones.to>', '</Boat/Hull.x>') },
      /refers to \/Boat\/Hull\.x/,
    ],
    [
      'a path to what is called nearly so',
      { 'a.usda': scene('a').replace('</Boat/Rig/Bones.to>', '</Boat/Rigging>') },
      /refers to \/Boat\/Rigging/,
    ],
    [
      'an instance',
      { 'a.usda': scene('a').replace('"Rig" (', '"Rig" (\n    instanceable = true') },
      /instanceable/,
    ],
    ['a class', { 'a.usda': scene('a').replace('def SkelRoot', 'class SkelRoot') }, /defined here/],
  ] as const)('%s', async (_, files, why) => {
    const w = workspace(files);
    const plan = await takeRig(w, 'a.usda');
    expect(plan.steps).toEqual([]);
    expect(plan.notes.map((n) => n.message).join()).toMatch(why);
  });

  test('a scene with another rate of frames', async () => {
    const w = workspace({ 'a.usda': scene('a'), 'b.usda': scene('b', 'timeCodesPerSecond = 25') });
    const plan = await takeRig(w, 'a.usda', 'b.usda');
    expect(plan.steps.map((s) => s.path)).toEqual(['Rig.usda', 'a.usda']);
    expect(plan.notes.map((n) => n.message).join()).toMatch(/b\.usda: There it is measured/);
  });
});

test('a picture of a glTF in text comes out of its data URI', async () => {
  const picture = Buffer.concat([
    Buffer.from([
      137, 80, 78, 71, 13, 10, 26, 10, 0, 0, 0, 13, 73, 72, 68, 82, 0, 0, 0, 1, 0, 0, 0, 1, 8, 2, 0, 0, 0,
    ]),
    Buffer.alloc(2000, 7),
  ]);
  const text = `{ "asset": {"version": "2.0"},\n  "images": [ {"name": "planks", "mimeType": "image/png", "uri": "data:image/png;base64,${picture.toString('base64')}"} ] }\n`;
  const w = workspace({ 'scenes/a.gltf': text });
  const [part] = await partsOf('gltf', utf8(text));
  await apply(
    w.tree,
    await planTakeOut(w, { scenes: [treePath('scenes/a.gltf')], digest: digestOf(w, part!) }),
    applying('t1'),
  );
  expect(Buffer.compare(filesOf(w)['textures/planks.png']!, picture)).toBe(0);
  expect(latin1(filesOf(w)['scenes/a.gltf']!)).toBe(
    '{ "asset": {"version": "2.0"},\n  "images": [ {"name": "planks", "mimeType": "image/png", "uri": "../textures/planks.png"} ] }\n',
  );
});
