// Setting workspaces up and putting them right, by the endpoints, on real folders: layouts, several at once, adopting, nested ones, moving,
// places, settings, units, the holding area. After each the disk is looked at.

import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import fs from 'node:fs';
import path from 'node:path';
import sharp from 'sharp';
import { zipSync } from 'fflate';
import type { Recognised } from '@/core/plans/planAdopt';
import type { JobView } from '@/wire/jobs';
import type {
  LayoutView,
  OverviewView,
  PackFileView,
  PackView,
  PlaceView,
  PlanView,
  SceneMeasure,
  SettingsView,
  StateView,
  WorkspaceView,
} from '@/wire/views';
import { apply as apply0 } from '@/core/changes/apply';
import type { Plan } from '@/core/changes/plan';
import { crashing } from '@/core/changes/testing/crashingTree';
import { digestOf } from '@/core/files/digest';
import { treePath } from '@/core/files/treePath';
import { utf8 } from '@/core/text/bytes';
import { dropView } from '@/wire/drops';
import { diskOutside } from '../disk/diskOutside';
import { applying } from '@/core/changes/testing/contexts';
import { signer } from '../identity';
import { recordsOf, repairShelves, shelfTree } from '../workspaces/shelf';
import { startHere } from './testing/here';

let here: Awaited<ReturnType<typeof startHere>>;
let work = '';
beforeAll(async () => {
  here = await startHere();
  work = path.join(here.base, 'work');
  await here.post('/api/allowed', { path: work });
}, 60_000);
afterAll(() => here.close());

const put = (name: string, content: string | Uint8Array) => {
  fs.mkdirSync(path.dirname(path.join(work, name)), { recursive: true });
  fs.writeFileSync(path.join(work, name), content);
};
const is = (name: string) => fs.existsSync(path.join(work, name));
const run = async <T>(at: string, body?: unknown) => here.done<T>(await here.post<JobView>(at, body));
const gltf = (...uris: string[]) =>
  JSON.stringify({ asset: { version: '2.0' }, images: uris.map((uri) => ({ uri })) });
const textOf = (name: string) => fs.readFileSync(path.join(work, name), 'utf8');
/** Makes a plan, looks at it, applies it. */
async function apply(
  at: string,
  body?: unknown,
): Promise<{ view: PlanView; result: { id: string; workspace?: string } }> {
  const made = await here.post<JobView & { plan?: string }>(at, body);
  const plan = made.plan ?? (await here.done<{ plan: string }>(made)).plan;
  const view = await here.get<PlanView>(`/api/plans/${plan}`);
  return { view, result: await run<{ id: string; workspace?: string }>(`/api/plans/${plan}/apply`) };
}
const create = (name: string) =>
  here.post<WorkspaceView>('/api/workspaces', { parent: work, name, layout: { id: 'game-environment' } });

describe('layouts', () => {
  test('one is kept, used, changed, given as JSON and back, and taken out', async () => {
    const text = ':name Our props\nscenes = scene\ntextures = texture : top\n';
    const { id } = await here.post<{ id: string }>('/api/layouts', { text });
    const [own] = await here.get<LayoutView[]>('/api/layouts');
    expect([own!.id, own!.own, own!.folders]).toEqual([id, true, ['scenes', '00_textures']]);
    expect(await here.codeOf('POST', '/api/layouts', { text })).toEqual([409, 'exists']);
    const renamed = await here.post<{ id: string }>('/api/layouts', {
      text: text.replace('Our props', 'Props 2'),
      replaces: id,
    });
    expect((await here.get<StateView>('/api/state')).layouts.filter((l) => l.own).map((l) => l.id)).toEqual([
      renamed.id,
    ]);
    const { json } = await here.post<{ json: string }>('/api/layouts/convert', { text });
    expect((await here.post<{ text: string }>('/api/layouts/convert', { json })).text).toBe(text);
    expect(await here.codeOf('POST', '/api/layouts/convert', { json: '{"folders":1}' })).toEqual([
      422,
      'bad-layout',
    ]);
    await here.ask('DELETE', '/api/layouts', { id: renamed.id });
    expect((await here.get<LayoutView[]>('/api/layouts')).some((l) => l.own)).toBe(false);
    expect(await here.codeOf('DELETE', '/api/layouts', { id: '../../x' })).toEqual([400, 'bad-request']);
  });
  test('one is made from a folder that exists', async () => {
    put('model/Tex/a.png', 'A');
    put('model/shots/a.usda', '#usda 1.0\n');
    expect((await run<{ text: string }>('/api/layouts/from-folder', { path: `${work}/model` })).text).toBe(
      ':name model\nTex = texture\nshots = scene\n',
    );
  });
});

