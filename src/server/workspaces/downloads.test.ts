// Generated downloads folders on the real disk: packs as folders and as ZIPs of several kinds, names of every script and form, scenes in several formats, what systems
// leave beside. Taken into the holding area and then to their homes: nothing is lost, every reference that found a content finds the same, the downloads stay as they are,
// and undo gives the workspace back. SATCHEL_GENERATED says how many, SATCHEL_SEED from which seed.

import { howMany } from '@/core/files/testing/depth';
import { seededPick } from '@/core/files/testing/seeded';
import { afterAll, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { zipSync, type Zippable } from 'fflate';
import { createHash } from 'node:crypto';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { apply } from '@/core/changes/apply';
import { blockers, type Plan } from '@/core/changes/plan';
import { applying, recordsIn, undoing } from '@/core/changes/testing/contexts';
import { AppError } from '@/core/errors';
import { isLitter } from '@/core/names/litter';
import { shippedLayouts } from '@/core/layouts/layout';
import { planIntake } from '@/core/plans/planIntake';
import { planTake } from '@/core/plans/planTake';
import { settingOf } from '@/core/plans/workspace';
import { filesOf, scan } from '@/core/references/scan';
import { diskOutside } from '../disk/diskOutside';
import { DiskTree } from '../disk/diskTree';
import { failingDisk } from '../disk/testing/failingDisk';
import { sameDisk, wholeDisk } from '../disk/testing/wholeDisk';
import { stage } from './stage';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-downloads-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));

const folders = [
  '',
  'textures',
  'Textures HD',
  'maps/4k',
  'モデル',
  'текстуры',
  'الخامات',
  'grün (final) [2]',
  'a.b.',
  'con',
  'x'.repeat(120),
];
const names = [
  'wood.png',
  'Wood.png',
  'wood (1).png',
  'grün.png'.normalize('NFC'),
  'grün.png'.normalize('NFD'),
  '木目.png',
  'дерево.png',
  'خشب.png',
  '🪵.png',
  'what?.png',
  'ratio 2:1.png',
  'q"uote.png',
  'aux.png',
  'end .png',
  'dot..png',
  'tile#1.png',
  'tile%20one.png',
  '100%.png',
  'a b  c.png',
  "it's & more.png",
  `${'long '.repeat(30)}.png`,
  'NOTES.TXT',
  '.hidden',
  'no ending',
];
const scenes = ['scene.gltf', 'szene ü.gltf', 'シーン.gltf', 'what?.gltf', 'kit.mtl', 'set.usda', 'room.wrl'];
const litter = ['.DS_Store', 'Thumbs.db', 'desktop.ini', '__MACOSX/._wood.png'];

