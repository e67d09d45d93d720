// Scans: every scene once, in path order; chains through formats that end; bad files are problems and end nothing.

import { expect } from '@jest/globals';
import { MemoryTree } from '../files/memoryTree';
import { rootPath, treePath } from '../files/treePath';
import { Lookup } from './lookup';
import { memoryOutside } from '../changes/testing/memoryOutside';
import type { OutsideFiles } from '../files/fileTree';
import { countStates, followChain, reportScene, scan, scenePaths, uncertain } from './scan';
import { isReady, isReadyWithLibrary } from './resolve';
import type { Setting } from './resolve';
import { deepTest, test } from '../files/testing/depth';

const gltf = (...uris: string[]) => JSON.stringify({ images: uris.map((uri) => ({ uri })) });
const settingOf = (tree: MemoryTree): Setting => ({
  root: '/w',
  lookup: new Lookup(tree),
  outside: null,
  libraries: [],
  places: [],
});

async function scanned(tree: MemoryTree, folder = rootPath) {
  const reports = [];
  for await (const r of scan(tree, settingOf(tree), folder)) reports.push(r);
  return reports;
}

test('scenes in path order, the own records left out, material files by their own paths', async () => {
  const tree = new MemoryTree({
    'b.gltf': gltf('t/x.png'),
    'a/z.obj': 'mtllib z.mtl\n',
    'a/z.mtl': 'newmtl m\nmap_Kd ../t/x.png\n',
    't/x.png': '',
    'a.txt': '',
    '.satchel/store/old.gltf': gltf('gone.png'),
  });
  const reports = await scanned(tree);
  expect(
    reports.map((r) => [r.path, r.format, r.references.map((x) => [x.written, x.state, x.target])]),
  ).toEqual([
    ['a/z.mtl', 'mtl', [['../t/x.png', 'travels', 't/x.png']]],
    ['a/z.obj', 'obj', [['z.mtl', 'travels', 'a/z.mtl']]],
    ['b.gltf', 'gltf', [['t/x.png', 'travels', 't/x.png']]],
  ]);
  expect(countStates(reports)).toEqual({ travels: 3 });
  expect((await scanned(tree, treePath('a'))).map((r) => r.path)).toEqual(['a/z.mtl', 'a/z.obj']);
  expect(await scenePaths(tree, treePath('nowhere'))).toEqual({ scenes: [], unread: [] });
});

test('a file that cannot be read, or is none of its kind, is a problem of its own', async () => {
  const tree = new MemoryTree({
    'a.gltf': '{"images":[{"uri":"x.png"',
    'b.glb': 'no',
    'c.gltf': gltf('y.png'),
  });
  tree.read = async (path, range) => {
    if (path === 'b.glb') throw new Error('input/output error');
    return MemoryTree.prototype.read.call(tree, path, range);
  };
  const reports = await scanned(tree);
  expect(reports.map((r) => [r.path, r.problems.map((p) => p.code), r.references.length])).toEqual([
    ['a.gltf', ['truncated'], 1],
    ['b.glb', ['unreadable'], 0],
    ['c.gltf', [], 1],
  ]);
  expect(await reportScene(tree, treePath('a.png'), settingOf(tree))).toBeNull();
  expect((await reportScene(tree, treePath('gone.gltf'), settingOf(tree)))!.problems[0]!.code).toBe(
    'not-found',
  );
});

test('of two readings of a line, the one that names a file counts', async () => {
  const tree = new MemoryTree({ 'a.obj': 'mtllib my boat.mtl b.mtl\n', 'my boat.mtl b.mtl': '' });
  expect((await scanned(tree))[0]!.references.map((r) => [r.written, r.state])).toEqual([
    ['my boat.mtl b.mtl', 'travels'],
  ]);
});

test('chains go through formats and come to an end', async () => {
  const tree = new MemoryTree({
    'a.gltf': JSON.stringify({ extensions: { ACME: { uri: 'sub/b.obj' } } }),
    'sub/b.obj': 'mtllib b.mtl\nshadow_obj b.obj\n',
    'sub/b.mtl': 'newmtl x\nmap_Kd t.png',
    'sub/t.png': '',
    'c.gltf': gltf('c.gltf'),
  });
  const chain = await followChain(tree, null, settingOf(tree), [treePath('a.gltf'), treePath('c.gltf')]);
  expect(chain.map((r) => r.path)).toEqual(['a.gltf', 'c.gltf', 'sub/b.mtl', 'sub/b.obj']);
});

test('a cancelled scan stops between two scenes', async () => {
  const tree = new MemoryTree({ 'a.gltf': gltf(), 'b.gltf': gltf() });
  const cancel = new AbortController();
  const seen: string[] = [];
  await expect(
    (async () => {
      for await (const r of scan(tree, settingOf(tree), rootPath, { signal: cancel.signal })) {
        seen.push(r.path);
        cancel.abort();
      }
    })(),
  ).rejects.toThrow();
  expect(seen).toEqual(['a.gltf']);
});

