// The command line as a user calls it: JSON, exit status, and the disk afterwards.

import { afterAll, beforeAll, describe, expect } from '@jest/globals';
import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { refsResult } from '@/wire/results';
import { makeDemo } from '../../demo/make';
import { deepTest, test } from '@/core/files/testing/depth';

const base = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-cli-'));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));
const project = path.resolve('.');
let root = '';
beforeAll(async () => {
  const built = spawnSync(
    process.execPath,
    ['-e', "import('./scripts/setup.mjs').then((m) => m.buildCli())"],
    { cwd: project },
  );
  expect(built.status).toBe(0);
  root = await makeDemo(path.join(base, 'demo'));
}, 60_000);

function satchel(...args: string[]) {
  const { status, stdout, stderr } = spawnSync(
    process.execPath,
    [path.join(project, 'dist', 'satchel.mjs'), ...args],
    { cwd: base, encoding: 'utf8' },
  );
  return {
    status,
    stdout,
    stderr,
    json: () =>
      JSON.parse(stdout) as never as Record<string, unknown> & {
        applied: string;
        plan: { steps: { path: string }[]; readiness: unknown; paths: { before: string; after: string }[] };
      },
  };
}
const everything = (dir: string) =>
  Object.fromEntries(
    fs
      .readdirSync(dir, { recursive: true, withFileTypes: true })
      .filter((e) => e.isFile() && !e.parentPath.includes('.satchel'))
      .map((e) => [
        path.relative(dir, path.join(e.parentPath, e.name)),
        fs.readFileSync(path.join(e.parentPath, e.name)).toString('base64'),
      ])
      .sort(),
  );

describe('refs', () => {
  test('JSON exactly as documented, spans on the encoded values', () => {
    const { status, json } = satchel('refs', root, '--json');
    expect(status).toBe(1);
    const result = refsResult.strict().parse(json());
    expect(Object.keys(result)).toEqual(['root', 'scenes', 'summary']);
    expect(result.summary).toEqual({
      scenes: 41,
      references: 53,
      byState: {
        travels: 37,
        remote: 1,
        missing: 6,
        library: 1,
        outside: 3,
        absolute: 1,
        offline: 1,
        case: 3,
      },
      problems: 1,
    });
    expect(result.scenes.map((s) => s.path)).toEqual([...result.scenes.map((s) => s.path)].sort());
    for (const scene of result.scenes) {
      const bytes = fs.readFileSync(path.join(root, scene.path));
      // In a crate file paths stand in compressed tables.
      for (const r of scene.references)
        expect(scene.format === 'usdc' ? r.span : bytes.subarray(r.span![0], r.span![1]).toString()).toBe(
          scene.format === 'usdc' ? null : r.written,
        );
    }
    const rope = result.scenes.flatMap((s) => s.references).find((r) => r.written.endsWith('rope_tile.png'))!;
    expect(Object.keys(rope)).toEqual([
      'written',
      'at',
      'kind',
      'span',
      'state',
      'target',
      'targets',
      'gaps',
    ]);
    expect(rope).toMatchObject({
      state: 'outside',
      target: path.join(base, 'demo/bench/Downloads/rope_tile.png'),
      targets: 1,
      kind: 'texture',
    });
  });
  test('one scene, the chain, nothing wrong', () => {
    const lone = satchel('refs', path.join(root, 'models/crate.obj'), '--json').json() as unknown as {
      scenes: { path: string }[];
    };
    expect(lone.scenes.map((s) => s.path)).toEqual(['models/crate.obj']);
    const chain = satchel(
      'refs',
      path.join(root, 'models/crate.obj'),
      '--follow',
      '--json',
    ).json() as unknown as { scenes: { path: string }[] };
    expect(chain.scenes.map((s) => s.path)).toEqual(['models/crate.mtl', 'models/crate.obj']);
    expect(satchel('refs', path.join(root, 'models/crate.obj')).status).toBe(0);
  });
});

test('as it is started from a checkout, from any folder', () => {
  const bin = path.join(project, 'bin', 'satchel.mjs');
  const called = spawnSync(
    process.execPath,
    [bin, 'refs', path.join(root, 'scenes', 'boat_v004.gltf'), '--json'],
    {
      cwd: base,
      encoding: 'utf8',
      env: { ...process.env, SATCHEL_THREADS: undefined },
    },
  );
  expect([called.stderr, called.status]).toEqual(['', 1]);
  expect(Array.isArray(JSON.parse(called.stdout).references ?? JSON.parse(called.stdout).scenes)).toBe(true);
});

