// Every state of a reference, on trees of memory: by the rule of its format, on other systems' roots, by places and libraries.

import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { memoryOutside } from '../changes/testing/memoryOutside';
import { joinInside, relativePath, treePath } from '../files/treePath';
import { MemoryTree } from '../files/memoryTree';
import { Lookup } from './lookup';
import { findByTail, isReady, oddityMessage, resolveReference, type Setting } from './resolve';
import { normaliseAbsolute, spell, understand } from './written';

const tree = new MemoryTree({
  'scenes/harbour.gltf': '',
  'scenes/a b.bin': '',
  'textures/hull.png': '',
  'textures/Rope_Base.PNG': '',
  'textures/e\u0301tai.png': '',
  'textures/100%25.png': '',
  'textures/twin.png': '',
  'textures/TWIN.png': '',
  'a/b/deep.png': '',
});
const outside = memoryOutside({
  '/home/a/Downloads/rust.png': '',
  '/lib/wood/oak.png': '',
  '/volumes/blue/sky/storm.png': '',
  '/home/a/boat/linked.png': '',
  '/home/a/boat/textures/hull.png': '',
});
const setting: Setting = {
  root: '/home/a/boat',
  lookup: new Lookup(tree),
  outside,
  libraries: [{ name: 'wood', path: '/lib/wood' }],
  places: [
    { name: 'Blue stick', heads: ['E:/', '/volumes/blue'] },
    { name: 'Barn server', heads: ['//barn/share', '/mnt/barn'] },
    { name: 'Bench', heads: ['D:/work/boat', '/home/a/boat'] },
  ],
};
const at = treePath('scenes/harbour.gltf');
const resolve = async (written: string, syntax: 'uri' | 'native' = 'uri', s: Setting = setting) =>
  resolveReference({ written }, { syntax }, at, s);

describe('states', () => {
  test.each([
    ['../textures/hull.png', 'travels', 'textures/hull.png'],
    ['./../textures//hull.png', 'travels', 'textures/hull.png'],
    ['a%20b.bin', 'travels', 'scenes/a b.bin'],
    ['a b.bin', 'travels', 'scenes/a b.bin'],
    ['../textures/100%2525.png', 'travels', 'textures/100%25.png'],
    ['../textures/rope_base.png', 'case', 'textures/Rope_Base.PNG'],
    ['../Textures/hull.png', 'case', 'textures/hull.png'],
    ['../textures/\u00e9tai.png', 'case', 'textures/e\u0301tai.png'],
    ['../textures/Twin.png', 'missing', null],
    ['../textures/gone.png', 'missing', null],
    ['', 'missing', null],
    ['../linked.png', 'outside', '/home/a/boat/linked.png'],
    ['../../Downloads/rust.png', 'outside', '/home/a/Downloads/rust.png'],
    ['file:///home/a/Downloads/rust.png', 'outside', '/home/a/Downloads/rust.png'],
    ['file://localhost/home/a/Downloads/rust.png', 'outside', '/home/a/Downloads/rust.png'],
    ['/home/a/boat/textures/hull.png', 'absolute', 'textures/hull.png'],
    ['file:///home/a/boat/textures/hull.png', 'absolute', 'textures/hull.png'],
    ['D:/work/boat/textures/hull.png', 'absolute', 'textures/hull.png'],
    ['d:\\work\\boat\\textures\\hull.png', 'absolute', 'textures/hull.png'],
    ['file:///D:/work/boat/textures/hull.png', 'absolute', 'textures/hull.png'],
    ['/lib/wood/oak.png', 'library', '/lib/wood/oak.png'],
    ['/lib/woodwork/oak.png', 'missing', null],
    ['E:/sky/storm.png', 'outside', '/volumes/blue/sky/storm.png'],
    ['//barn/share/x.png', 'offline', null],
    ['\\\\barn\\share\\x.png', 'offline', null],
    ['C:/Users/mc/x.png', 'missing', null],
    ['https://example.org/a.png', 'remote', null],
  ])('%s is %s', async (written, state, target) => {
    const r = await resolve(written);
    expect([r.state, r.target, r.inside, r.targets]).toEqual([
      state,
      target,
      target !== null && !target.startsWith('/'),
      target === null ? 0 : 1,
    ]);
  });

  test('a place that counted is named', async () => {
    expect((await resolve('E:/sky/storm.png')).via).toBe('Blue stick');
    expect((await resolve('//barn/share/x.png')).via).toBe('Barn server');
    expect((await resolve('/lib/wood/oak.png')).via).toBe('wood');
  });

  test('a bag sees nothing outside', async () => {
    const bag = { ...setting, outside: null };
    expect((await resolve('/home/a/Downloads/rust.png', 'uri', bag)).state).toBe('missing');
    expect((await resolve('../linked.png', 'uri', bag)).state).toBe('missing');
    expect((await resolve('../textures/hull.png', 'uri', bag)).state).toBe('travels');
  });

  test('on a root with a drive letter, letters of the head do not count', async () => {
    const windows = { ...setting, root: 'D:/Work/Boat', outside: null, places: [] };
    expect((await resolve('d:\\work\\boat\\textures\\hull.png', 'native', windows)).state).toBe('absolute');
    expect((await resolve('D:/Work/Boating/textures/hull.png', 'native', windows)).state).toBe('missing');
  });
});