/** How a path is written in a scene; null: its format cannot say it, or would mean another. */
function written(scene: string, target: string): string | null {
  const way = path.posix.relative(path.posix.dirname(scene), target);
  if (/\.(gltf|wrl)$/.test(scene)) return way.split('/').map(encodeURIComponent).join('/');
  return /["\\#?@\n]|\s{2}|^\s|\s$/.test(way) ? null : way;
}

function sceneText(name: string, paths: readonly string[], indent: number): string {
  if (name.endsWith('.gltf'))
    return JSON.stringify({ asset: { version: '2.0' }, images: paths.map((uri) => ({ uri })) }, null, indent);
  if (name.endsWith('.mtl')) return paths.map((p, i) => `newmtl m${i}\nmap_Kd ${p}\n`).join('\n');
  if (name.endsWith('.usda'))
    return `#usda 1.0\n${paths.map((p, i) => `def "p${i}" { asset a = @${p}@ }`).join('\n')}\n`;
  return `#VRML V2.0 utf8\n${paths.map((p) => `Shape { appearance Appearance { texture ImageTexture { url "${p}" } } }`).join('\n')}\n`;
}

/** One pack: path → content. */
function packOf(pick: (n: number) => number): Map<string, Buffer> {
  const one = <T>(list: readonly T[]): T => list[pick(list.length)]!;
  const at = (name: string) => [one(folders), name].filter(Boolean).join('/');
  const pack = new Map<string, Buffer>();
  for (let n = 2 + pick(9); n > 0; n--) pack.set(at(one(names)), Buffer.from(`content ${pick(40)}`));
  for (let n = pick(3); n > 0; n--) pack.set(at(one(litter)), Buffer.from('kept by a system'));
  const there = [...pack.keys()].filter((p) => !p.split('/').some(isLitter));
  for (let n = 1 + pick(3); n > 0; n--) {
    const scene = at(one(scenes));
    const targets = Array.from({ length: 1 + pick(4) }, () => (pick(8) === 0 ? 'gone/none.png' : one(there)));
    const paths = targets.flatMap((t) => written(scene, t) ?? []);
    pack.set(scene, Buffer.from(sceneText(scene, paths, pick(3))));
  }
  return pack;
}

/** The pack laid on disk as a folder, or as a ZIP; its path. Null: this disk cannot hold it. */
function lay(downloads: string, pack: ReadonlyMap<string, Buffer>, pick: (n: number) => number): string {
  const kind = pick(4);
  const name = ['old pack', 'Пак', 'pack [final] (3)', 'ümlaut'][pick(4)]!;
  if (kind < 2) {
    const folder = path.join(downloads, name);
    for (const [p, content] of pack) {
      const file = path.join(folder, p);
      fs.mkdirSync(path.dirname(file), { recursive: true });
      fs.writeFileSync(file, content);
      const time = 1.6e9 + pick(1e9) / 1e3 / 7;
      fs.utimesSync(file, time, time);
    }
    if (pick(3) === 0) fs.mkdirSync(path.join(folder, 'empty'), { recursive: true });
    return folder;
  }
  // Stored or packed; all in one folder or not.
  const top = kind === 3 ? `${name}/` : '';
  const files: Zippable = {};
  for (const [p, content] of pack) files[`${top}${p}`] = [content, { level: pick(2) === 0 ? 0 : 6 }];
  const zip = path.join(downloads, `${name}.zip`);
  fs.writeFileSync(zip, zipSync(files));
  return zip;
}

const digest = (file: string) =>
  createHash('sha256').update(fs.readFileSync(file)).digest('hex').slice(0, 16);

/** Contents of all user's files below a folder, how often each; scenes apart, by how many there are. */
function contentsOf(folder: string): Record<string, number> {
  const found: Record<string, number> = {};
  for (const e of fs.readdirSync(folder, { recursive: true, withFileTypes: true })) {
    const at = path.relative(folder, path.join(e.parentPath, e.name));
    if (!e.isFile() || at.startsWith('.satchel') || at.split(path.sep).some(isLitter)) continue;
    const key = scenes.some((s) => e.name.endsWith(path.extname(s)))
      ? 'scene'
      : digest(path.join(folder, at));
    found[key] = (found[key] ?? 0) + 1;
  }
  return found;
}

const open = (root: string) => ({
  root,
  tree: new DiskTree(root, failingDisk(0, 'dies').calls), // not waited for
  outside: diskOutside,
  file: {
    format: 1 as const,
    name: 'w',
    created: '2026-01-01T00:00:00Z',
    layout: 'x',
    folders: [],
    homes: shippedLayouts[0]!.homes,
    libraries: [],
    places: [],
  },
});

/** What the scenes below a root find: for each scene the contents, in the order of its references; '' for what is missing. */
async function findings(root: string): Promise<Map<string, string[]>> {
  const w = open(root);
  const found = new Map<string, string[]>();
  for await (const report of scan(w.tree, settingOf(w)))
    found.set(
      report.path,
      report.references.map((r) =>
        filesOf(r)
          .map((f) => digest(`${root}/${f}`))
          .join(),
      ),
    );
  return found;
}

/** Where a plan puts what it takes from outside, and moves what lies inside. */
const placesIn = (plan: Plan): [string, string][] =>
  plan.steps.flatMap((s): [string, string][] =>
    s.do === 'move'
      ? [[s.path, s.to]]
      : s.do === 'put' && s.from.from === 'outside'
        ? [[s.from.path, s.path]]
        : [],
  );

const isReady = (r: unknown): r is Awaited<ReturnType<typeof stage>> =>
  typeof r === 'object' && r !== null && 'litter' in r;

async function check(seed: number, at: string): Promise<void> {
  const pick = seededPick(seed);
  const [downloads, root] = [path.join(at, 'Downloads ä'), path.join(at, 'wörk')];
  fs.mkdirSync(downloads, { recursive: true });
  fs.mkdirSync(path.join(root, '.satchel'), { recursive: true });
  const pack = packOf(pick);
  const from = lay(downloads, pack, pick);
  const before = wholeDisk(downloads);
  const signal = new AbortController().signal;
  const staged = path.join(at, 'staged');
  const ready = await stage(from, staged, signal, () => undefined).catch((cause: unknown) => cause);
  if (ready instanceof AppError) {
    // Two names that are one elsewhere are refused before anything is written, and say so.
    expect([seed, ready.code, fs.existsSync(staged)]).toEqual([seed, 'clashing-names', false]);
    return;
  }
  if (!isReady(ready)) throw ready;
  const found = await findings(ready.path);
  const w = open(root);
  const plan = await planIntake(w, { from: ready.path, name: ready.name, litter: ready.litter });
  expect([seed, blockers(plan)]).toEqual([seed, []]);
  await apply(w.tree, plan, { ...applying('20261127-000000-000000a'), outside: diskOutside });
  // Nothing is lost.
  expect([seed, 'intake', contentsOf(root)]).toEqual([seed, 'intake', contentsOf(ready.path)]);
  const place = new Map(placesIn(plan));
  const now = await findings(root);
  const lost = (then: Map<string, string[]>, placed: (scene: string) => string) =>
    [...found].flatMap(([scene, contents]) => {
      const own = then.get(placed(scene)) ?? [];
      return contents.flatMap((c, i) => (c !== '' && c !== own[i] ? [`${scene} ${i}`] : []));
    });
  expect([seed, 'intake', lost(now, (s) => place.get(`${ready.path}/${s}`)!)]).toEqual([seed, 'intake', []]);
  // To their homes.
  const inIntake = [...now.keys()];
  const take = await planTake(w, { paths: inIntake });
  if (blockers(take).length === 0 && take.steps.length > 0) {
    await apply(w.tree, take, { ...applying('20261127-000001-000000b'), outside: diskOutside });
    expect([seed, 'take', contentsOf(root)]).toEqual([seed, 'take', contentsOf(ready.path)]);
    const moved = new Map(placesIn(take));
    const home = (s: string) => {
      const held = place.get(`${ready.path}/${s}`)!;
      return moved.get(held) ?? held;
    };
    expect([seed, 'take', lost(await findings(root), home)]).toEqual([seed, 'take', []]);
    const [record] = (await recordsIn(w.tree)).filter((r) => r.id.endsWith('b'));
    await apply(w.tree, await undoing(w.tree, record!), {
      ...applying('20261127-000002-000000c'),
      outside: diskOutside,
    });
  }
  const [record] = (await recordsIn(w.tree)).filter((r) => r.id.endsWith('a'));
  await apply(w.tree, await undoing(w.tree, record!), {
    ...applying('20261127-000003-000000d'),
    outside: diskOutside,
  });
  expect([seed, 'undone', contentsOf(root)]).toEqual([seed, 'undone', {}]);
  expect([seed, 'downloads', sameDisk(before, wholeDisk(downloads))]).toEqual([seed, 'downloads', []]);
}

const runs = howMany(20);
const seeded =
  process.env.SATCHEL_GENERATED && !process.env.SATCHEL_SEED
    ? {}
    : { seed: Number(process.env.SATCHEL_SEED ?? 16) };
test(
  'generated downloads come in whole, find what they found, and go again',
  async () => {
    let n = 0;
    await fc.assert(
      fc.asyncProperty(fc.nat(2 ** 31 - 1), async (seed) => {
        const at = path.join(base, String(++n));
        fs.mkdirSync(at);
        try {
          await check(seed, at);
        } finally {
          fs.rmSync(at, { recursive: true, force: true });
        }
      }),
      { numRuns: runs, endOnFailure: true, ...seeded },
    );
  },
  Math.max(60_000, runs * 1500),
);

test('in an archive with names in code page 437 (APPNOTE 6.3, D.1)', async () => {
  const at = path.join(base, 'cp437');
  fs.mkdirSync(at);
  const zip = Buffer.from(
    zipSync({
      'scene.gltf': Buffer.from(JSON.stringify({ images: [{ uri: 'gr%C3%BCn.png' }] })),
      'grQn.png': Buffer.from('green'),
    }),
  );
  // The letter ü is 0x81 there.
  for (let i = zip.indexOf('grQn'); i >= 0; i = zip.indexOf('grQn', i)) zip[i + 2] = 0x81;
  fs.writeFileSync(path.join(at, 'old.zip'), zip);
  const ready = await stage(`${at}/old.zip`, `${at}/staged`, new AbortController().signal, () => undefined);
  expect((await findings(ready.path)).get('scene.gltf')).not.toEqual(['']);
  expect(fs.readdirSync(ready.path).sort()).toEqual(['grün.png', 'scene.gltf']);
});
