// Relinking takes what is sure and names what is not. Checked on trees of memory, and by reading the scenes again after the plan.

import { describe, expect, test } from '@jest/globals';
import { apply } from '../changes/apply';
import { applying } from '../changes/testing/contexts';
import { memoryOutside } from '../changes/testing/memoryOutside';
import { MemoryTree } from '../files/memoryTree';
import { NameIndex, sureOne } from '../references/candidates';
import { editDistance } from '../references/nearNames';
import { Lookup } from '../references/lookup';
import { scan } from '../references/scan';
import { headsOf } from './lost';
import { planRelink, suggest } from './planRelink';

const gltf = (...uris: string[]) => JSON.stringify({ images: uris.map((uri) => ({ uri })) });

async function relinked(
  files: Record<string, string>,
  far: Record<string, string> = {},
  search: string[] = [],
) {
  const tree = new MemoryTree({ '.satchel/workspace.json': '{}', ...files });
  const outside = memoryOutside(far);
  const workspace = { root: '/w', tree, outside, file: { homes: {}, libraries: [], places: [] } };
  const plan = await planRelink(workspace, { search });
  if (plan.steps.length > 0) await apply(tree, plan, applying('20261123-000000-0000000', { outside }));
  const states: Record<string, [string, string | null]> = {};
  for await (const report of scan(tree, {
    root: '/w',
    lookup: new Lookup(tree),
    outside,
    libraries: [],
    places: [],
  }))
    for (const r of report.references) states[r.written] = [r.state, r.target];
  return { plan, states };
}

test('one file of the name is taken, wherever it lies; letters are put right', async () => {
  const { plan, states } = await relinked({
    's/a.gltf': gltf('../texture/hull.png', 'C:/old/rope.png', '../Textures/sail.PNG'),
    'textures/hull.png': '',
    'deep/er/rope.png': '',
    'textures/sail.png': '',
  });
  expect(states).toEqual({
    '../textures/hull.png': ['travels', 'textures/hull.png'],
    '../deep/er/rope.png': ['travels', 'deep/er/rope.png'],
    '../textures/sail.png': ['travels', 'textures/sail.png'],
  });
  expect(plan.readiness).toEqual({ before: 0, after: 3, of: 3 });
});

test('of two, the one whose folders agree; two alike are left and named', async () => {
  const { plan, states } = await relinked({
    's/a.gltf': gltf('D:/x/boat/wood/base.png', 'gone/mast.png'),
    'boat/wood/base.png': '',
    'crate/wood/base.png': '',
    'a/mast.png': '',
    'b/mast.png': '',
  });
  expect(states['../boat/wood/base.png']).toEqual(['travels', 'boat/wood/base.png']);
  expect(states['gone/mast.png']).toEqual(['missing', null]);
  expect(plan.notes.map((n) => n.code)).toEqual(['not-sure']);
  expect(plan.notes[0]!.message).toContain('a/mast.png');
});

test('a near spelling is a suggestion, never taken', async () => {
  const { plan, states } = await relinked({
    's/a.gltf': gltf('../t/hull_plank_base.png'),
    't/hull_planks_base.png': '',
  });
  expect(states['../t/hull_plank_base.png']![0]).toBe('missing');
  expect([plan.steps.length, plan.notes[0]!.code]).toEqual([0, 'not-sure']);
  expect(plan.notes[0]!.message).toContain('near spelling');
});

test('folders outside are looked in when they are named; what lies nowhere is said', async () => {
  const files = { 's/a.gltf': gltf('rust.png', 'nowhere.png') };
  const far = { '/far/pack/deep/rust.png': '' };
  expect((await relinked(files, far)).plan.steps).toHaveLength(0);
  const { plan, states } = await relinked(files, far, ['/far']);
  expect(states['/far/pack/deep/rust.png']).toEqual(['outside', '/far/pack/deep/rust.png']);
  expect(plan.notes.map((n) => n.code).sort()).toEqual(['missing', 'outside']);
});

describe('ranking', () => {
  test('inside before outside, more folders before fewer', () => {
    const index = new NameIndex();
    for (const [p, inside] of [
      ['/far/wood/base.png', false],
      ['x/base.png', true],
      ['wood/base.png', true],
      ['wood/Base.png', true],
    ] as const)
      index.add(p, inside);
    expect(index.candidatesFor('old/wood/base.png').map((c) => [c.path, c.reason, c.folders])).toEqual([
      ['wood/base.png', 'same name', 1],
      ['/far/wood/base.png', 'same name', 1],
      ['wood/Base.png', 'same name in other letters', 1],
      ['x/base.png', 'same name', 0],
    ]);
    expect(sureOne(index.candidatesFor('old/wood/base.png'))!.path).toBe('wood/base.png');
    expect(sureOne([])).toBeNull();
  });
  test.each([
    ['ages', 'images', 9, 2],
    ['a', 'a', 2, 0],
    ['kitten', 'sitting', 9, 3],
    ['abc', 'xyz', 1, 2],
  ])('%s and %s', (a, b, most, n) => expect(editDistance(a, b, most)).toBe(n));
});

