// Work on a running server: how long 2,000 dropped files take until their plan is there, beside `cp` of the same files, and how soon a cancel is
// answered in each kind of work. `node bench/work.mjs`; needs about 2 GB of room.

import { Blake3Hasher } from '@napi-rs/blake-hash';
import { execFileSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { buildApp, buildCli, freePort, project, serve } from '../scripts/setup.mjs';

await buildCli();
await buildApp();
const base = fs.mkdtempSync(path.join(process.env.BENCH_DIR ?? os.tmpdir(), 'satchel-work-'));
execFileSync(process.execPath, [path.join(project, 'dist', 'make-demo.mjs'), path.join(base, 'demo')]);
const root = path.join(base, 'demo/bench/work/2026-11 Harbour Lantern');
const { address, key, child } = await serve(await freePort(4880), {
  SATCHEL_DATA: path.join(base, 'app'),
  SATCHEL_DEMO: path.join(base, 'demo'),
});
process.once('exit', () => child.kill('SIGTERM'));
const headers = { 'x-satchel-key': key, 'x-satchel': '1' };
const api = async (at, body) => {
  const response = await fetch(
    `${address}${at}`,
    body === undefined
      ? { headers }
      : {
          method: 'POST',
          headers: { ...headers, 'content-type': 'application/json' },
          body: JSON.stringify(body),
        },
  );
  if (!response.ok) throw new Error(`${at}: ${await response.text()}`);
  return response.json();
};
const jobOf = async (id) => (await api('/api/jobs')).find((j) => j.id === id);
const ended = async (id) => {
  for (;;) {
    const job = await jobOf(id);
    if (job.ended !== null) return job;
    await new Promise((next) => setTimeout(next, 5));
  }
};
const show = (what, text) => console.log(`${what.padEnd(58)} ${text}`);
const { id } = await api('/api/workspaces/open', { path: root });
for (const j of await api('/api/jobs')) await ended(j.id);

// 2,000 pictures of 100 kB into a home that holds 20,000 already.
for (let i = 0; i < 20_000; i++) fs.writeFileSync(path.join(root, `textures/old_${i}.png`), `old ${i}`);
const picture = Buffer.alloc(100_000, 'pixels');
const files = Array.from({ length: 2000 }, (_, i) => Buffer.concat([picture, Buffer.from(`${i}`)]));
const from = path.join(base, 'from');
fs.mkdirSync(from);
files.forEach((b, i) => fs.writeFileSync(path.join(from, `new_${i}.png`), b));
let start = performance.now();
const drop = await api('/api/drops', {
  files: files.map((b, i) => ({ path: `new_${i}.png`, size: b.length, modified: Date.now() })),
});
const per = 80; // about 8 MB a request, as the page sends them
let next = 0;
const lane = async () => {
  while (next < files.length) {
    const load = files.slice(next, next + per).map((bytes, k) => ({ file: next + k, bytes }));
    next += per;
    const table = load.map(({ file, bytes }) => {
      const hasher = new Blake3Hasher();
      hasher.update(bytes);
      return { file, offset: 0, size: bytes.length, digest: hasher.digest('hex') };
    });
    const head = Buffer.from(JSON.stringify(table));
    const response = await fetch(`${address}/api/upload-many?drop=${drop.drop}&table=${head.length}`, {
      method: 'POST',
      headers,
      body: Buffer.concat([head, ...load.map((l) => l.bytes)]),
    });
    if (!response.ok) throw new Error(await response.text());
  }
};
await Promise.all(Array.from({ length: 3 }, lane));
const sent = performance.now() - start;
const plan = await ended((await api(`/api/workspaces/${id}/plans`, { kind: 'bring', files: drop.files })).id);
if (plan.state !== 'done') throw new Error(JSON.stringify(plan.error));
const planned = performance.now() - start;
start = performance.now();
execFileSync('cp', ['-r', from, path.join(base, 'copied')]);
const copied = performance.now() - start;
show('2,000 dropped files, sent (as a page sends them)', `${(sent / 1000).toFixed(2)} s`);
show(
  '… and planned (a home with 20,000 files)',
  `${(planned / 1000).toFixed(2)} s, ${(planned / copied).toFixed(1)}x cp -r`,
);

// A workspace on which everything takes seconds.
for (let i = 0; i < 1500; i++)
  fs.writeFileSync(
    path.join(root, `scenes/s_${i}.gltf`),
    JSON.stringify({
      asset: { version: '2.0' },
      images: Array.from({ length: 40 }, (_, k) => ({ uri: `../textures/lost_${i}_${k}.png` })),
    }),
  );
for (const name of ['a', 'b']) {
  fs.writeFileSync(path.join(root, `caches/${name}.abc`), '');
  fs.truncateSync(path.join(root, `caches/${name}.abc`), 200 * 1024 ** 3);
}
const kinds = [
  ['scan', `/api/workspaces/${id}/scan`, {}],
  ['plan: relink', `/api/workspaces/${id}/plans`, { kind: 'relink', sure: true }],
  ['plan: travel', `/api/workspaces/${id}/plans`, { kind: 'travel', only: null }],
  ['plan: tidy', `/api/workspaces/${id}/plans`, { kind: 'tidy', only: null }],
  ['plan: move', `/api/workspaces/${id}/plans`, { kind: 'move', moves: [{ path: 'textures', to: 'maps' }] }],
  ['duplicates', `/api/workspaces/${id}/duplicates`, {}],
  ['measure', `/api/workspaces/${id}/measure`, {}],
  ['loose', `/api/workspaces/${id}/loose`, {}],
  ['suggest', `/api/workspaces/${id}/suggest`, { scene: 'scenes/s_1.gltf', at: '/images/1/uri' }],
  ['pack', '/api/bags/pack', { workspace: id, folder: path.join(base, 'demo'), name: 'bag', form: 'zip' }],
  ['rehearse', '/api/bags/rehearse', { path: root, place: 'windows' }],
];
for (const [name, at, body] of kinds) {
  const times = [];
  let missed = 0;
  for (let n = 0; n < 3; n++) {
    for (const j of await api('/api/jobs')) if (j.ended === null) await ended(j.id);
    const job = await api(at, body);
    await new Promise((wait) => setTimeout(wait, 100 + 150 * n));
    if ((await jobOf(job.id)).ended !== null) {
      missed++;
      continue;
    }
    const cancelled = Date.now();
    await api(`/api/jobs/${job.id}/cancel`, {});
    const end = await ended(job.id);
    if (end.state === 'cancelled') times.push(end.ended - cancelled);
    else missed++;
  }
  show(
    `cancel of ${name}`,
    times.length > 0
      ? `${times.join(', ')} ms${missed ? ` (${missed} had ended before)` : ''}`
      : 'it ends before it can be cancelled',
  );
}
child.kill('SIGTERM');
fs.rmSync(base, { recursive: true, force: true });
