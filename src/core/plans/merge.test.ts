// Files that are there twice: merged, every path still leads to the same content, and undo gives back the same bytes. Bases of paths, libraries by
// name, and what later plans stand on.

import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { gzipSync } from 'fflate';
import { parseJournalLine } from '../../wire/plan';
import { apply } from '../changes/apply';
import { laterPlans, touched } from '../changes/depends';
import { planUndo } from '../changes/invert';
import { readJournals } from '../changes/journal';
import type { Plan } from '../changes/plan';
import { crashing } from '../changes/testing/crashingTree';
import { memoryOutside } from '../changes/testing/memoryOutside';
import { applying, holdingIn, ledgerIn, recovering, undoing } from '../changes/testing/contexts';
import { MemoryTree } from '../files/memoryTree';
import { treePath } from '../files/treePath';
import { isReady } from '../references/resolve';
import { scan, targetsOf } from '../references/scan';
import { duplicates, planMerge } from './planMerge';
import { planRepath, type Repath } from './planRepath';
import { settingOf, type Workspace } from './workspace';
import { howMany } from '../files/testing/depth';

const now = () => '2026-11-25T10:00:00.000Z';
type Held = Workspace & { tree: MemoryTree };
const gltf = (...uris: string[]) =>
  JSON.stringify({ asset: { version: '2.0' }, images: uris.map((uri) => ({ uri })) });
function workspaceOf(files: Record<string, string | Uint8Array>, outside: Record<string, string> = {}): Held {
  return {
    root: '/work/boat',
    tree: new MemoryTree({ '.satchel/workspace.json': '{}', ...files }),
    outside: memoryOutside(outside),
    file: {
      homes: { texture: 'textures', scene: 'scenes' },
      libraries: [{ name: 'kit one', path: '/shared/kit' }],
      places: [],
    },
  };
}
let n = 0;
const applied = (w: Held, plan: Plan) =>
  apply(w.tree, plan, applying(String(++n).padStart(5, '0'), { outside: w.outside }));
const text = (w: Held, p: string) => new TextDecoder('latin1').decode(w.tree.files.get(p)!.bytes);
const users = (w: Held) =>
  Object.fromEntries(
    [...w.tree.files.keys()]
      .filter((p) => !p.startsWith('.satchel/'))
      .sort()
      .map((p) => [p, text(w, p)]),
  );
async function ends(w: Held): Promise<string[]> {
  const out: string[] = [];
  for await (const report of scan(w.tree, settingOf(w)))
    for (const r of report.references)
      out.push(
        `${report.path} ${r.at} ${
          r.state === 'missing'
            ? 'missing'
            : r.inside
              ? targetsOf(r)
                  .map((t) => text(w, t))
                  .join('+')
              : r.target
        }`,
      );
  return out.sort();
}
const records = (w: Held) => readJournals(w.tree, parseJournalLine);
async function undo(w: Held, id?: string): Promise<void> {
  const all = await records(w);
  const one = id ? all.find((r) => r.id === id)! : all.findLast((r) => r.plan.kind !== 'undo')!;
  await applied(w, await planUndo(w.tree, one));
}