describe('chosen by hand', () => {
  const files = {
    's/a.gltf': gltf(
      '../old/boat/hull.png',
      '../old/boat/deck.png',
      '../old/crate/wood.png',
      '../else/x.png',
    ),
    'deep/s/b.gltf': gltf('../../old/boat/hull.png'),
    'art/boat/hull.png': 'H',
    'art/boat/deck.png': 'D',
    'art/crate/wood.png': 'W',
    'copy/hull.png': 'H2',
  };
  const open = () => ({
    root: '/w',
    tree: new MemoryTree({ '.satchel/workspace.json': '{}', ...files }),
    outside: memoryOutside({ '/far/hull.png': 'F' }),
    file: { homes: {}, libraries: [], places: [] },
  });
  const choice = { scene: 's/a.gltf', at: '/images/0/uri', to: 'art/boat/hull.png' };
  test('one choice changes one path', async () => {
    const plan = await planRelink(open(), { search: [], choices: [choice] });
    expect([plan.paths.map((p) => [p.before, p.after]), plan.readiness]).toEqual([
      [['../old/boat/hull.png', '../art/boat/hull.png']],
      { before: 0, after: 1, of: 5 },
    ]);
  });
  test('what moved the same way follows, from every scene, and nothing else', async () => {
    const plan = await planRelink(open(), { search: [], choices: [choice], sameWay: true });
    expect(plan.paths.map((p) => `${p.scene} ${p.after}`).sort()).toEqual([
      'deep/s/b.gltf ../../art/boat/hull.png',
      's/a.gltf ../art/boat/deck.png',
      's/a.gltf ../art/boat/hull.png',
      's/a.gltf ../art/crate/wood.png',
    ]);
  });
  test('to a file outside the root, which is told', async () => {
    const plan = await planRelink(open(), { search: [], choices: [{ ...choice, to: '/far/hull.png' }] });
    expect([plan.paths[0]!.after, plan.notes.map((n) => n.code)]).toEqual(['/far/hull.png', ['outside']]);
  });
  test('suggestions say why, which is sure, and how many would follow', async () => {
    const { candidates } = await suggest(
      open(),
      { scene: 's/a.gltf', at: '/images/0/uri' },
      { search: ['/far'] },
    );
    expect(candidates.map((c) => [c.path, c.why, c.isSure, c.sameWay])).toEqual([
      ['art/boat/hull.png', 'same name, 1 folder agrees, beside 1 of its neighbours', true, 3],
      ['copy/hull.png', 'same name', false, 1],
      ['/far/hull.png', 'same name, outside the root', false, 1],
    ]);
  });
  test('what was seen there tells a renamed file by its size', async () => {
    const w = open();
    w.tree.set('art/boat/new name.png', 'x'.repeat(300));
    w.tree.set('s/c.gltf', gltf('../art/boat/sail.png'));
    const { candidates } = await suggest(
      w,
      { scene: 's/c.gltf', at: '/images/0/uri' },
      { search: [], seen: new Map([['art/boat/sail.png', { size: 300 }]]) },
    );
    expect(candidates[0]).toMatchObject({
      path: 'art/boat/new name.png',
      reason: 'same size and kind',
      isSure: false,
    });
  });
  test('only the chosen ones, where they are sure', async () => {
    const plan = await planRelink(open(), {
      search: [],
      sure: true,
      only: [{ scene: 's/a.gltf', at: '/images/2/uri' }],
    });
    expect(plan.paths.map((p) => p.after)).toEqual(['../art/crate/wood.png']);
  });
});

test.each([
  ['old/boat/hull.png', 'art/boat/hull.png', 'old', 'art'],
  ['a/x.png', 'b/c/x.png', 'a', 'b/c'],
  ['/d/p/q/x.png', 'q/x.png', '/d/p', ''],
  ['x.png', 'sub/x.png', '', 'sub'],
])('%s went to %s: %s became %s', (meant, to, from, into) => {
  expect(headsOf(meant, to)).toEqual({ from, to: into });
});