test('the whole way: new, bring, save, versions, restore, repath, pack, verify, rehearse, unpack, ledger, undo', () => {
  const work = path.join(base, 'work');
  fs.mkdirSync(work);
  const own = path.join(work, 'Quay');
  expect(satchel('new', work, 'Quay', '--layout', 'painting').status).toBe(0);
  expect(fs.existsSync(own)).toBe(false);
  expect(
    satchel('new', work, 'Quay', '--layout', 'game-environment', '--without', 'audio', '--yes').status,
  ).toBe(0);
  expect(fs.readdirSync(own).sort()).toEqual([
    '.satchel',
    'backups',
    'caches',
    'exports',
    'intake',
    'models',
    'reference',
    'renders',
    'scenes',
    'textures',
  ]);
  const inside = satchel('new', path.join(own, 'scenes'), 'Other', '--layout', 'painting', '--yes');
  expect([inside.status, inside.stderr.includes('inside the workspace')]).toEqual([2, true]);

  const pack = path.join(base, 'demo/bench/Downloads/bollard-pack/bollard.gltf');
  const before = everything(own);
  expect(satchel('bring', pack, '--into', own, '--json').json().applied).toBeNull();
  expect(everything(own)).toEqual(before);
  const brought = satchel('bring', pack, '--into', own, '--yes', '--json').json();
  expect(Object.keys(everything(own))).toEqual([
    'scenes/bollard.bin',
    'scenes/bollard.gltf',
    'textures/bollard base.png',
    'textures/bollard_normal.png',
    'textures/rope_tile.png',
  ]);
  const scene = path.join(own, 'scenes/bollard.gltf');
  expect(satchel('refs', own).status).toBe(0);
  // Nothing but the three paths is different in the scene.
  const undone = fs
    .readFileSync(scene, 'utf8')
    .replaceAll('../textures/rope_tile.png', '../rope_tile.png')
    .replaceAll('../textures/', 'maps/');
  expect(undone).toBe(fs.readFileSync(pack, 'utf8'));

  expect(satchel('save', scene, '--note', 'first', '--yes').status).toBe(0);
  expect(satchel('restore', scene, '1', '--yes').status).toBe(0);
  const versions = satchel('versions', scene, '--json').json() as unknown as {
    versions: { number: number | null; note: string }[];
    next: string;
  };
  expect([versions.versions.map((v) => [v.number, v.note]), versions.next]).toEqual([
    [
      [null, ''],
      [1, 'first'],
      [2, 'bollard_v001.gltf brought back'],
    ],
    'scenes/bollard_v003.gltf',
  ]);

  const repathed = satchel(
    'repath',
    scene,
    '--from',
    '../textures',
    '--to',
    'D:/kit/textures',
    '--match',
    '*normal*',
    '--yes',
    '--json',
  );
  expect([repathed.status, repathed.json().plan.paths.map((p) => p.after)]).toEqual([
    1,
    ['D:/kit/textures/bollard_normal.png'],
  ]);
  expect(satchel('undo', own, repathed.json().applied, '--yes').status).toBe(0);
  expect(satchel('refs', own).status).toBe(0);

  const bag = path.join(base, 'quay.zip');
  expect(satchel('pack', own, '--to', bag).status).toBe(0);
  expect(satchel('verify', bag).status).toBe(0);
  const rehearsed = satchel(
    'rehearse',
    bag,
    '--as',
    'windows',
    '--drive',
    'E',
    '--json',
  ).json() as unknown as { opens: boolean; place: { root: string } };
  expect([rehearsed.opens, rehearsed.place.root]).toEqual([true, 'E:/work/quay']);
  expect(satchel('unpack', bag, '--to', path.join(base, 'arrived')).status).toBe(0);
  expect(everything(path.join(base, 'arrived'))).toEqual(everything(own));
  expect(satchel('refs', path.join(base, 'arrived')).status).toBe(0);

  // A copy of the folder may be separate work: nothing of it is merged unconfirmed.
  const [arrived, copy] = [path.join(base, 'arrived'), path.join(base, 'copied')];
  fs.cpSync(arrived, copy, { recursive: true, preserveTimestamps: true });
  fs.writeFileSync(path.join(copy, 'textures/theirs.png'), 'theirs');
  const again = ['arrive', copy, '--to', arrived, '--yes'];
  expect(satchel(...again).stderr).toMatch(/may be separate work.*--same-work/s);
  expect(fs.existsSync(path.join(arrived, 'textures/theirs.png'))).toBe(false);
  expect(satchel(...again, '--same-work').status).toBe(0);
  expect(fs.existsSync(path.join(arrived, 'textures/theirs.png'))).toBe(true);

  const ledger = satchel('ledger', own, '--json').json() as unknown as {
    entries: { id: string; state: string; kind: string }[];
  };
  expect(ledger.entries.map((e) => [e.kind, e.state])).toEqual([
    ['undo', 'applied'],
    ['repath', 'undone'],
    ['restore', 'applied'],
    ['save', 'applied'],
    ['bring', 'applied'],
    ['create', 'applied'],
  ]);
  // Undo in an order in which nothing later depends on it.
  for (const id of [ledger.entries[2]!.id, ledger.entries[3]!.id, brought.applied])
    expect(satchel('undo', own, id, '--yes').status).toBe(0);
  expect(everything(own)).toEqual(before);
});

