// Many small files as one, and apart again: every byte and every time comes back; a crash at any write leaves all as before or as meant; a damaged or hostile
// bundle writes nothing.

import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { unzipSync, zipSync } from 'fflate';
import { bundleGroups, bundleList, bundlePath, readBundleList, seriesKey } from '../bags/bundles';
import { apply } from '../changes/apply';
import { applying, ledgerIn, recordsIn, recovering, undoing } from '../changes/testing/contexts';
import { crashing, type CrashKind } from '../changes/testing/crashingTree';
import { memoryOutside } from '../changes/testing/memoryOutside';
import { MemoryTree } from '../files/memoryTree';
import { isOwn } from '../files/records';
import { treePath } from '../files/treePath';
import { planApart, planBundle } from './planBundle';
import type { Workspace } from './workspace';
import { howMany } from '../files/testing/depth';

const now = '2026-11-27T14:00:00.000Z';
const later = '2026-11-27T15:00:00.000Z';
let tick = 0;
const clock = () => 1_764_000_000_123.456 + ++tick * 1000.5;
const workspaceOf = (tree: MemoryTree): Workspace => ({
  root: '/memory',
  tree,
  outside: memoryOutside({}),
  file: { homes: { cache: 'caches' }, libraries: [], places: [] },
});
const said = (tree: MemoryTree) =>
  [...tree.files]
    .filter(([p]) => !isOwn(p))
    .sort()
    .map(([p, f]) => [p, f.modified, f.mode ?? null, Buffer.from(f.bytes).toString('base64')]);
const blockersOf = (plan: { notes: readonly { level: string; message: string }[] }) =>
  plan.notes.filter((n) => n.level === 'blocker').map((n) => n.message);

function frames(count = 30): MemoryTree {
  const tree = new MemoryTree({}, clock);
  for (let n = 1; n <= count; n++) tree.set(`caches/fog/fog_${String(n).padStart(4, '0')}.vdb`, `frame ${n}`);
  tree.set('caches/fog/fog_9999.vdb', '');
  tree.set('caches/fog/read me.txt', 'stays');
  tree.files.get('caches/fog/fog_0002.vdb')!.mode = 0o640;
  const uri = '../caches/fog/fog_0001.vdb';
  tree.set('scenes/a.gltf', JSON.stringify({ asset: { version: '2.0' }, images: [{ uri }] }));
  return tree;
}
const all = ['caches/fog/fog_#.vdb'];
const bundle = 'caches/fog/fog.bundle.zip';

test('a series becomes one file, and comes back to the byte and the time; undo of either does the same', async () => {
  const tree = frames();
  const before = said(tree);
  const plan = await planBundle(workspaceOf(tree), all, { now });
  expect(plan.title).toBe('Put 31 files into fog.bundle.zip');
  expect(plan.notes.map((n) => n.message)).toEqual([
    'scenes/a.gltf uses 1 file of it: missing until the bundle is taken apart.',
  ]);
  await apply(tree, plan, applying('one'));
  expect(said(tree).map(([p]) => p)).toEqual([bundle, 'caches/fog/read me.txt', 'scenes/a.gltf']);
  const plain = unzipSync(tree.files.get(bundle)!.bytes);
  expect(Object.keys(plain)).toHaveLength(32);
  expect(Buffer.from(plain['fog_0007.vdb']!).toString()).toBe('frame 7');

  const apart = await planApart(workspaceOf(tree), [treePath(bundle)], { now: later });
  expect(apart.notes).toEqual([]);
  await apply(tree, apart, applying('two'));
  expect(said(tree)).toEqual(before);

  const [first, second] = await recordsIn(tree);
  await apply(tree, await undoing(tree, second!), applying('three'));
  expect(said(tree).map(([p]) => p)).toContain(bundle);
  await apply(tree, await undoing(tree, first!), applying('four'));
  expect(said(tree)).toEqual(before);
});

test.each<CrashKind>(['lost', 'torn', 'unreported'])('a crash at every write: %s', async (kind) => {
  const start = () => {
    tick = 0;
    return frames(3);
  };
  const put = async (tree: MemoryTree) => planBundle(workspaceOf(tree), all, { now });
  const done = start();
  await apply(done, await put(done), applying('c'));
  const whole = said(done).map(([p, , , b]) => [p, b]);
  const counted = crashing(start(), 0, kind);
  await apply(counted, await put(start()), applying('c'));
  for (let n = 1; n <= counted.writes(); n++) {
    const tree = start();
    const before = said(tree);
    const plan = await put(tree);
    await apply(crashing(tree, n, kind), plan, applying('c')).catch(() => undefined);
    await recovering(tree);
    if ((await ledgerIn(tree))[0]?.state === 'applied')
      expect([n, said(tree).map(([p, , , b]) => [p, b])]).toEqual([n, whole]);
    else expect([n, said(tree)]).toEqual([n, before]);
  }
});

test('files saved in between are noticed', async () => {
  const tree = frames();
  const plan = await planBundle(workspaceOf(tree), all, { now });
  tree.set('caches/fog/fog_0003.vdb', 'saved since');
  const before = said(tree);
  await expect(apply(tree, plan, applying('s'))).rejects.toMatchObject({ code: 'stale-plan' });
  expect(said(tree)).toEqual(before);
});

