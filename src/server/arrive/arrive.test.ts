// Arriving on a real disk: bags, ZIPs and folders from elsewhere, paths written for here, a second arrival file by file; hand-ins of every form.

import { afterAll, describe, expect, test } from '@jest/globals';
import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { pathToFileURL } from 'node:url';
import { zipSync } from 'fflate';
import type { AppError } from '@/core/errors';
import { planArriveAgain } from '@/core/plans/planArriveAgain';
import { planBundle } from '@/core/plans/planBundle';
import { packWorkspace } from '../bags/packWorkspace';
import { diskOutside } from '../disk/diskOutside';
import { DiskTree } from '../disk/diskTree';
import { takeFolderLock } from '../disk/folderLock';
import { wholeDisk } from '../disk/testing/wholeDisk';
import { checkAll, checkDelivery, handInTable } from '../handIn/checkDelivery';
import { applyPlan } from '../workspaces/changing';
import { planUndoOf } from '../workspaces/ledger';
import { recordsIn } from '../workspaces/changing';
import { readWorkspace } from '../workspaces/open';
import { isSameWorkspace, lookAgain, settleSecondDelivery } from './again';
import { arrive, settleIn } from './arrive';
import { hereOf, rememberedHeads, rememberHeads, unknownHeads } from './heads';
import { recogniseArrival, wrongPlaceOf } from './recognise';
import { takeIn } from './takeIn';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-arrive-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));
let count = 0;
const fresh = (name: string) => path.join(base, `${++count} ${name}`);
const put = (root: string, files: Record<string, string | Buffer>) => {
  for (const [name, content] of Object.entries(files)) {
    const file = path.join(root, name);
    fs.mkdirSync(path.dirname(file), { recursive: true });
    fs.writeFileSync(file, content);
    fs.utimesSync(file, 1_764_000_000.345, 1_764_000_000.345);
  }
};
const gltf = (...uris: string[]) =>
  JSON.stringify({ asset: { version: '2.0' }, images: uris.map((uri) => ({ uri })) });
const files = (root: string, more: Record<string, string> = {}) => ({
  '.satchel/workspace.json': JSON.stringify({
    format: 1,
    name: 'Boat',
    created: '2026-11-27T08:00:00.000Z',
    layout: 'x',
    folders: [],
    homes: { scene: 'scenes', texture: 'textures' },
    libraries: [{ name: 'kit', path: 'E:/kits/harbour' }],
    places: [{ name: 'Stick', heads: ['E:/'] }],
  }),
  'scenes/boat_v001.gltf': gltf('../textures/hull.png'),
  'scenes/boat_v002.gltf': gltf(
    '../textures/hull.png',
    `${root}/textures/ü%20é.png`,
    'E:/kits/harbour/iron.png',
    'E:/skies/storm.png',
  ),
  'textures/hull.png': 'hull',
  'textures/ü é.png': 'other',
  ...more,
});

function workspaceAt(): string {
  const root = fresh('w');
  put(root, files(root));
  return root;
}
const take = async (at: string, to: string, heads: { from: string; to: string }[] = []) =>
  arrive(await recogniseArrival(at), to, { heads, repair: true });