describe('spellings that not every program understands', () => {
  test.each([
    ['..\\textures\\hull.png', 'uri', 'backslash'],
    ['..\\textures\\hull.png', 'native', 'backslash'],
    ['../../boat/textures/hull.png', 'uri', 'through-root-name'],
    ['a%20b.bin', 'native', 'not-decoded'],
    [' ../textures/hull.png ', 'native', 'outer-blanks'],
    ['../textures/100%25.png', 'uri', 'not-decoded'],
  ] as const)('%j (%s) is found, and said: %s', async (written, syntax, oddity) => {
    const r = await resolve(written, syntax);
    expect([r.state, r.oddities, isReady(r)]).toEqual(['travels', [oddity], false]);
    expect(oddityMessage(oddity, written)).toMatch(/path to \S/);
  });

  test('the rule of the format comes before what is forgiven', async () => {
    const both = new MemoryTree({
      'scenes/s.gltf': '',
      'scenes/a%20b.png': 'literal',
      'scenes/a b.png': 'decoded',
    });
    expect((await resolve('a%20b.png', 'uri', { ...setting, lookup: new Lookup(both) })).target).toBe(
      'scenes/a b.png',
    );
    expect((await resolve('a%20b.png', 'native', { ...setting, lookup: new Lookup(both) })).target).toBe(
      'scenes/a%20b.png',
    );
  });
});

describe('sequences and tiles', () => {
  const many = new MemoryTree({
    's/a.usda': '',
    't/w.1001.exr': '',
    't/w.1003.exr': '',
    't/w.1011.exr': '',
    't/f.0001.exr': '',
    't/f.0003.exr': '',
    't/odd.####.exr': '',
    't/odd.0001.exr': '',
  });
  const there = {
    ...setting,
    lookup: new Lookup(many),
    outside: memoryOutside({ '/far/x.0001.exr': '', '/far/x.0002.exr': '' }),
  };
  const of = async (written: string, syntax: 'uri' | 'native' | 'usd') =>
    resolveReference({ written }, { syntax }, treePath('s/a.usda'), there);
  test('one reference stands for all files, gaps are told', async () => {
    expect(await of('../t/w.<UDIM>.exr', 'usd')).toMatchObject({
      state: 'travels',
      target: 't/w.<UDIM>.exr',
      targets: 3,
      gaps: [1002],
      members: ['w.1001.exr', 'w.1003.exr', 'w.1011.exr'],
    });
    expect(await of('../t/f.####.exr', 'native')).toMatchObject({ state: 'travels', targets: 2, gaps: [2] });
    expect(await of('/far/x.%04d.exr', 'native')).toMatchObject({
      state: 'outside',
      target: '/far/x.%04d.exr',
      targets: 2,
      gaps: [],
    });
    expect(await of('../t/none.####.exr', 'native')).toMatchObject({
      state: 'missing',
      target: null,
      targets: 0,
    });
  });
  test('a name that exists letter for letter is that file', async () =>
    expect(await of('../t/odd.####.exr', 'native')).toMatchObject({ targets: 1, target: 't/odd.####.exr' }));
  test('marks mean nothing in a URI', async () =>
    expect((await of('../t/w.%3CUDIM%3E.exr', 'uri')).state).toBe('missing'));
  test('a name put behind its folder, with the frames that are asked for', async () => {
    const r = await resolveReference(
      { written: '../t', suffix: '/f.####.exr', frames: [1, 3, 1] },
      { syntax: 'uri' },
      treePath('s/a.usda'),
      there,
    );
    expect(r).toMatchObject({ state: 'travels', target: 't/f.####.exr', targets: 2, gaps: [2] });
  });
});

