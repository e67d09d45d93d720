// Moves, homes, tidying and adopting on whole workspaces in memory: every reference that was found before is found after, leads to the same
// content, and undo gives back the same bytes in the same places.

import { markerPath } from '../files/records';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { gzipSync } from 'fflate';
import { parseJournalLine } from '../../wire/plan';
import { apply } from '../changes/apply';
import { planUndo } from '../changes/invert';
import { readJournals } from '../changes/journal';
import type { Plan } from '../changes/plan';
import { crashing } from '../changes/testing/crashingTree';
import { memoryOutside } from '../changes/testing/memoryOutside';
import { applying, recovering } from '../changes/testing/contexts';
import { MemoryTree } from '../files/memoryTree';
import { treePath } from '../files/treePath';
import { readLayout, shippedLayouts, writeLayout } from '../layouts/layout';
import { writeWorkspaceFile, type WorkspaceFile } from '../layouts/workspace';
import { scan, targetsOf } from '../references/scan';
import { newWorkspaceFile, planCreate } from './planCreate';
import { planAdopt } from './planAdopt';
import { planBin } from './planBin';
import { planHomes } from './planHomes';
import { planLayout } from './planLayout';
import { planMove } from './planMove';
import type { MarkedWorkspace } from './marker';
import { outOfPlace, planTidy } from './planTidy';
import { settingOf } from './workspace';
import { howMany } from '../files/testing/depth';

const layout = shippedLayouts[0]!;
const now = () => '2026-11-25T10:00:00.000Z';
type Held = MarkedWorkspace & { tree: MemoryTree };

function workspaceOf(
  files: Record<string, string>,
  outside: Record<string, string> = {},
  more: Partial<WorkspaceFile> = {},
): Held {
  const file = { ...newWorkspaceFile({ name: 'Boat', layout, without: [], created: now() }), ...more };
  const tree = new MemoryTree({ ...files, [markerPath]: writeWorkspaceFile(file) });
  for (const f of file.folders)
    for (const [i] of f.split('/').entries())
      tree.folders.add(
        f
          .split('/')
          .slice(0, i + 1)
          .join('/'),
      );
  return { root: '/work/boat', tree, outside: memoryOutside(outside), file };
}
function plain(files: Record<string, string>): Held {
  const file: WorkspaceFile = {
    format: 1,
    name: 'boat',
    created: '',
    layout: '',
    folders: [],
    homes: {},
    libraries: [],
    places: [],
  };
  return { root: '/work/boat', tree: new MemoryTree(files), outside: memoryOutside({}), file };
}
const gltf = (uris: string[], buffers: string[] = []) =>
  JSON.stringify({
    asset: { version: '2.0' },
    images: uris.map((uri) => ({ uri })),
    buffers: buffers.map((uri) => ({ uri })),
  });
let n = 0;
const applied = async (w: Held, plan: Plan) =>
  apply(w.tree, plan, applying(`${String(++n).padStart(5, '0')}`, { outside: w.outside }));
const text = (w: Held, p: string) => new TextDecoder().decode(w.tree.files.get(p)!.bytes);
const users = (w: Held) =>
  Object.fromEntries(
    [...w.tree.files]
      .filter(([p]) => p === markerPath || !p.startsWith('.satchel/'))
      .map(([p]) => [p, text(w, p)])
      .sort(),
  );
const folders = (w: Held) => [...w.tree.folders].filter((f) => !f.startsWith('.satchel')).sort();

/** What every reference that is found leads to: content of what it names, scenes by a mark that does not change. */
async function ends(w: Held): Promise<string[]> {
  const out: string[] = [];
  for await (const report of scan(w.tree, settingOf(w))) {
    for (const r of report.references) {
      if (r.target === null) continue;
      const content = r.inside
        ? targetsOf(r)
            .map((t) => (/\.(gltf|obj|mtl|usda)$/.test(t) ? t.slice(t.lastIndexOf('.')) : text(w, t)))
            .join('+')
        : r.target;
      out.push(`${report.format} ${r.at} → ${content}`);
    }
  }
  return out.sort();
}
async function undo(w: Held): Promise<void> {
  const records = await readJournals(w.tree, parseJournalLine);
  await applied(
    w,
    await planUndo(
      w.tree,
      records.findLast((r) => r.plan.kind !== 'undo')!,
    ),
  );
}