describe('what it is', () => {
  test('a bag as a file and as a folder, a ZIP, a workspace, a folder, volumes by any of them', async () => {
    const root = workspaceAt();
    const out = fresh('out');
    fs.mkdirSync(out);
    await packWorkspace(await readWorkspace(root), `${out}/bag.zip`);
    await packWorkspace(await readWorkspace(root), `${out}/bag`);
    fs.writeFileSync(`${out}/plain.zip`, zipSync({ 'boat/a.gltf': Buffer.from(gltf()) }));
    put(`${out}/folder`, { 'a.gltf': gltf() });
    const kinds = await Promise.all(
      ['bag.zip', 'bag', 'plain.zip', 'folder'].map(async (n) => {
        const r = await recogniseArrival(`${out}/${n}`);
        return [r.kind, r.form, r.isWorkspace];
      }),
    );
    expect(kinds).toEqual([
      ['bag', 'zip', true],
      ['bag', 'folder', true],
      ['zip', 'zip', false],
      ['folder', 'folder', false],
    ]);
    expect((await recogniseArrival(root)).kind).toBe('workspace');
    await expect(recogniseArrival(`${root}/textures/hull.png`)).rejects.toMatchObject({
      code: 'unsupported',
    });
  });

  test('places from which nothing should be opened', async () => {
    const root = workspaceAt();
    const bag = fresh('bag');
    await packWorkspace(await readWorkspace(root), bag);
    const kind = async (at: string, temporary: string[] = []) =>
      (await wrongPlaceOf(at, temporary))?.kind ?? null;
    expect(await kind(`${bag}/data/scenes`)).toBe('bag');
    expect(await kind(`${base}/Downloads/pack/scenes`)).toBe('downloads');
    expect(await kind(`${root}/scenes`)).toBeNull();
    expect(await kind(`${root}/scenes`, [base])).toBe('temporary');
  });
});

describe.each(['bag.zip', 'bag', 'volumes', 'plain ZIP', 'folder'])('from a %s', (form) => {
  test('it lies in its place, paths written for there; what is missing is said', async () => {
    const root = workspaceAt();
    const out = fresh('stick');
    fs.mkdirSync(out);
    let at = `${out}/${form}`;
    if (form === 'volumes') {
      put(root, {
        'textures/large.png': Buffer.alloc(300_000, 7),
        'textures/larger.png': Buffer.alloc(300_000, 8),
      });
      at = (await packWorkspace(await readWorkspace(root), `${out}/bag.zip`, { volume: 500_000 }))
        .volumes[1]!;
    } else if (form === 'plain ZIP') {
      const all = Object.fromEntries(
        Object.entries(files(root)).map(([n, c]) => [`Boat/${n}`, Buffer.from(c)]),
      );
      at = `${out}/boat.zip`;
      fs.writeFileSync(at, zipSync({ ...all, '__MACOSX/Boat/._x': Buffer.from('x') }));
    } else if (form === 'folder') fs.cpSync(root, at, { recursive: true });
    else await packWorkspace(await readWorkspace(root), at);
    fs.renameSync(root, `${root} away`);
    const here = fresh('kits here');
    put(here, { 'harbour/iron.png': 'iron' });
    const to = fresh('here');
    const before = fs.statSync(at).isDirectory() ? wholeDisk(at) : fs.readFileSync(at);
    const arrived = await take(at, to, [{ from: 'E:/kits', to: here }]);
    expect(fs.statSync(at).isDirectory() ? wholeDisk(at) : fs.readFileSync(at)).toEqual(before);
    // The head is known for kits, not for the whole stick.
    expect([arrived.isWorkspace, arrived.name, arrived.scenes[0]]).toEqual([
      true,
      'Boat',
      'scenes/boat_v002.gltf',
    ]);
    expect(arrived.missing).toEqual([
      { scene: 'scenes/boat_v002.gltf', written: 'E:/skies/storm.png', state: 'offline' },
    ]);
    expect(arrived.unknownHeads).toEqual([{ name: 'Stick', path: 'E:/' }]);
    const scene = fs.readFileSync(`${to}/scenes/boat_v002.gltf`, 'utf8');
    expect(scene).toContain('"../textures/ü');
    expect(scene).not.toContain(root);
    // What was found whole stays to the byte.
    expect(fs.readFileSync(`${to}/scenes/boat_v001.gltf`, 'utf8')).toBe(gltf('../textures/hull.png'));
    const file = (await readWorkspace(to)).file;
    expect(file.libraries).toEqual([{ name: 'kit', path: `${here}/harbour` }]);
    // Undone, it is as it came.
    await applyPlan(to, await planUndoOf(recordsIn(to), arrived.repaired!.entry));
    expect(fs.readFileSync(`${to}/scenes/boat_v002.gltf`, 'utf8')).toContain(`${root}/textures`);
  });
});

