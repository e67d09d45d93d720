// A checkpoint of 20,000 files of which none changed, beside `find` with sizes and times; and two glTF scenes of 50 MB side by side. Run by run.mjs: node
// checkpoints.ts FOLDER → one JSON line.

import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import { treePath } from '../src/core/files/treePath';
import { makeCheckpoint } from '../src/server/workspaces/checkpoints';
import { compareSides } from '../src/server/workspaces/compare';
import { plainFolder } from '../src/server/workspaces/open';

const base = process.argv[2]!;
const median = (all: number[]) => [...all].sort((a, b) => a - b)[Math.floor(all.length / 2)]!;
const seconds = async (work: () => unknown) => {
  const start = performance.now();
  await work();
  return (performance.now() - start) / 1000;
};

const root = path.join(base, 'many');
for (let folder = 0; folder < 200; folder++) {
  fs.mkdirSync(path.join(root, `set ${folder}`), { recursive: true });
  for (let n = 0; n < 100; n++) {
    const file = path.join(root, `set ${folder}`, `texture ${n}.png`);
    fs.writeFileSync(file, `${folder} ${n}`.repeat(50));
    fs.utimesSync(file, 1_700_000_000, 1_700_000_000 + n / 7);
  }
}
const figures: Record<string, number> = {};
figures['checkpoint: the first'] = await seconds(() =>
  makeCheckpoint(plainFolder(root), { name: 'first', scope: [] }),
);
const ours: number[] = [];
const finds: number[] = [];
for (let n = 0; n < 7; n++) {
  ours.push(
    await seconds(async () => {
      const { read } = await makeCheckpoint(plainFolder(root), { name: 'again', scope: [] });
      if (read !== 0) throw new Error(`${read} files were read`);
    }),
  );
  finds.push(
    await seconds(() =>
      spawnSync(
        'find',
        [root, '-path', '*/.satchel', '-prune', '-o', '-type', 'f', '-printf', '%p %s %T@\n'],
        { maxBuffer: 2 ** 28 },
      ),
    ),
  );
  for (const name of fs.readdirSync(path.join(root, '.satchel/checkpoints')).slice(1))
    fs.rmSync(path.join(root, '.satchel/checkpoints', name));
}
figures['checkpoint: nothing changed'] = median(ours);
figures['find -printf'] = median(finds);

const side = path.join(base, 'side');
fs.mkdirSync(side);
const nodes = (moved: number, length: number) =>
  Array.from({ length }, (_, i) => ({
    name: `node ${i}`,
    mesh: 0,
    translation: [i * 0.1, i === moved ? 2 : 1.25, -3.5],
    rotation: [0, 0, 0, 1],
    extras: { id: i, layer: 'quay' },
  }));
const buffer = Buffer.alloc(30_000_000, 'geometry ').toString('base64');
for (const [what, count, inside] of [
  ['20,000 nodes and a buffer', 20_000, buffer],
  ['330,000 nodes', 330_000, ''],
] as const) {
  for (const [name, moved] of [
    ['a_v001.gltf', -1],
    ['a_v002.gltf', 7],
  ] as const)
    fs.writeFileSync(
      path.join(side, name),
      JSON.stringify({
        asset: { version: '2.0' },
        nodes: nodes(moved, count),
        meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
        accessors: [{ bufferView: 0, componentType: 5126, type: 'VEC3', count: 2_000_000 }],
        bufferViews: [{ buffer: 0, byteLength: 24_000_000 }],
        buffers: [{ byteLength: 30_000_000, uri: `data:application/octet-stream;base64,${inside}` }],
      }),
    );
  figures[`side by side, ${what}: bytes of one`] = fs.statSync(path.join(side, 'a_v001.gltf')).size;
  figures[`side by side, ${what}`] = await seconds(async () => {
    const found = await compareSides(
      plainFolder(side),
      { path: treePath('a_v001.gltf') },
      { path: treePath('a_v002.gltf') },
    );
    if (found.differences.length !== 1) throw new Error(`${found.differences.length} differences`);
  });
}
console.log(JSON.stringify(figures, null, 1));
