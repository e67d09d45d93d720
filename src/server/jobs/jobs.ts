// Long work outside the page: jobs run in threads that wait for them, two at a time, one per workspace.
//
// 1. A job ends once, and says the truth of what it left behind, also where its thread was lost: then what it had begun is put back first.
// 2. Who cancels gets an answer at once: work that only looks is ended wherever it is; work that changes files says that it puts back.
// 3. Jobs go on when no page is open; who listens hears every change.

import { randomBytes } from 'node:crypto';
import type { IndexFile, IndexProblem, IndexRow, JobView, WorkMessage, WorkOrder } from '@/wire/jobs';
import { AppError } from '@/core/errors';
import { releaseForThreads, releaseLocksOf } from '../disk/folderLock';
import { clearParts } from '../disk/parts';
import { folderOf } from '@/core/files/treePath';
import { isThere } from '../disk/asking';
import { shapeOfError } from '../errorShape';
import type { WorkEnd } from '../threads/work.thread';
import type { Who } from '../who';
import { Lanes, type Run } from './lanes';
import { afterLoss, unchangedAfterStop } from './lost';
import { isRepeatable, writesTo } from './writes';

const atOnce = 2;
const remembered = 50;
const lookAgain = 1500; // ms until a place that is away is looked for again
// So long work may take to notice that it is cancelled, in ms, before its thread is ended under it.
const grace = 200;

/** Work outside the page, as everything that starts some or looks at it sees it. */
export interface Work {
  /** What goes on, and what ended lately. */
  list(): JobView[];
  start(request: JobRequest): JobView;
  /** Resolves with the job's last view once it has ended; null: there is none of that id. */
  ended(id: string): Promise<JobView> | null;
  cancel(id: string): boolean;
  /** Hears every change, until what is returned is called. */
  listen(listener: (view: JobView) => void): () => void;
  /** The same as somebody sees it who works here with others. */
  as(who: Who): Work;
}

/** What somebody may see and change; `who` null: everything that is allowed here. */
export interface Rights {
  /** The folders that may be looked into; `isVerb`: by a verb, which has its paths from who asks. */
  see(who: Who | null, isVerb?: boolean): Promise<readonly string[]>;
  /** Those of them that may be changed. */
  mayChange(who: Who | null): Promise<readonly string[]>;
  /** Throws AppError('not-allowed') where one of these may not be changed. */
  change(who: Who, paths: readonly string[]): Promise<void>;
}

interface Job {
  view: JobView;
  request: JobRequest;
  run: Run | null;
  isBeingLookedFor: boolean;
  /** Until when (ms) what it works on is not looked for again; 0: it was there, or was not looked for yet. */
  awayUntil: number;
  allowed: readonly string[];
  changeable: readonly string[];
  isCancelled: boolean;
  settled: Promise<JobView>;
  settle: (view: JobView) => void;
}

export interface JobRequest {
  order: WorkOrder;
  title: string;
  workspace: string | null;
  /** Who asked for it; unset: the one user, or the server by itself. */
  who?: Who | null | undefined;
  /** True: nobody is told of it while it goes well. */
  quiet?: boolean;
  /** Whether the work is still this machine's; asked under the lock of a workspace, before anything is written. Absent: no other can take it over. */
  confirm?: () => Promise<boolean>;
  /** Called for each batch of index rows, one after another. */
  onRows?: (rows: IndexRow[], problems: IndexProblem[], files: IndexFile[]) => Promise<void>;
  /** Shows what the rows come to, before `finish`. Both are done where the rows come in: on a server for several that is the worker's machine. */
  commit?: (result: unknown) => Promise<void>;
  /** Turns the thread's result into what the browser gets; runs before the job counts as done. */
  finish?: (result: unknown) => Promise<unknown>;
}

/** Work as somebody sees it: what they start is theirs, and only theirs, or that of anybody for who manages, may they end. `askerOf`: who asked for a job. */
export function workAs(work: Work, who: Who, askerOf: (id: string) => Who | null | undefined): Work {
  return {
    list: () => work.list(),
    start: (request) => work.start({ ...request, who }),
    ended: (id) => work.ended(id),
    cancel: (id) => {
      if (askerOf(id)?.id !== who.id && who.role !== 'manage')
        throw new AppError('not-your-role', 'Only who started this work may end it.', 'It goes on.');
      return work.cancel(id);
    },
    listen: (listener) => work.listen(listener),
    as: (other) => work.as(other),
  };
}

