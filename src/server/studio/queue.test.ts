// The queue of a server for several with a worker, on a real PostgreSQL server (where Debian's package is installed): the suite that all work owes; then workers
// that are killed, connections that are cut, folders that one of two reaches. Workers that are killed are processes of their own.

import { afterAll, afterEach, beforeAll, beforeEach, describe, expect } from '@jest/globals';
import type { ChildProcess } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { AppError } from '@/core/errors';
import { shippedLayouts } from '@/core/layouts/layout';
import type { JobView, WorkOrder } from '@/wire/jobs';
import { planSchema } from '@/wire/plan';
import { openServer, type Database } from '../database/database';
import { listAllRows, rememberWorkspace } from '../database/queries';
import { addAllowed } from '../database/allowedQueries';
import { postgresBin, postgresHere, type PostgresHere } from '../database/testing/postgres';
import { listWorkers } from '../database/workQueries';
import { Jobs } from '../jobs/jobs';
import { workSuite } from '../jobs/testing/workSuite';
import { scanStore } from '../jobs/scanStore';
import { createWorkspace } from '../workspaces/open';
import { mostTries, Queue, type QueueOptions, type WorkDone } from './queue';
import { flagsOf, keepsTo } from './reach';
import { startWorker, until } from './testing/workerProcesses';
import { Worker } from './worker';
import { deepTest, test } from '@/core/files/testing/depth';

describe('which work is whose', () => {
  const places = ['/mnt/show', '/mnt/show/libraries', '/home/aya'];
  const own = { folder: '/data', owner: 's1' };
  const flags = (order: object) => flagsOf(order as WorkOrder, places, own);
  test('of each path the innermost allowed folder; the server’s own folder is the server’s', () => {
    expect(flags({ work: 'measure', root: '/mnt/show/boat' })).toEqual(['place:/mnt/show']);
    expect(
      flags({ work: 'carry-look', root: '/mnt/show/boat', request: { from: '/mnt/show/libraries/kit' } }),
    ).toEqual(['place:/mnt/show', 'place:/mnt/show/libraries']);
    expect(flags({ work: 'plan', root: '/home/aya/x', request: { from: '/data/incoming/1' } })).toEqual([
      'own:s1',
      'place:/home/aya',
    ]);
    // A temporary folder is each worker's own, and what scenes say is no path of this machine.
    expect(
      flags({ work: 'pack', root: '/mnt/show/boat', to: '/home/aya/x.zip', temporary: '/data/incoming' }),
    ).toEqual(['place:/home/aya', 'place:/mnt/show']);
    expect(
      flags({ work: 'apply', root: '/mnt/show/boat', plan: { paths: [{ before: '/home/aya/a.png' }] } }),
    ).toEqual(['place:/mnt/show']);
  });
  test('what a worker is told to keep to', () => {
    expect([keepsTo([], '/a'), keepsTo(['/mnt'], '/mnt/show'), keepsTo(['/mnt/show'], '/mnt/shows')]).toEqual(
      [true, true, false],
    );
  });
});

