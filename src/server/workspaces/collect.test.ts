// Collecting from generated workspaces on the real disk: afterwards the sources are what they were to the byte and time, they are taken away, and every path of a collected
// scene that led to a file leads to the same content in the new folder. glTF is opened by the platform's own URL parser (WHATWG URL), the rest by our own resolution.

import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { NodeIO } from '@gltf-transform/core';
import { spawn, spawnSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { howMany } from '@/core/files/testing/depth';
import { blockers } from '@/core/changes/plan';
import { absoluteTarget } from '@/core/collect/closure';
import type { Rule } from '@/core/collect/placement';
import { reportNames } from '@/core/collect/report';
import { settingOf } from '@/core/plans/workspace';
import { judge, readScene, scenePaths } from '@/core/references/scan';
import { treePath } from '@/core/files/treePath';
import { collectReport } from '@/wire/collect';
import { diskOutside } from '../disk/diskOutside';
import { DiskTree } from '../disk/diskTree';
import { applyPlan } from './changing';
import { collect, planCollecting, planReportOnly, usedIn, type CollectOptions } from './collect';
import { planUndoOf, readLedger } from './ledger';
import { plainFolder, readWorkspace, type OpenWorkspace } from './open';
import { recordsAbout, recordsOf, shelfRecords } from './shelf';
import { generate } from './testing/generated';
import { snapshot } from './testing/snapshot';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-collect-')));
const data = path.join(base, 'data');
beforeAll(() => fs.mkdirSync(data));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));

const draw = () => Promise.resolve(null);

const rules: Rule[] = [
  { by: 'kind', homes: { scene: 'scenes', texture: 'textures', model: 'models', other: 'other' } },
  { by: 'mirror' },
  { by: 'tail', folders: 0 },
  { by: 'tail', folders: 2 },
];

async function chosenOf(w: OpenWorkspace): Promise<string[]> {
  return (await scenePaths(w.tree)).scenes.map((s) => `${w.root}/${s}`);
}

test('generated workspaces: every path that led to a file leads to the same content, and the sources stay', async () => {
  let [led, opened, stayed] = [0, 0, 0];
  const many = howMany(20);
  for (let seed = 1; seed <= many; seed++) {
    const at = path.join(base, `w${seed}`);
    fs.mkdirSync(at);
    const g = generate(at, seed);
    const w: OpenWorkspace = { root: g.root, tree: new DiskTree(g.root), outside: diskOutside, file: g.file };
    const before = snapshot(at);
    const to = path.join(base, `to ${seed} Ü #%`);
    const collecting = await planCollecting(w, {
      chosen: await chosenOf(w),
      rule: rules[seed % rules.length]!,
      to,
    });
    const { closure, placement, plan, source } = collecting;
    const wanted: { scene: string; at: string; content: Buffer | null }[] = [];
    const missing: { scene: string; at: string }[] = [];
    for (const file of closure.files.values())
      for (const r of file.references ?? []) {
        const target = absoluteTarget(source.root, file.from, r);
        if (target === null) missing.push({ scene: placement.files.get(file.from)!.to, at: r.at });
        const isSayable = !plan.notes.some(
          (n) => n.code === 'cannot-say' && n.path === placement.files.get(file.from)!.to,
        );
        if (target === null || r.members || !isSayable || r.uncertain) continue;
        const isScene = (closure.files.get(target)?.references?.length ?? 0) > 0;
        wanted.push({
          scene: placement.files.get(file.from)!.to,
          at: r.at,
          content: isScene ? null : fs.readFileSync(target),
        });
      }
    const { report } = await collect(collecting, recordsOf(data, collecting.to), { draw });
    expect(snapshot(at)).toEqual(before);
    fs.rmSync(at, { recursive: true });
    const now = plainFolder(to);
    const said = new Map<string, { target: string | null; written: string; inside: boolean }>();
    for (const scene of new Set([...wanted, ...missing].map((x) => x.scene))) {
      const reading = await readScene(now.tree, treePath(scene));
      if (!reading || !('format' in reading)) throw new Error(`${seed} ${scene} is not read`);
      for (const r of (await judge(treePath(scene), reading, settingOf(now))).references)
        said.set(`${scene}\n${r.at}`, r);
    }
    for (const { scene, at: place } of missing) {
      const r = said.get(`${scene}\n${place}`)!;
      expect([seed, scene, place, r.written, r.inside ? r.target : null]).toEqual([
        ...[seed, scene, place, r.written, null],
      ]);
      stayed++;
    }
    for (const { scene, at: place, content } of wanted) {
      const r = said.get(`${scene}\n${place}`)!;
      expect([seed, scene, place, r.written, r.inside && r.target !== null]).toEqual([
        seed,
        scene,
        place,
        r.written,
        true,
      ]);
      const file = path.join(to, r.target!);
      if (content) expect(fs.readFileSync(file).equals(content)).toBe(true);
      led++;
      if (!scene.endsWith('.gltf')) continue;
      const url = new URL(r.written, pathToFileURL(path.join(to, scene)));
      expect(fs.statSync(fileURLToPath(url)).isFile()).toBe(true);
      opened++;
    }
    // The report names each file that lies there, and nothing else lies there.
    const lies = Object.keys(snapshot(to)).map((f) =>
      Buffer.from(f, 'latin1')
        .toString()
        .slice(to.length + 1),
    );
    expect(lies.sort()).toEqual([...report!.files.map((f) => f.path), ...Object.values(reportNames)].sort());
    const read = collectReport.parse(JSON.parse(fs.readFileSync(path.join(to, reportNames.data), 'utf8')));
    for (const f of read.files) {
      expect(f.size).toBe(fs.statSync(path.join(to, f.path)).size);
      expect(f.blake3).toBe(await diskOutside.digest(path.join(to, f.path)));
    }
    // Undone, the folder is empty again.
    const records = shelfRecords(to, recordsOf(data, to));
    const ids = fs
      .readdirSync(path.join(recordsOf(data, to), '.satchel/journal'))
      .filter((f) => f.endsWith('.jsonl'))
      .map((f) => f.replace('.jsonl', ''));
    for (const id of ids.sort().reverse()) await applyPlan(to, await planUndoOf(records, id), {}, records);
    expect(fs.readdirSync(to)).toEqual([]);
  }
  expect([led > (200 / 60) * many, opened > (100 / 60) * many, stayed > 0]).toEqual([true, true, true]);
}, 3_600_000);

