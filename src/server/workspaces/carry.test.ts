// Carrying over on the real disk: references are valid in the target, its own stay as they were, the source is not touched, and it is undone to the byte.

import { afterAll, describe, expect, test } from '@jest/globals';
import { NodeIO } from '@gltf-transform/core';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { howMany } from '@/core/files/testing/depth';
import { absoluteTarget } from '@/core/collect/closure';
import { treePath } from '@/core/files/treePath';
import { settingOf } from '@/core/plans/workspace';
import { judge, readScene, scenePaths } from '@/core/references/scan';
import { diskOutside } from '../disk/diskOutside';
import { DiskTree } from '../disk/diskTree';
import { planCarrying, type CarryOptions } from './carry';
import { applyPlan, recordsIn } from './changing';
import { sourceOf } from './collect';
import { planUndoOf } from './ledger';
import { plainFolder, type OpenWorkspace } from './open';
import { generate } from './testing/generated';
import { snapshot } from './testing/snapshot';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-carry-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));

/** The user's own files. */
const users = (folder: string) =>
  Object.fromEntries(Object.entries(snapshot(folder)).filter(([name]) => !name.includes('/.satchel/')));

/** What each reference of each scene leads to: the content of one file; null where it leads nowhere. */
async function led(w: OpenWorkspace, only?: ReadonlySet<string>): Promise<Map<string, string | null>> {
  const found = new Map<string, string | null>();
  for (const scene of (await scenePaths(w.tree)).scenes) {
    if (only && !only.has(scene)) continue;
    const reading = await readScene(w.tree, treePath(scene));
    if (!reading || !('format' in reading)) continue;
    for (const r of (await judge(treePath(scene), reading, settingOf(w))).references) {
      if (r.members || r.uncertain) continue;
      const at = absoluteTarget(w.root, `${w.root}/${scene}`, r);
      found.set(
        `${scene}\n${r.at}`,
        at === null || !fs.existsSync(at) ? null : fs.readFileSync(at, 'base64'),
      );
    }
  }
  return found;
}

const opened = (root: string, file: OpenWorkspace['file']): OpenWorkspace => ({
  root,
  tree: new DiskTree(root),
  outside: diskOutside,
  file,
});

test('generated workspaces, every way: what is carried leads where it led, what was there stays, and it is undone', async () => {
  let [followed, copied, clashed] = [0, 0, 0];
  const many = howMany(14);
  for (let seed = 1; seed <= many; seed++) {
    const [a, b] = [path.join(base, `a${seed}`), path.join(base, `b${seed} Ü #%`)];
    fs.mkdirSync(a);
    fs.mkdirSync(b);
    const [from, to] = [generate(a, seed), generate(b, seed + 500)];
    // Names that both have, most of them with other content.
    for (const [n, name] of Object.keys(users(to.root)).sort().entries())
      if (n % 3 > 0 && /\.png$/.test(name) && fs.lstatSync(Buffer.from(name, 'latin1')).isFile()) {
        const file = Buffer.from(name, 'latin1');
        fs.appendFileSync(file, ` there ${n}`);
        // Node.js sets times to the microsecond.
        fs.utimesSync(file, 1.7e9 + n / 1e6, 1.7e9 + n / 1e6);
      }
    const [source, target] = [opened(from.root, from.file), opened(to.root, to.file)];
    const before = { a: users(a), b: users(b), led: await led(target) };
    const way = (['both', 'target', 'replace'] as const)[seed % 3]!;
    const options: CarryOptions = { assets: [''], flat: seed % 2 === 0, clash: way };
    const { closure, carrying, plan } = await planCarrying(target, source, options);
    expect(users(b)).toEqual(before.b);
    const record = await applyPlan(to.root, plan);
    expect(users(a)).toEqual(before.a);
    const after = users(b);
    const replaced = new Set(
      [...carrying.files.values()].flatMap((f) =>
        f.how === 'replace' ? [Buffer.from(`${to.root}/${f.to}`).toString('latin1')] : [],
      ),
    );
    for (const [name, said] of Object.entries(before.b))
      if (!replaced.has(name)) expect([seed, name, after[name] === said]).toEqual([seed, name, true]);
    if (way !== 'replace') {
      expect(replaced.size).toBe(0);
      const now = await led(target);
      for (const [at, content] of before.led)
        // What led nowhere may lead somewhere now: a file of that name has come.
        if (content !== null) expect([seed, at, now.get(at) === content]).toEqual([seed, at, true]);
    }
    const carried = new Set([...carrying.files.values()].flatMap((f) => (f.how === 'target' ? [] : [f.to])));
    const leads = await led(target, carried);
    for (const file of closure.files.values())
      for (const r of file.references ?? []) {
        const target = absoluteTarget(sourceOf(source).root, file.from, r);
        const mine = carrying.files.get(file.from);
        if (!mine || mine.how === 'target' || target === null || r.members || r.uncertain) continue;
        const its = carrying.files.get(target);
        if (!its || plan.notes.some((n) => n.code === 'cannot-say' && n.path === mine.to)) continue;
        const at = `${to.root}/${its.to}`;
        const content = leads.get(`${mine.to}\n${r.at}`);
        expect([seed, mine.to, r.written, content === fs.readFileSync(at, 'base64')]).toEqual([
          seed,
          mine.to,
          r.written,
          true,
        ]);
        if (its.how !== 'target' && !closure.files.get(target)!.references?.length)
          expect(content).toBe(fs.readFileSync(target, 'base64'));
        followed++;
      }
    copied += plan.steps.filter((s) => s.do === 'put').length;
    clashed += carrying.clashes.length;
    // A second time nothing is left to do, but for what is kept beside what was there.
    if (way === 'replace') {
      const again = await planCarrying(target, source, options);
      expect([seed, again.plan.steps.filter((s) => s.do === 'put').map((s) => s.path)]).toEqual([seed, []]);
    }
    await applyPlan(to.root, await planUndoOf(recordsIn(to.root), record.id));
    expect(users(b)).toEqual(before.b);
    fs.rmSync(a, { recursive: true });
    fs.rmSync(b, { recursive: true });
  }
  // It is no test where nothing was carried.
  expect([followed > 3.25 * many, copied > 4 * many, clashed > 0.3 * many]).toEqual([true, true, true]);
}, 3_600_000);

