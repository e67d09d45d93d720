// Plans on whole workspaces in memory: what is brought in and what is made to travel resolves afterwards, and undoes to the same bytes.

import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { parseJournalLine } from '../../wire/plan';
import { apply } from '../changes/apply';
import { applying } from '../changes/testing/contexts';
import { planUndo } from '../changes/invert';
import { readJournals } from '../changes/journal';
import { memoryOutside } from '../changes/testing/memoryOutside';
import type { Plan } from '../changes/plan';
import { MemoryTree } from '../files/memoryTree';
import { treePath } from '../files/treePath';
import { shippedLayouts } from '../layouts/layout';
import { isReady } from '../references/resolve';
import { scan } from '../references/scan';
import { planBring } from './planBring';
import { replaceHead, replaceText } from '../references/heads';
import { planRepath } from './planRepath';
import { planTravel } from './planTravel';
import { planRestore } from './planRestore';
import { planSave } from './planSave';
import { settingOf, type Workspace } from './workspace';

const homes = shippedLayouts[0]!.homes;
const now = () => '2026-11-23T10:00:00.000Z';

function workspaceOf(
  files: Record<string, string>,
  outside: Record<string, string> = {},
  more: Partial<Workspace['file']> = {},
): Workspace & { tree: MemoryTree } {
  const tree = new MemoryTree(files);
  // What lies inside is also found by its absolute path, as on a disk.
  const all = {
    ...Object.fromEntries(Object.entries(files).map(([p, c]) => [`/work/boat/${p}`, c])),
    ...outside,
  };
  return {
    root: '/work/boat',
    tree,
    outside: memoryOutside(all),
    file: { homes, libraries: [], places: [], ...more },
  };
}
const images = (...uris: string[]) =>
  JSON.stringify({ asset: { version: '2.0' }, images: uris.map((uri) => ({ uri })) });
let n = 0;
const applied = (w: Workspace & { tree: MemoryTree }, plan: Plan) =>
  apply(w.tree, plan, applying(`${String(++n).padStart(5, '0')}`, { outside: w.outside }));
const text = (w: { tree: MemoryTree }, p: string) => new TextDecoder().decode(w.tree.files.get(p)!.bytes);
async function states(w: Workspace) {
  const out: string[] = [];
  for await (const report of scan(w.tree, settingOf(w)))
    for (const r of report.references) out.push(`${r.written}: ${isReady(r) ? 'ready' : r.state}`);
  return out;
}
const users = (w: { tree: MemoryTree }) =>
  Object.fromEntries(
    [...w.tree.files]
      .filter(([p]) => !p.startsWith('.satchel/'))
      .map(([p]) => [p, text(w, p)])
      .sort(),
  );

describe('bring in', () => {
  const outside = {
    '/dl/boat/boat.gltf': JSON.stringify({
      images: [{ uri: 'tex/a%20b.png' }, { uri: '/dl/loose.png' }, { uri: 'gone.png' }],
      buffers: [{ uri: 'boat.bin' }],
    }),
    '/dl/boat/tex/a b.png': 'AB',
    '/dl/loose.png': 'L',
    '/dl/boat/boat.bin': 'BIN',
    '/dl/crate.obj': 'mtllib crate.mtl\n',
    '/dl/crate.mtl': 'newmtl c\nmap_Kd tex\\wood.png\n',
    '/dl/tex/wood.png': 'WOOD',
  };
  test('a scene with everything it needs, through chains, each to its home; paths valid afterwards; undo removes it all', async () => {
    const w = workspaceOf({ 'scenes/x.txt': '' }, outside);
    const before = users(w);
    const plan = await planBring(w, { files: ['/dl/boat/boat.gltf', '/dl/crate.obj'] });
    expect(plan.notes.map((x) => x.code)).toContain('missing');
    await applied(w, plan);
    expect(Object.keys(users(w))).toEqual([
      'models/crate.mtl',
      'models/crate.obj',
      'scenes/boat.bin',
      'scenes/boat.gltf',
      'scenes/x.txt',
      'textures/a b.png',
      'textures/loose.png',
      'textures/wood.png',
    ]);
    expect(await states(w)).toEqual([
      '../textures/wood.png: ready',
      'crate.mtl: ready',
      '../textures/a%20b.png: ready',
      '../textures/loose.png: ready',
      'gone.png: missing',
      'boat.bin: ready',
    ]);
    const [record] = await readJournals(w.tree, parseJournalLine);
    await applied(w, await planUndo(w.tree, record!));
    expect(users(w)).toEqual(before);
  });
  test('same content is used again, another file of the name is never overwritten', async () => {
    const w = workspaceOf({ 'textures/loose.png': 'L', 'textures/a b.png': 'MINE' }, outside);
    const plan = await planBring(w, { files: ['/dl/boat/boat.gltf'] });
    await applied(w, plan);
    expect([text(w, 'textures/a b.png'), text(w, 'textures/a b(2).png')]).toEqual(['MINE', 'AB']);
    expect(plan.steps.filter((s) => s.path === 'textures/loose.png')).toEqual([]);
    expect(await states(w)).toContain('../textures/a%20b(2).png: ready');
  });
  test('a cycle of scenes ends', async () => {
    const w = workspaceOf({ 'a.txt': '' }, { '/dl/a.obj': 'call b.obj\n', '/dl/b.obj': 'call a.obj\n' });
    expect((await planBring(w, { files: ['/dl/a.obj'] })).steps.filter((s) => s.do === 'put').length).toBe(2);
  });
});