describe('USD asset paths (OpenUSD default resolver)', () => {
  const layers = new MemoryTree({
    'sub/t.usda': '',
    'sub/near.usda': '',
    'root.usda': '',
    'kit/lib.usda': '',
    'sub/p.usdz': '',
    'sub/We Ird%20.usda': '',
  });
  const there = { ...setting, lookup: new Lookup(layers), outside: null, search: ['/home/a/boat/kit'] };
  const of = async (written: string) => {
    const r = await resolveReference(
      { written },
      { syntax: 'usd', searches: 'unanchored' },
      treePath('sub/t.usda'),
      there,
    );
    return [r.state, r.target, r.oddities];
  };
  test.each([
    ['./near.usda', 'travels', 'sub/near.usda', []],
    ['near.usda', 'travels', 'sub/near.usda', []],
    ['lib.usda', 'travels', 'kit/lib.usda', []],
    ['./lib.usda', 'missing', null, []],
    ['root.usda', 'travels', 'root.usda', ['working-folder']],
    ['./root.usda', 'missing', null, []],
    ['near.usda:SDF_FORMAT_ARGS:a=b', 'travels', 'sub/near.usda', []],
    ['p.usdz[in/x.usda]', 'travels', 'sub/p.usdz', []],
    ['NEAR.usda', 'case', 'sub/near.usda', []],
    ['We Ird%20.usda', 'travels', 'sub/We Ird%20.usda', []],
    ['https://h/x.usda', 'remote', null, []],
    ['.//near.usda', 'travels', 'sub/near.usda', []],
    ['..\\sub\\near.usda', 'travels', 'sub/near.usda', ['backslash']],
  ])('%s', async (written, state, target, oddities) =>
    expect(await of(written.replaceAll('\\\\', '\\'))).toEqual([state, target, oddities]),
  );
});

test('a missing absolute path is found again by the longest tail of two parts or more', async () => {
  const find = (w: string) => findByTail(w, 'native', setting);
  expect(await find('C:\\old\\a\\b\\deep.png')).toBe('a/b/deep.png');
  expect(await find('/elsewhere/textures/hull.png')).toBe('textures/hull.png');
  expect(await find('/elsewhere/hull.png')).toBeNull();
  expect(await find('textures/hull.png')).toBeNull();
});

test('a usual name in a usual folder may be any project’s: its tail counts below a folder of the root’s name only', async () => {
  const t = new MemoryTree({ 'textures/diffuse.png': '', 'boat/textures/diffuse.png': '' });
  const find = (w: string) =>
    findByTail(w, 'native', { ...setting, root: '/work/Harbour', lookup: new Lookup(t) });
  expect(await find('/elsewhere/crate/textures/diffuse.png')).toBeNull();
  expect(await find('D:\\old\\harbour\\textures\\diffuse.png')).toBe('textures/diffuse.png');
  expect(await find('D:\\old\\boat\\textures\\diffuse.png')).toBe('boat/textures/diffuse.png');
});

test('what was written relative to a folder resolves to the same file from there (property)', async () => {
  const part = fc.constantFrom('a', 'b c', 'é', 'x#y', '100%', 'q?', 'Z');
  const path = fc.array(part, { minLength: 1, maxLength: 4 }).map((p) => p.join('/'));
  await fc.assert(
    fc.asyncProperty(path, path, fc.constantFrom('uri', 'native'), async (folder, file, syntax) => {
      const target = `${file}/f.png`;
      const t = new MemoryTree({ [`${folder}/s.gltf`]: '', [target]: '' });
      const relative = relativePath(folder, target);
      expect(joinInside(folder, relative)).toBe(target);
      const r = await resolveReference(
        { written: spell(relative, syntax as 'uri', '') },
        { syntax: syntax as 'uri' },
        treePath(`${folder}/s.gltf`),
        { ...setting, lookup: new Lookup(t), outside: null },
      );
      expect([r.state, r.target, r.oddities]).toEqual(['travels', target, []]);
    }),
  );
});