test('several at once from a list, undone as one', async () => {
  const wish = {
    parent: work,
    names: ['2026-11 Ada', '2026-11 Ben', '2026-11 Ada'],
    layout: { id: 'painting' },
    category: 'teaching',
  };
  const preview = await here.post<{ rows: { name: string; wrong: string | null }[] }>(
    '/api/workspaces/many/preview',
    wish,
  );
  expect(preview.rows.map((r) => r.wrong !== null)).toEqual([true, false, true]);
  const { view, result } = await apply('/api/workspaces/many', {
    ...wish,
    names: ['2026-11 Ada', '2026-11 Ben'],
  });
  expect([
    view.workspace,
    view.title,
    is('2026-11 Ada/brushes'),
    is('2026-11 Ben/.satchel/workspace.json'),
    is('.satchel'),
  ]).toEqual([null, 'Create 2 workspaces', true, true, false]);
  expect(
    (await here.get<StateView>('/api/state')).workspaces
      .filter((w) => w.category === 'teaching')
      .map((w) => w.name)
      .sort(),
  ).toEqual(['2026-11 Ada', '2026-11 Ben']);
  const [entry] = await here.get<{ id: string; container: string }[]>('/api/shelf');
  expect(entry).toMatchObject({ id: result.id, container: work });
  await apply('/api/shelf/undo', { container: entry!.container, id: entry!.id });
  expect([is('2026-11 Ada'), (await here.get<StateView>('/api/state')).workspaces.length]).toEqual([
    false,
    0,
  ]);
});

describe('adopting', () => {
  test('what is in the folder is shown; then it is taken over and tidied, and opened', async () => {
    put('pier/boat.gltf', gltf('tex/a.png', 'loose.png'));
    put('pier/tex/a.png', 'A');
    put('pier/loose.png', 'L');
    const found = await run<Recognised>('/api/recognise', {
      path: `${work}/pier`,
      layout: { id: 'game-environment' },
    });
    expect([found.homes, found.loose, found.files]).toEqual([{ texture: 'tex' }, 2, 3]);
    const { view, result } = await apply('/api/adopt', {
      path: `${work}/pier`,
      name: 'Pier',
      layout: { id: 'game-environment' },
      tidy: true,
    });
    expect(view.moves).toEqual([
      { from: 'boat.gltf', to: 'scenes/boat.gltf' },
      { from: 'loose.png', to: 'tex/loose.png' },
    ]);
    expect(textOf('pier/scenes/boat.gltf')).toBe(gltf('../tex/a.png', '../tex/loose.png'));
    const overview = await here.get<OverviewView>(`/api/workspaces/${result.workspace}`);
    expect([overview.workspace.name, overview.ready]).toEqual(['Pier', 2]);
  });
  test('a folder inside a workspace offers the root', async () => {
    expect(
      await here.codeOf('POST', '/api/recognise', { path: `${work}/pier/tex`, layout: { id: 'painting' } }),
    ).toEqual([409, 'inside-workspace']);
    expect(
      await here.codeOf('POST', '/api/adopt', {
        path: `${work}/pier`,
        name: 'x',
        layout: { id: 'painting' },
        tidy: false,
      }),
    ).toEqual([409, 'exists']);
  });
});

