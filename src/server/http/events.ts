// The stream of job events. Every event is a whole view of a job, so a listener that missed some is right after the next.

import type { JobView } from '@/wire/jobs';
import { findWorkspace } from '../database/queries';
import { hub, type Hub } from '../hub';
import { isAllowed } from '../allowed';
import type { Who } from '../who';

/** Whether who asks may know of a job: of a workspace that is theirs to see, or their own. */
export async function seesJob(h: Hub, job: JobView): Promise<boolean> {
  if (h.who === null) return true;
  if (job.workspace === null) return h.who.role === 'manage' || job.who === h.who.name;
  const row = await findWorkspace(h.db, job.workspace);
  return row !== null && isAllowed(h, row.root);
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

/** Answers with a stream that begins with every job known and goes on until the request is left, or who asked is not let in any more. */
export async function eventStream(
  request: Request,
  who: Who | null,
  isStillIn: () => Promise<boolean>,
): Promise<Response> {
  const server = await hub();
  const h = who ? server.as(who) : server;
  const { jobs } = h;
  const known = await jobsSeen(h);
  const encoder = new TextEncoder();
  let stop = () => {};
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (data: unknown) => controller.enqueue(encoder.encode(`data: ${JSON.stringify(data)}\n\n`));
      send({ jobs: known });
      // In turn, so that a job's last word stays the last.
      let turn: Promise<unknown> = Promise.resolve();
      const leave = jobs.listen((job) => {
        if (who === null) return send({ job: told(job) });
        turn = turn
          .then(async () => ((await seesJob(h, job)) ? send({ job: told(job) }) : null))
          .catch(() => undefined);
      });
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
