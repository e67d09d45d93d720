// Two workers on one PostgreSQL database (where Debian's package is installed). At random moments one of them is stopped, past its lease or not, and woken, or
// killed and replaced. Every job must end within a bound, its state must match the disk, and nothing may be half done, done twice or reported twice.
//
// SATCHEL_GENERATED sets the number of rounds, SATCHEL_SEED the first seed.

import { afterAll, expect } from '@jest/globals';
import type { ChildProcess } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { setTimeout } from 'node:timers/promises';
import { shippedLayouts } from '@/core/layouts/layout';
import { deepTest, howMany } from '@/core/files/testing/depth';
import { seededPick } from '@/core/files/testing/seeded';
import type { WorkOrder } from '@/wire/jobs';
import { openBackups, readSnapshots } from '../backups/backupFolder';
import { proveBackups, readProofs } from '../backups/prove';
import { openServer } from '../database/database';
import { addAllowed } from '../database/allowedQueries';
import { postgresBin, postgresHere } from '../database/testing/postgres';
import { recordsIn } from '../workspaces/changing';
import { readLedger } from '../workspaces/ledger';
import { createWorkspace } from '../workspaces/open';
import { Queue } from './queue';
import { startWorker } from './testing/workerProcesses';

const bin = postgresBin();
const lease = 2; // s
const rounds = howMany(8);
const first = Number(process.env.SATCHEL_SEED ?? 1);
const pictures = Array.from({ length: 120 }, (_, n) => `t_${n}.png`);

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-stops-')));
const processes: ChildProcess[] = [];
const closing: (() => unknown)[] = [];
afterAll(async () => {
  for (const child of processes) child.kill('SIGKILL');
  for (const close of closing.reverse()) await close();
  fs.rmSync(base, { recursive: true, force: true });
});

/** Folders below `textures` with the number of pictures in each, and the references of the scene that are found. */
function stateOf(root: string) {
  const scene = path.join(root, 'scenes/boat.gltf');
  const { images } = JSON.parse(fs.readFileSync(scene, 'utf8')) as { images: { uri: string }[] };
  const folders: Record<string, number> = {};
  for (const at of fs.readdirSync(path.join(root, 'textures'), { recursive: true }) as string[])
    if (at.endsWith('.png')) folders[path.dirname(at)] = (folders[path.dirname(at)] ?? 0) + 1;
  const found = images.filter(({ uri }) => fs.existsSync(path.join(root, 'scenes', decodeURI(uri))));
  return { folders, found: found.length };
}

/** Number of plans in the ledger that were applied; entries of plans that were put back are not counted. */
const appliedIn = async (root: string) =>
  (await readLedger(recordsIn(root))).filter((e) => e.state === 'applied').length;

(bin ? deepTest : deepTest.skip)(
  'workers that are stopped, woken and killed at random moments',
  async () => {
    const server = await postgresHere(bin!, 28_000 + (process.pid % 4000));
    closing.push(() => server.close());
    const url = await server.url('stops');
    const db = await openServer(url);
    closing.push(() => db.close());
    fs.mkdirSync(`${base}/work`);
    await addAllowed(db, `${base}/work`);
    const told: string[] = [];
    const queue = new Queue(db, {
      ...{ url, dataFolder: `${base}/data`, name: 'server', lease },
      places: () => Promise.resolve([`${base}/work`]),
      onDone: (_, { order }) => Promise.resolve(void told.push(order.work)),
    });
    await queue.open();
    closing.push(() => queue.close());
    const { root } = await createWorkspace({
      ...{ parent: `${base}/work`, name: 'Harbour', without: [] },
      layout: shippedLayouts.find((l) => l.id === 'game-environment')!,
    });
    for (const name of pictures) fs.writeFileSync(`${root}/textures/${name}`, `picture ${name}`);
    const images = pictures.map((name) => ({ uri: `../textures/${name}` }));
    fs.writeFileSync(`${root}/scenes/boat.gltf`, JSON.stringify({ asset: { version: '2.0' }, images }));
    const start = (order: object) => queue.start({ order: order as WorkOrder, title: 'It', workspace: 'w' });
    const ended = async (id: string) => {
      const bound = new AbortController();
      const late = setTimeout(60_000, null, { signal: bound.signal }).catch(() => null);
      const job = await Promise.race([queue.ended(id), late]);
      bound.abort();
      if (!job) throw new Error(`job ${id} has not ended within a minute`);
      return job;
    };
    let number = 0;
    const worker = () => startWorker({ base, url, lease, processes }, `w${++number}`);
    const workers = [await worker(), await worker()];
    let folder = '.';
    for (let seed = first; seed < first + rounds; seed++) {
      const pick = seededPick(seed);
      const target = `moved ${seed}`;
      const isApply = pick(3) > 0;
      let order: object = { work: 'backup', root, folder: `${base}/work/backups`, as: 'snapshots' };
      if (isApply) {
        const from = folder === '.' ? 'textures' : `textures/${folder}`;
        const moves = pictures.map((name) => ({ path: `${from}/${name}`, to: `textures/${target}/${name}` }));
        const planned = await ended(
          start({
            ...{ work: 'plan', root, seen: [], layout: null, staging: null, neighbours: [], notes: [] },
            request: { kind: 'move', moves },
          }).id,
        );
        order = { work: 'apply', root, plan: planned.result, records: null };
      }
      const [before, entries] = [stateOf(root), await appliedIn(root)];
      const snapshots = fs.existsSync(`${base}/work/backups`)
        ? (await readSnapshots(await openBackups(`${base}/work/backups`))).all.length
        : 0;
      told.length = 0;
      const job = start(order);
      // One or two interruptions, of either worker.
      for (let n = 0; n <= pick(2); n++) {
        await setTimeout(pick(400));
        const which = pick(2);
        const victim = workers[which]!;
        if (pick(4) === 0) {
          victim.kill('SIGKILL');
          workers[which] = await worker();
        } else {
          victim.kill('SIGSTOP');
          await setTimeout(pick(lease * 2500));
          victim.kill('SIGCONT');
        }
      }
      const done = await ended(job.id);
      // The state on the disk must hold also once the slower one has ended its part.
      await setTimeout(1000);
      const after = stateOf(root);
      const at = `seed ${seed}, ${isApply ? 'apply' : 'backup'}, ${done.state} ${done.error?.message ?? ''}`;
      expect([at, after.found]).toEqual([at, pictures.length]);
      const isDone = done.state === 'done';
      if (isApply) {
        expect([at, after.folders]).toEqual([at, isDone ? { [target]: pictures.length } : before.folders]);
        expect([at, await appliedIn(root)]).toEqual([at, entries + (isDone ? 1 : 0)]);
        if (isDone) folder = target;
      } else {
        const { all } = await readSnapshots(await openBackups(`${base}/work/backups`));
        if (isDone) expect([at, all.length > snapshots]).toEqual([at, true]);
        await proveBackups(await openBackups(`${base}/work/backups`), { anew: true });
        const [proof] = await readProofs(await openBackups(`${base}/work/backups`));
        expect([at, proof!.spoilt]).toEqual([at, []]);
      }
      // A failed plan is reported to nobody.
      expect([at, told]).toEqual([at, isDone ? [isApply ? 'apply' : 'backup'] : []]);
    }
  },
  rounds * 90_000 + 60_000,
);