describe('one by one', () => {
  const lay = (folder: string, files: Record<string, string>) => {
    for (const [name, text] of Object.entries(files)) {
      fs.mkdirSync(path.dirname(path.join(folder, name)), { recursive: true });
      fs.writeFileSync(path.join(folder, name), text);
    }
    return folder;
  };
  const gltf = (...uris: string[]) =>
    JSON.stringify({ asset: { version: '2.0' }, images: uris.map((uri) => ({ uri })) });
  let n = 0;
  const two = (from: Record<string, string>, to: Record<string, string>) => {
    const [a, b] = [lay(path.join(base, `from${++n}`), from), lay(path.join(base, `to${n}`), to)];
    return { a, b, source: plainFolder(a), target: plainFolder(b) };
  };
  const options = (more: Partial<CarryOptions>): CarryOptions => ({
    assets: ['scenes/lamp.gltf'],
    flat: false,
    clash: 'both',
    ...more,
  });

  test.each([
    ['both', 'new', { 'textures/iron.png': 'other', 'textures/iron(2).png': 'new' }],
    ['target', 'other', { 'textures/iron.png': 'other' }],
    ['replace', 'new', { 'textures/iron.png': 'new' }],
  ] as const)('another file of the name: %s', async (clash, shown, there) => {
    const { b, source, target } = two(
      { 'scenes/lamp.gltf': gltf('../textures/iron.png'), 'textures/iron.png': 'new' },
      { 'textures/iron.png': 'other' },
    );
    const { plan, carrying } = await planCarrying(target, source, options({ clash }));
    expect(carrying.clashes).toMatchObject([
      { there: 'textures/iron.png', both: 'textures/iron(2).png', way: clash },
    ]);
    await applyPlan(b, plan);
    const files = Object.fromEntries(
      fs
        .readdirSync(path.join(b, 'textures'))
        .map((f) => [`textures/${f}`, fs.readFileSync(path.join(b, 'textures', f), 'utf8')]),
    );
    expect(files).toEqual(there);
    const scene = await new NodeIO().read(path.join(b, 'scenes/lamp.gltf'));
    expect(Buffer.from(scene.getRoot().listTextures()[0]!.getImage()!).toString()).toBe(shown);
  });

  test('what only differs by case or Unicode form is a clash; its folder is the one that is there', async () => {
    const { source, target } = two(
      { 'scenes/lamp.gltf': gltf('../Textures/gr%C3%BCn.png'), 'Textures/gr\u00fcn.png': 'new' },
      { 'textures/gru\u0308n.png': 'other', 'Scenes/x.txt': '' },
    );
    const { carrying } = await planCarrying(target, source, options({}));
    expect([...carrying.files.values()].map((f) => f.to)).toEqual([
      'textures/gr\u00fcn(2).png',
      'Scenes/lamp.gltf',
    ]);
    expect(carrying.clashes).toMatchObject([{ there: 'textures/gru\u0308n.png' }]);
  });

  test('the same content under another name is used; one chosen clash by itself; tiles stay together', async () => {
    const { b, source, target } = two(
      {
        'scenes/lamp.gltf': gltf('../textures/iron.png', '../textures/glass.png'),
        'look.mtlx':
          '<?xml version="1.0"?>\n<materialx version="1.38"><image name="i" type="color3"><input name="file" type="filename" value="textures/w.&lt;UDIM&gt;.png"/></image></materialx>',
        'textures/iron.png': 'iron content',
        'textures/glass.png': 'new glass',
        'textures/w.1001.png': 'one',
        'textures/w.1002.png': 'two',
      },
      { 'metal/fe.png': 'iron content', 'textures/glass.png': 'old glass', 'textures/w.1002.png': 'other' },
    );
    const { plan, carrying } = await planCarrying(
      target,
      source,
      options({
        assets: ['scenes/lamp.gltf', 'look.mtlx'],
        clashes: new Map([[`${source.root}/textures/glass.png`, 'target']]),
      }),
    );
    expect(
      Object.fromEntries([...carrying.files.values()].map((f) => [path.basename(f.from), [f.how, f.to]])),
    ).toEqual({
      'iron.png': ['there', 'metal/fe.png'],
      'glass.png': ['target', 'textures/glass.png'],
      'lamp.gltf': ['copy', 'scenes/lamp.gltf'],
      'w.1001.png': ['copy', 'textures/w/w.1001.png'],
      'w.1002.png': ['copy', 'textures/w/w.1002.png'],
      'look.mtlx': ['copy', 'look.mtlx'],
    });
    await applyPlan(b, plan);
    expect(fs.readFileSync(path.join(b, 'scenes/lamp.gltf'), 'utf8')).toBe(
      gltf('../metal/fe.png', '../textures/glass.png'),
    );
    expect(fs.readFileSync(path.join(b, 'look.mtlx'), 'utf8')).toContain(
      'value="textures/w/w.&lt;UDIM>.png"',
    );
    // What was used as it lay there is what the plan rests on.
    fs.appendFileSync(path.join(b, 'metal/fe.png'), '!');
    fs.rmSync(path.join(b, 'scenes'), { recursive: true });
    fs.rmSync(path.join(b, 'look.mtlx'));
    fs.rmSync(path.join(b, 'textures/w'), { recursive: true });
    await expect(applyPlan(b, plan)).rejects.toMatchObject({ code: 'stale-plan' });
  });

  test.each([
    ['target', ['w.1001.png', 'w.1003.png'], 'textures/w.<UDIM>.png'],
    ['replace', ['w.1001.png', 'w.1002.png', 'w.1003.png'], 'textures/w.<UDIM>.png'],
    ['both', ['w', 'w.1001.png', 'w.1003.png'], 'textures/w/w.<UDIM>.png'],
  ] as const)('tiles of which one is another: %s; no two sets are mixed', async (clash, names, set) => {
    const look =
      '<?xml version="1.0"?>\n<materialx version="1.38"><image name="i" type="color3"><input name="file" type="filename" value="textures/w.&lt;UDIM>.png"/></image></materialx>';
    const { a, b, source, target } = two(
      { 'look.mtlx': look, 'textures/w.1001.png': 'new', 'textures/w.1002.png': 'two' },
      { 'textures/w.1001.png': 'old', 'textures/w.1003.png': 'three' },
    );
    const { plan, carrying } = await planCarrying(target, source, options({ assets: ['look.mtlx'], clash }));
    expect(carrying.sets.get(`${a}/textures/w.<UDIM>.png`)).toBe(set);
    await applyPlan(b, plan);
    expect(fs.readdirSync(path.join(b, 'textures')).sort()).toEqual(names);
    expect(fs.readFileSync(path.join(b, 'textures/w.1001.png'), 'utf8')).toBe(
      clash === 'replace' ? 'new' : 'old',
    );
  });
  test('tiles that are there in another spelling: the carried ones lie apart, whatever is wished', async () => {
    const look =
      '<?xml version="1.0"?>\n<materialx version="1.38"><image name="i" type="color3"><input name="file" type="filename" value="textures/w.&lt;UDIM>.png"/></image></materialx>';
    for (const clash of ['replace', 'target'] as const) {
      const { source, target } = two(
        { 'look.mtlx': look, 'textures/w.1001.png': 'new' },
        { 'textures/W.1001.PNG': 'old' },
      );
      const { carrying } = await planCarrying(target, source, options({ assets: ['look.mtlx'], clash }));
      expect([...carrying.files.values()].map((f) => [f.how, f.to])).toEqual([
        ['copy', 'textures/w/w.1001.png'],
        ['copy', 'look.mtlx'],
      ]);
    }
  });

  test('what is needed and left out is told with who needs it; a library that both know stays where it is', async () => {
    const { a, source, target } = two(
      {
        'scenes/lamp.gltf': gltf('../textures/iron.png', '../../kit/bolt.png'),
        'textures/iron.png': 'iron',
      },
      {},
    );
    lay(path.join(base, 'kit'), { 'bolt.png': 'bolt' });
    const library = { name: 'kit', path: path.join(base, 'kit') };
    const known = (w: OpenWorkspace): OpenWorkspace => ({ ...w, file: { ...w.file, libraries: [library] } });
    const { plan, carrying } = await planCarrying(
      known(target),
      known(source),
      options({ unticked: new Set([`${a}/textures/iron.png`]) }),
    );
    expect(plan.notes.map((x) => [x.level, x.code])).toEqual([
      ['warning', 'unticked'],
      ['info', 'library'],
    ]);
    expect(plan.notes[0]!.message).toContain('lamp.gltf needs it');
    expect([...carrying.files.values()].map((f) => f.to)).toEqual(['scenes/lamp.gltf']);
    expect(plan.paths).toMatchObject([{ before: '../../kit/bolt.png', after: `${library.path}/bolt.png` }]);
  });

  test('flat goes into homes; scenes that lead to each other; a file where a folder is wanted', async () => {
    const sub = (name: string) => `#usda 1.0\n(\n    subLayers = [\n        @./${name}.usda@\n    ]\n)\n`;
    const { b, source, target } = two(
      { 'deep/er/a.usda': sub('b'), 'deep/er/b.usda': sub('a'), 'deep/er/t.png': 't' },
      { textures: 'a file of that name', 'deep/er/b.usda': sub('c') },
    );
    const flat = await planCarrying(target, source, options({ assets: ['deep'], flat: true }));
    expect([...flat.carrying.files.values()].map((f) => f.to).sort()).toEqual([
      'scenes/a.usda',
      'scenes/b.usda',
      'textures(2)/t.png',
    ]);
    const kept = await planCarrying(target, source, options({ assets: ['deep'] }));
    await applyPlan(b, kept.plan);
    expect(fs.readFileSync(path.join(b, 'deep/er/a.usda'), 'utf8')).toBe(sub('b(2)'));
    expect(fs.readFileSync(path.join(b, 'deep/er/b(2).usda'), 'utf8')).toBe(sub('a'));
    expect(fs.readFileSync(path.join(b, 'deep/er/b.usda'), 'utf8')).toBe(sub('c'));
  });

  test('a scene with its geometry, both picked: the geometry lies beside it, though the same lies elsewhere', async () => {
    const scene = JSON.stringify({
      asset: { version: '2.0' },
      buffers: [{ uri: 'lamp.bin', byteLength: 4 }],
    });
    const { source, target } = two(
      { 'a/lamp.bin': 'data', 'a/lamp.gltf': scene },
      { 'scenes/boat.bin': 'data' },
    );
    for (const flat of [true, false]) {
      const { carrying } = await planCarrying(target, source, options({ assets: ['a'], flat }));
      const folder = flat ? 'scenes' : 'a';
      expect([...carrying.files.values()].map((f) => [f.how, f.to])).toEqual([
        ['copy', `${folder}/lamp.bin`],
        ['copy', `${folder}/lamp.gltf`],
      ]);
    }
  });

  test('into itself, from within, or nothing at all: refused', async () => {
    const { a, source, target } = two({ 'x/a.png': 'a' }, {});
    await expect(planCarrying(source, plainFolder(`${a}/x`), options({}))).rejects.toMatchObject({
      code: 'inside-workspace',
    });
    await expect(planCarrying(target, source, options({ assets: ['y'] }))).rejects.toMatchObject({
      code: 'not-found',
    });
  });
});
