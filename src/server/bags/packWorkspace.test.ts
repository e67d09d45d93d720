// Packing what was chosen, from a real disk: libraries come along with paths written for there, sources stay to the byte, a set of volumes is whole
// only together, a full or small drive is told before anything is written.

import { afterAll, describe, expect, jest, test } from '@jest/globals';
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { usualChoice } from '@/core/bags/travelling';
import { readInfo } from '@/core/bags/manifest';
import { settingOf } from '@/core/plans/workspace';
import { scan } from '@/core/references/scan';
import { plainFolder, readWorkspace } from '../workspaces/open';
import { packWorkspace } from './packWorkspace';
import { unpack } from './unpack';
import { verify } from './verify';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-travel-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));

const lay = (root: string, files: Record<string, string | Buffer>) => {
  for (const [name, content] of Object.entries(files)) {
    const file = path.join(root, name);
    fs.mkdirSync(path.dirname(file), { recursive: true });
    fs.writeFileSync(file, content);
    fs.utimesSync(file, 1_764_000_000.345, 1_764_000_000.345);
  }
};
const gltf = (...uris: string[]) =>
  JSON.stringify({ asset: { version: '2.0' }, images: uris.map((uri) => ({ uri })) });
const hashOf = (file: string) =>
  createHash('sha256').update(fs.readFileSync(file)).digest('hex').slice(0, 16);
const everything = (root: string) =>
  Object.fromEntries(
    fs
      .readdirSync(root, { recursive: true, withFileTypes: true })
      .filter((e) => e.isFile())
      .map((e) => path.join(e.parentPath, e.name))
      .sort()
      .map((f) => [path.relative(root, f), [hashOf(f), fs.statSync(f).mtimeMs]]),
  );

let count = 0;
/** A workspace with a library, a texture elsewhere, renders, versions, a store, and names of every kind. */
function workspaceAt(): string {
  const at = path.join(base, `w${++count}`);
  lay(at, {
    'kits/harbour/textures/iron ü.png': 'iron',
    'kits/harbour/bollard.gltf': gltf('textures/iron%20%C3%BC.png', '../other/rust.png'),
    'kits/harbour/sea/sea.0001.png': '1',
    'kits/harbour/sea/sea.0002.png': '22',
    'kits/other/rust.png': 'rust',
    'downloads/rope.png': 'rope',
    'boat/scenes/boat_v002.gltf': gltf(
      '../textures/hull.png',
      `${at}/kits/harbour/textures/iron%20%C3%BC.png`,
      '../../downloads/rope.png',
    ),
    'boat/scenes/boat_v001.gltf': gltf('../textures/hull.png'),
    'boat/scenes/quay.usda': `#usda 1.0\ndef Scope "Q" { asset[] a = [@${at}/kits/harbour/bollard.gltf@] }\n`,
    'boat/textures/hull.png': 'hull',
    'boat/textures/100% #1.png': 'odd',
    'boat/caches/sea.abc': Buffer.alloc(5000, 7),
    'boat/renders/lamp.0001.png': 'r',
    'boat/libraries/own.txt': 'mine',
    'boat/.hidden/x': 'h',
    'boat/.satchel/store/pack1': 'secret of this machine',
    'boat/.satchel/journal/1.jsonl': '{}',
    'boat/.satchel/workspace.json': JSON.stringify({
      format: 1,
      name: 'Boat',
      created: '2026-11-27T08:00:00.000Z',
      layout: 'x',
      folders: [],
      homes: { scene: 'scenes', texture: 'textures', cache: 'caches', render: 'renders' },
      libraries: [{ name: 'harbour kit', path: `${at}/kits/harbour` }],
      places: [],
    }),
  });
  return path.join(at, 'boat');
}

async function statesIn(root: string): Promise<Record<string, string>> {
  const workspace = { ...plainFolder(root) };
  const states: Record<string, string> = {};
  for await (const report of scan(workspace.tree, settingOf(workspace)))
    for (const r of report.references) states[`${report.path}: ${r.written}`] = r.state;
  return states;
}