test('hostile and broken: refused in words, nothing is written', async () => {
  const code = (work: Promise<unknown>) =>
    work.then(
      () => 'done',
      (e: unknown) => (e as AppError).code,
    );
  const at = fresh('x');
  fs.mkdirSync(at);
  for (const [name, entries] of Object.entries<Record<string, Buffer>>({
    'up.zip': { '../../evil.txt': Buffer.from('x') },
    'absolute.zip': { '/etc/evil': Buffer.from('x') },
    'drive.zip': { 'C:/evil': Buffer.from('x') },
  })) {
    fs.writeFileSync(`${at}/${name}`, zipSync(entries));
    expect([name, await code(take(`${at}/${name}`, `${at}/out`))]).toEqual([name, 'hostile-archive']);
  }
  fs.writeFileSync(`${at}/no.zip`, 'not a zip');
  expect(await code(take(`${at}/no.zip`, `${at}/out`))).toBe('bad-bag');
  put(`${at}/src`, { 'a.gltf': gltf() });
  expect(await code(take(`${at}/src`, `${at}/src/inside`))).toBe('bad-request');
  put(`${at}/full`, { 'mine.txt': 'x' });
  expect(await code(take(`${at}/src`, `${at}/full`))).toBe('not-empty');
  expect(fs.readdirSync(at).sort()).toEqual(['absolute.zip', 'drive.zip', 'full', 'no.zip', 'src', 'up.zip']);
});

test('a link in a copied folder comes as what it leads to; one that leads out is named', async () => {
  const at = fresh('links');
  put(at, { 'a.png': 'a' });
  fs.symlinkSync('a.png', `${at}/latest.png`);
  fs.symlinkSync('/etc/hostname', `${at}/out.txt`);
  const taken = await takeIn(await recogniseArrival(at), fresh('to'));
  expect(fs.readFileSync(`${taken.root}/latest.png`, 'utf8')).toBe('a');
  expect(taken.left.map((l) => l.path)).toEqual(['out.txt']);
});

test('heads of other machines are remembered, the longest counts', () => {
  const data = fresh('data');
  expect(rememberedHeads(data)).toEqual([]);
  rememberHeads(data, [{ from: 'E:\\', to: '/media/stick/' }]);
  const all = rememberHeads(data, [{ from: 'E:/kits', to: '/srv/kits' }]);
  expect(rememberedHeads(data)).toEqual(all);
  expect([hereOf('e:\\kits\\a', all), hereOf('E:/x y', all), hereOf('D:/x', all)]).toEqual([
    '/srv/kits/a',
    '/media/stick/x y',
    null,
  ]);
  fs.writeFileSync(path.join(data, 'heads.json'), '{broken');
  expect(rememberedHeads(data)).toEqual([]);
  expect(unknownHeads({ libraries: [{ name: 'k', path: base }], places: [] }, [])).toEqual([]);
});

test('says that the files are there when the repair fails', async () => {
  const root = workspaceAt();
  const to = fresh('half');
  const failure = await arrive(await recogniseArrival(root), to, {
    heads: [],
    repair: true,
    // Another process locks the workspace as soon as it is in place.
    onProgress: () => undefined,
    get signal() {
      if (fs.existsSync(`${to}/.satchel`)) takeFolderLock(`${to}/.satchel`);
      return undefined;
    },
  }).catch((cause: unknown) => cause as AppError);
  expect(failure).toMatchObject({
    code: 'busy',
    unchanged: expect.stringMatching(/^The delivery is in .*, complete and verified \(\d files\)/),
  });
  expect(fs.readFileSync(`${to}/textures/hull.png`, 'utf8')).toBe('hull');
});