test('of alternatives the first that is found counts, and the others are not missing', async () => {
  const list = (urls: string) => `<X3D><ImageTexture url='${urls}'/></X3D>`;
  const tree = new MemoryTree({
    'a.x3d': list('"C:/gone.png" "b.png" "https://example.org/b.png"'),
    'b.x3d': list('"gone.png" "https://example.org/b.png"'),
    'b.png': '',
  });
  expect((await scanned(tree)).map((r) => r.references.map((x) => [x.written, x.state]))).toEqual([
    [['b.png', 'travels']],
    [
      ['gone.png', 'missing'],
      ['https://example.org/b.png', 'remote'],
    ],
  ]);
});

test('a chain leaves the root only where it may, and each file is judged from where it stands', async () => {
  const tree = new MemoryTree({
    'scenes/a.usda': '#usda 1.0\n(\n subLayers = [@../../kit/rig.usda@, @/locked/x.usda@]\n)\n',
    'textures/in.png': '',
  });
  const outside: OutsideFiles = {
    ...memoryOutside({
      '/kit/rig.usda':
        '#usda 1.0\ndef "A" { asset a = @./t/skin.png@\n asset b = @../w/textures/in.png@\n asset c = @gone.png@\n string clip = "x" }\n',
      '/kit/t/skin.png': '',
      '/locked/x.usda': '#usda 1.0\n',
    }),
    mayRead: (p) => !p.startsWith('/locked'),
  };
  const setting: Setting = { ...settingOf(tree), outside, libraries: [{ name: 'kit', path: '/kit' }] };
  const chain = await followChain(tree, outside, setting, [treePath('scenes/a.usda')]);
  expect(chain.map((r) => [r.path, r.references.map((x) => [x.written, x.state, x.target])])).toEqual([
    [
      '/kit/rig.usda',
      [
        ['./t/skin.png', 'library', '/kit/t/skin.png'],
        ['../w/textures/in.png', 'travels', 'textures/in.png'],
        ['gone.png', 'missing', null],
      ],
    ],
    [
      'scenes/a.usda',
      [
        ['../../kit/rig.usda', 'library', '/kit/rig.usda'],
        ['/locked/x.usda', 'outside', '/locked/x.usda'],
      ],
    ],
  ]);
  expect((await followChain(tree, null, setting, [treePath('scenes/a.usda')])).map((r) => r.path)).toEqual([
    'scenes/a.usda',
  ]);
});

deepTest('a chain of ten thousand files, and one that goes in a circle, come to an end', async () => {
  const files: Record<string, string> = {};
  for (let i = 0; i < 10_000; i++)
    files[`s${i}.gltf`] = JSON.stringify({ extensions: { ACME: { uri: `s${(i + 1) % 10_000}.gltf` } } });
  const tree = new MemoryTree(files);
  expect(await followChain(tree, null, settingOf(tree), [treePath('s0.gltf')])).toHaveLength(10_000);
});

test('the frames of a sequence of scenes are followed', async () => {
  const tree = new MemoryTree({
    'a.usda':
      '#usda 1.0\ndef "A" ( clips = { dictionary default = { string templateAssetPath = "./c.##.usda" } } )\n{\n}\n',
    'c.01.usda': '#usda 1.0\ndef "B" { asset x = @t.png@ }',
    'c.02.usda': '#usda 1.0\n',
    't.png': '',
  });
  expect((await followChain(tree, null, settingOf(tree), [treePath('a.usda')])).map((r) => r.path)).toEqual([
    'a.usda',
    'c.01.usda',
    'c.02.usda',
  ]);
});

test('what stands in an unknown extension is marked as a guess', async () => {
  const tree = new MemoryTree({
    'a.gltf': JSON.stringify({ images: [{ uri: 'x.png' }], extras: { note: { uri: 'y.png' } } }),
    'x.png': 'x',
    'y.png': 'y',
  });
  const [report] = await scanned(tree);
  expect(report!.problems.map((p) => [p.code, p.span])).toEqual([[uncertain, report!.references[1]!.span]]);
});

test('ready is what opens in a copy of the root alone: found, whole, not empty, and by its own name', async () => {
  const images = ['ok.png', 'empty.png', 'ok.png?v=2', 'gone.png', '/kit/a.png'].map((uri) => ({ uri }));
  const tree = new MemoryTree({
    'a.gltf': JSON.stringify({ images }),
    'b.usda': '#usda 1.0\ndef "B" { asset x = @./w.<UDIM>.png@ }',
    'ok.png': 'x',
    'empty.png': '',
    'w.1001.png': 'x',
    'w.1003.png': 'x',
  });
  const setting = { ...settingOf(tree), libraries: [{ name: 'kit', path: '/kit' }] };
  const outside = {
    kind: async (p: string) => (p === '/kit/a.png' ? ('file' as const) : null),
    entries: async () => null,
  };
  const ready: [string, boolean, boolean][] = [];
  for await (const report of scan(tree, { ...setting, outside }))
    for (const r of report.references) ready.push([r.written, isReady(r), isReadyWithLibrary(r)]);
  expect(ready).toEqual([
    ['ok.png', true, true],
    ['empty.png', false, false],
    ['ok.png?v=2', false, false],
    ['gone.png', false, false],
    ['/kit/a.png', false, true],
    ['./w.<UDIM>.png', false, false],
  ]);
});