describe.each(['bag.zip', 'bag'])('a chosen bag as %s', (name) => {
  test('store, bin and ledger stay here; that is said, and with the whole history they come', async () => {
    const root = workspaceAt();
    const made = await packWorkspace(await readWorkspace(root), `${base}/h${count}-${name}`);
    expect(made.without).toEqual([{ class: 'history', files: 2, bytes: 24 }]);
    await unpack(made.bag, `${base}/h${count}-${name}-out`);
    const there = Object.keys(everything(`${base}/h${count}-${name}-out`));
    expect(there).toContain('.satchel/workspace.json');
    expect(there).toContain('.hidden/x');
    expect(there.filter((p) => /store|journal/.test(p))).toEqual([]);
    const whole = await packWorkspace(await readWorkspace(root), `${base}/w${count}-${name}`, {
      choice: { ...usualChoice, without: [] },
    });
    expect([whole.without, whole.files]).toEqual([[], made.files + 2]);
  });

  test('what is used of libraries comes along; only the bag’s copies are written anew', async () => {
    const root = workspaceAt();
    const before = everything(path.dirname(root));
    const to = `${base}/l${count}-${name}`;
    const made = await packWorkspace(await readWorkspace(root), to, {
      choice: { ...usualChoice, along: ['harbour kit', ''] },
    });
    expect(everything(path.dirname(root))).toEqual(before);
    expect([made.references, made.ready, made.leansOn]).toEqual([5, 5, []]);
    expect((await verify(to)).problems).toEqual([]);
    // The original is gone: what opens, opens from the bag alone.
    fs.renameSync(path.dirname(root), `${path.dirname(root)} away`);
    await unpack(to, `${to}-out`);
    const states = await statesIn(`${to}-out`);
    expect(Object.values(states)).toEqual(Object.values(states).map(() => 'travels'));
    expect(Object.keys(states)).toContain('scenes/quay.usda: ../libraries/harbour kit/bollard.gltf');
    expect(fs.readFileSync(`${to}-out/libraries/own.txt`, 'utf8')).toBe('mine');
    expect(fs.readFileSync(`${to}-out/libraries/harbour kit/textures/iron ü.png`, 'utf8')).toBe('iron');
    // What is not used of the library stayed there.
    expect(fs.existsSync(`${to}-out/libraries/harbour kit/sea`)).toBe(false);
  });

  test('left as they are, libraries are told as what it leans on', async () => {
    const root = workspaceAt();
    const made = await packWorkspace(await readWorkspace(root), `${base}/n${count}-${name}`);
    expect([made.ready, [...made.leansOn].sort()]).toEqual([2, ['', 'harbour kit']]);
  });

  test('a choice by class and by hand; what it breaks is in the answer and in the bag', async () => {
    const root = workspaceAt();
    const to = `${base}/c${count}-${name}`;
    const made = await packWorkspace(await readWorkspace(root), to, {
      choice: {
        without: ['history', 'outputs', 'versions'],
        byHand: [{ path: 'textures/hull.png', travels: false }],
        along: [],
      },
    });
    expect(made.broken).toEqual([
      { scene: 'scenes/boat_v002.gltf', target: 'textures/hull.png', because: 'by-hand' },
    ]);
    expect(made.without.map((w) => [w.class, w.files])).toEqual(
      [
        ['textures', 1],
        ['outputs', 1],
        ['versions', 1],
        ['history', 2],
      ].sort(
        (a, b) =>
          made.without.findIndex((w) => w.class === a[0]) - made.without.findIndex((w) => w.class === b[0]),
      ),
    );
    await unpack(to, `${to}-out`);
    expect(Object.keys(everything(`${to}-out`)).sort()).not.toContain('renders/lamp.0001.png');
    const folder = name.endsWith('.zip') ? `${to}-x` : to;
    if (name.endsWith('.zip'))
      spawnSync('unzip', ['-q', to, '-d', folder], { env: { ...process.env, LC_ALL: 'C.UTF-8' } });
    const at = name.endsWith('.zip') ? path.join(folder, fs.readdirSync(folder)[0]!) : folder;
    const page = fs.readFileSync(path.join(at, 'arrival.html'), 'utf8');
    expect(page).toContain('<code>textures/hull.png</code></td><td><code>scenes/boat_v002.gltf</code>');
    expect(page).toContain('sha512sum -c manifest-sha512.txt');
    expect(page).not.toContain(base);
    expect(JSON.parse(fs.readFileSync(path.join(at, 'report.json'), 'utf8')).left).toContainEqual(
      expect.objectContaining({ why: 'unticked', what: 'textures/hull.png' }),
    );
    expect(spawnSync('sha512sum', ['-c', '--quiet', 'tagmanifest-sha512.txt'], { cwd: at }).status).toBe(0);
  });
});