test('by hand any state is pointed elsewhere: what is found, what is offline, what is on the web; none of these is ever taken unasked', async () => {
  const scene = gltf('t/a.png', 'E:/skies/b.png', 'https://example.org/c.png');
  const tree = new MemoryTree({
    '.satchel/workspace.json': '{}',
    's.gltf': scene,
    't/a.png': 'a',
    't/z.png': 'z',
  });
  const outside = memoryOutside({ '/far/y.png': '' });
  const workspace = {
    root: '/w',
    tree,
    outside,
    file: {
      homes: {},
      libraries: [],
      places: [{ name: 'Blue stick', heads: ['E:/', '/Volumes/Blue stick'] }],
    },
  };
  expect((await planRelink(workspace, { search: [] })).steps).toEqual([]);
  const plan = await planRelink(workspace, {
    search: [],
    choices: [0, 1, 2].map((i) => ({
      scene: 's.gltf',
      at: `/images/${i}/uri`,
      to: i === 0 ? '/far/y.png' : 't/z.png',
    })),
    sameWay: true,
  });
  expect(plan.paths.map((p) => [p.before, p.after])).toEqual([
    ['t/a.png', '/far/y.png'],
    ['E:/skies/b.png', 't/z.png'],
    ['https://example.org/c.png', 't/z.png'],
  ]);
  // One that was ready is so no more, two have become so.
  expect(plan.readiness).toEqual({ before: 1, after: 2, of: 3 });
});

describe('a bare equal name is not sure', () => {
  test.each<[string, Record<string, string>]>([
    [
      'another prop’s own',
      {
        'chair/a.gltf': gltf('tex/diffuse.png'),
        'table/b.gltf': gltf('tex/diffuse.png'),
        'table/tex/diffuse.png': 'table',
      },
    ],
    ['another size', { 's/a.gltf': gltf('4k/wood.png'), 's/1k/wood.png': 'small' }],
    [
      'two different ones, and a third that is neither',
      { 's/a.gltf': gltf('../one/t/color.png', '../two/t/color.png'), 'three/t/color.png': 'x' },
    ],
  ])('%s is left to choose', async (_, files) => {
    const { plan } = await relinked(files);
    expect(plan.steps).toEqual([]);
    expect([...new Set(plan.notes.map((n) => n.code))]).toEqual(['not-sure']);
  });
  test('a candidate that is gone when the plan is applied makes it stale', async () => {
    const tree = new MemoryTree({ 's/a.gltf': gltf('../texture/hull.png'), 'textures/hull.png': 'H' });
    const outside = memoryOutside({});
    const workspace = { root: '/w', tree, outside, file: { homes: {}, libraries: [], places: [] } };
    const plan = await planRelink(workspace, { search: [] });
    expect(plan.steps).toHaveLength(1);
    await tree.remove('textures/hull.png' as never);
    await expect(apply(tree, plan, applying('x', { outside }))).rejects.toMatchObject({ code: 'stale-plan' });
  });
});

test('a file chosen by hand for a set of tiles or frames takes the set', async () => {
  const tree = new MemoryTree({
    's/a.usda': '#usda 1.0\ndef "A" { asset x = @./wall.<UDIM>.png@ }',
    't/brick.1001.jpg': '1',
    't/brick.1002.jpg': '2',
  });
  const workspace = {
    root: '/w',
    tree,
    outside: memoryOutside({}),
    file: { homes: {}, libraries: [], places: [] },
  };
  const choices = [{ scene: 's/a.usda', at: '/A.x', to: 't/brick.1001.jpg' }];
  const plan = await planRelink(workspace, { search: [], choices });
  expect(plan.paths.map((p) => p.after)).toEqual(['../t/brick.<UDIM>.jpg']);
});