describe('a second time', () => {
  test('what is new, changed there, here, on both sides; chosen file by file, undone to the byte', async () => {
    const root = workspaceAt();
    const bag = fresh('bag');
    await packWorkspace(await readWorkspace(root), bag);
    const to = fresh('here');
    await take(bag, to);
    put(root, {
      'textures/hull.png': 'hull of theirs',
      'textures/new.png': 'n',
      'scenes/boat_v001.gltf': gltf('a.png'),
    });
    fs.rmSync(`${root}/textures/ü é.png`);
    put(to, { 'textures/hull.png': 'hull of ours', 'textures/mine.png': 'm' });
    const incoming = fresh('incoming');
    await takeIn(await recogniseArrival(root), incoming);
    expect(await isSameWorkspace(to, new DiskTree(incoming))).toBe(true);
    const states = Object.fromEntries((await lookAgain(to, incoming)).map((f) => [f.path, f.is]));
    expect(states).toEqual({
      'scenes/boat_v001.gltf': 'theirs',
      // Written for here when it arrived: nobody changed it.
      'scenes/boat_v002.gltf': 'same',
      'textures/hull.png': 'both',
      'textures/mine.png': 'added',
      'textures/new.png': 'new',
      'textures/ü é.png': 'gone',
    });
    const before = wholeDisk(to);
    const plan = await planArriveAgain(
      await readWorkspace(to),
      incoming,
      new Map([
        ['scenes/boat_v001.gltf', 'take'],
        ['textures/new.png', 'take'],
        ['textures/hull.png', 'beside'],
      ]),
      diskOutside,
    );
    const record = await applyPlan(to, plan);
    expect(fs.readFileSync(`${to}/textures/hull.png`, 'utf8')).toBe('hull of ours');
    expect(fs.readFileSync(`${to}/textures/hull(2).png`, 'utf8')).toBe('hull of theirs');
    expect(fs.readFileSync(`${to}/scenes/boat_v001.gltf`, 'utf8')).toBe(gltf('a.png'));
    await applyPlan(to, await planUndoOf(recordsIn(to), record.id));
    expect(wholeDisk(to)).toEqual(before);
  });

  test('maps heads and repairs references of a second delivery, and compares a third one with it', async () => {
    const root = workspaceAt();
    const to = fresh('here');
    const heads = [{ from: 'E:/', to: `${base}/stick` }];
    put(`${base}/stick`, {
      'kits/harbour/iron.png': 'iron',
      'skies/storm.png': 'sky',
      'skies/dawn.png': 'dawn',
    });
    await take(root, to, heads);
    type Scene = { images: { uri: string }[] };
    const iron = 'E:/kits/harbour/iron.png';
    const writtenFirst = fs.readFileSync(`${to}/scenes/boat_v002.gltf`, 'utf8');
    const arrives = async () => {
      const incoming = fresh('incoming');
      const { left } = await takeIn(await recogniseArrival(root), incoming);
      const is = Object.fromEntries((await lookAgain(to, incoming)).map((f) => [f.path, f.is]));
      return { incoming, left, is };
    };
    // A remote change with paths of the other machine.
    put(root, {
      'scenes/boat_v002.gltf': gltf(
        'E:/kits/harbour/iron.png',
        `${root}/textures/hull.png`,
        'E:/skies/dawn.png',
      ),
    });
    put(to, { 'textures/hull.png': 'hull of ours' });
    spawnSync('mkfifo', [`${root}/textures/pipe`]);
    const second = await arrives();
    expect(second.left.map((l) => l.path)).toEqual(['textures/pipe']);
    expect(second.is).toMatchObject({ 'scenes/boat_v002.gltf': 'theirs', 'textures/hull.png': 'ours' });
    const plan = await planArriveAgain(
      await readWorkspace(to),
      second.incoming,
      new Map([['scenes/boat_v002.gltf', 'take']]),
      diskOutside,
    );
    await applyPlan(to, plan);
    const settled = await settleSecondDelivery(to, second.incoming, { heads }, second.left);
    expect([settled.missing, settled.left.length]).toEqual([[], 1]);
    const uris = (JSON.parse(fs.readFileSync(`${to}/scenes/boat_v002.gltf`, 'utf8')) as Scene).images;
    // References into a library keep their path, as in the first delivery.
    for (const { uri } of uris.filter((u) => u.uri !== iron)) {
      const at = decodeURIComponent(new URL(uri, pathToFileURL(`${to}/scenes/x`)).pathname);
      expect([uri, fs.existsSync(at), at.startsWith(`${root}/`)]).toEqual([uri, true, false]);
    }
    expect(uris.filter((u) => u.uri === iron).length).toBe(writtenFirst.includes(iron) ? 1 : 0);
    // Only the repair and the local change differ.
    const third = await arrives();
    expect(third.is).toMatchObject({ 'scenes/boat_v002.gltf': 'same', 'textures/hull.png': 'ours' });
    put(root, { 'scenes/boat_v002.gltf': gltf('../textures/hull.png') });
    expect((await arrives()).is).toMatchObject({
      'scenes/boat_v002.gltf': 'theirs',
      'textures/hull.png': 'ours',
    });
  });

  test('does not take a local change for a remote one after a later repair', async () => {
    const root = workspaceAt();
    const to = fresh('here');
    await take(root, to);
    put(to, { 'textures/hull.png': 'hull of ours' });
    await settleIn({ root: to, files: 0, bytes: 0, left: [] }, { heads: [], repair: true });
    const incoming = fresh('incoming');
    await takeIn(await recogniseArrival(root), incoming);
    expect((await lookAgain(to, incoming)).find((f) => f.path === 'textures/hull.png')!.is).toBe('ours');
  });
});

