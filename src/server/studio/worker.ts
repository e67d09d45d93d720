// A worker: takes work of a server for several from the queue and does it on its own machine, in the same pool of threads that one's own machine uses
// (jobs/jobs.ts). A server has one inside; `satchel worker` is another.
//
// 1. It takes only what it reaches: a job whose folders are not there just now stays for others, or for later.
// 2. Three times in each lease it says that it is there. One that does not is taken to be gone, and what it had is taken up by another, which first puts back what was
//    half done. Work that writes is not begun a second time: its end tells what became of it.
// 3. Its end counts once, and only from who has the job.

import { randomBytes } from 'node:crypto';
import { EventEmitter } from 'node:events';
import { run, type Runner } from 'graphile-worker';
import type { Pool } from 'pg';
import { workOrder, type JobView, type WorkOrder } from '@/wire/jobs';
import { connectionsTo } from '../database/connections';
import type { Database } from '../database/database';
import { listAllowed } from '../database/allowedQueries';
import {
  beGone,
  beSeen,
  endChannel,
  isWorkOf,
  leaveWork,
  releaseStrays,
  sayOutcome,
  sayProgress,
  takeWork,
  type TakenWork,
} from '../database/workQueries';
import { isThere } from '../disk/asking';
import { shapeOfError } from '../errorShape';
import { worksIn, type Jobs } from '../jobs/jobs';
import { settledAfterLoss, type LostEnd } from '../jobs/lost';
import { isRepeatable, writesTo } from '../jobs/writes';
import { scanStore } from '../jobs/scanStore';
import { hear } from './hear';
import { deliver, hookTask } from './hooks';
import { addTask, leaseSeconds, outcomeSchema, silent, taskName, whoSchema } from './queue';
import { placesHere } from './places';
import { flagsOf, keepsTo, ownFlag, placeFlag } from './reach';

export interface WorkerOptions {
  url: string;
  db: Database;
  /** Does the work in this process. */
  jobs: Jobs;
  /** Its own data folder ('/'-separated), for what is only passing through. */
  dataFolder: string;
  /** What people call it. */
  name: string;
  /** Path heads that it keeps to; empty: every allowed folder that is there on this machine. */
  heads: readonly string[];
  /** The server of whose own data folder it may take work; null: of none. */
  of: string | null;
  /** How many jobs at a time. */
  atOnce?: number;
  /** s. */
  lease?: number;
}

/** Files below the data folder are worked on by the server's own worker alone: they lie nowhere else. */
const passing = (folder: string) => `${folder}/passing`;
const saysEvery = 400; // ms
const looksAgain = 3; // s
/** A lock of the queue that none of us has in hand is a stray after so long, s: far longer than the answer to a lock takes. */
const straysAfter = 5;
const saysFor = 600; // times, one each second
const confirmsFor = 30; // times, one each second

export class Worker {
  readonly id = randomBytes(8).toString('hex');
  /** The queue's own workers here, also those that have stopped: which task each has in hand, and whether it is asking for one. */
  private readonly hands = new Map<string, { task: string | null; isAsking: boolean }>();
  /** Jobs in hand, as the pool here calls them; and those whose end was asked for before. */
  private readonly local = new Map<string, string>();
  private readonly toEnd = new Set<string>();
  private readonly runners: Runner[] = [];
  private readonly events = new EventEmitter();
  private isClosing = false;
  private ear: { close(): Promise<void> } | null = null;
  private beat: NodeJS.Timeout | null = null;
  private readonly pool: Pool;
  private readonly lease: number;

  constructor(private readonly options: WorkerOptions) {
    this.lease = options.lease ?? leaseSeconds;
    this.pool = connectionsTo(options.url, 6);
  }

  async open(): Promise<void> {
    this.watchHands();
    await this.beThere();
    this.beat = setInterval(() => void this.beThere().catch(() => undefined), (this.lease / 3) * 1000);
    this.beat.unref();
    this.ear = hear(
      this.options.url,
      { [endChannel]: (id) => this.end(id) },
      // The connection was lost: a task may have been locked for us whose answer never came.
      () => void this.beThere().catch(() => undefined),
    );
    await this.startRunner(this.options.atOnce ?? 2);
  }

  /** Starts so many of the queue's own workers. */
  private async startRunner(concurrency: number): Promise<void> {
    this.runners.push(
      await run({
        pgPool: this.pool,
        concurrency,
        pollInterval: 1000,
        noHandleSignals: true,
        logger: silent,
        events: this.events as never,
        forbiddenFlags: () => this.forbidden(),
        taskList: {
          [taskName]: (payload) => this.take((payload as { id: string }).id),
          // Only a server speaks to the outside.
          ...(this.options.of === null
            ? {}
            : { [hookTask]: (payload) => deliver(this.options.db, (payload as { id: string }).id) }),
        },
      }),
    );
  }