describe('the same content twice', () => {
  test('the most used stays, then the one at home; the rest goes to the bin and its paths follow, in their own style', async () => {
    const w = workspaceOf({
      'scenes/a.gltf': gltf('../textures/oak.png', '/work/boat/old/oak%20copy.png', '../intake/pack/oak.png'),
      'scenes/b.gltf': gltf('../textures/oak.png'),
      'models/c.mtl': 'newmtl c\r\nmap_Kd -s 1 1 1 ..\\old\\oak copy.png\r\n',
      'textures/oak.png': 'OAK',
      'old/oak copy.png': 'OAK',
      'intake/pack/oak.png': 'OAK',
      'textures/elm.png': 'ELM',
      'spare/a.png': 'PINE',
      'textures/z.png': 'PINE',
    });
    const [bytes, before] = [users(w), await ends(w)];
    const found = await duplicates(w);
    expect(found.map((g) => g.files.map((f) => [f.path, f.uses]))).toEqual([
      [
        ['textures/oak.png', 2],
        ['old/oak copy.png', 2],
        ['intake/pack/oak.png', 1],
      ],
      [
        ['textures/z.png', 0],
        ['spare/a.png', 0],
      ],
    ]);
    await applied(
      w,
      await planMerge(
        w,
        found.map((g) => g.files.map((f) => f.path)),
        now(),
      ),
    );
    expect(await ends(w)).toEqual(before);
    expect(text(w, 'scenes/a.gltf')).toContain('"/work/boat/textures/oak.png"');
    expect(text(w, 'models/c.mtl')).toBe('newmtl c\r\nmap_Kd -s 1 1 1 ../textures/oak.png\r\n');
    expect(Object.keys(users(w)).filter((p) => p.endsWith('.png'))).toEqual([
      'textures/elm.png',
      'textures/oak.png',
      'textures/z.png',
    ]);
    expect(text(w, '.satchel/bin/2026-11-25T10-00-00-000Z/old/oak copy.png')).toBe('OAK');
    await undo(w);
    expect(users(w)).toEqual(bytes);
  });
  test('scenes, buffers, frames and tiles are left; what is changed meanwhile, or named by a packed file, stays', async () => {
    const packed = gzipSync(
      new TextEncoder().encode(
        '<COLLADA><library_images><image id="i"><init_from>../old/t.png</init_from></image></library_images></COLLADA>',
      ),
    );
    const w = workspaceOf({
      'scenes/a.gltf': gltf('x.png'),
      'scenes/b/a.gltf': gltf('x.png'),
      'scenes/a.bin': 'B',
      'scenes/b.bin': 'B',
      'textures/w.1001.png': 'W',
      'textures/w.1002.png': 'W',
      'scenes/q.usda':
        '#usda 1.0\ndef Shader "W"\n{\n    asset inputs:file = @../textures/w.<UDIM>.png@\n}\n',
      'textures/t.png': 'T',
      'old/t.png': 'T',
      'textures/u.png': 'U',
      'old/u.png': 'U',
    });
    w.tree.set('scenes/in.dae', packed);
    const found = await duplicates(w);
    expect(found.map((g) => g.files.map((f) => f.path))).toEqual([
      ['old/t.png', 'textures/t.png'],
      ['textures/u.png', 'old/u.png'],
    ]);
    w.tree.set('old/u.png', 'V');
    const plan = await planMerge(
      w,
      [
        ['textures/t.png', 'old/t.png'],
        ['textures/u.png', 'old/u.png'],
        ['textures/w.1001.png', 'textures/w.1002.png'],
      ],
      now(),
    );
    expect([plan.steps, plan.notes.map((x) => [x.code, x.path])]).toEqual([
      [],
      [
        ['changed-since', 'old/u.png'],
        ['held', 'textures/w.1002.png'],
        ['held', 'old/t.png'],
        ['nothing', undefined],
      ],
    ]);
  });
  test('any workspace: the same content at every end, the same bytes after undo, and after a crash at any write all or nothing', async () => {
    const folders = ['', 'a/', 'a/b/', 'textures/', 'ä ö/'];
    await fc.assert(
      fc.asyncProperty(
        fc.array(
          fc.record({ folder: fc.constantFrom(...folders), content: fc.constantFrom('1', '2', '3') }),
          { minLength: 2, maxLength: 8 },
        ),
        fc.array(fc.array(fc.nat(20), { maxLength: 5 }), { minLength: 1, maxLength: 3 }),
        fc.nat(20),
        async (pictures, scenes, at) => {
          const files: Record<string, string> = {};
          const paths = pictures.map(({ folder, content }, i) => {
            files[`${folder}p${i}.png`] = content;
            return `${folder}p${i}.png`;
          });
          scenes.forEach((uses, i) => {
            files[`${folders[i]!}s${i}.gltf`] = gltf(
              ...uses.map((u) =>
                u >= paths.length
                  ? `gone${u}.png`
                  : encodeURI(`${'../'.repeat(folders[i]!.split('/').length - 1)}${paths[u]!}`),
              ),
            );
          });
          const w = workspaceOf(files);
          const [bytes, before] = [users(w), await ends(w)];
          const groups = (await duplicates(w)).map((g) => g.files.map((f) => f.path));
          const plan = await planMerge(w, groups, now());
          if (plan.steps.length === 0) return;
          const crashed = workspaceOf(files);
          const tree = crashing(crashed.tree, at + 1, 'unreported');
          const done = await apply(tree, plan, applying('x', { outside: w.outside })).then(
            () => true,
            () => false,
          );
          await recovering(crashed.tree);
          if (!done && (await ledgerIn(crashed.tree))[0]?.state !== 'applied')
            expect(users(crashed)).toEqual(bytes);
          await applied(w, plan);
          expect(await ends(w)).toEqual(before);
          expect(await duplicates(w)).toEqual([]);
          await undo(w);
          expect(users(w)).toEqual(bytes);
        },
      ),
      { numRuns: howMany(60) },
    );
  });
});