describe('renaming and moving', () => {
  const files = {
    'scenes/a.gltf': gltf(
      ['../textures/oak%20bark.png', '/work/boat/textures/b.png', '../../boat/textures/b.png', 'gone.png'],
      ['a.bin'],
    ),
    'scenes/a.bin': 'BIN',
    'textures/oak bark.png': 'OAK',
    'textures/b.png': 'B',
    'models/c.obj': 'mtllib c.mtl\n',
    'models/c.mtl': 'newmtl c\nmap_Kd ..\\textures\\b.png\n',
    '.satchel/versions/scenes/a.gltf.json': '{"note":"x"}',
  };
  test('a file: every path to it, in the style it was written; absolute stays absolute', async () => {
    const w = workspaceOf(files);
    const before = users(w);
    await applied(w, await planMove(w, [{ path: 'textures/b.png', to: 'textures/work/deck #1.png' }]));
    expect(text(w, 'scenes/a.gltf')).toContain('"/work/boat/textures/work/deck%20%231.png"');
    expect(text(w, 'scenes/a.gltf')).toContain('"gone.png"');
    expect(text(w, 'models/c.mtl')).toBe('newmtl c\nmap_Kd ../textures/work/deck #1.png\n');
    await undo(w);
    expect(users(w)).toEqual(before);
  });
  test('a scene takes its own paths and its notes along; what is missing stays as it was written', async () => {
    const w = workspaceOf(files);
    const before = await ends(w);
    await applied(w, await planMove(w, [{ path: 'scenes/a.gltf', to: 'scenes/deep/er/a.gltf' }]));
    expect(await ends(w)).toEqual(before);
    expect(text(w, 'scenes/deep/er/a.gltf')).toContain('"gone.png"');
    expect(w.tree.files.has('.satchel/versions/scenes/deep/er/a.gltf.json')).toBe(true);
  });
  test('a folder is one step, and a home that moves is noted in the marker', async () => {
    const w = workspaceOf(files);
    const [before, all] = [await ends(w), users(w)];
    const plan = await planMove(w, [{ path: 'textures', to: 'art/tex' }]);
    expect(plan.steps.filter((s) => s.do === 'move-folder').map((s) => s.path)).toEqual(['textures']);
    await applied(w, plan);
    expect(JSON.parse(text(w, markerPath)).homes.texture).toBe('art/tex');
    expect(await ends(w)).toEqual(before);
    await undo(w);
    expect(users(w)).toEqual(all);
  });
  test('names swapped, and a ring of three', async () => {
    const w = workspaceOf({
      's.gltf': gltf(['1.png', '2.png', '3.png']),
      '1.png': 'ONE',
      '2.png': 'TWO',
      '3.png': 'THREE',
    });
    const before = await ends(w);
    await applied(
      w,
      await planMove(w, [
        { path: '1.png', to: '2.png' },
        { path: '2.png', to: '3.png' },
        { path: '3.png', to: '1.png' },
      ]),
    );
    expect([text(w, '2.png'), text(w, '3.png'), text(w, '1.png')]).toEqual(['ONE', 'TWO', 'THREE']);
    expect(await ends(w)).toEqual(before);
  });
  test('frames stay together, whatever is asked', async () => {
    const w = workspaceOf({
      'scenes/q.usda':
        '#usda 1.0\ndef Shader "W"\n{\n    asset inputs:file = @../textures/wall.<UDIM>.png@\n}\n',
      'textures/wall.1001.png': '1',
      'textures/wall.1002.png': '2',
    });
    const one = await planMove(w, [{ path: 'textures/wall.1001.png', to: 'textures/x.png' }]);
    expect([one.steps, one.notes.map((x) => x.code)]).toEqual([[], ['held']]);
    const before = await ends(w);
    await applied(
      w,
      await planMove(
        w,
        ['1001', '1002'].map((t) => ({ path: `textures/wall.${t}.png`, to: `textures/quay/wall.${t}.png` })),
      ),
    );
    expect(text(w, 'scenes/q.usda')).toContain('@../textures/quay/wall.<UDIM>.png@');
    expect(await ends(w)).toEqual(before);
    // All of them under another name with the numbers they had are one set still.
    const renamed = (to: (t: number) => string) =>
      planMove(
        w,
        [1001, 1002].map((t) => ({ path: `textures/quay/wall.${t}.png`, to: `textures/quay/${to(t)}` })),
      );
    expect((await renamed((t) => `brick.${t + 1}.png`)).notes.map((x) => x.code)).toEqual(['held', 'held']);
    await applied(w, await renamed((t) => `brick_${t}.png`));
    expect(text(w, 'scenes/q.usda')).toContain('@../textures/quay/brick_<UDIM>.png@');
    expect(await ends(w)).toEqual(before);
  });
  test('a new name that other systems take for a neighbour’s is refused; its own in other letters is not', async () => {
    const w = workspaceOf({
      'textures/Wood.png': 'W',
      'textures/rope.png': 'R',
      ['art/gr\u00fcn/a.png']: 'G',
    });
    const codes = async (path: string, to: string) =>
      (await planMove(w, [{ path, to }])).notes.map((x) => `${x.level} ${x.code}`);
    const refused = ['blocker in-the-way'];
    expect(await codes('textures/rope.png', 'textures/wood.PNG')).toEqual(refused);
    expect(await codes('textures/rope.png', 'Textures/rope.png')).toEqual(refused);
    expect(await codes('textures/rope.png', 'art/gru\u0308n/b.png')).toEqual(refused);
    expect(await codes('textures/rope.png', 'art/.Satchel/b.png')).toEqual(['blocker bad-name']);
    expect(await codes('textures', 'ART')).toEqual(refused);
    expect(await codes('textures/Wood.png', 'textures/wood.png')).toEqual([]);
    expect(await codes('art', 'Art')).toEqual([]);
  });
  test('a ring of moves goes by way of a name that nobody has, however long theirs are', async () => {
    const [a, b] = ['a', 'b'].map((x) => `${x.repeat(251)}.png`) as [string, string];
    const w = workspaceOf({ [a]: 'A', [b]: 'B', '.moving-1': 'mine' });
    const plan = await planMove(w, [
      { path: a, to: b },
      { path: b, to: a },
    ]);
    const longest = Math.max(...plan.steps.map((s) => ('to' in s ? s.to.length : 0)));
    expect([longest, plan.notes]).toEqual([255, []]);
    await applied(w, plan);
    expect([text(w, a), text(w, b), text(w, '.moving-1')]).toEqual(['B', 'A', 'mine']);
  });
  test('of many, what would take the name of one that must stay, stays too; the rest is planned', async () => {
    const w = workspaceOf({
      'scenes/q.usda':
        '#usda 1.0\ndef Shader "W"\n{\n    asset inputs:file = @../textures/wall.<UDIM>.png@\n}\n',
      'textures/wall.1001.png': '1',
      'textures/wall.1002.png': '2',
      'textures/a.png': 'A',
      'textures/b.png': 'B',
      'textures/c.png': 'C',
    });
    const move = (a: string, b: string) => ({ path: `textures/${a}.png`, to: `textures/${b}.png` });
    const plan = await planMove(w, [
      move('wall.1001', 'x'),
      move('a', 'wall.1001'),
      move('b', 'a'),
      move('c', 'd'),
    ]);
    expect([
      plan.notes.map((x) => [x.level, x.code, x.path]),
      plan.steps.map((s) => ('to' in s ? s.to : s.do)),
    ]).toEqual([
      [
        ['warning', 'held', 'textures/wall.1001.png'],
        ['warning', 'held', 'textures/a.png'],
        ['warning', 'held', 'textures/b.png'],
      ],
      ['textures/d.png'],
    ]);
  });
  test('a packed scene holds what it names where it is, and stays where its paths need it', async () => {
    const packed = (uri: string) =>
      gzipSync(
        new TextEncoder().encode(
          `<COLLADA><library_images><image id="i"><init_from>${uri}</init_from></image></library_images></COLLADA>`,
        ),
      );
    const w = workspaceOf({ 'textures/t.png': 'T' }, { '/work/far.png': 'F' });
    w.tree.set('scenes/in.dae', packed('../textures/t.png'));
    w.tree.set('scenes/out.dae', packed('../../far.png'));
    const plan = await planMove(w, [
      { path: 'textures/t.png', to: 'art/t.png' },
      { path: 'scenes/out.dae', to: 'scenes/deep/out.dae' },
    ]);
    expect([plan.steps, plan.notes.map((x) => [x.code, x.path])]).toEqual([
      [],
      [
        ['held', 'textures/t.png'],
        ['held', 'scenes/out.dae'],
      ],
    ]);
    // A folder cannot be held back in part: the plan is blocked.
    expect((await planMove(w, [{ path: 'textures', to: 'art' }])).notes).toContainEqual(
      expect.objectContaining({ level: 'blocker', code: 'held' }),
    );
    // Moved together, what is packed still finds it.
    const together = await planMove(w, [
      { path: 'textures', to: 'all/textures' },
      { path: 'scenes/in.dae', to: 'all/scenes/in.dae' },
    ]);
    expect(together.notes.filter((x) => x.code === 'held')).toEqual([]);
  });
  test('a name that is taken, one that no system allows, and two that become one are refused', async () => {
    const w = workspaceOf(files);
    expect(
      (await planMove(w, [{ path: 'textures/b.png', to: 'textures/oak bark.png' }])).notes,
    ).toContainEqual(expect.objectContaining({ level: 'blocker', code: 'in-the-way' }));
    expect((await planMove(w, [{ path: 'textures/b.png', to: 'textures/nul.png' }])).notes).toContainEqual(
      expect.objectContaining({ level: 'blocker', code: 'bad-name' }),
    );
    expect(
      (
        await planMove(w, [
          { path: 'textures/b.png', to: 'textures/Z.png' },
          { path: 'textures/oak bark.png', to: 'textures/z.png' },
        ])
      ).notes,
    ).toContainEqual(expect.objectContaining({ level: 'blocker', code: 'in-the-way' }));
    expect((await planMove(w, [{ path: 'textures', to: 'textures/inner' }])).notes).toContainEqual(
      expect.objectContaining({ level: 'blocker', code: 'into-itself' }),
    );
  });
  test('a crash at any write of a move leaves all or nothing', async () => {
    for (let at = 1; ; at++) {
      const w = workspaceOf(files);
      const before = users(w);
      const plan = await planMove(w, [
        { path: 'textures', to: 'art' },
        { path: 'scenes/a.gltf', to: 'scenes/b/a.gltf' },
      ]);
      const tree = crashing(w.tree, at, 'unreported');
      const done = await apply(tree, plan, applying('x', { outside: w.outside })).then(
        () => true,
        () => false,
      );
      await recovering(w.tree);
      const whole = (await readJournals(w.tree, parseJournalLine))[0]?.end?.how === 'applied';
      if (!whole) expect([at, users(w)]).toEqual([at, before]);
      else expect(w.tree.files.has('art/b.png')).toBe(true);
      if (done) break;
    }
  });
});