describe('taken apart with care', () => {
  const bundled = async () => {
    const tree = frames();
    await apply(tree, await planBundle(workspaceOf(tree), all, { now }), applying('b'));
    return tree;
  };
  const apart = (tree: MemoryTree) => planApart(workspaceOf(tree), [treePath(bundle)], { now: later });

  test('one byte of a file turned over: it is named, nothing is written', async () => {
    const tree = await bundled();
    const { bytes } = tree.files.get(bundle)!;
    bytes[Buffer.from(bytes).lastIndexOf('frame 7') + 2]! ^= 1;
    const plan = await apart(tree);
    expect(blockersOf(plan)).toEqual(['fog_0007.vdb in fog.bundle.zip is damaged.']);
    await expect(apply(tree, plan, applying('x'))).rejects.toThrow();
  });

  test('the list damaged, cut off, packed anew by another program', async () => {
    const tree = await bundled();
    const { bytes } = tree.files.get(bundle)!;
    tree.set(bundle, bytes.subarray(0, bytes.length - 30));
    await expect(apart(tree)).rejects.toMatchObject({ code: 'unsupported' });
    tree.set(bundle, Uint8Array.from(bytes));
    tree.files.get(bundle)!.bytes[Buffer.from(bytes).indexOf('"files"') + 1] = 0x78;
    await expect(apart(tree)).rejects.toThrow(/list in fog.bundle.zip is damaged/);
    const unpacked = unzipSync(bytes);
    tree.set(
      bundle,
      zipSync({ [bundleList]: [unpacked[bundleList]!, { level: 0 }], ...unpacked }, { level: 9 }),
    );
    await expect(apart(tree)).rejects.toThrow(/is no bundle|by another program/);
  });

  test('another file in the way stays; the same one is left as it is', async () => {
    const tree = await bundled();
    tree.set('caches/fog/fog_0001.vdb', 'frame 1');
    tree.set('caches/fog/fog_0002.vdb', 'another');
    expect(blockersOf(await apart(tree))).toEqual([
      'caches/fog/fog_0002.vdb is there already, and is another file than that in fog.bundle.zip.',
    ]);
  });

  test.each(['../../out.txt', '/etc/passwd', 'a/../../b', '.satchel/workspace.json', '', 'a//b', 'a\0b'])(
    'a list that leads to %j is refused',
    (name) => {
      expect(readBundleList(JSON.stringify({ format: 1, files: [[name, 0, 'x']] }))).toBeNull();
    },
  );
  test.each(['', '[]', '{}', 'null', '{"format":2,"files":[]}', '{"format":1,"files":[["a"]]}'])(
    'no list: %s',
    (text) => expect(readBundleList(text)).toBeNull(),
  );
});

test('what could become one file: series and folders of many small files, scenes never', () => {
  const of = (n: number, at: (i: number) => string, size: number) =>
    Array.from({ length: n }, (_, i) => ({ path: at(i), size }));
  expect(
    bundleGroups([
      ...of(40, (i) => `caches/fog_${1000 + i}.vdb`, 1e6),
      ...of(30, (i) => `caches/big_${1000 + i}.vdb`, 1e9),
      ...of(10, (i) => `caches/few_${1000 + i}.vdb`, 10),
      ...of(
        120,
        (i) => `refs/${'abcdefghij'[i % 10]}${'klmnopqrstuvwxyz'[i >> 3]}${'xyzuvwpq'[i % 8]}.jpg`,
        9,
      ),
      ...of(40, (i) => `scenes/s_${1000 + i}.gltf`, 10).map((f) => ({ ...f, class: 'scenes' })),
    ]),
  ).toEqual([
    { of: 'refs', files: 120, bytes: 1080 },
    { of: 'caches/fog_#.vdb', files: 40, bytes: 40e6 },
  ]);
  expect(
    ['caches/fog_#.vdb', 'caches/fog.#.bgeo.sc', 'refs', 'x/v#.png'].map((o) => bundlePath(o, null)),
  ).toEqual(['caches/fog.bundle.zip', 'caches/fog.bundle.zip', 'refs.bundle.zip', 'x/files.bundle.zip']);
  expect(seriesKey('a/b.txt')).toBeNull();
});

test('any folder: all comes back to the byte and the time, whatever it is called', async () => {
  const name = fc
    .string({ unit: 'grapheme', minLength: 1, maxLength: 12 })
    .filter((n) => !/[\0/\\]/.test(n) && n !== '.' && n !== '..' && !n.startsWith('.satchel'));
  const path = fc.array(name, { minLength: 1, maxLength: 3 }).map((parts) => `caches/${parts.join('/')}`);
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.tuple(path, fc.uint8Array({ maxLength: 40 })), { minLength: 1, maxLength: 12 }),
      async (made) => {
        const tree = new MemoryTree({}, clock);
        for (const [at, content] of made)
          if (
            ![...tree.files.keys(), ...tree.folders].some(
              (p) => p === at || p.startsWith(`${at}/`) || (at.startsWith(`${p}/`) && tree.files.has(p)),
            )
          )
            tree.set(at, content);
        const before = said(tree);
        const plan = await planBundle(workspaceOf(tree), ['caches'], { now });
        if (blockersOf(plan).length > 0) return;
        await apply(tree, plan, applying('p'));
        const at = [...tree.files.keys()].find((p) => p.endsWith('.bundle.zip') && !isOwn(p))!;
        await apply(tree, await planApart(workspaceOf(tree), [treePath(at)], { now: later }), applying('q'));
        expect(said(tree)).toEqual(before);
      },
    ),
    { numRuns: howMany(60) },
  );
});
