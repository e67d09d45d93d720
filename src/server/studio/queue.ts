// Work of a server for several: asked for here, done by whichever worker reaches the place (worker.ts), heard of here again. Order, waiting and one job at a time
// for each workspace are the queue's (graphile-worker); what pages see stands in the table of work.
//
// 1. A job is in the table before anybody may take it up, and ends there once.
// 2. What is made of a result (a plan kept for review, a scan that refreshes a table) is made by the server that asked; where that one is gone, the next server
//    ends the job: what changed something as done, since it is, and what only looked as work that was lost with the restart.
// 3. Work is told as done where it is done, the same to pages and to web hooks; what cannot be made of it is tried for a while, then told.

import { randomBytes } from 'node:crypto';
import { Logger, makeWorkerUtils, type WorkerUtils } from 'graphile-worker';
import type { Pool } from 'pg';
import { z } from 'zod';
import { AppError } from '@/core/errors';
import {
  errorShape,
  jobProgress,
  workOrder,
  type ErrorShape,
  type JobView,
  type WorkOrder,
} from '@/wire/jobs';
import { roleSchema } from '@/wire/routes/roles';
import { connectionsTo } from '../database/connections';
import type { Database, Queries } from '../database/database';
import {
  addWork,
  adoptWork,
  askForEnd,
  beGone,
  beSeen,
  buryWorkers,
  endWork,
  findWork,
  forgetWork,
  listWork,
  listWorkers,
  orderOf,
  sayWaiting,
  workChannel,
  type WorkRow,
} from '../database/workQueries';
import { shapeOfError } from '../errorShape';
import { workAs, type JobRequest, type Work } from '../jobs/jobs';
import { isRepeatable } from '../jobs/writes';
import type { Who } from '../who';
import { flagsOf, ownFlag, placeFlag, placeOf } from './reach';
import { hear } from './hear';

/** The one kind of task in the queue; what is to be done stands in the table of work. */
export const taskName = 'satchel';

/** What was not seen for so long (s) is gone; each says that it is there three times in that. */
export const leaseSeconds = 30;
const remembered = 50;
const again = 1000; // ms
/** So often it is tried to end a job, before it is ended without what fails. */
export const mostTries = 30;

/** What the queue says of connections that come and go is told to who asks for work. */
export const silent = new Logger(() => () => undefined);

export const whoSchema = z.object({ id: z.string(), name: z.string(), role: roleSchema });
export const outcomeSchema = z.union([
  z.object({ result: z.unknown(), state: z.literal('done') }),
  z.object({ error: errorShape, state: z.enum(['failed', 'cancelled']) }),
]);

const parsed = <T>(schema: z.ZodType<T>, text: string | null): T | null =>
  text === null ? null : schema.parse(JSON.parse(text));

const viewOf = (row: WorkRow): JobView => ({
  id: row.id,
  work: row.work,
  title: row.title,
  workspace: row.workspace,
  who: parsed(whoSchema, row.who)?.name ?? null,
  state: row.ended === null && row.state !== 'waiting' ? 'running' : row.state,
  ending: row.ending && row.ended === null,
  started: row.started,
  ended: row.ended,
  progress: parsed(jobProgress, row.progress),
  error: parsed(errorShape, row.error),
  result: row.result === null ? null : (JSON.parse(row.result) as unknown),
});

interface Asked {
  request: JobRequest;
  /** Once it is in the table. */
  placed: Promise<void>;
  /** The folders that its worker has to reach, as flags; told once it is placed. */
  flags: readonly string[];
  settled: Promise<JobView>;
  settle: (view: JobView) => void;
}

const restarted: ErrorShape = {
  code: 'lost-work',
  message: 'The server of Loyal Satchel was started anew, which ended this work.',
  unchanged: 'What it had begun is done or was put back: the ledger tells.',
  next: 'Look at what is said, then start it again.',
  details: [],
};

export interface QueueOptions {
  url: string;
  /** The folder of this server's own data: what lies there only its own worker reaches. */
  dataFolder: string;
  /** Allowed folders, all of them. */
  places: () => Promise<readonly string[]>;
  name: string;
  /** s. */
  lease?: number;
  /** After so long (ms) it is tried again to end a job. */
  again?: number;
  /** Called for work that is done, in the very transaction in which it is: once, whichever server ends it. */
  onDone?: (queries: Queries, done: WorkDone) => Promise<void>;
}