  /** Follows what each of the queue's workers has in hand, and replaces one that stopped: the queue itself does not. */
  private watchHands(): void {
    type Said = { worker: { workerId: string }; job?: { id: string }; error?: unknown };
    const on = (event: string, hand: (said: Said) => { task: string | null; isAsking: boolean }) =>
      this.events.on(event, (said: Said) => void this.hands.set(said.worker.workerId, hand(said)));
    const free = () => ({ task: null, isAsking: false });
    on('worker:create', free);
    on('worker:getJob:start', () => ({ task: null, isAsking: true }));
    on('worker:getJob:empty', free);
    on('worker:getJob:error', free);
    on('job:start', ({ job }) => ({ task: String(job!.id), isAsking: false }));
    on('job:complete', free);
    on('worker:stop', free);
    this.events.on('worker:create', () => void this.beThere().catch(() => undefined));
    this.events.on('worker:stop', ({ error }: Said) => {
      if (error !== undefined) void this.replaceRunner();
    });
  }

  private async replaceRunner(): Promise<void> {
    for (const until = Date.now() + saysFor * 1000; !this.isClosing && Date.now() < until;) {
      await new Promise((wait) => setTimeout(wait, 1000).unref());
      try {
        if (!this.isClosing) return await this.startRunner(1);
      } catch {
        // The database is away.
      }
    }
  }

  /** Allowed folders, and which of them are reached from here just now. */
  private async places(): Promise<{ path: string; isReached: boolean }[]> {
    const { db, heads, of } = this.options;
    return (await placesHere(db, of !== null)).map(({ path, isHere }) => ({
      path,
      isReached: isHere && keepsTo(heads, path),
    }));
  }

  /** Folders that are allowed and not to be reached from here just now, as flags; and other servers' own. */
  private async forbidden(): Promise<string[]> {
    const servers = await this.options.db.query<{ id: string }>(
      'SELECT DISTINCT owner AS id FROM work WHERE ended IS NULL',
    );
    return [
      ...(await this.places()).filter((p) => !p.isReached).map((p) => placeFlag(p.path)),
      ...servers.filter((s) => s.id !== this.options.of).map((s) => ownFlag(s.id)),
    ];
  }

  private async beThere(): Promise<void> {
    const { db, name } = this.options;
    await beSeen(db, {
      ...{ id: this.id, name, kind: 'worker', queueIds: [...this.hands.keys()] },
      reaches: (await this.places()).filter((p) => p.isReached).map((p) => p.path),
    });
    const hands = [...this.hands];
    // Before the first of them there may be no queue yet.
    if (hands.length === 0) return;
    await releaseStrays(
      db,
      hands.filter(([, { isAsking }]) => !isAsking).map(([id]) => id),
      hands.flatMap(([, { task }]) => (task === null ? [] : [task])),
      straysAfter,
    );
  }

  private end(id: string): void {
    const local = this.local.get(id);
    if (local !== undefined) this.options.jobs.cancel(local);
    // It may just be beginning.
    else this.toEnd.add(id);
    if (this.toEnd.size > 1000) this.toEnd.clear();
  }

  /** Takes up one job, to its end. Never throws for what becomes of the work: that is told. */
  private async take(id: string): Promise<void> {
    const { db } = this.options;
    this.toEnd.delete(id);
    const taken = await takeWork(db, id, this.id);
    if (!taken) return;
    const order = workOrder.parse(JSON.parse(taken.order));
    const root = worksIn(order);
    // Taken as reached, it may be gone by now.
    const away = root !== null && !(await isThere(root)) ? root : await this.awayFor(order);
    if (away !== null) return this.leave(id, order, taken, away);
    const outcome = await this.outcomeOf(id, order, taken);
    // Whoever is gone may be taken for alive for a while yet by the lock that it left.
    if (outcome === 'later') return this.leave(id, order, taken, root ?? '');
    if (outcome === 'taken over') return;
    const said = JSON.stringify(outcomeSchema.parse(outcome));
    // What is done is done, also while the database is away: it is told as soon as it is back.
    for (let n = 0; ; n++)
      try {
        await sayOutcome(db, id, isRepeatable(order) ? this.id : null, said);
        return;
      } catch (cause) {
        if (n >= saysFor) throw cause;
        await new Promise((wait) => setTimeout(wait, 1000));
      }
  }

  /** The first allowed folder of an order that is not here now; null: all are. */
  private async awayFor(order: WorkOrder): Promise<string | null> {
    const { db, dataFolder, of } = this.options;
    const places = await placesHere(db, of !== null);
    const flags = flagsOf(
      order,
      places.map((p) => p.path),
      { folder: dataFolder, owner: of ?? '' },
    );
    return places.find((p) => !p.isHere && flags.includes(placeFlag(p.path)))?.path ?? null;
  }