describe('understanding a written path', () => {
  test('queries and fragments are kept apart in URIs and belong to the name elsewhere', () => {
    expect(understand('a.dae?x#mat', 'uri')).toMatchObject({
      form: 'relative',
      path: 'a.dae',
      tail: '?x#mat',
    });
    expect(understand('a.dae?x#mat', 'native')).toMatchObject({
      form: 'relative',
      path: 'a.dae?x#mat',
      tail: '',
    });
  });
  test.each([
    ['\\\\?\\C:\\x\\a.png', 'C:/x/a.png'],
    ['\\\\?\\UNC\\barn\\s\\a.png', '//barn/s/a.png'],
    ['c:/x.png', 'C:/x.png'],
    ['file:C:\\x.png', 'C:/x.png'],
  ])('%s is %s', (written, path) => {
    expect(understand(written, 'uri')).toMatchObject({ form: 'absolute', system: 'windows', path });
  });
  test.each([
    ['/a/./b/../c', '/a/c'],
    ['/../../a', '/a'],
    ['C:/a/../../b', 'C:/b'],
    ['//host/share/../x', '//host/share/x'],
  ])('%s is %s', (given, plain) => expect(normaliseAbsolute(given)).toBe(plain));
  test('new values are spelt as the old one was', () => {
    expect(spell('t/a b.png', 'uri', 'old name.png')).toBe('t/a b.png');
    expect(spell('t/a b.png', 'uri', 'old%20name.png')).toBe('t/a%20b.png');
    expect(spell('t/é.png', 'uri', 'x%C3%A9.png')).toBe('t/%C3%A9.png');
    expect(spell('t/é#.png', 'uri', 'x.png')).toBe('t/é%23.png');
    expect(spell('C:/a b.png', 'uri', '')).toBe('file:///C:/a%20b.png');
    expect(spell('C:/a b.png', 'native', '')).toBe('C:/a b.png');
  });
});

describe('lookup', () => {
  test('reads each folder once, and knows then without asking', async () => {
    let asked = 0;
    const lookup = new Lookup({ entries: (f) => (asked++, tree.entries(f)) });
    expect(lookup.knownKind(treePath('textures/hull.png'))).toBeUndefined();
    expect(await lookup.kind(treePath('textures/hull.png'))).toBe('file');
    expect(await lookup.kind(treePath('textures/none.png'))).toBeNull();
    expect(await lookup.kind(treePath('none/none.png'))).toBeNull();
    expect(await lookup.kind(treePath('textures'))).toBe('folder');
    expect([
      lookup.knownKind(treePath('textures/hull.png')),
      lookup.knownKind(treePath('textures/none.png')),
      lookup.knownKind(treePath('none/x')),
    ]).toEqual(['file', null, null]);
    expect(asked).toBe(2);
  });
});

describe('search paths and the home folder', () => {
  const there: Setting = {
    ...setting,
    outside: {
      ...memoryOutside({
        '/site/mx/stone.mtlx': '',
        '/home/a/paint.png': '',
        '/home/a/boat/scenes/harbour.gltf': '',
      }),
      home: '/home/a',
    },
    search: ['/home/a/boat/a', '/site/mx'],
  };
  const find = async (
    written: string,
    searches: 'always' | 'unanchored' | undefined,
    syntax: 'native' | 'usd' = 'native',
  ) => {
    const r = await resolveReference({ written }, { syntax, ...(searches ? { searches } : {}) }, at, there);
    return [r.state, r.target, r.oddities];
  };
  test('only formats that have one look along it; ./ keeps USD beside the file', async () => {
    expect(await find('stone.mtlx', 'always')).toEqual(['outside', '/site/mx/stone.mtlx', []]);
    expect(await find('b/deep.png', 'always')).toEqual(['travels', 'a/b/deep.png', []]);
    expect(await find('b/deep.png', 'unanchored', 'usd')).toEqual(['travels', 'a/b/deep.png', []]);
    expect(await find('./b/deep.png', 'unanchored', 'usd')).toEqual(['missing', null, []]);
    expect(await find('b/deep.png', undefined)).toEqual(['missing', null, []]);
  });
  test('~ is the home folder only where no folder has that name', async () => {
    expect(await find('~/paint.png', undefined)).toEqual(['outside', '/home/a/paint.png', ['home-folder']]);
    const named = new MemoryTree({ 'scenes/~/paint.png': '' });
    expect(
      await resolveReference({ written: '~/paint.png' }, { syntax: 'native' }, at, {
        ...there,
        lookup: new Lookup(named),
      }),
    ).toMatchObject({ state: 'travels', target: 'scenes/~/paint.png' });
  });
});