describe('homes', () => {
  test('a home that several kinds share: only the files of the kind go', async () => {
    const w = workspaceOf({
      'models/c.obj': 'mtllib looks.mtlx\n',
      'models/wood.mtlx':
        '<?xml version="1.0"?>\n<materialx version="1.38"><image name="w"><input name="file" type="filename" value="../textures/w.png"/></image></materialx>\n',
      'textures/w.png': 'W',
    });
    const [before, all] = [await ends(w), users(w)];
    const plan = await planHomes(w, { material: 'looks' });
    await applied(w, plan);
    expect([
      w.tree.files.has('looks/wood.mtlx'),
      w.tree.files.has('models/c.obj'),
      JSON.parse(text(w, markerPath)).homes.material,
    ]).toEqual([true, true, 'looks']);
    expect(await ends(w)).toEqual(before);
    await undo(w);
    expect(users(w)).toEqual(all);
  });
  test('a home of its own goes as one folder, into a new one below another', async () => {
    const w = workspaceOf({ 'scenes/a.gltf': gltf(['../textures/t.png']), 'textures/t.png': 'T' });
    const before = await ends(w);
    const plan = await planHomes(w, { texture: 'art/maps' });
    expect(plan.steps.filter((s) => s.do === 'move-folder').length).toBe(1);
    await applied(w, plan);
    expect(await ends(w)).toEqual(before);
  });
});