test('nested workspaces are found anywhere below a place, and merged', async () => {
  const outer = await create('Outer');
  put(
    'Outer/deep/inner/.satchel/workspace.json',
    textOf('Outer/.satchel/workspace.json').replace('"Outer"', '"Inner"'),
  );
  put('Outer/deep/inner/textures/t.png', 'T');
  put('Outer/scenes/s.gltf', gltf('../deep/inner/textures/t.png'));
  const found = await run<{ root: string; inside: string | null }[]>('/api/find', { path: work });
  expect(found.filter((f) => f.inside !== null)).toEqual([
    expect.objectContaining({ root: `${work}/Outer/deep/inner`, name: 'Inner', inside: `${work}/Outer` }),
  ]);
  await apply(`/api/workspaces/${outer.id}/plans`, { kind: 'nested', inner: 'deep/inner', how: 'merge' });
  expect([textOf('Outer/scenes/s.gltf'), is('Outer/deep/inner/.satchel/workspace.json')]).toEqual([
    gltf('../textures/t.png'),
    false,
  ]);
});

test('a workspace moves under a new parent, and what points into it follows; undone', async () => {
  const lantern = await create('Lantern');
  const old = await create('Old');
  put('Old/textures/wood.png', 'W');
  put('Lantern/scenes/l.gltf', gltf('../../Old/textures/wood.png'));
  await run(`/api/workspaces/${lantern.id}/scan`);
  const { view } = await apply('/api/relocate', {
    moves: [{ from: old.root, to: `${work}/client/Old Pier` }],
  });
  expect([view.paths.length, textOf('Lantern/scenes/l.gltf'), is('Old')]).toEqual([
    1,
    gltf('../../client/Old%20Pier/textures/wood.png'),
    false,
  ]);
  expect((await here.get<StateView>('/api/state')).workspaces.map((w) => w.root)).toEqual(
    expect.arrayContaining([`${work}/client/Old Pier`]),
  );
  expect((await here.get<StateView>('/api/state')).workspaces.map((w) => w.root)).not.toContain(old.root);
  const [entry] = await here.get<{ id: string; container: string }[]>('/api/shelf');
  await apply('/api/shelf/undo', { container: entry!.container, id: entry!.id });
  expect([textOf('Lantern/scenes/l.gltf'), is('Old/textures/wood.png'), is('client')]).toEqual([
    gltf('../../Old/textures/wood.png'),
    true,
    false,
  ]);
  expect(
    await here.codeOf('POST', '/api/relocate', { moves: [{ from: old.root, to: `${here.base}/secret/x` }] }),
  ).toEqual([403, 'not-allowed']);
});

