// The stream of job events. Every event is a whole view of a job, so a listener that missed some is right after the next.

import type { JobView } from '@/wire/jobs';
import { findWorkspace } from '../database/queries';
import { hub, type Hub } from '../hub';
import { isAllowed } from '../allowed';
import type { Who } from '../who';

// Every page hears every change of every job: what is asked of the disk and of the database for it holds for a moment, for all who may do as much.
const holdsFor = 1000; // ms
const seenLately = new Map<string, { until: number; may: Promise<boolean> }>();

/** Whether somebody of a role may look into a workspace. */
function seesWorkspace(h: Hub, id: string): Promise<boolean> {
  const key = `${h.who!.role} ${id}`;
  const held = seenLately.get(key);
  if (held && held.until > Date.now()) return held.may;
  const may = findWorkspace(h.db, id).then((row) => row !== null && isAllowed(h, row.root));
  may.catch(() => seenLately.delete(key));
  seenLately.delete(key);
  seenLately.set(key, { until: Date.now() + holdsFor, may });
  if (seenLately.size > 2000) seenLately.delete(seenLately.keys().next().value!);
  return may;
}

/** Whether who asks may know of a job: of a workspace that is theirs to see, or their own. */
export async function seesJob(h: Hub, job: JobView): Promise<boolean> {
  if (h.who === null) return true;
  if (job.workspace === null) return h.who.role === 'manage' || job.who === h.who.name;
  return seesWorkspace(h, job.workspace);
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
const framed = (data: unknown) => encoder.encode(`data: ${JSON.stringify(data)}\n\n`);

/** A job as every stream has it, made once for all of them. */
const made = new WeakMap<JobView, Uint8Array>();
function frameOf(job: JobView): Uint8Array {
  let frame = made.get(job);
  if (!frame) made.set(job, (frame = framed({ job: told(job) })));
  return frame;
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
  const known = await jobsSeen(h);
  let stop = () => {};
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      controller.enqueue(framed({ jobs: known }));
      const send = (job: JobView) => controller.enqueue(frameOf(job));
      // In turn, so that a job's last word stays the last.
      let turn: Promise<unknown> = Promise.resolve();
      const leave = jobs.listen((job) => {
        if (who === null) return send(job);
        turn = turn.then(async () => ((await seesJob(h, job)) ? send(job) : null)).catch(() => undefined);
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
