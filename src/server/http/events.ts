// The stream of job events. Every event is a whole view of a job, so a listener that missed some is right after the next.

import type { JobView } from '@/wire/jobs';
import { findWorkspace } from '../database/queries';
import { hub, type Hub } from '../hub';
import { allowedAmong } from '../allowed';
import { lately } from '../lately';
import type { Who } from '../who';

// Every page hears every change of every job: what is asked for it holds for a moment, for all.
const rootLately = lately(
  2000,
  async ({ h, id }: { h: Hub; id: string }) => (await findWorkspace(h.db, id))?.root ?? null,
  ({ id }) => id,
);
const seesLately = lately(
  2000,
  async ({ h, root }: { h: Hub; root: string }) => (await allowedAmong(h, [{ root }])).length > 0,
  ({ h, root }) => `${h.who!.role} ${root}`,
);

/** Whether who asks may know of a job: of a workspace that is theirs to see, or their own. */
export async function seesJob(h: Hub, job: JobView): Promise<boolean> {
  if (h.who === null) return true;
  if (job.workspace === null) return h.who.role === 'manage' || job.who === h.who.name;
  const root = await rootLately({ h, id: job.workspace });
  return root !== null && seesLately({ h, root });
}

/** A job as it is told to all who see it: what a verb printed is for who asked for it (readJob). */
const told = (job: JobView): JobView => (job.work === 'verb' ? { ...job, result: null } : job);

/** Jobs that who asks may know of. */
export async function jobsSeen(h: Hub): Promise<JobView[]> {
  const all = h.jobs.list();
  const seen = await Promise.all(all.map((job) => seesJob(h, job)));
  return all.filter((_, i) => seen[i]).map(told);
}

const beats = 15_000; // ms
const encoder = new TextEncoder();
// What follows a frame within so long goes with the next: fifty windows hear of thirty jobs a second.
const pause = 200; // ms
const framed = (data: unknown) => `data: ${JSON.stringify(data)}\n\n`;

/** A job as every stream has it, written once for all of them. */
const made = new WeakMap<JobView, string>();
function frameOf(job: JobView): string {
  let frame = made.get(job);
  if (frame === undefined) made.set(job, (frame = framed({ job: told(job) })));
  return frame;
}

/** Hands on jobs in the order of their last change, at once and then no oftener than every `ms`; of a job only its last state. */
export function paced(
  send: (jobs: readonly JobView[]) => Promise<unknown>,
  ms: number,
): { add(job: JobView): void; stop(): void } {
  const changed = new Map<string, JobView>();
  let timer: NodeJS.Timeout | null = null;
  // In turn, so that a job's last word stays the last.
  let turn: Promise<unknown> = Promise.resolve();
  const flush = () => {
    timer = null;
    if (changed.size === 0) return;
    const jobs = [...changed.values()];
    changed.clear();
    turn = turn.then(() => send(jobs)).catch(() => undefined);
    timer = setTimeout(flush, ms);
  };
  return {
    add(job) {
      changed.delete(job.id);
      changed.set(job.id, job);
      if (timer === null) flush();
    },
    stop: () => clearTimeout(timer ?? undefined),
  };
}

/** Answers with a stream that begins with every job known and goes on until the request is left, or who asked is not let in any more. */
export async function eventStream(
  request: Request,
  who: Who | null,
  isStillIn: () => Promise<boolean>,
): Promise<Response> {
  const server = await hub();
  const h = who ? server.as(who) : server;
  const { jobs } = h;
  let stop = () => {};
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      // Listened to from before all are listed: what ends meanwhile follows.
      const first = jobsSeen(h).then((known) => controller.enqueue(encoder.encode(framed({ jobs: known }))));
      first.catch((cause: unknown) => {
        stop();
        controller.error(cause);
      });
      const out = paced(async (changed) => {
        await first;
        const seen = await Promise.all(changed.map((job) => seesJob(h, job)));
        const frames = changed.flatMap((job, i) => (seen[i] ? [frameOf(job)] : []));
        if (frames.length > 0) controller.enqueue(encoder.encode(frames.join('')));
      }, pause);
      const leave = jobs.listen((job) => out.add(job));
      const beat = setInterval(() => {
        controller.enqueue(encoder.encode(': still here\n\n'));
        if (who === null) return;
        void isStillIn().then(
          (isIn) => {
            if (isIn) return;
            stop();
            controller.close();
          },
          () => undefined,
        );
      }, beats);
      stop = () => {
        leave();
        out.stop();
        clearInterval(beat);
      };
      request.signal.addEventListener('abort', () => {
        stop();
        try {
          controller.close();
        } catch {
          // The reader closed it first.
        }
      });
    },
    cancel: () => stop(),
  });
  return new Response(stream, {
    headers: {
      'content-type': 'text/event-stream',
      'cache-control': 'no-cache, no-transform',
      'x-accel-buffering': 'no',
    },
  });
}