describe('sets of tiles and frames', () => {
  const usd = (...paths: string[]) =>
    `#usda 1.0\n${paths.map((p, i) => `def "A${i}" { asset x = @${p}@ }\n`).join('')}`;
  const open = (files: Record<string, string>, far: Record<string, string> = {}) => ({
    root: '/w',
    tree: new MemoryTree(files),
    outside: memoryOutside(far),
    file: { homes: {}, libraries: [], places: [] },
  });
  const tiles = (folder: string, ...numbers: number[]) =>
    Object.fromEntries(numbers.map((n) => [`${folder}/hull plank.${n}.png`, `${folder} ${n}`]));
  const after = async (w: ReturnType<typeof open>, plan: Awaited<ReturnType<typeof planRelink>>) => {
    await apply(w.tree, plan, applying('20261126-000000-0000000', { outside: w.outside }));
    const found: [string, number, number[]][] = [];
    for await (const r of scan(w.tree, {
      ...w.file,
      root: '/w',
      lookup: new Lookup(w.tree),
      outside: w.outside,
    }))
      for (const x of r.references) found.push([x.written, x.targets, x.gaps]);
    return found;
  };

  test('a set that moved is found whole; of two folders the one that agrees', async () => {
    const w = open({
      's/a.usda': usd('../old/boat/hull plank.<UDIM>.png', './gone.####.png'),
      ...tiles('art/boat', 1001, 1002, 1011),
      ...tiles('crate', 1001),
    });
    const plan = await planRelink(w, { search: [] });
    expect([plan.readiness, plan.notes.map((n) => n.code)]).toEqual([
      { before: 0, after: 1, of: 2 },
      ['missing'],
    ]);
    expect(await after(w, plan)).toEqual([
      ['../art/boat/hull plank.<UDIM>.png', 3, []],
      ['./gone.####.png', 0, []],
    ]);
  });
  test('a set that moved is offered, and what else went the same way', async () => {
    const w = open({
      's/a.usda': usd('../old/boat/hull plank.<UDIM>.png', '../old/boat/rope.png'),
      ...tiles('art/boat', 1001, 1002),
      'art/boat/rope.png': 'R',
    });
    const { candidates } = await suggest(w, { scene: 's/a.usda', at: '/A0.x' }, { search: [] });
    expect(candidates.map((c) => [c.path, c.isSure, c.sameWay])).toEqual([
      ['art/boat/hull plank.<UDIM>.png', true, 1],
    ]);
    const choices = [{ scene: 's/a.usda', at: '/A1.x', to: 'art/boat/rope.png' }];
    const plan = await planRelink(w, { search: [], choices, sameWay: true });
    expect(plan.paths.map((p) => p.after).sort()).toEqual([
      '../art/boat/hull plank.<UDIM>.png',
      '../art/boat/rope.png',
    ]);
  });
  test('a tile that lies elsewhere comes to its set, and the scene stays as it is', async () => {
    const scene = usd('../t/hull plank.<UDIM>.png');
    const w = open({
      's/a.usda': scene,
      's/b.usda': scene,
      ...tiles('t', 1001, 1003),
      ...tiles('x/t', 1002),
    });
    const { candidates } = await suggest(w, { scene: 's/a.usda', at: '/A0.x' }, { search: [] });
    expect(candidates.map((c) => [c.path, c.isSure])).toEqual([['x/t/hull plank.1002.png', true]]);
    const plan = await planRelink(w, { search: [] });
    expect([plan.title, plan.readiness]).toEqual([
      'Bring 1 missing file to its set',
      { before: 0, after: 2, of: 2 },
    ]);
    expect(await after(w, plan)).toEqual([
      ['../t/hull plank.<UDIM>.png', 3, []],
      ['../t/hull plank.<UDIM>.png', 3, []],
    ]);
    expect([
      new TextDecoder().decode(await w.tree.read('t/hull plank.1002.png' as never)),
      await w.tree.kind('x/t/hull plank.1002.png' as never),
    ]).toEqual(['x/t 1002', 'file']);
  });
  test('chosen by hand: a folder with less is looked to for what is missing, one with all of it takes the set', async () => {
    const files = {
      's/a.usda': usd('../t/hull plank.<UDIM>.png'),
      ...tiles('t', 1001, 1003),
      ...tiles('some', 1002, 1005),
    };
    const far = tiles('/far', 1001, 1002, 1003);
    const choose = (to: string) =>
      planRelink(open(files, far), { search: [], choices: [{ scene: 's/a.usda', at: '/A0.x', to }] });
    const some = await choose('some/hull plank.1002.png');
    expect([some.paths, some.steps.map((s) => `${s.do} ${s.path}`)]).toEqual([
      [],
      ['put t/hull plank.1002.png'],
    ]);
    expect((await choose('/far/hull plank.1003.png')).paths.map((p) => p.after)).toEqual([
      '/far/hull plank.<UDIM>.png',
    ]);
  });
  test('two tiles of one number, or another set’s own, are left to choose', async () => {
    const two = open({
      's/a.usda': usd('../t/hull plank.<UDIM>.png'),
      ...tiles('t', 1001, 1003),
      ...tiles('x/t', 1002),
      ...tiles('y/t', 1002),
    });
    const theirs = open({
      's/a.usda': usd('../t/base_color.<UDIM>.png', '../u/base_color.<UDIM>.png'),
      't/base_color.1001.png': '',
      't/base_color.1003.png': '',
      'u/base_color.1001.png': '',
      'u/base_color.1002.png': '',
    });
    for (const w of [two, theirs]) {
      const plan = await planRelink(w, { search: [] });
      expect([plan.steps, plan.notes.map((n) => n.code)]).toEqual([[], ['not-sure']]);
    }
  });
});