describe('settings of a workspace', () => {
  test('category, archive, units, names and places stand in its own folder', async () => {
    const w = await create('Quay');
    const at = `/api/workspaces/${w.id}`;
    expect(await here.get<SettingsView>(`${at}/settings`)).toMatchObject({
      usualUnits: true,
      category: null,
      names: { scene: '{title}_v{version:3}' },
    });
    const units = {
      unit: 'in',
      display: { form: 'fraction', parts: 32 },
      upAxis: 'Z',
      grid: { spacing: 6, heavyEvery: 4, extent: 120 },
    };
    put('kit/bolt.obj', 'v 0 0 0\n');
    await apply(`${at}/plans`, {
      kind: 'settings',
      change: {
        category: 'client',
        archived: true,
        units,
        names: { scene: '{date} {title}' },
        libraries: [{ name: 'kit', path: `${work}/kit` }],
      },
    });
    expect(JSON.parse(textOf('Quay/.satchel/workspace.json'))).toMatchObject({
      category: 'client',
      units,
      names: { scene: '{date} {title}' },
      libraries: [{ name: 'kit' }],
    });
    expect((await here.get<StateView>('/api/state')).workspaces.find((x) => x.id === w.id)).toMatchObject({
      category: 'client',
      archived: expect.any(String),
    });
    fs.symlinkSync(`${work}/Quay`, `${work}/way to quay`);
    for (const [path, why] of [
      ['kit', 'says no whole path'],
      [`${work}/no kit`, 'There is no folder'],
      [`${work}/Quay`, 'lies in the workspace itself'],
      [`${work}/Quay/textures`, 'lies in the workspace itself'],
      [`${work}/way to quay`, 'lies in the workspace itself'],
      [work, 'holds the workspace itself'],
      [`${work}/kit/`, 'Two libraries are called kit'],
    ] as const)
      await expect(
        run(`${at}/plans`, {
          kind: 'settings',
          change: {
            libraries: [
              { name: 'kit', path: `${work}/kit` },
              { name: why.startsWith('Two') ? 'Kit' : 'other', path },
            ],
          },
        }),
      ).rejects.toThrow(why.startsWith('Two') ? 'Two libraries are called Kit' : why);
    await expect(
      run(`${at}/plans`, {
        kind: 'settings',
        change: { units: { ...units, grid: { spacing: 6, heavyEvery: 4, extent: 5 } } },
      }),
    ).rejects.toThrow('before its first line');
    // One that is known and away stays, while others change.
    fs.renameSync(`${work}/kit`, `${work}/kit away`);
    await apply(`${at}/plans`, {
      kind: 'settings',
      change: {
        libraries: [
          { name: 'kit', path: `${work}/kit` },
          { name: 'more', path: `${work}/kit away/` },
        ],
      },
    });
    expect(JSON.parse(textOf('Quay/.satchel/workspace.json')).libraries).toEqual([
      { name: 'kit', path: `${work}/kit` },
      { name: 'more', path: `${work}/kit away` },
    ]);
    await expect(
      run(`${at}/plans`, { kind: 'settings', change: { names: { scene: '{month}' } } }),
    ).rejects.toThrow('month');
  });
  test('scenes are measured and compared; a grid and box come as files', async () => {
    const w = (await here.get<StateView>('/api/state')).workspaces.find((x) => x.name === 'Quay')!;
    put('Quay/models/crate.obj', 'v 0 0 0\nv 12 12 12\n');
    put(
      'Quay/models/crate.dae',
      '<COLLADA><asset><unit meter="0.01"/><up_axis>Y_UP</up_axis></asset><library_geometries><geometry id="g"><mesh><source id="p"><float_array>0 0 0 12 12 12</float_array></source><vertices><input semantic="POSITION" source="#p"/></vertices></mesh></geometry></library_geometries></COLLADA>',
    );
    for (const n of ['01', '02', '03'])
      put(
        `Quay/caches/wave.${n}.ply`,
        'ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty float z\nend_header\n1 2 3\n',
      );
    const scenes = await run<SceneMeasure[]>(`/api/workspaces/${w.id}/measure`);
    expect(scenes.map((s) => [s.path, s.metres, s.upAxis, s.size])).toEqual([
      // The first of a row stands for all of it.
      ['caches/wave.01.ply', null, null, [0, 0, 0]],
      ['models/crate.dae', 0.01, 'Y', [12, 12, 12]],
      ['models/crate.obj', null, null, [12, 12, 12]],
    ]);
    expect(scenes.map((s) => s.findings.map((f) => f.code))).toEqual([
      ['no-unit'],
      ['unit-differs', 'up-differs', 'twin'],
      ['no-unit', 'twin'],
    ]);
    await apply(`/api/workspaces/${w.id}/plans`, { kind: 'yardstick', formats: ['usda', 'glb'] });
    expect([
      textOf('Quay/reference/grid and box 6 in.usda').includes('metersPerUnit = 0.0254'),
      is('Quay/reference/grid and box 6 in.glb'),
    ]).toEqual([true, true]);
  });
  test('homes and layout change with their files', async () => {
    const w = (await here.get<StateView>('/api/state')).workspaces.find((x) => x.name === 'Quay')!;
    put('Quay/textures/t.png', 'T');
    put('Quay/scenes/s.gltf', gltf('../textures/t.png'));
    await apply(`/api/workspaces/${w.id}/plans`, { kind: 'homes', changes: { texture: 'art/maps' } });
    expect(textOf('Quay/scenes/s.gltf')).toBe(gltf('../art/maps/t.png'));
    await apply(`/api/workspaces/${w.id}/plans`, {
      kind: 'layout',
      layout: { text: ':name New\nwork = scene\nmaps = texture\n' },
    });
    expect([
      textOf('Quay/work/s.gltf'),
      is('Quay/maps/t.png'),
      JSON.parse(textOf('Quay/.satchel/workspace.json')).layoutText,
    ]).toEqual([gltf('../maps/t.png'), true, ':name New\nwork = scene\nmaps = texture\n']);
    put('Quay/lies about.png', 'X');
    expect((await run<{ path: string }[]>(`/api/workspaces/${w.id}/loose`)).map((f) => f.path)).toContain(
      'lies about.png',
    );
    await apply(`/api/workspaces/${w.id}/plans`, { kind: 'tidy', only: ['lies about.png'] });
    expect(is('Quay/maps/lies about.png')).toBe(true);
  });
});