/** Work that is done. `result`: what its worker said. */
export interface WorkDone {
  order: WorkOrder;
  workspace: string | null;
  who: Who | null;
  result: unknown;
}

export class Queue implements Work {
  /** This server, this time. */
  readonly id = randomBytes(8).toString('hex');
  private readonly views = new Map<string, JobView>();
  private readonly quiet = new Set<string>();
  private readonly asked = new Map<string, Asked>();
  private readonly listeners = new Set<(view: JobView) => void>();
  private readonly pool: Pool;
  private utils: Promise<WorkerUtils> | null = null;
  private ear: { close(): Promise<void> } | null = null;
  private beat: NodeJS.Timeout | null = null;
  private refreshing: Promise<unknown> = Promise.resolve();
  private readonly lease: number;

  constructor(
    private readonly db: Database,
    private readonly options: QueueOptions,
  ) {
    this.lease = options.lease ?? leaseSeconds;
    this.pool = connectionsTo(options.url, 3);
  }

  /** Begins to hear, and takes over what servers that are gone have left. */
  async open(): Promise<void> {
    await (await this.queue()).migrate();
    await this.beThere();
    for (const row of await listWork(this.db, remembered)) this.show(row);
    this.ear = hear(
      this.options.url,
      { [workChannel]: (id) => this.refresh(id) },
      () => void this.refreshAll().catch(() => undefined),
    );
    this.beat = setInterval(() => void this.beThere().catch(() => undefined), (this.lease / 3) * 1000);
    this.beat.unref();
  }

  /** The queue's own functions; its tables are made, or brought up to date, at the first call. */
  private queue(): Promise<WorkerUtils> {
    return (this.utils ??= makeWorkerUtils({ pgPool: this.pool, logger: silent }).catch((cause: unknown) => {
      this.utils = null;
      throw cause;
    }));
  }

  /** Says that this server is there; what is not any more is buried, and what it had in hand is free for others. */
  private async beThere(): Promise<void> {
    const { id, options, db, lease } = this;
    await beSeen(db, { id, name: options.name, kind: 'server', queueIds: [], reaches: [] });
    const gone = await buryWorkers(db, lease);
    if (gone.length > 0) await (await this.queue()).forceUnlockWorkers(gone);
    for (const adopted of await adoptWork(db, id, lease)) this.refresh(adopted);
    await forgetWork(db, remembered);
    await this.sayWhatWaits();
  }

  /** Whether this is the one of several servers that does what is due by itself: that is done once, whoever is there. */
  async isFirst(): Promise<boolean> {
    const servers = (await listWorkers(this.db)).filter((w) => w.kind === 'server').map((w) => w.id);
    return servers.sort()[0] === this.id;
  }

  /** What no machine reaches that is there just now says what it waits for. */
  private async sayWhatWaits(): Promise<void> {
    const waiting = [...this.asked].filter(([id, { flags }]) => {
      const view = this.views.get(id);
      return flags.length > 0 && view?.state === 'waiting' && view.progress === null && view.ended === null;
    });
    if (waiting.length === 0) return;
    const workers = (await listWorkers(this.db)).filter((w) => w.kind === 'worker');
    const reached = workers.map((w) => new Set((JSON.parse(w.reaches) as string[]).map(placeFlag)));
    for (const [id, { flags }] of waiting) {
      const places = flags.filter((f) => !f.startsWith(ownFlag('')));
      if (reached.some((reach) => places.every((f) => reach.has(f)))) continue;
      const far = places.find((f) => !reached.some((reach) => reach.has(f))) ?? places[0];
      if (far === undefined) continue;
      const path = `waits for a machine that reaches ${placeOf(far)}`;
      await sayWaiting(
        this.db,
        id,
        JSON.stringify({ files: 0, filesTotal: null, bytes: 0, bytesTotal: null, path }),
      );
    }
  }