describe('bases of a path', () => {
  const files = {
    'scenes/deep/a.gltf': gltf(
      '../../textures/t%20one.png',
      '/shared/kit/wood/oak.png',
      '../../../../shared/kit/b.png',
      'gone.png',
    ),
    'textures/t one.png': 'T',
    'scenes/top.usda': '#usda 1.0\ndef "R" (\n    references = @./rig.usda@\n)\n{\n}\n',
    'scenes/rig.usda': '#usda 1.0\ndef Shader "S"\n{\n    asset inputs:file = @../textures/t one.png@\n}\n',
  };
  const far = { '/shared/kit/wood/oak.png': 'K', '/shared/kit/b.png': 'B' };
  const change = async (w: Held, how: Repath, scene = 'scenes/deep/a.gltf', more: object = {}) => {
    const plan = await planRepath(w, { scenes: [treePath(scene)], change: how, ...more });
    if (plan.steps.length > 0) await applied(w, plan);
    return plan;
  };
  const uris = (w: Held) =>
    (JSON.parse(text(w, 'scenes/deep/a.gltf')) as { images: { uri: string }[] }).images.map((i) => i.uri);
  test('from the scene’s folder, from the root, whole; what lies outside the root too', async () => {
    const w = workspaceOf(files, far);
    await change(w, { how: 'absolute' });
    expect(uris(w)).toEqual([
      '/work/boat/textures/t%20one.png',
      '/shared/kit/wood/oak.png',
      '/shared/kit/b.png',
      'gone.png',
    ]);
    await change(w, { how: 'relative' });
    expect(uris(w)).toEqual([
      '../../textures/t%20one.png',
      '../../../../shared/kit/wood/oak.png',
      '../../../../shared/kit/b.png',
      'gone.png',
    ]);
    const plan = await change(w, { how: 'relative', base: 'root' });
    expect(uris(w)[0]).toBe('textures/t%20one.png');
    expect(plan.notes.map((x) => x.code)).toEqual(['will-be-missing']);
  });
  test('a library’s name is put in, read, and written out again to the same path', async () => {
    const w = workspaceOf(files, far);
    await change(w, { how: 'library' });
    expect(uris(w).slice(1, 3)).toEqual(['%7Bkit%20one%7D/wood/oak.png', '%7Bkit%20one%7D/b.png']);
    const judged = [];
    for await (const report of scan(w.tree, settingOf(w)))
      judged.push(...report.references.filter((r) => r.state === 'library'));
    expect(judged.map((r) => [r.target, r.via, r.oddities, isReady(r)])).toEqual([
      ['/shared/kit/wood/oak.png', 'kit one', ['library-name'], false],
      ['/shared/kit/b.png', 'kit one', ['library-name'], false],
    ]);
    // On another machine the library lies elsewhere: the name still finds it.
    const moved: Held = {
      ...w,
      outside: memoryOutside({ '/Volumes/Kits/wood/oak.png': 'K', '/Volumes/Kits/b.png': 'B' }),
      file: { ...w.file, libraries: [{ name: 'kit one', path: '/Volumes/Kits' }] },
    };
    await applied(
      moved,
      await planRepath(moved, { scenes: [treePath('scenes/deep/a.gltf')], change: { how: 'absolute' } }),
    );
    expect(uris(w).slice(1, 3)).toEqual(['/Volumes/Kits/wood/oak.png', '/Volumes/Kits/b.png']);
  });
  test('there and back: whole paths and relative ones again give the same bytes, however deep the scene and the file lie', async () => {
    const part = fc.constantFrom('a', 'b c', 'ü', 'x#1', '50%');
    const folder = fc.array(part, { maxLength: 3 });
    await fc.assert(
      fc.asyncProperty(
        folder,
        fc.array(fc.tuple(folder, fc.constantFrom('oak.png', 'elm tree.png', 'ä.png')), {
          minLength: 1,
          maxLength: 4,
        }),
        async (at, pictures) => {
          const scene = [...at, 's.gltf'].join('/');
          const targets = [...new Set(pictures.map(([f, name]) => [...f, name].join('/')))];
          const up = (target: string) => {
            const [from, to] = [at, target.split('/')];
            let same = 0;
            while (same < from.length && same < to.length - 1 && from[same] === to[same]) same++;
            return [...Array.from({ length: from.length - same }, () => '..'), ...to.slice(same)]
              .map((p) => encodeURIComponent(p))
              .join('/');
          };
          const w = workspaceOf({
            [scene]: gltf(...targets.map(up)),
            ...Object.fromEntries(targets.map((t) => [t, 'x'])),
          });
          await change(w, { how: 'relative' }, scene); // in our own spelling
          const before = text(w, scene);
          const whole = await change(w, { how: 'absolute' }, scene);
          expect(whole.paths).toHaveLength(targets.length);
          for await (const report of scan(w.tree, settingOf(w)))
            expect(report.references.map((r) => [r.state, r.target])).toEqual(
              targets.map((t) => ['absolute', t]),
            );
          await change(w, { how: 'relative' }, scene);
          expect(text(w, scene)).toBe(before);
        },
      ),
      { numRuns: howMany(80) },
    );
  });
  test('with the scenes below: the same is done in the file where each path stands', async () => {
    const w = workspaceOf(files, far);
    const only = [{ scene: 'scenes/top.usda', at: '/R.references' }];
    expect(
      (
        await planRepath(w, { scenes: [treePath('scenes/top.usda')], change: { how: 'absolute' }, only })
      ).paths.map((p) => p.scene),
    ).toEqual(['scenes/top.usda']);
    const plan = await change(w, { how: 'absolute' }, 'scenes/top.usda', { only, nested: true });
    expect(plan.paths.map((p) => p.scene)).toEqual(['scenes/rig.usda', 'scenes/top.usda']);
    expect(text(w, 'scenes/rig.usda')).toContain('@/work/boat/textures/t one.png@');
  });
});