const bin = postgresBin();
(bin ? describe : describe.skip)('on a PostgreSQL server', () => {
  let server: PostgresHere;
  let number = 0;
  beforeAll(() => {
    server = postgresHere(bin!, 24000 + (process.pid % 4000));
  }, 60_000);
  afterAll(() => server.close());

  const database = () => server.url(`work${number++}`);

  describe('the suite', () =>
    workSuite(async (base, rights) => {
      const url = database();
      const db = await openServer(url);
      await addAllowed(db, `${base}/work`);
      const of = { url, dataFolder: `${base}/data`, name: 'here' };
      const queue = new Queue(db, { ...of, places: () => rights.see(null) });
      await queue.open();
      const jobs = new Jobs(`${base}/parts`, rights);
      const worker = new Worker({ ...of, db, jobs, heads: [], of: queue.id });
      await worker.open();
      return {
        work: queue,
        doing: jobs,
        async close() {
          await worker.close();
          await jobs.close();
          await queue.close();
          await db.close();
        },
      };
    }));

  describe('workers that are processes', () => {
    let base = '';
    let url = '';
    let db: Database;
    let queue: Queue;
    const processes: ChildProcess[] = [];
    const lease = 3; // s
    beforeEach(async () => {
      base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-queue-')));
      for (const f of ['work', 'far']) fs.mkdirSync(`${base}/${f}`);
      url = database();
      db = await openServer(url);
      for (const f of ['work', 'far']) await addAllowed(db, `${base}/${f}`);
      queue = await opened();
    }, 60_000);
    afterEach(async () => {
      for (const child of processes.splice(0)) child.kill('SIGKILL');
      await queue.close();
      await db.close();
      fs.rmSync(base, { recursive: true, force: true });
    });
    const opened = async (through = db, more: Partial<QueueOptions> = {}) => {
      const places = () => Promise.resolve([`${base}/work`, `${base}/far`]);
      const of = { url, dataFolder: `${base}/data`, places, name: 'server', lease };
      const q = new Queue(through, { ...of, ...more });
      await q.open();
      return q;
    };
    const worker = (name: string, more: string[] = []) =>
      startWorker({ base, url, lease, processes }, name, more);
    const make = (name: string, parent = 'work') =>
      createWorkspace({
        parent: `${base}/${parent}`,
        name,
        layout: shippedLayouts.find((l) => l.id === 'game-environment')!,
        without: [],
      });
    const start = (order: object, workspace: string | null = 'w') =>
      queue.start({ order: order as WorkOrder, title: 'It', workspace });
    const ended = async (job: JobView) => (await queue.ended(job.id))!;
    const hasOutcome = async (job: JobView) => {
      const [row] = await db.query<{ has: boolean }>(
        'SELECT outcome IS NOT NULL OR ended IS NOT NULL AS has FROM work WHERE id = $1',
        [job.id],
      );
      return row!.has;
    };
    const runs = (job: JobView) => () => queue.list().find((j) => j.id === job.id)?.state === 'running';

    test('a task that is locked by a worker which has it not in hand is released, and what waits behind it goes on', async () => {
      const { root } = await make('Stray');
      const jobs = new Jobs(`${base}/parts`, {
        mayChange: () => Promise.resolve([]),
        see: async () => [`${base}/work`],
        change: () => Promise.resolve(),
      });
      const here = new Worker({
        ...{ url, db, jobs, dataFolder: `${base}/data-here`, name: 'here', heads: [], of: null, lease },
      });
      await here.open();
      try {
        expect((await ended(start({ work: 'measure', root }))).state).toBe('done');
        // As if the answer to its lock was lost with the connection: locked by a worker that lives, long ago.
        const [{ ids }] = (await db.query<{ ids: string }>(
          "SELECT queue_ids AS ids FROM worker WHERE name = 'here'",
        )) as [{ ids: string }];
        const stray = ids.split(' ')[0]!;
        await db.transaction(async (queries) => {
          await queries.query(
            "SELECT graphile_worker.add_job('satchel', json_build_object('id', 'nobody'), queue_name := 'w', job_key := 'nobody')",
          );
          await queries.query(
            "UPDATE graphile_worker._private_jobs SET locked_by = $1, locked_at = now() - interval '1 minute', attempts = 1 WHERE key = 'nobody'",
            [stray],
          );
          await queries.query(
            "UPDATE graphile_worker._private_job_queues SET locked_by = $1, locked_at = now() - interval '1 minute' WHERE queue_name = 'w'",
            [stray],
          );
        });
        const behind = start({ work: 'measure', root });
        const over = Date.now() + 20_000;
        const state = await Promise.race([
          ended(behind).then((view) => view.state),
          until(() => Date.now() > over).then(() => 'it waits on'),
        ]);
        expect(state).toBe('done');
      } finally {
        await here.close();
        await jobs.close();
      }
    }, 60_000);

    test('each takes what it reaches; what nobody reaches waits for one that does', async () => {
      const near = (await make('Near')).root;
      const far = (await make('Far', 'far')).root;
      await worker('near', ['--place', `${base}/work`]);
      const waits = start({ work: 'measure', root: far }, 'far');
      expect((await ended(start({ work: 'measure', root: near }, 'near'))).state).toBe('done');
      const view = () => queue.list().find((j) => j.id === waits.id)!;
      await until(() => view().progress !== null);
      expect([view().state, view().progress!.path]).toEqual([
        'waiting',
        `waits for a machine that reaches ${base}/far`,
      ]);
      const rows = await listWorkers(db);
      expect(rows.map((w) => [w.kind, w.name, (JSON.parse(w.reaches) as string[]).length])).toEqual([
        ['server', 'server', 0],
        ['worker', 'near', 1],
      ]);
      await worker('far', ['--place', `${base}/far`]);
      expect((await ended(waits)).state).toBe('done');
    }, 60_000);

    test('a folder of the same path that is another, as where a share is not mounted, is not worked in', async () => {
      const far = (await make('Far', 'far')).root;
      await worker('one');
      const backUp = () =>
        start({ work: 'backup', root: far, folder: `${base}/far/backups`, as: 'snapshots' });
      expect((await ended(backUp())).state).toBe('done');
      // The share goes; what it was mounted on comes to light: another folder, in which something lies, too.
      fs.renameSync(`${base}/far`, `${base}/share`);
      fs.cpSync(`${base}/share`, `${base}/far`, { recursive: true });
      fs.rmSync(`${base}/far/.satchel-place`);
      const files = () => fs.readdirSync(`${base}/far`, { recursive: true }).sort();
      const before = files();
      const waits = backUp();
      const view = () => queue.list().find((j) => j.id === waits.id)!;
      await until(() => view().progress !== null);
      expect([view().state, view().progress!.path]).toEqual([
        'waiting',
        `waits for a machine that reaches ${base}/far`,
      ]);
      expect(files()).toEqual(before);
      fs.rmSync(`${base}/far`, { recursive: true });
      fs.renameSync(`${base}/share`, `${base}/far`);
      expect((await ended(waits)).state).toBe('done');
    }, 60_000);

    deepTest(
      'a worker is killed while it reads: another takes the work up, and the index is there once',
      async () => {
        const { root } = await make('Harbour');
        for (let n = 0; n < 1500; n++)
          fs.writeFileSync(
            `${root}/scenes/s${n}.gltf`,
            JSON.stringify({ asset: { version: '2.0' }, images: [{ uri: `../textures/${n}.png` }] }),
          );
        await rememberWorkspace(db, 'w', root, 'Harbour');
        const first = await worker('first');
        const next = 'state';
        const job = queue.start({
          order: { work: 'scan', root, base: null, next },
          title: 'Read it',
          workspace: 'w',
          ...scanStore(db, 'w', next),
        });
        await until(runs(job));
        await new Promise((wait) => setTimeout(wait, 250));
        first.kill('SIGKILL');
        await worker('second');
        const done = await ended(job);
        expect([done.state, done.error]).toEqual(['done', null]);
        expect((await listAllRows(db, 'w')).length).toBe(1500);
        // The dead one is not among those that are there any more.
        expect((await listWorkers(db)).map((w) => w.name)).not.toContain('first');
      },
      60_000,
    );

    deepTest(
      'a worker is killed while it changes files: what it had done is put back or all of it is done, and nothing is done twice',
      async () => {
        const { root } = await make('Harbour');
        for (let n = 0; n < 1200; n++)
          fs.writeFileSync(`${root}/textures/t${n}.png`, Buffer.alloc(2000, n % 250));
        const snapshot = () =>
          fs
            .readdirSync(root, { recursive: true, encoding: 'utf8' })
            .filter((f) => !f.startsWith('.satchel'))
            .sort();
        const moves = Array.from({ length: 1200 }, (_, n) => ({
          path: `textures/t${n}.png`,
          to: `textures/moved/t${n}.png`,
        }));
        const ends = new Set<string>();
        for (const delay of [0, 200, 600]) {
          const before = snapshot();
          const first = await worker(`first${delay}`);
          const planned = await ended(
            start({
              ...{ work: 'plan', root, request: { kind: 'move', moves }, seen: [], layout: null },
              ...{ staging: null, neighbours: [], notes: [] },
            }),
          );
          const plan = planSchema.parse(planned.result);
          const job = start({ work: 'apply', root, plan, records: null });
          await until(runs(job));
          await new Promise((wait) => setTimeout(wait, delay));
          first.kill('SIGKILL');
          const second = await worker(`second${delay}`);
          const done = await ended(job);
          const after = snapshot();
          const isMoved = after.includes('textures/moved/t0.png');
          ends.add(`${done.state} ${isMoved ? 'moved' : 'as before'}`);
          if (isMoved) expect(after.filter((f) => f.startsWith('textures/moved/')).length).toBe(1200);
          else expect(after).toEqual(before);
          if (done.state === 'failed') expect(done.error!.code).toBe('lost-work');
          // The ledger has it once, and nothing is open.
          const open = fs.readdirSync(`${root}/.satchel/journal`);
          expect(open.filter((f) => f.endsWith('.jsonl')).length).toBe(
            open.filter((f) => f.endsWith('.json')).length,
          );
          second.kill('SIGKILL');
          if (isMoved) break;
        }
        expect([...ends].some((e) => e.startsWith('failed'))).toBe(true);
      },
      120_000,
    );

    deepTest(
      'the database is lost for a moment: the worker goes on, and the end is heard',
      async () => {
        const { root } = await make('Harbour');
        for (let n = 0; n < 600; n++)
          fs.writeFileSync(`${root}/textures/t${n}.png`, Buffer.alloc(150_000, n % 250));
        await worker('one');
        const job = start({ work: 'duplicates', root });
        await until(runs(job));
        server.kill();
        await new Promise((wait) => setTimeout(wait, 300));
        server.start();
        const done = await ended(job);
        expect([done.state, done.error?.code ?? null]).toEqual(['done', null]);
      },
      60_000,
    );

    deepTest(
      'the database is away just as the end is to be written down: it is written once it is back',
      async () => {
        const { root } = await make('Harbour');
        let fails = 0;
        const away = () => new AppError('no-database', 'Away.');
        await queue.close();
        queue = await opened({
          ...db,
          transaction: (work) => (fails-- > 0 ? Promise.reject(away()) : db.transaction(work)),
        });
        const job = start({ work: 'measure', root });
        await until(async () => (await db.query('SELECT id FROM work WHERE id = $1', [job.id])).length === 1);
        fails = 2;
        await worker('one');
        const done = await ended(job);
        expect([done.state, done.error, fails < 0]).toEqual(['done', null, true]);
      },
      60_000,
    );

    deepTest('of two servers one does what is due by itself; the other once that one is gone', async () => {
      const other = await opened();
      const [first, second] = (await queue.isFirst()) ? [queue, other] : [other, queue];
      expect([await first.isFirst(), await second.isFirst()]).toEqual([true, false]);
      await first.close();
      expect(await second.isFirst()).toBe(true);
      queue = second;
    });

    deepTest(
      'the server is lost: the next one ends what it had asked for, an applied plan as done',
      async () => {
        const { root } = await make('Harbour');
        fs.writeFileSync(`${root}/scenes/boat.gltf`, '{"asset":{"version":"2.0"}}');
        await worker('one');
        const planned = await ended(
          start({
            ...{
              work: 'plan',
              root,
              request: { kind: 'save', scenes: null, note: '' },
              seen: [],
              layout: null,
            },
            ...{ staging: null, neighbours: [], notes: [] },
          }),
        );
        for (const child of processes.splice(0)) child.kill('SIGKILL');
        const looking = start({ work: 'measure', root }, 'v');
        const applying = start({ work: 'apply', root, plan: planned.result, records: null }, 'w');
        await until(async () => (await db.query('SELECT id FROM work WHERE ended IS NULL')).length === 2);
        // As a server that is gone: it says nothing more, and hears nothing.
        const lost = queue;
        Object.assign(lost, { beThere: () => Promise.resolve(), take: () => Promise.resolve() });
        await db.query('DELETE FROM worker');
        queue = await opened();
        await worker('two');
        const view = (job: JobView) => queue.list().find((j) => j.id === job.id);
        await until(() => view(looking)?.ended != null && view(applying)?.ended != null);
        expect([view(looking)!.state, view(looking)!.error!.code]).toEqual(['failed', 'lost-work']);
        expect(view(applying)!.state).toBe('done');
        expect(fs.readdirSync(`${root}/scenes`).filter((f) => f.startsWith('boat')).length).toBe(2);
        await lost.close();
      },
      60_000,
    );

    deepTest(
      'a worker that is only slow: what it did is told as done, to pages and to hooks, once; so is what another finds in the ledger',
      async () => {
        const told: string[] = [];
        await queue.close();
        queue = await opened(db, {
          onDone: (_, { order }) => Promise.resolve(void told.push(order.work)),
        });
        const { root } = await make('Harbour');
        for (let n = 0; n < 400; n++) fs.writeFileSync(`${root}/textures/t_${n}.png`, `picture ${n}`);
        const slow = await worker('slow');
        // Stopped in the middle of a backup; one that ended too soon is followed by another.
        const begin = async () => {
          const folder = fs.mkdtempSync(`${base}/work/backups-`);
          const job = start({ work: 'backup', root, folder, as: 'snapshots' }, 'w');
          await until(() => fs.readdirSync(folder).length > 0);
          slow.kill('SIGSTOP');
          return { folder, job };
        };
        let { folder, job: backUp } = await begin();
        while (await hasOutcome(backUp)) {
          await ended(backUp);
          slow.kill('SIGCONT');
          ({ folder, job: backUp } = await begin());
        }
        told.length = 0;
        await worker('quick');
        // Past its lease, so that the other has taken it up.
        await until(async () => (await listWorkers(db)).every((w) => w.name !== 'slow'));
        await until(async () => {
          const [row] = await db.query<{ tries: number }>('SELECT tries FROM work WHERE id = $1', [
            backUp.id,
          ]);
          return row!.tries === 2;
        });
        slow.kill('SIGCONT');
        const done = await ended(backUp);
        expect([done.state, done.error]).toEqual(['done', null]);
        expect(told).toEqual(['backup']);
        const snapshots = `${folder}/snapshots`;
        expect(fs.readdirSync(`${snapshots}/${fs.readdirSync(snapshots)[0]!}`).length).toBe(2);

        const planned = await ended(
          start({
            ...{ work: 'plan', root, seen: [], layout: null, staging: null, neighbours: [], notes: [] },
            request: {
              kind: 'move',
              moves: Array.from({ length: 400 }, (_, n) => ({
                path: `textures/t_${n}.png`,
                to: `textures/moved/t_${n}.png`,
              })),
            },
          }),
        );
        told.length = 0;
        const applying = start({ work: 'apply', root, plan: planned.result, records: null }, 'w');
        await until(() => fs.existsSync(`${root}/textures/moved/t_399.png`));
        // All is done but for the word; both that could have it are gone now.
        for (const child of processes.splice(0)) child.kill('SIGKILL');
        await worker('last');
        const applied = await ended(applying);
        const moved = fs.existsSync(`${root}/textures/moved/t_0.png`);
        expect([applied.state, moved]).toEqual([moved ? 'done' : 'failed', moved]);
        expect(told).toEqual(moved ? ['apply'] : []);
      },
      120_000,
    );

    deepTest(
      'work whose server is gone: what changed something is done, and hooks hear of it; what only looked is lost, and they do not',
      async () => {
        const { root } = await make('Harbour');
        const jobs = [
          start({ work: 'backup', root, folder: `${base}/work/backups`, as: 'snapshots' }, 'a'),
          start({ work: 'measure', root }, 'b'),
        ];
        await until(async () => (await db.query('SELECT id FROM work WHERE ended IS NULL')).length === 2);
        const lost = queue;
        Object.assign(lost, { beThere: () => Promise.resolve(), take: () => Promise.resolve() });
        await db.query('DELETE FROM worker');
        const told: string[] = [];
        queue = await opened(db, { onDone: (_, { order }) => Promise.resolve(void told.push(order.work)) });
        await worker('one');
        const view = (job: JobView) => queue.list().find((j) => j.id === job.id);
        await until(() => jobs.every((job) => view(job)?.ended != null));
        expect([jobs.map((job) => view(job)!.state), told]).toEqual([['done', 'failed'], ['backup']]);
        await lost.close();
      },
      60_000,
    );

    deepTest(
      'what the end of a job entails fails again and again: it is ended all the same, once it was tried often enough',
      async () => {
        await queue.close();
        let tries = 0;
        const onDone = (_: unknown, { order }: WorkDone) =>
          ++tries && order.work === 'backup' ? Promise.reject(new Error('no hook')) : Promise.resolve();
        queue = await opened(db, { again: 20, onDone });
        const { root } = await make('Harbour');
        await worker('one');
        const job = start({ work: 'backup', root, folder: `${base}/work/backups`, as: 'snapshots' }, 'a');
        const done = await ended(job);
        expect([done.state, tries]).toEqual(['done', mostTries]);
        const away = queue.start({
          order: { work: 'measure', root },
          title: 'It',
          workspace: 'w',
          finish: () => Promise.reject(new AppError('no-database', 'The database is away.')),
        });
        const failed = await ended(away);
        expect([failed.state, failed.error?.code]).toEqual(['failed', 'no-database']);
      },
      60_000,
    );
  });
});