test('a move of whole workspaces that a crash cut off is put back at the next start', async () => {
  put('Crash/a.txt', 'A');
  put('Crash/b/c.txt', 'C');
  const records = recordsOf(path.join(here.base, 'app'), `${work}/Crash`);
  const step = (p: string, to: string) => ({
    do: 'move-folder' as const,
    path: treePath(p),
    to: treePath(to),
  });
  const plan: Plan = {
    kind: 'relocate',
    title: 'Move b',
    steps: [step('b', 'd'), step('d', 'e')],
    notes: [],
    paths: [],
    readiness: null,
  };
  let cut = 0;
  for (let n = 1; n < 8; n++) {
    const tree = shelfTree(`${work}/Crash`, records);
    const done = await apply0(crashing(tree, n + 3, 'unreported'), plan, {
      ...applying(`x${n}`),
      outside: diskOutside,
      root: `${work}/Crash`,
      sign: signer(),
    }).then(
      () => true,
      () => false,
    );
    await repairShelves(path.join(here.base, 'app'));
    cut = n;
    // Once both moves are made the plan is done, whether or not that was still written down.
    if (done || (n >= 5 && is('Crash/e'))) break;
    expect([n, is('Crash/b/c.txt'), is('Crash/e')]).toEqual([n, true, false]);
  }
  expect(cut).toBeGreaterThanOrEqual(5);
  expect(is('Crash/.satchel')).toBe(false);
});

test('a place is looked at, and measured on request', async () => {
  const seen = await here.get<PlaceView>(`/api/place?path=${encodeURIComponent(`${work}/not yet there`)}`);
  expect([seen.folder, seen.signs.free! > 0, seen.advice.length > 0]).toEqual([work, true, true]);
  expect((await run<PlaceView>('/api/place/probe', { path: work })).signs.speed!.write).toBeGreaterThan(0);
  expect(await here.codeOf('GET', `/api/place?path=${here.base}/secret`)).toEqual([403, 'not-allowed']);
});

