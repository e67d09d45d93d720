// Versions of a large scene in the store. Run by run.mjs: node versions.ts FOLDER → one JSON line. Each scene: 100 MB, 50 versions with 1 % changed in
// ten places, as a glTF buffer (floats), a USD text and a binary PLY; keeping beside `cp` and `b3sum` of the same file, giving back beside `cp`.

import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import type { WritableFileTree } from '../src/core/files/fileTree';
import type { Digest } from '../src/core/files/digest';
import { treePath } from '../src/core/files/treePath';
import { startKeeping } from '../src/core/store/keeping';
import { openContent } from '../src/core/store/store';
import { storeSize } from '../src/core/store/sweep';
import { DiskTree } from '../src/server/disk/diskTree';

const base = process.argv[2]!;
const versions = Number(process.argv[3] ?? 50);
const total = 100_000_000;
let seed = 1;
const random = () => {
  seed ^= seed << 13;
  seed ^= seed >>> 17;
  seed ^= seed << 5;
  return (seed >>> 0) / 2 ** 32;
};

/** Bytes of floats around a shape. */
function floats(length: number): Buffer {
  const values = new Float32Array(Math.ceil(length / 4));
  for (let i = 0; i < values.length; i++) values[i] = Math.sin(i / 1000) * 10 + random();
  return Buffer.from(values.buffer, 0, length);
}

function points(length: number): Buffer {
  const lines: string[] = [];
  for (let n = 0; n < length;) {
    const line = `            (${(random() * 10).toFixed(6)}, ${(random() * 10).toFixed(6)}, ${(random() * 10).toFixed(6)}),\n`;
    lines.push(line);
    n += line.length;
  }
  return Buffer.from(lines.join(''));
}

const makers: Record<string, { first: () => Buffer; more: (length: number) => Buffer }> = {
  'glTF buffer': { first: () => floats(total), more: floats },
  'USD text': {
    first: () =>
      Buffer.concat([
        Buffer.from('#usda 1.0\ndef Mesh "hull"\n{\n    point3f[] points = [\n'),
        points(total),
      ]),
    more: points,
  },
  PLY: {
    first: () =>
      Buffer.concat([
        Buffer.from(
          'ply\nformat binary_little_endian 1.0\nelement vertex 8333333\nproperty float x\nproperty float y\nproperty float z\nend_header\n',
        ),
        floats(total),
      ]),
    more: floats,
  },
};

const seconds = async (work: () => unknown) => {
  const start = performance.now();
  await work();
  return (performance.now() - start) / 1000;
};
const run = (command: string, ...args: string[]) => {
  const done = spawnSync(command, args, { stdio: 'ignore' });
  if (done.status !== 0) throw new Error(`${command} ${args.join(' ')}`);
};
const median = (all: number[]) => [...all].sort((a, b) => a - b)[Math.floor(all.length / 2)]!;

const figures: Record<string, unknown> = {};
for (const [name, { first, more }] of Object.entries(makers)) {
  const root = path.join(base, name.replace(' ', '-'));
  fs.mkdirSync(path.join(root, '.satchel'), { recursive: true });
  const file = path.join(root, 'scene.bin');
  let bytes = first();
  let changed = 0;
  const keeps: number[] = [];
  const beside: number[] = [];
  const digests: Digest[] = [];
  for (let n = 0; n < versions; n++) {
    if (n > 0) {
      const places = Array.from({ length: 10 }, () => Math.floor(random() * (bytes.length - 200_000))).sort(
        (a, b) => a - b,
      );
      const parts: Buffer[] = [];
      let at = 0;
      for (const place of places) {
        if (place < at) continue;
        const fresh = more(total / 1000);
        changed += fresh.length;
        parts.push(bytes.subarray(at, place), fresh);
        at = place + total / 1000;
      }
      bytes = Buffer.concat([...parts, bytes.subarray(at)]);
    }
    fs.writeFileSync(file, bytes);
    const tools = async () =>
      beside.push(
        await seconds(() => {
          run('cp', file, `${file}.copy`);
          run('b3sum', file);
        }),
      );
    const ours = async () =>
      keeps.push(
        await seconds(async () => {
          const tree: WritableFileTree = new DiskTree(root);
          const keeping = await startKeeping(tree);
          digests.push((await keeping.put(tree.stream(treePath('scene.bin')), bytes.length)).digest);
          await keeping.finish();
        }),
      );
    for (const work of n % 2 ? [tools, ours] : [ours, tools]) await work();
    fs.rmSync(`${file}.copy`);
  }
  const tree = new DiskTree(root);
  const size = await storeSize(tree);
  const files = spawnSync('find', [path.join(root, '.satchel'), '-type', 'f'])
    .stdout.toString()
    .trim()
    .split('\n').length;
  const gives: number[] = [];
  const copies: number[] = [];
  for (let n = 0; n < 9; n++) {
    const digest = digests[Math.floor(((n + 1) * (versions - 1)) / 10)]!;
    gives.push(
      await seconds(() =>
        tree.write(treePath('back.bin'), openContent(new DiskTree(root), digest), {
          replace: true,
          tag: 't',
        }),
      ),
    );
    copies.push(await seconds(() => run('cp', file, `${file}.copy`)));
    for (const made of ['back.bin', 'scene.bin.copy']) fs.rmSync(path.join(root, made));
  }
  fs.rmSync(root, { recursive: true });
  figures[name] = {
    first: keeps[0],
    firstBeside: beside[0],
    keep: median(keeps.slice(1)),
    beside: median(beside.slice(1)),
    give: median(gives),
    cp: median(copies),
    size,
    changed,
    ofChanged: (size - total) / changed,
    files,
  };
}

console.log(JSON.stringify(figures, null, 1));
