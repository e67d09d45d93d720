// The endpoints on a real folder and a real database, with the work done in this thread.

import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { workOrder, type JobView, type WorkMessage } from '@/wire/jobs';
import { answer } from '../../asks/questions';
import { listAllowed } from '../../database/allowedQueries';
import { migrate, type Database } from '../../database/database';
import { inMemory } from '../../database/testing/inMemory';
import { Bounds } from '../../disk/bounds';
import { setLimits } from '../../disk/limits';
import { type Hub } from '../../hub';
import { allowedPath } from '../../allowed';
import { NetWatch } from '../../netWatch';
import { BackupWatch } from '../../backupWatch';
import { Drops } from '../../workspaces/drops';
import type { JobRequest, Jobs, Work } from '../../jobs/jobs';
import { writesTo } from '../../jobs/writes';
import type { Who } from '../../who';
import { carryOut } from '../../jobs/work';
import { shapeOfError } from '../../errorShape';
import { application } from '../app';
import { keyDoor, type Door } from '../door';
import { keyHeader } from '../guard';

/** As a thread is held to limits: who it works for, and, while it does a job, where it may look. */
const limitsOf = (who: Who | null | undefined, allowed: readonly string[] | null = null) => ({
  bounds: new Bounds(allowed),
  signal: null,
  by: who?.name ?? null,
});

/** Does each job at once, in this thread; a scan's rows are stored as they come. */
class JobsHere {
  private readonly jobs: JobView[] = [];
  private readonly running: Promise<void>[] = [];

  constructor(
    private readonly db: Database,
    private readonly app: string,
  ) {}

  list() {
    return this.jobs;
  }

  as(who: Who): Work {
    return {
      list: () => this.jobs,
      start: (request) => this.start({ ...request, who }),
      ended: () => null,
      cancel: () => false,
      listen: () => () => undefined,
      as: (other) => this.as(other),
    };
  }

  start(request: JobRequest): JobView {
    const view: JobView = {
      id: `j${this.jobs.length}`,
      work: request.order.work,
      title: request.title,
      workspace: request.workspace,
      who: request.who?.name ?? null,
      state: 'running',
      ending: false,
      started: Date.now(),
      ended: null,
      progress: null,
      error: null,
      result: null,
    };
    this.jobs.push(view);
    const before = Promise.all([...this.running]);
    this.running.push(
      (async () => {
        await before;
        const stored: Promise<void>[] = [];
        const say = (m: WorkMessage) =>
          void (
            m.say === 'rows' &&
            request.onRows &&
            stored.push(request.onRows(m.rows, m.problems, m.files))
          );
        try {
          if (request.who)
            for (const at of writesTo(request.order))
              await allowedPath({ db: this.db, who: request.who }, at, 'change');
          const allowed = [...(await listAllowed(this.db, request.who?.role)), `${this.app}/incoming`];
          setLimits(limitsOf(request.who, [...allowed, `${this.app}/shelves`]));
          // As on a server for several: order and result are text in between.
          const order = workOrder.parse(JSON.parse(JSON.stringify(request.order)));
          const carried = await carryOut(order, new AbortController().signal, say, {
            parts: null,
            changeable: await listAllowed(this.db, request.who?.role, 'change'),
            allowed,
          });
          const result: unknown = carried === undefined ? null : JSON.parse(JSON.stringify(carried));
          await Promise.all(stored);
          await request.commit?.(result);
          Object.assign(view, {
            state: 'done',
            result: request.finish ? await request.finish(result) : result,
          });
        } catch (cause) {
          Object.assign(view, { state: 'failed', error: shapeOfError(cause) });
        }
        setLimits(null);
        view.ended = Date.now();
      })(),
    );
    return view;
  }

  async ended(id: string): Promise<JobView | undefined> {
    await this.running[this.jobs.findIndex((j) => j.id === id)];
    return this.jobs.find((j) => j.id === id);
  }

  async idle(): Promise<void> {
    for (let n = -1; n !== this.running.length;) {
      n = this.running.length;
      await Promise.all(this.running);
    }
  }
}

const held = globalThis as { satchelHub?: Promise<Hub> };

/** The server of a test: its folder, and ways to ask. `by`: the door, where it is not that of one's own machine. */
export async function startHere(by: Door = keyDoor(() => 'the key')) {
  const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-http-')));
  for (const folder of ['work', 'secret', 'app']) fs.mkdirSync(path.join(base, folder));
  const db = await inMemory();
  await migrate(db);
  const jobs = new JobsHere(db, path.join(base, 'app'));
  const h: Omit<Hub, 'net' | 'backups'> = {
    db,
    jobs: jobs as unknown as Jobs,
    plans: new Map(),
    begunPlans: new Map(),
    watched: new Map(),
    sheets: new Map(),
    ask: (question, ...asked) => answer(question, asked),
    who: null,
    as(who) {
      const server = this as Hub;
      const ask: Hub['ask'] = (question, ...asked) => {
        setLimits(limitsOf(who));
        return answer(question, asked).finally(() => setLimits(null));
      };
      return { ...server, who, ask, jobs: jobs.as(who), asServer: () => server };
    },
    asServer() {
      return this as Hub;
    },
    drops: new Drops(path.join(base, 'app')),
    notices: [],
    dataFolder: path.join(base, 'app'),
    lock: null,
    end: () => db.close(),
  };
  const net = new NetWatch(h);
  net.close(); // rounds are asked for
  const backups = new BackupWatch(h);
  backups.close();
  held.satchelHub = Promise.resolve({ ...h, net, backups });

  const app = application(() => by, true);
  /** A request as our own page sends it. */
  async function send(at: string, init: RequestInit = {}): Promise<Response> {
    const headers = new Headers(init.headers);
    for (const [name, value] of [
      ['host', '127.0.0.1'],
      ['x-satchel', '1'],
      [keyHeader, 'the key'],
    ] as const)
      if (!headers.has(name)) headers.set(name, value);
    return app.fetch(new Request(`http://127.0.0.1${at}`, { ...init, headers }));
  }

  async function ask<T>(
    method: string,
    at: string,
    body?: unknown,
  ): Promise<{ status: number; body: T & { error?: { code: string; message: string } } }> {
    const response = await send(at, {
      method,
      ...(method === 'GET'
        ? {}
        : { body: JSON.stringify(body ?? {}), headers: { 'content-type': 'application/json' } }),
    });
    return { status: response.status, body: (await response.json()) as never };
  }
  return {
    base,
    db,
    jobs,
    ask,
    send,
    get: async <T>(at: string) => (await ask<T>('GET', at)).body,
    post: async <T>(at: string, body?: unknown) => (await ask<T>('POST', at, body)).body,
    codeOf: async (method: string, at: string, body?: unknown) => {
      const { status, body: answer } = await ask<object>(method, at, body);
      return [status, answer.error?.code];
    },
    /** The result of a job; throws its error, and that of a request that was refused. */
    async done<T>(job: JobView): Promise<T> {
      const { error: refused } = job as { error?: { message: string } | null };
      if (refused) throw new Error(refused.message);
      await jobs.idle();
      const { error, result } = jobs.list().find((j) => j.id === job.id)!;
      if (error) throw new Error(error.message);
      return result as T;
    },
    async close() {
      for (const w of (await held.satchelHub)!.watched.values()) w.close();
      await db.close();
      fs.rmSync(base, { recursive: true });
    },
  };
}