describe('layouts', () => {
  const files = {
    'scenes/a.gltf': gltf(['../textures/t.png', '../brushes/b.png']),
    'textures/t.png': 'T',
    'brushes/b.png': 'B',
    'intake/x.txt': 'x',
  };
  const textOf = (l: string) => readLayout(l, 'own', 'Own');
  test('another layout: homes move, prefixes rename, new ones are made, empty old ones go; undone to the same', async () => {
    const first = textOf('scenes = scene\ntextures = texture\nbrushes\nintake = other\nold\n');
    const w = workspaceOf(
      files,
      {},
      { layoutText: writeLayout(first), folders: [...first.folders], homes: first.homes },
    );
    const [before, all, dirs] = [await ends(w), users(w), folders(w)];
    const plan = await planLayout(
      w,
      textOf(
        ':top 00_\nscenes = scene : top\nart\n  maps = texture\nbrushes : top\nintake = other : bottom\nrenders = render : keep\n',
      ),
    );
    expect(plan.notes.filter((x) => x.level === 'blocker')).toEqual([]);
    await applied(w, plan);
    expect(
      folders(w)
        .filter((f) => !f.includes('/'))
        .sort(),
    ).toEqual(['', '00_brushes', '00_scenes', 'art', 'renders', 'zz_intake']);
    expect(JSON.parse(text(w, markerPath)).homes).toEqual({
      scene: '00_scenes',
      texture: 'art/maps',
      other: 'zz_intake',
      render: 'renders',
    });
    expect(w.tree.files.has('renders/.keep')).toBe(true);
    expect(await ends(w)).toEqual(before);
    await undo(w);
    expect([users(w), folders(w)]).toEqual([all, dirs]);
  });
  test('folders below a home that moves are made, and kept ones get their file, as creating makes them', async () => {
    const after = textOf('scenes = scene\nart\n  maps = texture : keep\n    raw : keep\n    baked\n');
    const w = workspaceOf(
      { 'textures/a.png': 'A', 'textures/raw/b.png': 'B' },
      {},
      { homes: { texture: 'textures', scene: 'scenes' }, folders: ['textures', 'scenes'] },
    );
    await applied(w, await planLayout(w, after));
    const created = new MemoryTree({});
    for (const s of planCreate(newWorkspaceFile({ name: 'New', layout: after, without: [], created: now() }))
      .steps)
      if (s.do === 'make-folder') created.folders.add(s.path);
    const missing = [...created.folders].filter((f) => f !== '' && !w.tree.folders.has(f));
    expect(missing).toEqual([]);
    expect(['art/maps/.keep', 'art/maps/raw/.keep'].map((f) => w.tree.files.has(f))).toEqual([true, true]);
    expect(w.tree.files.has('art/maps/raw/b.png')).toBe(true);
    expect((await planLayout({ ...w, file: JSON.parse(text(w, markerPath)) }, after)).steps).toEqual([]);
  });
  test('the same layout again is no change', async () => {
    const w = workspaceOf({});
    expect((await planLayout(w, layout)).steps).toEqual([]);
  });
});