export class Jobs implements Work {
  private readonly jobs = new Map<string, Job>();
  private readonly listeners = new Set<(view: JobView) => void>();
  private lanes: Lanes | null = null;
  private again: NodeJS.Timeout | null = null;

  /** `parts`: the folder in which it is written down what jobs are making (disk/parts.ts). */
  constructor(
    private readonly parts: string,
    private readonly rights: Rights,
  ) {
    releaseForThreads();
  }

  as(who: Who): Work {
    return workAs(this, who, (id) => this.jobs.get(id)?.request.who);
  }

  list(): JobView[] {
    return [...this.jobs.values()].filter((j) => !j.request.quiet).map((j) => j.view);
  }

  /** Resolves with the job's last view once it has ended. */
  ended(id: string): Promise<JobView> | null {
    return this.jobs.get(id)?.settled ?? null;
  }

  listen(listener: (view: JobView) => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  start(request: JobRequest): JobView {
    const id = randomBytes(6).toString('hex');
    let settle!: (view: JobView) => void;
    const settled = new Promise<JobView>((done) => (settle = done));
    const view: JobView = {
      id,
      work: request.order.work,
      title: request.title,
      workspace: request.workspace,
      who: request.who?.name ?? null,
      state: 'waiting',
      ending: false,
      started: Date.now(),
      ended: null,
      progress: null,
      error: null,
      result: null,
    };
    this.jobs.set(id, {
      view,
      request,
      run: null,
      isBeingLookedFor: false,
      awayUntil: 0,
      allowed: [],
      changeable: [],
      isCancelled: false,
      settled,
      settle,
    });
    for (const old of [...this.jobs.values()].filter((j) => j.view.ended !== null).slice(0, -remembered))
      this.jobs.delete(old.view.id);
    this.tell(id);
    this.startWaiting();
    return this.jobs.get(id)!.view;
  }

  cancel(id: string): boolean {
    const job = this.jobs.get(id);
    if (!job || job.view.ended !== null) return false;
    job.isCancelled = true;
    if (!job.run) {
      this.end(id, { state: 'cancelled' });
      return true;
    }
    job.run.cancel();
    this.change(id, { ending: true });
    // What changes a workspace puts back what it has done; everything else leaves nothing that could not be taken away afterwards.
    // A verb is ended by its thread, which waits for it.
    if (!['apply', 'verb'].includes(job.request.order.work)) setTimeout(job.run.kill, grace).unref();
    return true;
  }

  /** Ends the thread of a job wherever it is, as a fault or the system might. */
  endThread(id: string): void {
    this.jobs.get(id)?.run?.kill();
  }

  async close(): Promise<void> {
    if (this.again) clearTimeout(this.again);
    await this.lanes?.close();
  }

  private tell(id: string): void {
    const { view, request } = this.jobs.get(id) ?? {};
    if (view && !request?.quiet) for (const listener of this.listeners) listener(view);
  }

  private change(id: string, change: Partial<JobView>): void {
    const job = this.jobs.get(id);
    if (!job) return;
    job.view = { ...job.view, ...change };
    this.tell(id);
  }

  private end(id: string, change: Partial<JobView>): void {
    const job = this.jobs.get(id);
    if (!job || job.view.ended !== null) return;
    this.change(id, { ...change, ending: false, ended: Date.now() });
    job.run = null;
    job.settle(job.view);
    this.startWaiting();
  }

  /** Starts what can be done, in the order it was asked for. What is away is looked for last and now and then, so that it holds up nothing else. */
  private startWaiting(): void {
    const all = [...this.jobs.values()];
    const working = all.filter((j) => j.view.state === 'running' || j.isBeingLookedFor);
    const busy = new Set(working.map((j) => j.view.workspace).filter((w) => w !== null));
    const next: Job[] = [];
    for (const job of all) {
      const { workspace, state } = job.view;
      if (state !== 'waiting' || job.isBeingLookedFor || (workspace !== null && busy.has(workspace)))
        continue;
      if (workspace !== null) busy.add(workspace);
      next.push(job);
    }
    const now = Date.now();
    const ready = next.filter((j) => j.awayUntil <= now).sort((a, b) => a.awayUntil - b.awayUntil);
    for (const job of ready.slice(0, Math.max(0, atOnce - working.length))) {
      job.isBeingLookedFor = true;
      void this.runOnceThere(job);
    }
    const later = next.filter((j) => j.awayUntil > now).map((j) => j.awayUntil);
    if (later.length > 0)
      this.again ??= setTimeout(
        () => {
          this.again = null;
          this.startWaiting();
        },
        Math.min(...later) - now + 1,
      ).unref();
  }

  /** A drive may be unplugged, a share away or not answering: then a job waits for what it works on. */
  private async runOnceThere(job: Job): Promise<void> {
    const { order } = job.request;
    const root = worksIn(order);
    const canRun = root === null || (await isThere(root));
    try {
      const who = job.request.who ?? null;
      job.allowed = await this.rights.see(who, order.work === 'verb');
      job.changeable = await this.rights.mayChange(who);
      if (who !== null) await this.rights.change(who, writesTo(order));
    } catch (cause) {
      job.isBeingLookedFor = false;
      return this.end(job.view.id, { state: 'failed', error: shapeOfError(cause) });
    }
    job.isBeingLookedFor = false;
    job.awayUntil = canRun ? 0 : Date.now() + lookAgain;
    if (job.view.state !== 'waiting') return this.startWaiting();
    if (canRun) return void this.run(job);
    const waitsFor = `waits for ${root}`;
    if (job.view.progress?.path !== waitsFor)
      this.change(job.view.id, {
        progress: { files: 0, filesTotal: null, bytes: 0, bytesTotal: null, path: waitsFor },
      });
    // Its place is free for another.
    this.startWaiting();
  }

  private async run(job: Job): Promise<void> {
    const { id } = job.view;
    const { order, onRows, confirm } = job.request;
    this.change(id, { state: 'running', progress: null });
    const parts = `${this.parts}/${id}`;
    const onMessage = async (m: WorkMessage) => {
      if (m.say === 'progress') this.change(id, { progress: m.progress });
      else if (m.say === 'rows') await onRows?.(m.rows, m.problems, m.files);
    };
    this.lanes ??= new Lanes(atOnce);
    const run = this.lanes.start(order, { ...this.doneFor(job), parts }, onMessage, confirm);
    job.run = run;
    let ended: WorkEnd;
    try {
      ended = await run.end;
    } catch (cause) {
      const left = clearParts(parts);
      if (!job.isCancelled || order.work === 'apply') return this.lose(job, run.thread(), wordsOf(cause));
      await releaseLocksOf(run.thread());
      const error = shapeOfError(new DOMException('', 'AbortError'));
      const details = left.map((p) => `${p} is left of it.`);
      const unchanged = unchangedAfterStop(order);
      return this.end(id, { state: 'cancelled', error: { ...error, unchanged, details } });
    }
    if ('result' in ended) return this.finish(job, ended.result);
    const { error } = ended;
    // A fault nobody foresaw: what it left is looked at, not guessed.
    if (error.code === 'internal') return this.lose(job, run.thread(), error.message);
    if (error.code !== 'cancelled') return this.end(id, { state: 'failed', error });
    // An apply has found out itself what it left.
    const unchanged = order.work === 'apply' ? error.unchanged : unchangedAfterStop(order);
    this.end(id, { state: 'cancelled', error: { ...error, unchanged } });
  }

  private doneFor({ view, allowed, changeable }: Job) {
    return { workspace: view.workspace, allowed, changeable, by: view.who };
  }

  private async finish(job: Job, result: unknown): Promise<void> {
    const { id } = job.view;
    try {
      const { commit, finish } = job.request;
      await commit?.(result);
      this.end(id, { state: 'done', result: finish ? await finish(result) : result });
    } catch (cause) {
      // What changed something is done, whatever became of the index: that is made again from the folder.
      if (!isRepeatable(job.request.order)) this.end(id, { state: 'done', result });
      else this.end(id, { state: 'failed', error: shapeOfError(cause) });
      if (!(cause instanceof AppError)) console.error(cause);
    }
  }

  /** Ends a job whose thread was lost, once what it had begun is put back. */
  private async lose(job: Job, thread: number, why: string): Promise<void> {
    const { id } = job.view;
    const of = { ...this.doneFor(job), parts: `${this.parts}/${id}` };
    const run = (order: WorkOrder) => this.lanes!.start(order, of, async () => {}).end;
    this.change(id, { ending: true });
    const lost = { order: job.request.order, why, since: job.view.started };
    const ended = await afterLoss(lost, thread, run);
    if ('result' in ended) await this.finish(job, ended.result);
    else this.end(id, { state: 'failed', error: ended.error });
  }
}

/** The folder that has to be there for the work; null: none. */
export function worksIn(order: WorkOrder): string | null {
  if (!('root' in order)) return null;
  // A new folder is made by the work itself.
  return order.work === 'apply' && order.makes ? folderOf(order.root) || '/' : order.root;
}

const wordsOf = (cause: unknown) => (cause instanceof Error ? cause.message : String(cause));