describe('handed in', () => {
  const list = {
    format: 1 as const,
    name: 'Week 6',
    require: [{ path: 'scenes/*.gltf' }],
    references: { complete: true, relative: true },
    form: {
      as: 'zip' as const,
      profile: { 'BagIt-Profile-Info': { 'BagIt-Profile-Identifier': 'p' }, 'Accept-BagIt-Version': ['1.0'] },
    },
  };
  test('thirty in one go: a bag, a ZIP, a folder, one that is broken, in one table', async () => {
    const at = fresh('handed');
    fs.mkdirSync(at);
    const root = fresh('fine');
    put(root, { ...files(root), 'scenes/boat_v002.gltf': gltf('../textures/hull.png') });
    for (let n = 1; n <= 26; n++) put(`${at}/${n} folder`, { 'scenes/a.gltf': gltf('x.png') });
    await packWorkspace(await readWorkspace(root), `${at}/27 bag.zip`);
    fs.writeFileSync(`${at}/28 zip.zip`, zipSync({ 'scenes/a.gltf': Buffer.from(gltf()) }));
    fs.writeFileSync(`${at}/29 broken.zip`, 'nothing');
    await packWorkspace(await readWorkspace(root), `${at}/30 bag`);
    const before = wholeDisk(at);
    const all = await checkAll(at, list, { temporary: base });
    expect(all.map((d) => d.name).slice(25)).toEqual([
      '26 folder',
      '27 bag.zip',
      '28 zip.zip',
      '29 broken.zip',
      '30 bag',
    ]);
    expect(all.map((d) => d.ok).filter(Boolean)).toHaveLength(1);
    expect(all.find((d) => d.name === '27 bag.zip')!.ok).toBe(true);
    expect(all.find((d) => d.name === '29 broken.zip')!.error).toContain('cannot be read as a ZIP');
    const table = handInTable(all);
    expect(table.split('\r\n')).toHaveLength(32);
    // Read by another program, RFC 4180.
    const script =
      'import csv,sys\nrows=list(csv.reader(sys.stdin))\nprint(len(rows),set(len(r) for r in rows),sum(r[1]=="yes" for r in rows))';
    const read = spawnSync('python3', ['-c', script], { input: table, encoding: 'utf8' });
    expect(read.stdout.trim()).toMatch(/^31 \{\d+\} 1$/);
    // Nothing was left behind, nothing was changed.
    expect(wholeDisk(at)).toEqual(before);
    expect(fs.readdirSync(base).filter((n) => n.startsWith('hand-in-'))).toEqual([]);
  });
  test('a workspace before it is packed', async () => {
    const view = await checkDelivery(workspaceAt(), list, { temporary: base });
    expect(view.points.map((p) => [p.id, p.ok])).toEqual([
      ['require 0', true],
      ['complete', true],
      ['relative', false],
      ['form', true],
    ]);
  });
});

