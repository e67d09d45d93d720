// Seconds of collecting from a real folder: 5,000 scenes with 100,000 references planned, beside a scan of them; and copying, beside `cp` and `b3sum`.
// Run by run.mjs: node collect.ts FOLDER → one JSON line.

import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import { byKind } from '../src/core/collect/rules';
import { scan } from '../src/core/references/scan';
import { settingOf } from '../src/core/plans/workspace';
import { collect, planCollecting } from '../src/server/workspaces/collect';
import { plainFolder } from '../src/server/workspaces/open';
import { recordsOf } from '../src/server/workspaces/shelf';

const base = process.argv[2]!;
const figures: Record<string, number> = {};
async function timed<T>(what: string, work: () => Promise<T> | T): Promise<T> {
  const start = performance.now();
  const done = await work();
  figures[what] = (performance.now() - start) / 1000;
  return done;
}

/** Scenes of twenty references each into a few thousand textures. */
async function many(scenes: number): Promise<void> {
  const root = path.join(base, 'many');
  for (let n = 0; n < 4000; n++) {
    const folder = path.join(root, 'textures', `set${n % 100}`);
    if (n < 100) fs.mkdirSync(folder, { recursive: true });
    fs.writeFileSync(path.join(folder, `t${n}.png`), String(n));
  }
  for (let n = 0; n < scenes; n++) {
    const folder = path.join(root, 'scenes', `shot${n % 50}`);
    if (n < 50) fs.mkdirSync(folder, { recursive: true });
    const images = Array.from({ length: 20 }, (_, i) => {
      const t = (n * 20 + i * 7) % 4000;
      return { uri: `../../textures/set${t % 100}/t${t}.png` };
    });
    fs.writeFileSync(path.join(folder, `s${n}.gltf`), JSON.stringify({ asset: { version: '2.0' }, images }));
  }
  // Another object each time: nothing of one is known to the other.
  let references = 0;
  /** The drive's own memory emptied, where that may be done. */
  const cold = () => spawnSync('sh', ['-c', 'sync; echo 3 > /proc/sys/vm/drop_caches']).status === 0;
  const scanned = async () => {
    references = 0;
    const workspace = plainFolder(root);
    for await (const report of scan(workspace.tree, settingOf(workspace)))
      references += report.references.length;
  };
  await timed('scanned, warm', scanned);
  if (cold()) await timed('scanned, cold', scanned);
  const chosen = Array.from({ length: scenes }, (_, n) => `${root}/scenes/shot${n % 50}/s${n}.gltf`);
  const plan = () =>
    planCollecting(plainFolder(root), { chosen, rule: byKind({}), to: path.join(base, 'to'), name: 'many' });
  const planned = await timed('planned, warm', plan);
  if (cold()) await timed('planned, cold', plan);
  figures.references = references;
  figures.files = planned.closure.files.size;
}

/** One scene with a gigabyte of textures. */
async function large(): Promise<void> {
  const root = path.join(base, 'large');
  fs.mkdirSync(path.join(root, 'textures'), { recursive: true });
  const block = Buffer.alloc(10 * 1024 * 1024);
  const images = Array.from({ length: 100 }, (_, n) => {
    for (let at = 0; at < block.length; at += 4096) block.writeUInt32LE(n * 1000 + at, at);
    fs.writeFileSync(path.join(root, 'textures', `t${n}.bin`), block);
    return { uri: `textures/t${n}.bin` };
  });
  fs.writeFileSync(path.join(root, 's.gltf'), JSON.stringify({ asset: { version: '2.0' }, images }));
  const shell = (line: string) => {
    if (spawnSync('sh', ['-c', line], { stdio: 'ignore' }).status !== 0) throw new Error(line);
  };
  for (const round of [1, 2, 3]) {
    const [copy, to] = [path.join(base, `cp${round}`), path.join(base, `large${round}`)];
    await timed(`cp and b3sum ${round}`, () =>
      shell(`cp -r '${root}' '${copy}' && b3sum '${copy}'/textures/*`),
    );
    await timed(`the same with sync ${round}`, () => {
      fs.rmSync(copy, { recursive: true });
      shell(`cp -r '${root}' '${copy}' && sync '${copy}'/textures/* && b3sum '${copy}'/textures/*`);
    });
    fs.rmSync(copy, { recursive: true });
    const planned = await planCollecting(plainFolder(root), {
      chosen: [`${root}/s.gltf`],
      rule: byKind({}),
      to,
    });
    await timed(`collected ${round}`, () =>
      collect(planned, recordsOf(path.join(base, 'data'), to), { draw: () => Promise.resolve(null) }),
    );
    fs.rmSync(to, { recursive: true });
  }
}

await many(5000);
await large();
process.stdout.write(`${JSON.stringify(figures)}\n`);