deepTest('collect: a list of scenes into an empty folder, with its report; undone; the report alone', () => {
  const list = path.join(root, 'to hand over.txt');
  fs.writeFileSync(list, '# the harbour\r\nscenes/harbour_v007.gltf\n\nscenes/quay.usda\n');
  const to = path.join(base, 'for the client');
  const before = satchel('collect', list, '--to', to, '--json');
  expect([before.status, before.json().applied, fs.existsSync(to)]).toEqual([1, null, false]);
  const done = satchel('collect', list, '--to', to, '--layout', 'mirror', '--yes', '--json');
  expect([done.status, done.json().report]).toEqual([1, `${to}/what is in here.html`]);
  expect(fs.readdirSync(to).sort()).toContain('what is in here.csv');
  expect(fs.readFileSync(path.join(to, 'textures/lantern_glass.png'))).toEqual(
    fs.readFileSync(path.join(root, 'textures/lantern_glass.png')),
  );
  expect(fs.existsSync(path.join(to, 'caches/sea/sea.0024.ply'))).toBe(true);
  const states = refsResult.parse(JSON.parse(satchel('refs', to, '--json').stdout));
  // Missing there as here: the picture of the beach, by a path of another machine.
  expect(states.summary.byState).toEqual({ travels: states.summary.references - 1, missing: 1 });
  expect(satchel('collect', list, '--to', to).stderr).toContain('is not empty');
  // Nothing of the records lies in the folder; they are found all the same.
  expect(fs.existsSync(path.join(to, '.satchel'))).toBe(false);
  expect(satchel('ledger', to).stdout).toMatch(/Say what is in here[^]*Collect /);
  expect(satchel('put-back', to).stdout).toContain('Nothing is unfinished.');
  expect(satchel('undo', to, done.json().applied, '--yes').status).toBe(0);
  expect(fs.existsSync(path.join(to, 'textures'))).toBe(false);
  const alone = path.join(base, 'report');
  expect(satchel('collect', root, '--to', alone, '--report-only', '--yes').status).toBe(1);
  expect(fs.readdirSync(alone)).toHaveLength(3);
  fs.rmSync(list);
  expect(satchel('collect', root, '--to', path.join(base, 'x'), '--layout', 'by-colour').stderr).toContain(
    'by-kind, mirror, keep-N',
  );
});

deepTest('wrong calls say what is wrong and change nothing', () => {
  for (const args of [
    ['nonsense'],
    ['refs'],
    ['refs', '/no/such/place'],
    ['refs', root, '--colour'],
    ['repath', root],
    ['save', path.join(root, 'nothing.gltf')],
    ['undo', root, 'x'],
    ['verify', path.join(root, 'models/crate.obj')],
    ['pack', base, '--to', path.join(base, 'x.zip')],
  ]) {
    const { status, stderr, stdout } = satchel(...args);
    expect([args, status, stderr.length > 0, stdout]).toEqual([args, 2, true, '']);
  }
  expect(satchel('--help').status).toBe(0);
  for (const verb of [
    'new',
    'refs',
    'bring',
    'repath',
    'relink',
    'save',
    'versions',
    'restore',
    'pack',
    'verify',
    'unpack',
    'rehearse',
    'ledger',
    'undo',
  ]) {
    expect(satchel(verb, '--help').stdout).toContain('Example');
    expect(JSON.parse(satchel(verb, '--schema').stdout)).toHaveProperty('type', 'object');
  }
});

test('outside a workspace a rename takes the nearest folder that holds all that names the file, and says which', async () => {
  const at = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-rename-'));
  fs.mkdirSync(path.join(at, 'p/scenes'), { recursive: true });
  fs.mkdirSync(path.join(at, 'p/textures'));
  fs.writeFileSync(path.join(at, 'p/textures/a.png'), 'A');
  fs.writeFileSync(
    path.join(at, 'p/scenes/s.gltf'),
    JSON.stringify({ images: [{ uri: '../textures/a.png' }] }),
  );
  const done = satchel('rename', path.join(at, 'p/textures/a.png'), 'b.png', '--yes');
  expect([done.status, done.stderr.includes(`Taken for the root: ${path.join(at, 'p')},`)]).toEqual([
    0,
    true,
  ]);
  expect(fs.readFileSync(path.join(at, 'p/scenes/s.gltf'), 'utf8')).toContain('../textures/b.png');
  fs.rmSync(at, { recursive: true });
});

deepTest(
  'a damaged or empty marker has a way out: adopting writes a new one; unknown fields of a sound one are kept',
  async () => {
    const at = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-marker-'));
    fs.mkdirSync(path.join(at, '.satchel'));
    const marker = path.join(at, '.satchel/workspace.json');
    for (const content of ['', '{"format":1,']) {
      fs.writeFileSync(marker, content);
      expect(satchel('adopt', at, '--yes').status).toBe(0);
      expect(JSON.parse(fs.readFileSync(marker, 'utf8')).format).toBe(1);
    }
    const whole = JSON.parse(fs.readFileSync(marker, 'utf8')) as Record<string, unknown>;
    fs.writeFileSync(marker, JSON.stringify({ ...whole, later: { x: 1 } }));
    const home = String((whole.homes as Record<string, string>).texture);
    expect(satchel('rename', path.join(at, home), `${home}-2`, '--yes').status).toBe(0);
    expect(JSON.parse(fs.readFileSync(marker, 'utf8')).later).toEqual({ x: 1 });
    fs.rmSync(at, { recursive: true });
  },
);