describe('many small files in one', () => {
  const framesIn = (root: string) =>
    fs
      .readdirSync(`${root}/caches/sea`)
      .sort()
      .map((n) => {
        const { size, mtimeMs } = fs.statSync(`${root}/caches/sea/${n}`);
        return [n, size, Math.round(mtimeMs), fs.readFileSync(`${root}/caches/sea/${n}`, 'utf8')];
      });
  const seaAt = () => {
    const root = workspaceAt();
    const sea: Record<string, string> = {};
    for (let n = 1; n <= 60; n++) sea[`caches/sea/wave & ü.${String(n).padStart(4, '0')}.vdb`] = `wave ${n}`;
    sea['scenes/boat_v003.gltf'] = gltf('../textures/hull.png', '../caches/sea/wave%20%26%20ü.0001.vdb');
    put(root, sea);
    return root;
  };
  const bundleIn = async (root: string) => {
    const now = new Date().toISOString();
    const record = await applyPlan(
      root,
      await planBundle(await readWorkspace(root), ['caches/sea/wave & ü.#.vdb'], { now }),
    );
    return { record, at: `${root}/caches/sea/wave & ü.bundle.zip` };
  };

  test('a plain ZIP for other programs; undo gives the frames back', async () => {
    const root = seaAt();
    const before = framesIn(root);
    const { record, at } = await bundleIn(root);
    expect(fs.readdirSync(`${root}/caches/sea`)).toEqual(['wave & ü.bundle.zip']);
    expect(spawnSync('unzip', ['-tq', at]).status).toBe(0);
    const script =
      'import zipfile,sys\nz=zipfile.ZipFile(sys.argv[1])\nassert z.testzip() is None\nprint(len(z.namelist()))';
    const python = spawnSync('python3', ['-c', script, at]);
    expect([python.status, python.stdout.toString().trim()]).toEqual([0, '61']);
    const out = fresh('unzipped');
    spawnSync('unzip', ['-q', at, '-d', out]);
    expect(fs.statSync(`${out}/wave & ü.0007.vdb`).mtimeMs).toBe(1_764_000_000_000);
    await applyPlan(root, await planUndoOf(recordsIn(root), record.id));
    expect(framesIn(root)).toEqual(before);
  });

  test('it travels as one, and lies taken apart where it arrives; a damaged one stays whole and is named', async () => {
    const root = seaAt();
    const before = framesIn(root);
    const { at } = await bundleIn(root);
    const out = fresh('sent');
    fs.mkdirSync(out);
    await packWorkspace(await readWorkspace(root), `${out}/bag.zip`);
    const arrived = await take(`${out}/bag.zip`, fresh('there'), []);
    expect(arrived.bundles).toEqual({ apart: 1, files: 60, whole: [] });
    expect(arrived.sentence).toContain('60 files came in 1 bundle and lie in their places again.');
    expect(framesIn(arrived.root)).toEqual(before);
    expect(arrived.missing.filter((m) => m.scene === 'scenes/boat_v003.gltf')).toEqual([]);

    const bytes = fs.readFileSync(at);
    bytes[bytes.lastIndexOf('wave 33') + 1]! ^= 4;
    fs.writeFileSync(at, bytes);
    const hurt = await take(root, fresh('hurt'), []);
    expect(hurt.bundles).toEqual({
      apart: 0,
      files: 0,
      whole: [
        {
          path: 'caches/sea/wave & ü.bundle.zip',
          why: 'wave & ü.0033.vdb in wave & ü.bundle.zip is damaged.',
        },
      ],
    });
    expect(fs.readdirSync(`${hurt.root}/caches/sea`)).toEqual(['wave & ü.bundle.zip']);
  });
});