describe('tidying', () => {
  test('what lies about is filed; buffers and libraries stay with their scenes; frames go to a folder of their own', async () => {
    const w = workspaceOf({
      'boat.gltf': gltf(['stuff/a.png', 'stuff/b.png'], ['boat.bin']),
      'boat.bin': 'BIN',
      'stuff/a.png': 'A',
      'stuff/b.png': 'B',
      'textures/a.png': 'OTHER',
      'sea/s.01.ply': '1',
      'sea/s.02.ply': '2',
      'sea/s.03.ply': '3',
      'read me.txt': 'hi',
      'crate.obj': 'mtllib crate.mtl\n',
      'crate.mtl': 'newmtl c\nmap_Kd stuff/a.png\n',
      'stuff/unnamed': '\x89PNG\r\n\x1a\n',
    });
    w.tree.set('stuff/unnamed', Uint8Array.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]));
    const before = await ends(w);
    expect((await outOfPlace(w, w.file.homes)).map((f) => f.path)).toEqual([
      'boat.gltf',
      'crate.obj',
      'sea/s.01.ply',
      'sea/s.02.ply',
      'sea/s.03.ply',
      'stuff/a.png',
      'stuff/b.png',
      'stuff/unnamed',
    ]);
    await applied(w, await planTidy(w, { only: null }));
    expect(Object.keys(users(w)).filter((p) => p !== markerPath)).toEqual([
      'models/crate.mtl',
      'models/crate.obj',
      'models/sea/s.01.ply',
      'models/sea/s.02.ply',
      'models/sea/s.03.ply',
      'read me.txt',
      'scenes/boat.bin',
      'scenes/boat.gltf',
      'textures/a(2).png',
      'textures/a.png',
      'textures/b.png',
      'textures/unnamed',
    ]);
    expect(await ends(w)).toEqual(before);
    expect(w.tree.folders.has('stuff')).toBe(false);
  });
  test('only the chosen ones', async () => {
    const w = workspaceOf({ 'a.png': 'A', 'b.png': 'B' });
    expect([...(await planTidy(w, { only: ['b.png'] })).steps].map((s) => s.path)).toEqual(['b.png']);
  });
});

