// Seconds of carrying one node out of a large GLB, beside `dd` of the bytes that are carried and reading the JSON; and how many bytes are read for it.
// Run by run.mjs: node nodes.ts FOLDER → one JSON line.

import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import type { OutsideFiles } from '../src/core/files/fileTree';
import { treePath } from '../src/core/files/treePath';
import { planCarryNodes } from '../src/core/plans/planCarryNodes';
import { applyPlan } from '../src/server/workspaces/changing';
import { sourceOf } from '../src/server/workspaces/collect';
import { diskOutside } from '../src/server/disk/diskOutside';
import { plainFolder } from '../src/server/workspaces/open';

const base = process.argv[2]!;
const figures: Record<string, number> = {};
const mega = 1_000_000;
/** One mesh of 64 MB, and small ones up to 500 MB. */
const large = 64 * mega;
const count = 436;

function scene(file: string): void {
  const sizes = [large, ...Array.from({ length: count }, () => mega)];
  let at = 0;
  const starts = sizes.map((s) => {
    const own = at;
    at += s;
    return own;
  });
  const json = {
    asset: { version: '2.0' },
    scenes: [{ nodes: sizes.map((_, i) => i) }],
    nodes: sizes.map((_, i) => ({ name: `n${i}`, mesh: i, translation: [i, 0, 0] })),
    meshes: sizes.map((_, i) => ({ primitives: [{ attributes: { POSITION: i } }] })),
    accessors: sizes.map((s, i) => ({
      bufferView: 0,
      byteOffset: starts[i],
      componentType: 5126,
      type: 'VEC3',
      count: Math.floor(s / 12),
      min: [0, 0, 0],
      max: [1, 1, 1],
    })),
    bufferViews: [{ buffer: 0, byteLength: at, byteStride: 12 }],
    buffers: [{ byteLength: at }],
  };
  let text = JSON.stringify(json);
  while (text.length % 4) text += ' ';
  const head = Buffer.alloc(20);
  [0x46546c67, 2, 28 + text.length + at, text.length, 0x4e4f534a].forEach((w, i) =>
    head.writeUInt32LE(w, 4 * i),
  );
  const chunk = Buffer.alloc(8);
  chunk.writeUInt32LE(at, 0);
  chunk.writeUInt32LE(0x004e4942, 4);
  const fd = fs.openSync(file, 'w');
  fs.writeSync(fd, Buffer.concat([head, Buffer.from(text), chunk]));
  const block = Buffer.alloc(mega, 7);
  for (let done = 0; done < at; done += block.length)
    fs.writeSync(fd, block, 0, Math.min(block.length, at - done));
  fs.closeSync(fd);
  figures['bytes of JSON'] = text.length;
}

/** Files outside, with a count of the bytes that are read. */
function counted(): { outside: OutsideFiles; read: () => number } {
  let bytes = 0;
  return {
    read: () => bytes,
    outside: {
      ...diskOutside,
      async read(p, range) {
        const found = await diskOutside.read(p, range);
        bytes += found.length;
        return found;
      },
      async *stream(p, range) {
        for await (const part of diskOutside.stream(p, range)) {
          bytes += part.length;
          yield part;
        }
      },
    },
  };
}

const from = path.join(base, 'from');
fs.mkdirSync(from);
const glb = path.join(from, 'large.glb');
scene(glb);
for (const [name, size] of [
  ['n0', large],
  ['n7', mega],
] as const)
  for (const round of [1, 2, 3]) {
    const into = path.join(base, `into ${name} ${round}`);
    fs.mkdirSync(into);
    fs.writeFileSync(path.join(into, 'b.gltf'), JSON.stringify({ asset: { version: '2.0' } }));
    const { outside, read } = counted();
    const source = { ...sourceOf(plainFolder(from)), outside };
    const target = plainFolder(into);
    let start = performance.now();
    const { plan } = await planCarryNodes(
      { source, target },
      {
        from: glb,
        nodes: [name.slice(1)],
        into: treePath('b.gltf'),
        under: null,
        place: 'world',
        clash: {},
        pictures: 'as-there',
        buffer: 'own',
      },
    );
    await applyPlan(into, plan, { outside });
    figures[`${size / mega} MB: carried ${round}`] = (performance.now() - start) / 1000;
    figures[`${size / mega} MB: bytes read ${round}`] = read();
    start = performance.now();
    const to = path.join(base, `dd ${name} ${round}`);
    // What is carried is flushed to the drive; so is this.
    const dd = spawnSync(
      'dd',
      [
        `if=${glb}`,
        `of=${to}`,
        'bs=1000000',
        `skip=${name === 'n0' ? 0 : 70}`,
        `count=${size / mega}`,
        'conv=fsync',
      ],
      { stdio: 'ignore' },
    );
    if (dd.status !== 0) throw new Error('dd');
    const head = fs.openSync(glb, 'r');
    const json = Buffer.alloc(figures['bytes of JSON']!);
    fs.readSync(head, json, 0, json.length, 20);
    fs.closeSync(head);
    JSON.parse(json.toString());
    figures[`${size / mega} MB: dd and the JSON ${round}`] = (performance.now() - start) / 1000;
  }
console.log(JSON.stringify(figures));