describe('make them travel', () => {
  test('every kind of trouble that can be mended is, the rest is named', async () => {
    const w = workspaceOf(
      {
        'scenes/s.gltf': images(
          '../textures/ok.png',
          '../textures/Ok.PNG',
          '/work/boat/textures/ok.png',
          '/dl/rope.png',
          '../../old/wet.png',
          'C:/Users/x/boat/textures/ok.png',
          '../texture/ok.png',
          'http://h/x.png',
          '..\\textures\\ok.png',
          '../../boat/textures/ok.png',
          'E:/s/sky.png',
        ),
        'textures/ok.png': 'OK',
      },
      { '/dl/rope.png': 'ROPE', '/work/old/wet.png': 'WET' },
      { places: [{ name: 'Blue stick', heads: ['E:/'] }] },
    );
    expect(await states(w)).toEqual([
      '../textures/ok.png: ready',
      '../textures/Ok.PNG: case',
      '/work/boat/textures/ok.png: absolute',
      '/dl/rope.png: outside',
      '../../old/wet.png: outside',
      'C:/Users/x/boat/textures/ok.png: missing',
      '../texture/ok.png: missing',
      'http://h/x.png: remote',
      '..\\textures\\ok.png: travels',
      '../../boat/textures/ok.png: travels',
      'E:/s/sky.png: offline',
    ]);
    const before = users(w);
    const plan = await planTravel(w, { only: null });
    expect(plan.readiness).toEqual({ before: 1, after: 8, of: 11 });
    expect(
      plan.notes
        .filter((x) => x.level === 'warning')
        .map((x) => x.code)
        .sort(),
    ).toEqual(['missing', 'offline', 'remote']);
    await applied(w, plan);
    expect((await states(w)).filter((s) => s.endsWith('ready')).length).toBe(8);
    const [record] = await readJournals(w.tree, parseJournalLine);
    await applied(w, await planUndo(w.tree, record!));
    expect(users(w)).toEqual(before);
  });
  test('only what was chosen', async () => {
    const w = workspaceOf({
      's.gltf': images('/work/boat/a.png', '/work/boat/b.png'),
      'a.png': '',
      'b.png': '',
    });
    const plan = await planTravel(w, { only: [{ scene: 's.gltf', at: '/images/1/uri' }] });
    expect(plan.paths.map((x) => [x.before, x.after])).toEqual([['/work/boat/b.png', 'b.png']]);
  });
  test('a library is left, a link beyond allowed folders is named', async () => {
    const w = workspaceOf(
      { 's.gltf': images('/kits/k.png', '/secret/x.png') },
      { '/kits/k.png': 'K', '/secret/x.png': 'X' },
      { libraries: [{ name: 'kits', path: '/kits' }] },
    );
    w.outside.mayRead = (path) => !path.startsWith('/secret');
    const plan = await planTravel(w, { only: null });
    expect([plan.steps.length, plan.notes.map((x) => x.code)]).toEqual([0, ['library', 'not-allowed']]);
  });
  test('generated workspaces: what was found before is ready after (property)', async () => {
    const name = fc.constantFrom('a.png', 'b c.png', 'ü#1.png', 'd%20e.png');
    await fc.assert(
      fc.asyncProperty(
        fc.uniqueArray(
          fc.tuple(fc.constantFrom('/dl', '/work/old', '/work/boat/textures', '/work/boat'), name),
          { minLength: 1, maxLength: 6, selector: (x) => x.join('/') },
        ),
        fc.boolean(),
        async (found, deep) => {
          const inside: Record<string, string> = {};
          const outside: Record<string, string> = {};
          for (const [i, [folder, file]] of found.entries())
            (folder.startsWith('/work/boat') ? inside : outside)[
              folder.startsWith('/work/boat')
                ? `${folder.slice(11)}/${file}`.replace(/^\//, '')
                : `${folder}/${file}`
            ] = `content ${i}`;
          const uris = found.map(([folder, file]) =>
            `${folder}/${file}`.split('/').map(encodeURIComponent).join('/'),
          );
          const w = workspaceOf(
            { ...inside, [deep ? 'scenes/deep/s.gltf' : 's.gltf']: images(...uris) },
            outside,
          );
          const plan = await planTravel(w, { only: null });
          await applied(w, plan);
          expect((await states(w)).every((s) => s.endsWith('ready'))).toBe(true);
        },
      ),
      { numRuns: 40 },
    );
  });
});

describe('versions', () => {
  const files = {
    'scenes/boat_v004.gltf': JSON.stringify({
      images: [{ uri: '../t.png' }],
      buffers: [{ uri: 'boat_v004.bin' }],
    }),
    'scenes/boat_v004.bin': 'FOUR',
    't.png': 'T',
  };
  test('the next one takes its own buffer along; an old one comes back as a new one; the present stays', async () => {
    const w = workspaceOf(files);
    await applied(
      w,
      await planSave(w, { scenes: [treePath('scenes/boat_v004.gltf')], note: 'sail', now: now() }),
    );
    expect(JSON.parse(text(w, 'scenes/boat_v005.gltf'))).toEqual({
      images: [{ uri: '../t.png' }],
      buffers: [{ uri: 'boat_v005.bin' }],
    });
    expect([text(w, 'scenes/boat_v005.bin'), text(w, 'scenes/boat_v004.gltf')]).toEqual([
      'FOUR',
      files['scenes/boat_v004.gltf'],
    ]);
    await applied(
      w,
      await planRestore(w, { scene: treePath('scenes/boat_v005.gltf'), number: 4, note: '', now: now() }),
    );
    expect(JSON.parse(text(w, 'scenes/boat_v006.gltf')).buffers).toEqual([{ uri: 'boat_v006.bin' }]);
    expect(JSON.parse(text(w, '.satchel/versions/scenes/boat_v005.gltf.json')).note).toBe('sail');
    await expect(
      planRestore(w, { scene: treePath('scenes/boat_v005.gltf'), number: 99, note: '', now: now() }),
    ).rejects.toMatchObject({ code: 'not-found' });
  });
});

describe('repath', () => {
  test.each([
    ['D:\\old\\tex\\a.png', 'native', 'D:/old', '..', '..\\tex\\a.png'],
    ['d:/old/tex/a.png', 'native', 'D:/old', 'E:/new', 'E:/new/tex/a.png'],
    ['old project/a.png', 'uri', 'old project', '..', '../a.png'],
    ['old%20project/a%20b.png', 'uri', 'old project', '../x', '../x/a%20b.png'],
    ['older/a.png', 'uri', 'old', 'new', null],
    ['old/a.png', 'uri', 'old/', '', 'a.png'],
  ] as const)('%s (%s), %s → %s: %s', (written, syntax, from, to, expected) =>
    expect(replaceHead(written, syntax, [{ from, to }])).toBe(expected),
  );
  test('to absolute and back gives the same file', async () => {
    const w = workspaceOf({ 'scenes/s.gltf': images('../t/a%20b.png'), 't/a b.png': '' });
    const before = users(w);
    await applied(
      w,
      await planRepath(w, { scenes: [treePath('scenes/s.gltf')], change: { how: 'absolute' } }),
    );
    expect(await states(w)).toEqual(['/work/boat/t/a%20b.png: absolute']);
    await applied(
      w,
      await planRepath(w, { scenes: [treePath('scenes/s.gltf')], change: { how: 'relative' } }),
    );
    expect(users(w)).toEqual(before);
  });
});

test('addresses beside the one that is found go along, with what is chosen and where the text says so', async () => {
  const box = (url: string) =>
    `#VRML V2.0 utf8\nShape { appearance Appearance { texture ImageTexture { url [ ${url} ] } } }\n`;
  const files = {
    'm/a.wrl':
      `${box('"D:/old/a.png", "../old/a.png", "http://x.example/old/a.png"')}${box('"D:/old/b.png"')}`.replace(
        /\n#VRML V2.0 utf8/,
        '',
      ),
    'old/a.png': 'A',
  };
  const w = workspaceOf(files);
  const at = 'ImageTexture url (2)';
  expect(await states(w)).toEqual(['../old/a.png: ready', 'D:/old/b.png: missing']);
  const heads = { how: 'heads' as const, heads: [{ from: 'D:/old', to: 'E:/new' }] };
  const plan = await planRepath(w, { scenes: [treePath('m/a.wrl')], change: heads });
  expect(plan.paths.map((p) => [p.before, p.after])).toEqual([
    ['D:/old/b.png', 'E:/new/b.png'],
    ['D:/old/a.png', 'E:/new/a.png'],
  ]);
  const text2 = { how: 'text' as const, find: 'old', replace: 'older', pattern: false };
  const chosen = await planRepath(w, {
    scenes: [treePath('m/a.wrl')],
    only: [{ scene: 'm/a.wrl', at }],
    change: text2,
  });
  expect(chosen.paths.map((p) => p.after)).toEqual([
    '../older/a.png',
    'D:/older/a.png',
    'http://x.example/older/a.png',
  ]);
  const before = users(w);
  await applied(w, plan);
  expect(text(w, 'm/a.wrl')).toContain('"E:/new/a.png", "../old/a.png", "http://x.example/old/a.png"');
  const [record] = await readJournals(w.tree, parseJournalLine);
  await applied(w, await planUndo(w.tree, record!));
  expect(users(w)).toEqual(before);
});

describe('text in paths', () => {
  test.each([
    ['../ages/wood.png', { find: 'ages', replace: 'images', pattern: false }, '../images/wood.png'],
    ['a_v001.png', { find: '_v(\\d+)', replace: '.$1', pattern: true }, 'a.001.png'],
    ['a$b.png', { find: '$b', replace: '$&', pattern: false }, 'a$&.png'],
    ['a.png', { find: 'x', replace: 'y', pattern: false }, null],
    ['a.png', { find: '(', replace: '', pattern: true }, null],
    ['a', { find: 'a', replace: '', pattern: false }, null],
  ])('%s, %j: %s', (written, change, after) => expect(replaceText(written, change)).toBe(after));
  test('only the chosen references, and what will not be found is named', async () => {
    const w = workspaceOf({
      's.gltf': images('ages/a.png', 'ages/b.png', 'ages/c.png'),
      'images/a.png': '',
      'images/b.png': '',
    });
    const plan = await planRepath(w, {
      scenes: [treePath('s.gltf')],
      change: { how: 'text', find: 'ages', replace: 'images', pattern: false },
      only: [
        { scene: 's.gltf', at: '/images/0/uri' },
        { scene: 's.gltf', at: '/images/2/uri' },
      ],
    });
    expect([plan.paths.map((p) => p.after), plan.notes.map((n) => n.code)]).toEqual([
      ['images/a.png', 'images/c.png'],
      ['will-be-missing'],
    ]);
    expect(
      (
        await planRepath(w, {
          scenes: [treePath('s.gltf')],
          change: { how: 'text', find: '(', replace: '', pattern: true },
        })
      ).notes[0],
    ).toMatchObject({ level: 'blocker' });
  });
});