test('clearing leaves what a scene that stays uses, and what that uses', async () => {
  const w = workspaceOf({
    'scenes/a.gltf': gltf(['../intake/pack/used.png']),
    'intake/pack/used.png': 'U',
    'intake/pack/free.png': 'F',
    'intake/pack/p.gltf': gltf(['used.png', 'free.png']),
  });
  const before = users(w);
  const plan = await planBin(
    w,
    ['used.png', 'free.png', 'p.gltf'].map((f) => treePath(`intake/pack/${f}`)),
    now(),
  );
  expect(plan.notes.map((x) => [x.code, x.path])).toEqual([['in-use', 'intake/pack/used.png']]);
  await applied(w, plan);
  expect(Object.keys(users(w)).filter((p) => p.startsWith('intake'))).toEqual(['intake/pack/used.png']);
  expect([...w.tree.files.keys()].filter((p) => p.startsWith('.satchel/bin/')).length).toBe(2);
  await undo(w);
  expect(users(w)).toEqual(before);
});

describe('adopting', () => {
  test('own folders serve as homes, by name and content; only what is wanting is made', async () => {
    const w = plain({
      'Tex/a.png': 'A',
      'Tex/b.png': 'B',
      'Geo/boat.obj': 'o b\n',
      'boat.gltf': gltf(['Tex/a.png']),
      'ref/mood.jpg': 'J',
    });
    const { plan, file } = await planAdopt(w, {
      name: 'Boat',
      layout,
      without: ['backups'],
      homes: {},
      tidy: false,
      created: now(),
    });
    expect([
      file.homes.texture,
      file.homes.model,
      file.homes.reference,
      file.homes.scene,
      file.homes.backup,
    ]).toEqual(['Tex', 'Geo', 'ref', 'scenes', undefined]);
    await applied(w, plan);
    expect(folders(w)).not.toContain('textures');
    expect(folders(w)).toContain('scenes');
    expect(text(w, 'boat.gltf')).toBe(gltf(['Tex/a.png']));
    expect(plan.notes.map((x) => x.code)).toEqual(['loose']);
  });
  test('what is a workspace already is refused, one inside is named and left alone', async () => {
    const w = workspaceOf({ 'a.png': 'A' });
    expect(
      (await planAdopt(w, { name: 'B', layout, without: [], homes: {}, tidy: false, created: now() })).plan
        .notes,
    ).toContainEqual(expect.objectContaining({ level: 'blocker', code: 'exists' }));
    const outer = plain({ [`inner/${markerPath}`]: '{}', 'inner/x.png': 'X', 'y.png': 'Y' });
    const { plan, found } = await planAdopt(outer, {
      name: 'B',
      layout,
      without: [],
      homes: {},
      tidy: true,
      created: now(),
    });
    expect([found.nested, plan.notes.map((x) => x.code)]).toEqual([['inner'], ['nested']]);
    await applied(outer, plan);
    expect([outer.tree.files.has('inner/x.png'), outer.tree.files.has('textures/y.png')]).toEqual([
      true,
      true,
    ]);
  });
});