  list(): JobView[] {
    return [...this.views.values()].filter((v) => !this.quiet.has(v.id));
  }

  ended(id: string): Promise<JobView> | null {
    return this.asked.get(id)?.settled ?? null;
  }

  listen(listener: (view: JobView) => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  as(who: Who): Work {
    return workAs(this, who, (id) => this.asked.get(id)?.request.who);
  }

  start(request: JobRequest): JobView {
    const id = randomBytes(6).toString('hex');
    let settle!: (view: JobView) => void;
    const settled = new Promise<JobView>((done) => (settle = done));
    const { order, title, workspace, who = null, quiet = false } = request;
    const view: JobView = {
      ...{ id, work: order.work, title, workspace, who: who?.name ?? null, state: 'waiting', ending: false },
      ...{ started: Date.now(), ended: null, progress: null, error: null, result: null },
    };
    if (quiet) this.quiet.add(id);
    this.tell(view);
    const placed = this.put(view, request);
    placed.catch((cause: unknown) =>
      this.settleHere({ ...view, state: 'failed', ended: Date.now(), error: shapeOfError(cause) }),
    );
    this.asked.set(id, { request, placed, flags: [], settled, settle });
    return view;
  }

  /** Into the table and into the queue, together. */
  private async put(view: JobView, { order, who = null, quiet = false }: JobRequest): Promise<void> {
    const places = await this.options.places();
    const flags = flagsOf(order, places, { folder: this.options.dataFolder, owner: this.id });
    await this.queue();
    const mine = this.asked.get(view.id);
    if (mine) mine.flags = flags;
    await this.db.transaction(async (queries) => {
      await addWork(queries, {
        ...{ id: view.id, owner: this.id, work: view.work, title: view.title, workspace: view.workspace },
        ...{ who: who && JSON.stringify(who), quiet, order: JSON.stringify(order), started: view.started },
      });
      await addTask(queries, view.id, view.workspace, flags);
    });
  }

  cancel(id: string): boolean {
    const view = this.views.get(id);
    if (!view || view.ended !== null) return false;
    void Promise.resolve(this.asked.get(id)?.placed)
      .then(() => askForEnd(this.db, id, Date.now()))
      .catch(() => undefined);
    return true;
  }

  async close(): Promise<void> {
    if (this.beat) clearInterval(this.beat);
    await this.ear?.close();
    await this.refreshing.catch(() => undefined);
    await beGone(this.db, this.id).catch(() => undefined);
    await (await this.utils?.catch(() => null))?.release();
    await this.pool.end();
  }

  private tell(view: JobView): void {
    this.views.delete(view.id);
    this.views.set(view.id, view);
    if (!this.quiet.has(view.id)) for (const listener of this.listeners) listener(view);
  }

  private show(row: WorkRow): void {
    if (row.quiet) this.quiet.add(row.id);
    this.tell(viewOf(row));
  }

  /** Looks a job up that was said to have changed; one after the other, so that its last word stays the last. */
  private refresh(id: string): void {
    this.refreshing = this.refreshing
      .then(async () => {
        const row = await findWork(this.db, id);
        if (row) await this.take(row);
      })
      .catch(() => undefined);
  }

  private async refreshAll(): Promise<void> {
    for (const row of await listWork(this.db, remembered)) this.refresh(row.id);
  }

  private async take(row: WorkRow): Promise<void> {
    const known = this.views.get(row.id);
    if (known?.ended != null) return;
    if (row.ended === null && row.outcome !== null && row.owner === this.id) {
      // What is made of a result may take its time; others are heard meanwhile.
      if (!this.finishing.has(row.id)) {
        this.finishing.add(row.id);
        void this.finish(row)
          .catch((cause: unknown) => this.tryAgain(row, cause))
          .finally(() => this.finishing.delete(row.id));
      }
      return;
    }
    if (row.ended === null) this.show(row);
    else this.settleHere(viewOf(row));
  }
  private readonly finishing = new Set<string>();
  /** How often it was tried in vain to end a job. */
  private readonly tries = new Map<string, number>();

  /** The database is away, or what a job's end entails fails: once more in a while, but not for ever. */
  private async tryAgain(row: WorkRow, cause: unknown): Promise<void> {
    const tries = (this.tries.get(row.id) ?? 0) + 1;
    this.tries.set(row.id, tries);
    if (tries >= mostTries) {
      console.error(`“${row.title}” was ended without what its end entails:`, cause);
      await this.endPlainly(row, cause).catch(() => undefined);
    }
    setTimeout(() => this.refresh(row.id), this.options.again ?? again).unref();
  }

  /** Ends a job with what its worker said, and tells nobody else. */
  private async endPlainly(row: WorkRow, cause: unknown): Promise<void> {
    const outcome = outcomeSchema.parse(JSON.parse(row.outcome!));
    const order = await orderOf(this.db, row.id);
    if (order === null) return;
    const isDone = outcome.state === 'done' && !isRepeatable(workOrder.parse(JSON.parse(order)));
    const error = isDone ? null : outcome.state === 'done' ? shapeOfError(cause) : outcome.error;
    await endWork(this.db, row.id, {
      state: isDone ? 'done' : outcome.state === 'done' ? 'failed' : outcome.state,
      ended: Date.now(),
      error: error && JSON.stringify(error),
      result: isDone ? JSON.stringify(outcome.result ?? null) : null,
    });
  }

  /** Makes of a worker's outcome what pages see. */
  private async finish(row: WorkRow): Promise<void> {
    const outcome = outcomeSchema.parse(JSON.parse(row.outcome!));
    const ended = Date.now();
    const end = (state: WorkRow['state'], error: ErrorShape | null, result: unknown) =>
      this.db.transaction(async (queries) => {
        const order = await orderOf(queries, row.id);
        const isEnded = await endWork(queries, row.id, {
          ...{ state, ended, error: error && JSON.stringify(error) },
          result: result === undefined || result === null ? null : JSON.stringify(result),
        });
        if (!isEnded || state !== 'done' || outcome.state !== 'done' || order === null) return;
        await this.options.onDone?.(queries, {
          order: workOrder.parse(JSON.parse(order)),
          workspace: row.workspace,
          who: parsed(whoSchema, row.who),
          result: outcome.result,
        });
      });
    if (outcome.state !== 'done') return void (await end(outcome.state, outcome.error, null));
    const mine = this.asked.get(row.id);
    const said = await orderOf(this.db, row.id);
    if (said === null) return;
    // What changed something is done, whatever became of those who asked, or of the index: that is made again from the folder.
    const isDone = !isRepeatable(workOrder.parse(JSON.parse(said)));
    if (!mine)
      return void (await (isDone ? end('done', null, outcome.result) : end('failed', restarted, null)));
    const { finish } = mine.request;
    let result = outcome.result;
    try {
      if (finish) result = await finish(outcome.result);
    } catch (cause) {
      // Once more, once it is back (see `take`).
      if (cause instanceof AppError && cause.code === 'no-database') throw cause;
      if (!(cause instanceof AppError)) console.error(cause);
      if (!isDone) return void (await end('failed', shapeOfError(cause), null));
    }
    await end('done', null, result);
  }

  private settleHere(view: JobView): void {
    this.tries.delete(view.id);
    this.tell(view);
    this.asked.get(view.id)?.settle(view);
    // Whoever waits has it; who asks later finds it among the views, as long as it is one of the last.
    const old = [...this.views.values()].filter((v) => v.ended !== null).slice(0, -remembered);
    for (const { id: gone } of old) {
      this.views.delete(gone);
      this.asked.delete(gone);
      this.quiet.delete(gone);
    }
  }
}

/** Puts a task into the queue, or again: one at a time of each workspace; taken by who has none of the flags against it. */
export async function addTask(
  queries: Pick<Database, 'query'>,
  id: string,
  workspace: string | null,
  flags: readonly string[],
  waits = 0,
): Promise<void> {
  await queries.query(
    `SELECT graphile_worker.add_job($1, json_build_object('id', $2::text), queue_name := $3, run_at := now() + make_interval(secs => $4::float8),
       max_attempts := 25, job_key := $2, job_key_mode := 'replace', flags := $5::text[])`,
    [taskName, id, workspace, waits, flags],
  );
}
