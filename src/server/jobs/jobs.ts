// Long work outside the page: jobs run in threads that wait for them, two at a time, one per workspace for what changes it.
// Jobs go on when no page is open; who listens hears every change.

import { randomBytes } from 'node:crypto';
import fs from 'node:fs';
import { Worker } from 'node:worker_threads';
import {
  workMessage,
  type IndexFile,
  type IndexProblem,
  type IndexRow,
  type JobView,
  type WorkOrder,
} from '@/wire/jobs';
import { dropLockOfThread } from '../disk/folderLock';
import { lockedFolders } from '../workspaces/changing';
import { toSystem } from '../disk/system';
import { shapeOfError } from '../errorShape';

const atOnce = 2;
const remembered = 50;
const lookAgain = 1500; // ms until a place that is away is looked for again

interface Job {
  view: JobView;
  order: WorkOrder;
  worker: Worker | null;
  onRows: JobRequest['onRows'] | null;
  finish: (result: unknown) => Promise<unknown>;
  settled: PromiseWithResolversLike;
}

interface PromiseWithResolversLike {
  promise: Promise<JobView>;
  resolve: (view: JobView) => void;
}

export interface JobRequest {
  order: WorkOrder;
  title: string;
  workspace: string | null;
  /** Called for each batch of index rows, one after another. */
  onRows?: (rows: IndexRow[], problems: IndexProblem[], files: IndexFile[]) => Promise<void>;
  /** Turns the thread's result into what the browser gets; runs before the job counts as done. */
  finish?: (result: unknown) => Promise<unknown>;
}

export class Jobs {
  private readonly jobs = new Map<string, Job>();
  /** Threads with nothing to do, kept warm. */
  private readonly idle: Worker[] = [];
  private again: NodeJS.Timeout | null = null;
  private readonly lastAt = new WeakMap<Worker, string>();
  private readonly listeners = new Set<(view: JobView) => void>();

  list(): JobView[] {
    return [...this.jobs.values()].map((j) => j.view);
  }

  get(id: string): JobView | null {
    return this.jobs.get(id)?.view ?? null;
  }

  /** Resolves with the job's last view once it has ended. */
  ended(id: string): Promise<JobView> | null {
    return this.jobs.get(id)?.settled.promise ?? null;
  }

  listen(listener: (view: JobView) => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  start(request: JobRequest): JobView {
    const id = randomBytes(6).toString('hex');
    let resolve!: (view: JobView) => void;
    const promise = new Promise<JobView>((done) => (resolve = done));
    const view: JobView = {
      id,
      work: request.order.work,
      title: request.title,
      workspace: request.workspace,
      state: 'waiting',
      started: Date.now(),
      ended: null,
      progress: null,
      error: null,
      result: null,
    };
    this.jobs.set(id, {
      view,
      order: request.order,
      worker: null,
      onRows: request.onRows ?? null,
      finish: request.finish ?? (async (r) => r),
      settled: { promise, resolve },
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
    if (job.worker) job.worker.postMessage('cancel');
    else this.end(id, { state: 'cancelled' });
    return true;
  }

  private tell(id: string): void {
    const view = this.jobs.get(id)?.view;
    if (view) for (const listener of this.listeners) listener(view);
  }

  private change(id: string, change: Partial<JobView>): void {
    const job = this.jobs.get(id);
    if (!job) return;
    job.view = { ...job.view, ...change };
    this.tell(id);
  }

  private end(id: string, change: Partial<JobView>): void {
    this.change(id, { ...change, ended: Date.now() });
    const job = this.jobs.get(id)!;
    job.worker = null;
    job.settled.resolve(job.view);
    this.startWaiting();
  }

  /** Whether what a job works on is there: a drive may be unplugged, a share away. */
  private isThere(job: Job): boolean {
    const { order } = job;
    const root = 'root' in order ? order.root : null;
    if (root === null || fs.existsSync(toSystem(root))) return true;
    const waitsFor = `waits for ${root}`;
    if (job.view.progress?.path !== waitsFor)
      this.change(job.view.id, {
        progress: { files: 0, filesTotal: null, bytes: 0, bytesTotal: null, path: waitsFor },
      });
    this.again ??= setTimeout(() => {
      this.again = null;
      this.startWaiting();
    }, lookAgain);
    this.again.unref();
    return false;
  }

  private startWaiting(): void {
    const running = [...this.jobs.values()].filter((j) => j.view.state === 'running');
    let free = atOnce - running.length;
    const busy = new Set(running.map((j) => j.view.workspace).filter((w) => w !== null));
    for (const job of this.jobs.values()) {
      if (free <= 0) return;
      if (
        job.view.state !== 'waiting' ||
        (job.view.workspace !== null && busy.has(job.view.workspace)) ||
        !this.isThere(job)
      )
        continue;
      if (job.view.workspace !== null) busy.add(job.view.workspace);
      free--;
      this.run(job);
    }
  }

  private run(job: Job): void {
    const id = job.view.id;
    this.change(id, { state: 'running', progress: null });
    const worker = this.idleFor(job.view.workspace) ?? startThread();
    if (job.view.workspace !== null) this.lastAt.set(worker, job.view.workspace);
    job.worker = worker;
    // Rows are stored one batch after another; the job is done when the last is stored.
    let stored: Promise<void> = Promise.resolve();
    const release = (reuse: boolean) => {
      for (const event of ['message', 'error', 'exit']) worker.removeAllListeners(event);
      if (reuse) this.idle.push(worker);
      else void worker.terminate();
    };
    const { threadId } = worker;
    const fail = (cause: unknown) => {
      release(false);
      // A thread that is lost in the middle of a change leaves its lock behind.
      if (job.order.work === 'apply')
        for (const folder of lockedFolders(job.order.root, job.order.records, job.order.plan.steps))
          dropLockOfThread(folder, threadId);
      this.end(id, { state: 'failed', error: shapeOfError(cause) });
    };
    worker.on('message', (raw: unknown) => {
      const m = workMessage.parse(raw);
      if (m.say === 'progress') this.change(id, { progress: m.progress });
      else if (m.say === 'rows') stored = stored.then(() => job.onRows?.(m.rows, m.problems, m.files));
      else if (m.say === 'failed') {
        release(true);
        this.end(id, { state: m.error.code === 'cancelled' ? 'cancelled' : 'failed', error: m.error });
      } else {
        release(true);
        stored
          .then(() => job.finish(m.result))
          .then(
            (result) => this.end(id, { state: 'done', result }),
            (cause) => this.end(id, { state: 'failed', error: shapeOfError(cause) }),
          );
      }
    });
    worker.on('error', fail);
    worker.on('exit', (code) => fail(new Error(`The work thread ended with ${code}.`)));
    worker.postMessage(job.order);
  }

  /** An idle thread: the one that worked on this workspace last, since it remembers what it read there. */
  private idleFor(workspace: string | null): Worker | undefined {
    const at = this.idle.findIndex((w) => workspace !== null && this.lastAt.get(w) === workspace);
    return at < 0 ? this.idle.pop() : this.idle.splice(at, 1)[0];
  }

  /** Starts a thread ahead of the first job. */
  warm(): void {
    if (this.idle.length === 0) this.idle.push(startThread());
  }
}

function startThread(): Worker {
  const worker = new Worker(new URL('./job.worker.ts', import.meta.url));
  worker.unref();
  return worker;
}