describe('generated workspaces (property)', () => {
  const dir = fc.constantFrom(
    '',
    'scenes',
    'textures',
    'stuff',
    'stuff/old tex',
    'models',
    'Übung',
    'intake/pack',
  );
  const at = (folder: string, name: string) => (folder === '' ? name : `${folder}/${name}`);
  const made = fc.record({
    textures: fc.uniqueArray(
      fc.tuple(dir, fc.constantFrom('a.png', 'b c.png', 'ü#1.png', 'd%20e.png', 'A.jpg')),
      { maxLength: 7, selector: (x) => x.join('/').toLowerCase() },
    ),
    scenes: fc.uniqueArray(fc.tuple(dir, fc.constantFrom('s.gltf', 't.obj', 'u.usda', 'v.gltf')), {
      minLength: 1,
      maxLength: 4,
      selector: (x) => x.join('/'),
    }),
    absolute: fc.boolean(),
  });
  const build = ({
    textures,
    scenes,
    absolute,
  }: {
    textures: [string, string][];
    scenes: [string, string][];
    absolute: boolean;
  }) => {
    const files: Record<string, string> = {};
    textures.forEach(([d, name], i) => (files[at(d, name)] = `content ${i}`));
    for (const [d, name] of scenes) {
      const up = d === '' ? '' : '../'.repeat(d.split('/').length);
      const paths = textures.map(([td, tn], i) =>
        absolute && i % 2 === 0 ? `/work/boat/${at(td, tn)}` : `${up}${at(td, tn)}`,
      );
      const path = at(d, name);
      if (name.endsWith('.gltf'))
        files[path] = gltf(
          [...paths.map((p) => encodeURI(p).replaceAll('#', '%23')), 'nowhere.png'],
          [`${name}.bin`],
        );
      else if (name.endsWith('.usda'))
        files[path] =
          `#usda 1.0\ndef Shader "S"\n{\n${paths.map((p, i) => `    asset inputs:f${i} = @${p}@\n`).join('')}}\n`;
      else {
        files[path] = `mtllib ${name}.mtl\n`;
        files[`${path}.mtl`] = `newmtl m\n${paths.map((p) => `map_Kd ${p}\n`).join('')}`;
      }
      if (name.endsWith('.gltf')) files[`${path}.bin`] = `bin of ${path}`;
    }
    return files;
  };
  const keeps = async (w: Held, plan: Plan) => {
    const [before, all, dirs] = [await ends(w), users(w), folders(w)];
    expect(plan.notes.filter((x) => x.level === 'blocker')).toEqual([]);
    await applied(w, plan);
    expect(await ends(w)).toEqual(before);
    await undo(w);
    expect(users(w)).toEqual(all);
    expect(folders(w)).toEqual(dirs);
  };
  test('tidying keeps every reference, and undoes to the same bytes', async () => {
    await fc.assert(
      fc.asyncProperty(made, async (m) => {
        const w = workspaceOf(build(m));
        await keeps(w, await planTidy(w, { only: null }));
      }),
      { numRuns: howMany(60) },
    );
  });
  test('adopting with tidying does', async () => {
    await fc.assert(
      fc.asyncProperty(made, fc.constantFrom(...shippedLayouts), async (m, l) => {
        const w = plain(build(m));
        await keeps(
          w,
          (await planAdopt(w, { name: 'G', layout: l, without: [], homes: {}, tidy: true, created: now() }))
            .plan,
        );
      }),
      { numRuns: howMany(60) },
    );
  });
  test('changing homes does', async () => {
    await fc.assert(
      fc.asyncProperty(
        made,
        fc.constantFrom('texture', 'scene', 'model', 'material'),
        fc.constantFrom('art/new', 'scenes', 'textures/in', 'Übung/x', 'stuff'),
        async (m, kind, to) => {
          const w = workspaceOf(build(m));
          const plan = await planHomes(w, { [kind]: to });
          if (plan.notes.some((x) => x.code === 'in-the-way')) return;
          await keeps(w, plan);
        },
      ),
      { numRuns: howMany(80) },
    );
  });
  test('moving any folder does', async () => {
    await fc.assert(
      fc.asyncProperty(
        made,
        dir,
        fc.constantFrom('new', 'a/b', 'models/moved', 'textures'),
        async (m, from, to) => {
          const w = workspaceOf(build(m));
          if (from === '' || !w.tree.folders.has(from)) return;
          const plan = await planMove(w, [{ path: from, to }]);
          if (plan.notes.some((x) => x.level === 'blocker')) return;
          await keeps(w, plan);
        },
      ),
      { numRuns: howMany(80) },
    );
  });
});
