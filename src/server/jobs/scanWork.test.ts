// Scans that go on from the last one: whatever happened on disk meanwhile, the index is as if all had been read anew; and no more is read
// and sent than has changed.

import { afterAll, beforeAll, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { pastTick } from '@/core/files/testing/tick';
import { fullPath } from '@/core/formats/format';
import { settingOf } from '@/core/plans/workspace';
import { scan } from '@/core/references/scan';
import type { IndexFile, IndexRow, WorkMessage } from '@/wire/jobs';
import { nodeCalls } from '../disk/calls';
import { DiskTree } from '../disk/diskTree';
import { plainFolder, type OpenWorkspace } from '../workspaces/open';
import { scanInto } from './scanWork';

let base = '';
beforeAll(() => void (base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-scan-')))));
afterAll(() => fs.rmSync(base, { recursive: true }));

const gltf = (...uris: string[]) => JSON.stringify({ images: uris.map((uri) => ({ uri })) });
const old = new Date('2026-11-01T10:00:00Z');

function put(root: string, at: string, content: string, time: Date | null = old): void {
  const full = path.join(root, at);
  fs.mkdirSync(path.dirname(full), { recursive: true });
  fs.writeFileSync(full, content);
  if (time) fs.utimesSync(full, time, time);
}

/** The index of one workspace, kept as the server keeps it. */
class Index {
  token: string | null = null;
  readonly rows = new Map<string, IndexRow[]>();
  readonly files = new Map<string, IndexFile>();
  sent = 0;
  reads: string[] = [];
  private n = 0;

  constructor(readonly root: string) {}

  open(): OpenWorkspace {
    const workspace = { ...plainFolder(this.root) };
    workspace.file = {
      ...workspace.file,
      homes: { texture: 'textures', render: 'renders' },
      libraries: [{ name: 'kit', path: `${base}/kit` }],
    };
    const { tree } = workspace;
    const read = tree.read.bind(tree);
    tree.read = (p, ...rest) => {
      this.reads.push(p);
      return read(p, ...rest);
    };
    return workspace;
  }

  async scan(signal = new AbortController().signal, onProgress: () => void = () => {}) {
    const rows: IndexRow[] = [];
    const files: IndexFile[] = [];
    const say = (m: WorkMessage) => {
      if (m.say !== 'rows') return;
      rows.push(...m.rows);
      files.push(...m.files);
    };
    this.reads = [];
    const next = `scan ${++this.n} of ${this.root}`;
    const { found, delta } = await scanInto(this.open(), { base: this.token, next }, signal, say, onProgress);
    if (delta) {
      for (const scene of delta.scenes) this.rows.delete(scene);
      for (const p of delta.files) this.files.delete(p);
    } else {
      this.rows.clear();
      this.files.clear();
    }
    for (const r of rows) this.rows.set(r.scene, [...(this.rows.get(r.scene) ?? []), r]);
    for (const f of files) this.files.set(f.path, f);
    this.sent = rows.length + files.length;
    this.token = next;
    return { found, delta };
  }
}

/** What a reading of everything finds. */
async function anew(index: Index) {
  const workspace = index.open();
  const all: string[] = [];
  for await (const report of scan(workspace.tree, settingOf(workspace)))
    for (const r of report.references)
      all.push(`${report.path} ${r.at} ${fullPath(r)} ${r.state} ${r.target} ${r.targets} ${r.gaps.join()}`);
  return all.sort();
}
const indexed = (index: Index) =>
  [...index.rows.values()]
    .flat()
    .map((r) => `${r.scene} ${r.at} ${r.written} ${r.state} ${r.target} ${r.targets} ${r.gaps.join()}`)
    .sort();

test('nothing changed: nothing is read and nothing sent; one scene changed: that one', async () => {
  const root = path.join(base, 'few');
  for (let i = 0; i < 20; i++)
    put(root, `scenes/s${i}.gltf`, gltf(`../textures/t${i}.png`, '../textures/gone.png'));
  for (let i = 0; i < 20; i++) put(root, `textures/t${i}.png`, 'x');
  const index = new Index(root);
  await pastTick();
  expect((await index.scan()).delta).toBeNull();
  expect(index.reads).toHaveLength(20);
  expect(await index.scan()).toMatchObject({
    delta: { scenes: [], files: [] },
    found: { references: 40, ready: 20, files: 40 },
  });
  expect([index.reads, index.sent]).toEqual([[], 0]);
  put(root, 'scenes/s3.gltf', gltf('../textures/t4.png'), new Date('2026-11-02'));
  await pastTick();
  expect((await index.scan()).delta!.scenes).toEqual(['scenes/s3.gltf']);
  expect(index.reads).toEqual(['scenes/s3.gltf']);
  expect([index.files.get('textures/t4.png')!.uses, index.files.get('textures/t3.png')!.unused]).toEqual([
    2,
    true,
  ]);
  // A file comes: scenes are judged again without being read again, and only those that differ are sent.
  put(root, 'textures/gone.png', 'here');
  expect((await index.scan()).delta!.scenes).toHaveLength(19);
  expect(index.reads).toEqual([]);
  // A picture grows: the size in the rows that use it, and no other row.
  put(root, 'textures/t7.png', 'larger');
  expect((await index.scan()).delta!.scenes).toEqual(['scenes/s7.gltf']);
  expect(index.rows.get('scenes/s7.gltf')![0]!.size).toBe(6);
  // Another thread, or another program, made the index meanwhile: all is sent.
  index.token = 'another';
  expect((await index.scan()).delta).toBeNull();
  expect(indexed(index)).toEqual(await anew(index));
});

test('a scene swapped for another of the same size and time is read again', async () => {
  const root = path.join(base, 'swapped');
  put(root, 'scenes/a.gltf', gltf('../textures/one.png'));
  put(root, 'other.gltf', gltf('../textures/two.png'));
  await pastTick();
  const index = new Index(root);
  await index.scan();
  await index.scan();
  expect(index.reads).toEqual([]);
  fs.renameSync(path.join(root, 'other.gltf'), path.join(root, 'scenes/a.gltf'));
  await index.scan();
  expect(index.reads).toEqual(['scenes/a.gltf']);
  expect(index.rows.get('scenes/a.gltf')!.map((r) => r.written)).toEqual(['../textures/two.png']);
});

test('a cancelled scan is taken up where it stopped', async () => {
  const root = path.join(base, 'cut');
  for (let i = 0; i < 30; i++) put(root, `s${String(i).padStart(2, '0')}.gltf`, gltf('a.png'));
  const index = new Index(root);
  const cancel = new AbortController();
  let seen = 0;
  await pastTick();
  await expect(index.scan(cancel.signal, () => ++seen === 12 && cancel.abort())).rejects.toThrow();
  expect(index.reads).toHaveLength(12);
  await index.scan();
  expect(index.reads).toHaveLength(18);
  expect(indexed(index)).toEqual(await anew(index));
});

test('used, unused, and what is not counted', async () => {
  const root = path.join(base, 'use');
  put(
    root,
    'a.usda',
    '#usda 1.0\ndef "A" { asset t = @textures/w.<UDIM>.png@\n asset u = @textures/w.<UDIM>.png@ }\n',
  );
  for (const f of [
    'textures/w.1001.png',
    'textures/w.1002.png',
    'textures/lost.png',
    'textures/.hidden.png',
    'renders/r.png',
    'notes.txt',
    'b.gltf',
    'm/model.obj',
    'textures/only its.png',
    'textures/its too.png',
  ])
    put(root, f, '');
  // A material file that nothing leads to, and what it uses; one that a model leads to keeps what it uses.
  put(root, 'm/lone.mtl', 'newmtl a\nmap_Kd ../textures/only its.png\nmap_Ks ../textures/w.1001.png\n');
  put(root, 'm/used.mtl', 'newmtl a\nmap_Kd ../textures/its too.png\n');
  put(root, 'm/model.obj', 'mtllib used.mtl\n');
  const index = new Index(root);
  const { found } = await index.scan();
  expect(
    [...index.files.values()]
      .filter((f) => f.unused)
      .map((f) => f.path)
      .sort(),
  ).toEqual(['m/lone.mtl', 'textures/lost.png', 'textures/only its.png']);
  expect([
    index.files.get('textures/w.1001.png')!.uses,
    index.files.get('textures/w.1002.png')!.uses,
    found.unused.files,
  ]).toEqual([3, 2, 3]);
  // As soon as something leads to it, it is needed with all it uses.
  put(root, 'm/other.obj', 'mtllib lone.mtl\n');
  expect((await index.scan()).found.unused.files).toBe(1);
  expect([...index.files.values()].filter((f) => f.unused).map((f) => f.path)).toEqual(['textures/lost.png']);
});

test('after any changes on disk the index is as if all had been read anew', async () => {
  const root = path.join(base, 'any');
  let seed = 20261125;
  const pick = (n: number) => (seed = (Math.imul(seed, 1103515245) + 12345) >>> 0) % n;
  const names = ['a.png', 'A.png', 'b.png', 'sub/a.png', 'f.0001.png', 'f.0002.png', 'f.0004.png'];
  const written = [
    'a.png',
    'b.png',
    'sub/a.png',
    '../any/a.png',
    'kit:x',
    `${base}/kit/k.png`,
    'f.%2304.png',
    'SUB/A.png',
    `${base}/gone.png`,
  ];
  const usd = ['@a.png@', '@./f.####.png@', '@sub/../b.png@'];
  put(root, 's0.gltf', gltf('a.png'));
  const index = new Index(root);
  for (let n = 0; n < 60; n++) {
    for (let k = 1 + pick(4); k > 0; k--) {
      const time = pick(2) ? new Date(old.getTime() + 1000 * pick(1e6)) : null;
      const scene = `s${pick(6)}`;
      switch (pick(7)) {
        case 0:
          put(
            root,
            `${scene}.gltf`,
            gltf(...Array.from({ length: pick(4) }, () => written[pick(written.length)]!)),
            time,
          );
          break;
        case 1:
          put(root, `${scene}.usda`, `#usda 1.0\ndef "A" { asset x = ${usd[pick(usd.length)]}\n }\n`, time);
          break;
        case 2:
          put(root, names[pick(names.length)]!, 'x'.repeat(pick(5)), time);
          break;
        case 3:
          fs.rmSync(path.join(root, names[pick(names.length)]!), { force: true });
          break;
        case 4:
          fs.rmSync(path.join(root, `${scene}.gltf`), { force: true });
          break;
        case 5:
          fs.rmSync(path.join(root, 'sub'), { recursive: true, force: true });
          break;
        case 6:
          if (pick(2)) put(base, 'kit/k.png', 'k');
          else fs.rmSync(path.join(base, 'kit'), { recursive: true, force: true });
      }
    }
    await index.scan();
    expect(indexed(index)).toEqual(await anew(index));
    for (const f of index.files.values())
      expect([f.path, f.size]).toEqual([f.path, fs.statSync(path.join(root, f.path)).size]);
  }
});

test('a folder that may not be read is a finding of its own, until it can be read again', async () => {
  const root = path.join(base, 'unread');
  put(root, 'scenes/a.gltf', '{"images":[{"uri":"x.png"}]}');
  let mayRead = false;
  const calls = {
    ...nodeCalls,
    readdir(at: string) {
      if (!mayRead && at.endsWith('/scenes')) throw Object.assign(new Error('no'), { code: 'EACCES' });
      return nodeCalls.readdir(at);
    },
  };
  const scan = async (from: string | null, next: string) => {
    const problems: string[] = [];
    const say = (m: WorkMessage) => {
      if (m.say === 'rows') problems.push(...m.problems.map((p) => `${p.scene} ${p.code}`));
    };
    const workspace = { ...plainFolder(root), tree: new DiskTree(root, calls) };
    const done = await scanInto(workspace, { base: from, next }, new AbortController().signal, say, () => {});
    return { problems, references: done.found.references, delta: done.delta };
  };
  expect(await scan(null, 'u1')).toMatchObject({ problems: ['scenes unreadable'], references: 0 });
  expect((await scan('u1', 'u2')).delta).toEqual({ scenes: [], files: [] });
  mayRead = true;
  const again = await scan('u2', 'u3');
  expect([again.problems, again.references, again.delta!.scenes.includes('scenes')]).toEqual([[], 1, true]);
});