describe('undo in any order', () => {
  test('what touches other files is undone by itself; what later plans stand on says which, until they are undone', async () => {
    const w = workspaceOf({
      'scenes/a.gltf': gltf('../t/1.png'),
      'scenes/b.gltf': gltf('../t/1.png'),
      't/1.png': '1',
      't/2.png': '2',
    });
    const bytes = users(w);
    const to = async (scene: string, written: string) =>
      (
        await applied(
          w,
          await planRepath(w, {
            scenes: [treePath(scene)],
            change: { how: 'exact', paths: [{ scene, at: '/images/0/uri', written }] },
          }),
        )
      ).id;
    const [one, two, three] = [
      await to('scenes/a.gltf', '../t/2.png'),
      await to('scenes/b.gltf', '../t/2.png'),
      await to('scenes/a.gltf', '../t/./1.png'),
    ];
    expect(
      Object.fromEntries([...laterPlans(await holdingIn(w.tree))].map(([id, l]) => [id, l.map((x) => x.id)])),
    ).toEqual({ [one]: [three], [two]: [], [three]: [] });
    expect(touched((await records(w))[0]!.plan).paths).toEqual(['scenes/a.gltf']);
    const all = await records(w);
    const blocked = await undoing(w.tree, all[0]!);
    expect(blocked.notes).toEqual([
      {
        level: 'blocker',
        code: 'stands-on',
        message: '“Change the path to 1.png in a.gltf” came later and stands on it. Undo that first.',
      },
      {
        level: 'blocker',
        code: 'changed-since',
        path: 'scenes/a.gltf',
        message: 'scenes/a.gltf was changed since.',
      },
    ]);
    await undo(w, two);
    await undo(w, three);
    expect(laterPlans(await holdingIn(w.tree)).get(one)).toEqual([]);
    await undo(w, one);
    expect(users(w)).toEqual(bytes);
    expect((await ledgerIn(w.tree)).filter((e) => e.undoes === null).map((e) => e.state)).toEqual([
      'undone',
      'undone',
      'undone',
    ]);
  });
});