describe('volumes', () => {
  test.each(['bag.zip', 'bag'])(
    'verify each by itself and together, and unpack to the same (%s)',
    async (name) => {
      const root = workspaceAt();
      const rest = Object.fromEntries(
        Array.from({ length: 12 }, (_, i) => [`textures/t${i}.png`, Buffer.alloc(60_000, i)]),
      );
      lay(root, rest);
      const to = `${base}/v${count}/${name}`;
      fs.mkdirSync(path.dirname(to));
      const made = await packWorkspace(await readWorkspace(root), to, { volume: 400_000 });
      expect(made.volumes.length).toBeGreaterThan(2);
      for (const [n, v] of made.volumes.entries()) {
        if (name.endsWith('.zip')) expect(fs.statSync(v).size).toBeLessThanOrEqual(400_000);
        const alone = `${base}/v${count}/alone ${n}`;
        fs.mkdirSync(alone);
        fs.cpSync(v, `${alone}/${path.basename(v)}`, { recursive: true });
        // By itself every byte of it is right; that others are needed is the one thing to say.
        expect((await verify(`${alone}/${path.basename(v)}`)).problems.map((p) => p.code)).toEqual([
          'missing-volume',
        ]);
        await expect(unpack(`${alone}/${path.basename(v)}`, `${alone}/out`)).rejects.toMatchObject({
          message: expect.stringContaining('put all into one folder') as unknown as string,
        });
        expect(fs.existsSync(`${alone}/out`)).toBe(false);
      }
      const together = await verify(made.volumes[1]!);
      expect([together.problems, together.files, together.volumes]).toEqual([[], made.files, made.volumes]);
      await unpack(made.volumes[2]!, `${base}/v${count}/out`);
      const sources = everything(root);
      for (const p of Object.keys(sources)) if (/store|journal/.test(p)) delete sources[p];
      expect(everything(`${base}/v${count}/out`)).toEqual(sources);
      if (!name.endsWith('.zip')) {
        const infos = made.volumes.map(
          (v) => new Map(readInfo(fs.readFileSync(`${v}/bag-info.txt`, 'utf8'))),
        );
        expect(new Set(infos.map((i) => i.get('Bag-Group-Identifier'))).size).toBe(1);
        expect(infos.map((i) => i.get('Bag-Count'))).toEqual(
          made.volumes.map((_, n) => `${n + 1} of ${made.volumes.length}`),
        );
      }
    },
  );

  test('one damaged volume is named', async () => {
    const root = workspaceAt();
    lay(root, { 'textures/a.png': Buffer.alloc(90_000, 1), 'textures/b.png': Buffer.alloc(90_000, 2) });
    fs.mkdirSync(`${base}/d${count}`);
    const made = await packWorkspace(await readWorkspace(root), `${base}/d${count}/bag`, { volume: 200_000 });
    const holder = made.volumes.find((v) => fs.existsSync(`${v}/data/textures/b.png`))!;
    fs.writeFileSync(`${holder}/data/textures/b.png`, Buffer.alloc(90_000, 3));
    const found = await verify(made.volumes[0]!);
    expect(found.problems.map((p) => [p.code, p.message.startsWith(path.basename(holder))])).toEqual([
      ['checksum', true],
    ]);
  });

  test('a file that fits into no volume is named, and nothing is made', async () => {
    const root = workspaceAt();
    lay(root, { 'caches/large.abc': Buffer.alloc(500_000, 1) });
    fs.mkdirSync(`${base}/f${count}`);
    await expect(
      packWorkspace(await readWorkspace(root), `${base}/f${count}/bag.zip`, { volume: 300_000 }),
    ).rejects.toMatchObject({ message: expect.stringContaining('caches/large.abc') as unknown as string });
    expect(fs.readdirSync(`${base}/f${count}`)).toEqual([]);
  });
});

test('names a folder and a file without read permission, and packs everything else', async () => {
  const root = workspaceAt();
  lay(root, { 'locked/inside.png': 'i', 'textures/locked.png': 'l' });
  const refused = [path.join(root, 'locked'), path.join(root, 'textures/locked.png')];
  const refuse = (at: unknown) => {
    if (refused.includes(String(at))) throw Object.assign(new Error('EACCES'), { code: 'EACCES' });
  };
  const { readdirSync, openSync } = fs;
  const spies = [
    jest.spyOn(fs, 'readdirSync').mockImplementation(((at: string, ...more: []) => {
      refuse(at);
      return readdirSync(at, ...more);
    }) as never),
    jest.spyOn(fs, 'openSync').mockImplementation(((at: string, ...more: [string]) => {
      refuse(at);
      return openSync(at, ...more);
    }) as never),
  ];
  const bag = `${base}/locked.zip`;
  const workspace = await readWorkspace(root);
  const { leftOut } = await packWorkspace(workspace, bag).finally(() =>
    spies.forEach((s) => s.mockRestore()),
  );
  expect(leftOut.map((l) => l.path).sort()).toEqual(['locked', 'textures/locked.png']);
  expect((await verify(bag)).problems).toEqual([]);
  await unpack(bag, `${base}/locked out`);
  expect(fs.readFileSync(`${base}/locked out/textures/hull.png`, 'utf8')).toBe('hull');
  expect(fs.existsSync(`${base}/locked out/locked`)).toBe(false);
});