  private async outcomeOf(id: string, order: WorkOrder, taken: TakenWork) {
    if (taken.ending)
      return { state: 'cancelled' as const, error: shapeOfError(new DOMException('', 'AbortError')) };
    if (taken.tries === 1 || isRepeatable(order)) return this.carryOut(id, order, taken);
    // It may only be slow: its word is waited for once more. What changes files finds out itself whether it is still at work.
    if (order.work !== 'apply' && taken.tries === 2) return 'later';
    const ended = await this.settle(order, taken);
    if (ended === 'later') return ended;
    return 'result' in ended ? { state: 'done' as const, ...ended } : { state: 'failed' as const, ...ended };
  }

  /** What it works on went away since it was taken: somebody takes it up again after a while. */
  private async leave(id: string, order: WorkOrder, taken: TakenWork, root: string): Promise<void> {
    const { db, dataFolder, of } = this.options;
    const progress = { files: 0, filesTotal: null, bytes: 0, bytesTotal: null, path: `waits for ${root}` };
    await leaveWork(db, id, this.id, {
      progress: JSON.stringify(progress),
      isUntouched: taken.tries === 1,
    });
    const flags = flagsOf(order, await listAllowed(db), { folder: dataFolder, owner: of ?? '' });
    await addTask(db, id, taken.workspace, flags, looksAgain);
  }

  /** Another worker had it and is gone: what it had begun is put back, and told. */
  private async settle(order: WorkOrder, { started }: TakenWork): Promise<LostEnd | 'later'> {
    const { jobs } = this.options;
    let isBusy = false;
    const run = async (settling: WorkOrder) => {
      // A worker that is only slow may hold the lock and have written nothing yet.
      const locking = settling.work === 'settle' ? { ...settling, takesLock: true } : settling;
      const job = jobs.start({ order: locking, title: 'Put back', workspace: null, quiet: true });
      const { error, result } = (await jobs.ended(job.id))!;
      isBusy ||= error?.code === 'busy';
      return error ? { error } : { result };
    };
    const root = worksIn(order);
    if (order.work !== 'apply' && root !== null && writesTo(order).includes(root)) {
      await run({ work: 'settle', root, records: null });
      if (isBusy) return 'later';
    }
    const lost = { order, why: 'the machine that did it is gone.', since: started };
    const ended = await settledAfterLoss(lost, run);
    return isBusy ? 'later' : ended;
  }

  /** `isWorkOf`, asked again for half a minute while the database is away. */
  private async isOurs(id: string, { tries }: TakenWork): Promise<boolean> {
    for (let n = 0; ; n++)
      try {
        return await isWorkOf(this.options.db, id, { worker: this.id, tries });
      } catch (cause) {
        if (n >= confirmsFor) throw cause;
        await new Promise((wait) => setTimeout(wait, 1000));
      }
  }

  private async carryOut(id: string, order: WorkOrder, of: TakenWork) {
    const { jobs, db, dataFolder } = this.options;
    const here =
      'temporary' in order && order.temporary !== undefined
        ? { ...order, temporary: passing(dataFolder) }
        : order;
    let isOurs = true;
    const job = jobs.start({
      order: here as WorkOrder,
      title: of.title,
      workspace: of.workspace,
      who: of.who === null ? null : whoSchema.parse(JSON.parse(of.who)),
      confirm: async () => (isOurs = isOurs && (await this.isOurs(id, of))),
      ...(order.work === 'scan' && of.workspace !== null ? scanStore(db, of.workspace, order.next) : {}),
    });
    this.local.set(id, job.id);
    if (this.toEnd.delete(id)) jobs.cancel(job.id);
    const leave = jobs.listen(this.telling(id, job.id));
    try {
      const ended = (await jobs.ended(job.id))!;
      if (!isOurs) return 'taken over';
      if (ended.state === 'done') return { state: 'done' as const, result: ended.result ?? null };
      const error = ended.error ?? shapeOfError(new DOMException('', 'AbortError'));
      return { state: ended.state === 'cancelled' ? ('cancelled' as const) : ('failed' as const), error };
    } finally {
      leave();
      this.local.delete(id);
    }
  }

  /** Says how far a job is, now and then. */
  private telling(id: string, local: string): (view: JobView) => void {
    let last = 0;
    return (view) => {
      if (view.id !== local || view.progress === null || Date.now() - last < saysEvery) return;
      last = Date.now();
      void sayProgress(this.options.db, id, this.id, JSON.stringify(view.progress)).catch(() => undefined);
    };
  }

  /** Takes nothing more, and ends once what it has in hand is done; `now`: at once. */
  async close(): Promise<void> {
    this.isClosing = true;
    if (this.beat) clearInterval(this.beat);
    await this.ear?.close();
    await Promise.all(this.runners.map((runner) => runner.stop().catch(() => undefined)));
    await beGone(this.options.db, this.id).catch(() => undefined);
    await this.pool.end();
  }
}