describe('one workspace', () => {
  const root = path.join(base, 'one');
  const lay = (files: Record<string, string | Uint8Array>) => {
    for (const [name, content] of Object.entries(files)) {
      fs.mkdirSync(path.dirname(path.join(base, name)), { recursive: true });
      fs.writeFileSync(path.join(base, name), content);
    }
  };
  beforeAll(() => {
    lay({
      'one/scenes/a.gltf': JSON.stringify({
        asset: { version: '2.0', generator: '<b>a program</b>' },
        extensionsUsed: ['KHR_materials_unlit', 'KHR_texture_transform'],
        extensionsRequired: ['KHR_texture_transform'],
        buffers: [{ uri: 'a.bin', byteLength: 4 }],
        images: [
          { uri: '../textures/wood.png' },
          { uri: '../../elsewhere/wood.png' },
          { uri: '../gone.png' },
        ],
      }),
      'one/scenes/a.bin': 'abcd',
      'one/textures/wood.png': 'inside',
      'elsewhere/wood.png': 'outside',
    });
  });
  const options = (more: Partial<CollectOptions> = {}): CollectOptions => ({
    chosen: [`${root}/scenes/a.gltf`],
    rule: rules[0]!,
    to: path.join(base, 'client'),
    ...more,
  });

  test.each([
    ['a folder that is not empty', () => lay({ 'full/x.txt': 'x' }), 'full', /not empty: it contains x\.txt/],
    ['a file', () => lay({ afile: 'x' }), 'afile', /is a file/],
    ['a folder in the workspace', () => {}, 'one/new', /inside the workspace/],
    ['a folder that has no place', () => {}, 'no/such', /is no folder/],
    ['a name that no other system takes', () => {}, 'aux', /cannot be the name/],
    ['the twin of a folder', () => lay({ 'Client/x': '' }), 'cLIENT', /take the two names for one/],
  ])('%s is refused, and nothing is made', async (_, prepare, to, why) => {
    prepare();
    const before = snapshot(base);
    await expect(planCollecting(plainFolder(root), options({ to: path.join(base, to) }))).rejects.toThrow(
      why,
    );
    expect(snapshot(base)).toEqual(before);
    fs.rmSync(path.join(base, 'Client'), { recursive: true, force: true });
  });

  test('what is left out, excluded or missing is told with who needs it, in the plan and in the report', async () => {
    const to = path.join(base, 'part');
    const collecting = await planCollecting(
      plainFolder(root),
      options({
        to,
        unticked: new Set([`${root}/textures/wood.png`]),
        excluded: [path.join(base, 'elsewhere')],
      }),
    );
    expect(collecting.plan.notes.map((n) => [n.code, n.message])).toEqual([
      ['excluded', `${base}/elsewhere/wood.png lies in an excluded folder. a.gltf needs it.`],
      ['missing', '../gone.png is missing. a.gltf needs it.'],
      ['unticked', `${root}/textures/wood.png is left out. a.gltf needs it.`],
    ]);
    const { report } = await collect(collecting, recordsOf(data, collecting.to), { draw });
    expect(report!.left.map((l) => [l.why, l.what, l.size])).toEqual([
      ['excluded', '…/wood.png', 7],
      ['missing', '../gone.png', 0],
      ['unticked', 'textures/wood.png', 6],
    ]);
    const page = fs.readFileSync(path.join(to, reportNames.page), 'utf8');
    expect(page).toContain('3 things that are needed are not here.');
    expect(page).toContain('&lt;b&gt;a program&lt;/b&gt;');
    expect(page).toContain('<strong>KHR_texture_transform</strong>');
    // No path of this machine is handed over, nothing is fetched and nothing runs.
    for (const name of Object.values(reportNames))
      expect(fs.readFileSync(path.join(to, name), 'utf8')).not.toContain(base);
    expect(page).not.toMatch(/<script|\bsrc="(?!data:)|\bhref=|@import|url\(/);
    expect(fs.readFileSync(path.join(to, 'scenes/a.gltf'), 'utf8')).toContain('"../textures/wood.png"');
  });

  test('two pictures of a name: both come, each scene says which; another library reads it', async () => {
    const to = path.join(base, 'both');
    fs.mkdirSync(to);
    await collect(await planCollecting(plainFolder(root), options({ to })), recordsOf(data, to), { draw });
    const json = JSON.parse(fs.readFileSync(path.join(to, 'scenes/a.gltf'), 'utf8')) as {
      images: { uri: string }[];
    };
    expect(json.images.map((i) => i.uri)).toEqual([
      '../textures/wood.png',
      '../textures/wood(2).png',
      '../gone.png',
    ]);
    expect(fs.readFileSync(path.join(to, 'textures/wood(2).png'), 'utf8')).toBe('outside');
    fs.writeFileSync(path.join(to, 'gone.png'), '');
    // The library refuses extensions that it was not told of.
    fs.writeFileSync(
      path.join(to, 'scenes/b.gltf'),
      JSON.stringify({ ...json, extensionsRequired: [], extensionsUsed: [] }),
    );
    const document = await new NodeIO().read(path.join(to, 'scenes/b.gltf'));
    expect(
      document
        .getRoot()
        .listTextures()
        .map((t) => Buffer.from(t.getImage()!).toString()),
    ).toEqual(['inside', 'outside', '']);
  });

  test('what may be a path or not comes along, and is left as it is written', async () => {
    lay({
      'one/scenes/guess.gltf': JSON.stringify({
        asset: { version: '2.0' },
        extensions: { STUDIO_thing: { uri: '../textures/wood.png' } },
      }),
    });
    const to = path.join(base, 'guessed');
    const collecting = await planCollecting(
      plainFolder(root),
      options({ to, chosen: [`${root}/scenes/guess.gltf`], rule: { by: 'tail', folders: 0 } }),
    );
    expect(collecting.plan.paths).toEqual([]);
    await collect(collecting, recordsOf(data, collecting.to), { draw });
    expect(fs.readFileSync(path.join(to, 'guess.gltf'))).toEqual(
      fs.readFileSync(path.join(root, 'scenes/guess.gltf')),
    );
    expect(fs.existsSync(path.join(to, 'wood.png'))).toBe(true);
  });

  test('the report alone: nothing is copied, every checksum is there', async () => {
    const to = path.join(base, 'alone');
    const collecting = await planCollecting(plainFolder(root), options({ to }));
    const plan = await planReportOnly(collecting, draw);
    await collect({ to, plan, draft: null, marker: null }, recordsOf(data, to), { draw });
    const report = collectReport.parse(JSON.parse(fs.readFileSync(path.join(to, reportNames.data), 'utf8')));
    expect(fs.readdirSync(to).sort()).toEqual(Object.values(reportNames).sort());
    expect(report!.files.every((f) => /^[0-9a-f]{64}$/.test(f.blake3!))).toBe(true);
  });

  test('what a hand put where it cannot lie: the plan says so, and does nothing', async () => {
    for (const path of ['../../x.png', 'a//b.png', 'con/x.png', '.satchel/x.png', 'what is in here.html']) {
      const { plan } = await planCollecting(
        plainFolder(root),
        options({
          to: `${base}/wrong`,
          byHand: [{ do: 'put', from: `${root}/textures/wood.png`, to: path }],
        }),
      );
      expect([path, blockers(plan).map((b) => b.code), plan.steps]).toEqual([path, ['clash'], []]);
    }
  });

  test('as a workspace: its own ledger names no path of this machine, and both can be undone', async () => {
    const to = path.join(base, 'Own');
    const collecting = await planCollecting(plainFolder(root), options({ to, asWorkspace: true }));
    const { record } = await collect(collecting, recordsOf(data, to), { draw });
    const own = await readWorkspace(to);
    expect(own.file).toMatchObject({ name: 'Own', homes: { scene: 'scenes', texture: 'textures' } });
    for (const f of fs.readdirSync(path.join(to, '.satchel'), { recursive: true, withFileTypes: true }))
      if (f.isFile()) expect(fs.readFileSync(path.join(f.parentPath, f.name), 'utf8')).not.toContain(root);
    const places = await recordsAbout(to, data);
    expect((await Promise.all(places.map(readLedger))).map((l) => l.map((e) => e.title))).toEqual([
      ['Make Own a workspace'],
      ['Say what is in here', expect.stringMatching(/^Collect/)],
    ]);
    await applyPlan(to, await planUndoOf(places[1]!, record.id), {}, places[1]);
    expect(fs.existsSync(path.join(to, 'scenes'))).toBe(false);
  });

  test('leaves a folder alone that was filled after planning', async () => {
    const to = path.join(base, 'filled');
    const collecting = await planCollecting(plainFolder(root), options({ to }));
    lay({ 'filled/own.txt': 'mine' });
    await expect(collect(collecting, recordsOf(data, to), { draw })).rejects.toMatchObject({
      code: 'exists',
      message: expect.stringContaining('own.txt'),
    });
    expect(fs.readdirSync(to)).toEqual(['own.txt']);
  });

  test.each([false, true])(
    'undoes an interrupted collection before collecting again (as a workspace: %s)',
    async (asWorkspace) => {
      const to = path.join(base, `parts ${asWorkspace}`);
      const records = recordsOf(data, to);
      const planned = () => planCollecting(plainFolder(root), options({ to, records, asWorkspace }));
      // The process ends while the report is written.
      const ends = () => Promise.reject(new Error('killed'));
      await expect(collect(await planned(), records, { draw: ends })).rejects.toThrow('killed');
      expect(fs.existsSync(path.join(to, 'scenes'))).toBe(true);
      // A file that the user changed since is not undone.
      fs.appendFileSync(path.join(to, 'textures/wood.png'), '!');
      await expect(collect(await planned(), records, { draw })).rejects.toMatchObject({
        code: 'blocked-plan',
      });
      expect(fs.readFileSync(path.join(to, 'textures/wood.png'), 'utf8')).toBe('inside!');
      fs.writeFileSync(path.join(to, 'textures/wood.png'), 'inside');
      const again = await planned();
      expect(again.plan.notes[0]).toMatchObject({ code: 'broken-off' });
      const { report } = await collect(again, records, { draw });
      expect(report!.files.length).toBeGreaterThan(2);
      expect(fs.existsSync(path.join(to, '.satchel'))).toBe(asWorkspace);
      const titles = (await readLedger(shelfRecords(to, records))).filter((e) => e.state === 'applied');
      expect(titles.map((e) => e.title.split(' ')[0])).toEqual(['Say', 'Collect', 'Undo:']);
      // A complete collection is not undone.
      await expect(planned()).rejects.toMatchObject({ code: 'exists' });
      expect(fs.existsSync(path.join(to, reportNames.data))).toBe(true);
    },
  );

  test('a source that was saved since: nothing comes', async () => {
    const to = path.join(base, 'late');
    const collecting = await planCollecting(plainFolder(root), options({ to }));
    fs.appendFileSync(path.join(root, 'textures/wood.png'), '!');
    await expect(collect(collecting, recordsOf(data, collecting.to), { draw })).rejects.toMatchObject({
      code: 'stale-plan',
    });
    expect(fs.existsSync(to)).toBe(false);
    fs.writeFileSync(path.join(root, 'textures/wood.png'), 'inside');
  });
});

describe('only what is shown', () => {
  const root = path.join(base, 'shown');
  const lay = (files: Record<string, string>) => {
    for (const [name, text] of Object.entries(files)) {
      fs.mkdirSync(path.dirname(path.join(root, name)), { recursive: true });
      fs.writeFileSync(path.join(root, name), text);
    }
  };
  const shot = (head: string) =>
    `#usda 1.0\n(\n${head})\ndef "sea" { asset cache = @../caches/sea.####.bin@ }\n`;
  beforeAll(() => {
    const frames = Array.from({ length: 10 }, (_, n) => [
      `caches/sea.${String(n + 1).padStart(4, '0')}.bin`,
      `frame ${n}`,
    ]);
    lay({
      ...(Object.fromEntries(frames) as Record<string, string>),
      'scenes/a.usda': shot('    startTimeCode = 3\n    endTimeCode = 5\n'),
      'scenes/b.usda': shot('    startTimeCode = 5\n    endTimeCode = 6\n'),
      'scenes/c.usda': shot(''),
      'models/wall.obj': 'mtllib wall.mtl\nv 0 0 0\nvt 0 0\nvt 1 0\nvt 2 1\nf 1/1 1/2 1/3\n',
      'models/wall.mtl': 'newmtl w\nmap_Kd ../textures/w.<UDIM>.png\n',
      'textures/w.1001.png': 'one',
      'textures/w.1002.png': 'two',
      'textures/w.1003.png': 'three',
    });
  });
  let n = 0;
  const kept = async (chosen: string[], more: Partial<CollectOptions> = {}) => {
    const { placement, draft, plan } = await planCollecting(plainFolder(root), {
      chosen: chosen.map((c) => `${root}/${c}`),
      rule: { by: 'mirror' },
      to: path.join(base, `used${n++}`),
      usedOnly: true,
      ...more,
    });
    const names = [...placement.files.values()]
      .map((f) => f.to)
      .filter((f) => /^(?:caches|textures)/.test(f));
    return { names, left: draft.report.left, notes: plan.notes.map((x) => [x.level, x.code]) };
  };
  test('frames: those that any scene shows, all where one does not say', async () => {
    expect((await kept(['scenes/a.usda'])).names).toEqual([3, 4, 5].map((f) => `caches/sea.000${f}.bin`));
    const both = await kept(['scenes/a.usda', 'scenes/b.usda']);
    expect(both.names).toEqual([3, 4, 5, 6].map((f) => `caches/sea.000${f}.bin`));
    expect(both.left).toMatchObject([{ why: 'not-used', what: 'caches/sea.####.bin', files: 6, size: 42 }]);
    expect(both.notes).toEqual([['info', 'not-used']]);
    expect((await kept(['scenes/a.usda', 'scenes/c.usda'])).names).toHaveLength(10);
    expect((await kept(['scenes/a.usda'], { usedOnly: false })).names).toHaveLength(10);
  });
  test('tiles that no texture coordinate reaches; frames that somebody said', async () => {
    expect((await kept(['models/wall.obj'])).names).toEqual(['textures/w.1001.png', 'textures/w.1002.png']);
    const asked = (frames: [string, [number, number]][]) =>
      usedIn(plainFolder(root), { scenes: ['scenes/c.usda'], excluded: [], frames }, {});
    const set = `${root}/caches/sea.####.bin`;
    expect(await asked([])).toEqual({ notUsed: [], asks: [{ set, first: 1, last: 10 }] });
    const said = await asked([[set, [2, 9]]]);
    expect([said.asks, said.notUsed.map((u) => [u.set, u.files.length, u.size])]).toEqual([
      [],
      [[set, 2, 14]],
    ]);
  });
});

test('killed in the middle: said where it is looked at, and put back to an empty folder; the sources stay', async () => {
  const from = path.join(base, 'many');
  fs.mkdirSync(path.join(from, 'tex'), { recursive: true });
  const uris = Array.from({ length: 300 }, (_, n) => `tex/t${n}.png`);
  for (const [n, uri] of uris.entries()) fs.writeFileSync(path.join(from, uri), Buffer.alloc(100_000, n));
  fs.writeFileSync(path.join(from, 'a.gltf'), JSON.stringify({ images: uris.map((uri) => ({ uri })) }));
  const before = snapshot(from);
  const to = path.join(base, 'killed');
  const cli = path.resolve('dist/satchel.mjs');
  const built = spawnSync(process.execPath, [
    '-e',
    "import('./scripts/setup.mjs').then((m) => m.buildCli())",
  ]);
  expect(built.status).toBe(0);
  const env = { ...process.env, SATCHEL_DATA: data, NODE_OPTIONS: '' };
  const child = spawn(process.execPath, [cli, 'collect', path.join(from, 'a.gltf'), '--to', to, '--yes'], {
    env,
  });
  const there = () =>
    fs.existsSync(path.join(to, 'textures')) ? fs.readdirSync(path.join(to, 'textures')).length : 0;
  const ended = new Promise((done) => child.once('exit', done));
  while (there() < 20 && child.exitCode === null) await new Promise((go) => setTimeout(go, 2));
  child.kill('SIGKILL');
  await ended;
  expect([there() >= 20, there() < 300]).toEqual([true, true]);
  const run = (...args: string[]) => spawnSync(process.execPath, [cli, ...args], { env, encoding: 'utf8' });
  const dry = run('collect', path.join(from, 'a.gltf'), '--to', to);
  expect(dry.stderr).toContain('was begun here and is not finished');
  expect(dry.stdout).toContain('was interrupted');
  expect(run('put-back', to, '--yes').stdout).toContain('put-back: Collect a.gltf');
  expect([fs.readdirSync(to), snapshot(from)]).toEqual([[], before]);
}, 60_000);

test.each([0, 2])(
  'a missing file is not replaced by another of its name (tail of %i folders)',
  async (folders) => {
    const at = path.join(base, `strangers ${folders}`);
    const put = (name: string, content: string) => {
      fs.mkdirSync(path.dirname(path.join(at, name)), { recursive: true });
      fs.writeFileSync(path.join(at, name), content);
    };
    const gltf = (...uris: string[]) =>
      JSON.stringify({ asset: { version: '2.0' }, images: uris.map((uri) => ({ uri })) });
    put('one/a.gltf', gltf('wood.png', 'row.<UDIM>.png', 'bark.png'));
    put('one/bark.png', 'bark of a');
    put('two/b.gltf', gltf('Wood.png', 'row.1001.png', 'bark.png'));
    put('two/Wood.png', 'wood of b');
    put('two/row.1001.png', 'row of b');
    const w = plainFolder(at);
    const to = path.join(base, `strangers to ${folders}`);
    const rule: Rule =
      folders === 0
        ? { by: 'tail', folders: 0 }
        : { by: 'kind', homes: { scene: 'scenes', texture: 'scenes' } };
    const collecting = await planCollecting(w, {
      chosen: [`${at}/one/a.gltf`, `${at}/two/b.gltf`],
      rule,
      to,
    });
    await collect(collecting, recordsOf(data, to), { draw });
    const now = plainFolder(to);
    const found: Record<string, string | null> = {};
    for (const scene of (await scenePaths(now.tree)).scenes) {
      const reading = await readScene(now.tree, scene);
      if (!reading || !('format' in reading)) throw new Error(scene);
      const { references } = await judge(scene, reading, settingOf(now));
      for (const [n, r] of references.entries())
        found[`${path.basename(scene)} ${n}`] = r.target && fs.readFileSync(path.join(to, r.target), 'utf8');
    }
    expect(found).toEqual({
      'a.gltf 0': null,
      'a.gltf 1': null,
      'a.gltf 2': 'bark of a',
      'b.gltf 0': 'wood of b',
      'b.gltf 1': 'row of b',
      'b.gltf 2': null,
    });
  },
);