describe('the holding area', () => {
  let id = '';
  const at = (more: string) => `/api/workspaces/${id}${more}`;
  const wave = (w: number) =>
    sharp(
      Buffer.from(
        Array.from({ length: 64 * 64 }, (_, i) => [
          Math.round(128 + 100 * Math.sin((i % 64) / 5) * Math.cos(i / 700)),
          90,
          60,
        ]).flat(),
      ),
      { raw: { width: 64, height: 64, channels: 3 } },
    )
      .resize(w, w)
      .png()
      .toBuffer();
  beforeAll(async () => {
    id = (await create('Harbour')).id;
    put('Harbour/textures/sand.png', await wave(64));
    await run(at('/scan'));
  });
  test('a ZIP picked on disk comes in whole; what is like what is here is pointed out', async () => {
    const pack = zipSync({
      'kit/boat.gltf': Buffer.from(gltf('maps/hull.png', 'maps/gone.png')),
      'kit/maps/hull.png': new Uint8Array(await wave(32)),
      'kit/maps/same.png': new Uint8Array(await wave(64)),
      'kit/licence.txt': Buffer.from('free'),
    });
    put('boat kit.zip', pack);
    const { view } = await apply(at('/plans'), { kind: 'intake', from: `${work}/boat kit.zip` });
    expect(view.copies.map((c) => c.to).sort()).toEqual(
      ['boat.gltf', 'licence.txt', 'maps/hull.png', 'maps/same.png'].map((f) => `intake/boat kit/${f}`),
    );
    await here.jobs.idle();
    const { home, packs } = await here.get<{ home: string; packs: PackView[] }>(at('/intake'));
    expect([home, packs]).toEqual([
      'intake',
      [expect.objectContaining({ name: 'boat kit', files: 4, scenes: 1, textures: 2, used: 0 })],
    ]);
    const { files } = await here.get<{ files: PackFileView[] }>(at('/intake/files?pack=intake/boat kit'));
    expect(files.find((f) => f.kind === 'scene')).toMatchObject({ references: 2, missing: 1 });
    expect(await run(at('/alike'), { pack: 'intake/boat kit' })).toEqual([
      { path: 'intake/boat kit/maps/hull.png', like: 'textures/sand.png', how: 'looks the same' },
      { path: 'intake/boat kit/maps/same.png', like: 'textures/sand.png', how: 'same content' },
    ]);
  });
  test('a ZIP as macOS makes it: what the system keeps for itself stays outside, and that is said', async () => {
    put(
      'mac kit.zip',
      zipSync({
        'mac kit/a.txt': Buffer.from('x'),
        'mac kit/.DS_Store': Buffer.from('x'),
        '__MACOSX/mac kit/._a.txt': Buffer.from('x'),
        '__MACOSX/._mac kit': Buffer.from('x'),
      }),
    );
    const { view } = await apply(at('/plans'), { kind: 'intake', from: `${work}/mac kit.zip` });
    expect(view.copies.map((c) => c.to)).toEqual(['intake/mac kit/a.txt']);
    expect(view.notes.map((n) => n.message)).toEqual([
      '3 entries that a system keeps for itself (__MACOSX, .DS_Store, Thumbs.db) stay outside.',
    ]);
    await apply(at('/plans'), { kind: 'bin', paths: ['intake/mac kit/a.txt'] });
  });
  test('what is needed is taken, the rest cleared', async () => {
    const { view } = await apply(at('/plans'), { kind: 'take', paths: ['intake/boat kit/boat.gltf'] });
    expect([view.moves.map((m) => m.to).sort(), view.notes.map((n) => n.code)]).toEqual([
      ['scenes/boat.gltf', 'textures/hull.png'],
      ['missing'],
    ]);
    expect(textOf('Harbour/scenes/boat.gltf')).toBe(gltf('../textures/hull.png', 'maps/gone.png'));
    await apply(at('/plans'), {
      kind: 'bin',
      paths: ['intake/boat kit/maps/same.png', 'intake/boat kit/licence.txt'],
    });
    expect([is('Harbour/intake/boat kit'), is('Harbour/intake')]).toEqual([false, true]);
  });
  /** Where the server keeps what a page calls by its drop. */
  const onDisk = (name: string) => name.replace(/^drop:/, `${here.base}/app/incoming/`);
  test('files that were dropped come through the upload', async () => {
    const drop = dropView.parse(
      await here.post('/api/drops', {
        files: [
          { path: 'pack/maps/a?.png', size: 3, modified: 1600000000123 },
          { path: 'pack/maps/a*.png', size: 3 },
          { path: 'pack/maps/a_.png', size: 0 },
          { path: 'pack/.DS_Store', size: 9 },
          { path: 'pack/inner.zip', size: 2 },
        ],
        folders: ['pack/cache'],
      }),
    );
    const send = async (file: number, body: string, more = '') =>
      here.send(`/api/upload?drop=${drop.drop}&file=${file}&digest=${digestOf(utf8(body))}${more}`, {
        method: 'POST',
        body,
      });
    const plan = { kind: 'intake', from: `${drop.folder}/pack` };
    expect(await here.codeOf('POST', at('/plans'), plan)).toEqual([400, 'bad-upload']);
    expect(
      await Promise.all([send(0, 'AAA'), send(1, 'BBB'), send(2, ''), send(4, 'PK')]).then((all) =>
        Promise.all(all.map((r) => r.json())),
      ),
    ).toEqual([3, 3, 0, 2].map((here) => ({ here, whole: true })));
    expect(Math.round(fs.statSync(onDisk(drop.files[0]!)).mtimeMs)).toBe(1600000000123);
    const { view } = await apply(at('/plans'), plan);
    expect(view.copies.map((c) => c.to).sort()).toEqual([
      'intake/pack/inner.zip',
      'intake/pack/maps/a_(2).png',
      'intake/pack/maps/a_(3).png',
      'intake/pack/maps/a_.png',
    ]);
    expect(view.notes.map((n) => n.code).sort()).toEqual([
      'empty-folder',
      'litter',
      'packed-inside',
      'renamed',
      'renamed',
      'renamed',
    ]);
    expect([
      textOf('Harbour/intake/pack/maps/a_.png'),
      textOf('Harbour/intake/pack/maps/a_(2).png'),
      textOf('Harbour/intake/pack/maps/a_(3).png'),
      is('Harbour/intake/pack/cache'),
    ]).toEqual(['AAA', 'BBB', '', true]);
  });
  test('many small files in one request: each whole or not at all', async () => {
    const contents = ['', 'B', 'CCC', 'DD'];
    const drop = dropView.parse(
      await here.post('/api/drops', {
        files: contents.map((c, i) => ({ path: `${i}.txt`, size: c.length })),
      }),
    );
    const send = (table: object[], body: string) => {
      const head = Buffer.from(JSON.stringify(table));
      return here.send(`/api/upload-many?drop=${drop.drop}&table=${head.length}`, {
        method: 'POST',
        body: Buffer.concat([head, Buffer.from(body)]),
      });
    };
    const piece = (file: number, of = contents[file]!) => ({
      file,
      offset: 0,
      size: contents[file]!.length,
      digest: digestOf(utf8(of)),
    });
    expect(await (await send([piece(0), piece(2), piece(1)], 'CCCB')).json()).toEqual([
      { here: 0, whole: true },
      { here: 3, whole: true },
      { here: 1, whole: true },
    ]);
    expect([0, 1, 2].map((i) => fs.readFileSync(onDisk(drop.files[i]!), 'utf8'))).toEqual(['', 'B', 'CCC']);
    // Cut off, of another content, no table: refused, and nothing is there.
    expect((await send([piece(3)], 'D')).status).toBe(400);
    expect((await send([piece(3)], 'XX')).status).toBe(400);
    expect((await send([{ file: -1 }], 'XX')).status).toBe(400);
    expect(is(`../app/incoming/${drop.drop}/in/3.txt`)).toBe(false);
    expect(await (await send([piece(3)], 'DD')).json()).toEqual([{ here: 2, whole: true }]);
  });
  test('a drop that is refused', async () => {
    const begin = (files: object[]) => here.codeOf('POST', '/api/drops', { files });
    expect([
      await begin([{ path: '../x', size: 1 }]),
      await begin([{ path: '/abs', size: 1 }]),
      await begin([{ path: 'huge.exr', size: 2 ** 50 }]),
      await begin([{ path: '__MACOSX/._a.png', size: 1 }]),
    ]).toEqual([
      [422, 'bad-name'],
      [422, 'bad-name'],
      [507, 'disk-full'],
      [400, 'bad-request'],
    ]);
  });
  test('a hostile archive, and one of a kind that is not opened, are refused', async () => {
    put('evil.zip', zipSync({ '../out.txt': Buffer.from('x') }));
    await expect(run(at('/plans'), { kind: 'intake', from: `${work}/evil.zip` })).rejects.toThrow(
      'leaves the folder',
    );
    put('pack.7z', '7z');
    await expect(run(at('/plans'), { kind: 'intake', from: `${work}/pack.7z` })).rejects.toThrow('Unpack it');
    expect(is('../out.txt')).toBe(false);
  });
});

test('a root that is away is offline, and what was read is kept', async () => {
  const w = await create('Away');
  await here.jobs.idle();
  put('Away/scenes/a.gltf', gltf('x.png'));
  await run(`/api/workspaces/${w.id}/scan`);
  fs.renameSync(`${work}/Away`, `${here.base}/unplugged`);
  expect(await here.codeOf('GET', `/api/workspaces/${w.id}`)).toEqual([409, 'offline']);
  fs.renameSync(`${here.base}/unplugged`, `${work}/Away`);
  expect((await here.get<OverviewView>(`/api/workspaces/${w.id}`)).references).toBe(1);
});
