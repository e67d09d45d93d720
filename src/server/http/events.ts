// The stream of job events. Every event is a whole view of a job, so a listener that missed some is right after the next.

import { hub } from '../hub';

/** Answers with a stream that begins with every job known and goes on until the request is left. */
export async function eventStream(request: Request): Promise<Response> {
  const { jobs } = await hub();
  const encoder = new TextEncoder();
  let stop = () => {};
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (data: unknown) => controller.enqueue(encoder.encode(`data: ${JSON.stringify(data)}\n\n`));
      send({ jobs: jobs.list() });
      const leave = jobs.listen((job) => send({ job }));
      const beat = setInterval(() => controller.enqueue(encoder.encode(': still here\n\n')), 15_000);
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
