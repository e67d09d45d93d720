// A call that is done on a studio's server: sent there with a key, waited for, and answered as if it had been done here.

import { z } from 'zod';
import { AppError } from '@/core/errors';
import { errorShape, jobView } from '@/wire/jobs';
import { readJob, runVerb, verbResult } from '@/wire/routes/pipelines';
import type { ExitStatus } from './call';

const looksEvery = 300; // ms
// So long a server that does not answer is asked again: it may be started anew, and the work goes on meanwhile.
const patience = 60_000; // ms
/** A job that reports nothing new for so long is no longer waited for. */
const stalls = 30 * 60_000; // ms

type Job = z.infer<typeof jobView>;
const refusal = z.object({ error: errorShape });

const wait = (ms: number) => new Promise<void>((done) => setTimeout(done, ms));

function serverAt(given: string): URL {
  let url: URL;
  try {
    url = new URL(given);
  } catch {
    throw new AppError(
      'bad-request',
      `“${given}” is no address of a server: --server https://satchel.studio.example`,
    );
  }
  const isNear = ['127.0.0.1', 'localhost', '[::1]'].includes(url.hostname);
  // The key goes along with each request.
  if (url.protocol !== 'https:' && !(url.protocol === 'http:' && isNear))
    throw new AppError('bad-request', `${given} is not encrypted: a key is sent by https alone.`);
  return url;
}

class Server {
  constructor(
    private readonly url: URL,
    private readonly key: string,
  ) {}

  /** Asks once; throws AppError as the server has it, TypeError where there is no answer. */
  private async once(method: string, at: string, body?: unknown): Promise<unknown> {
    const answered = await fetch(new URL(at, this.url), {
      method,
      redirect: 'error',
      headers: {
        authorization: `Bearer ${this.key}`,
        ...(body === undefined ? {} : { 'content-type': 'application/json' }),
      },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    const text = await answered.text();
    if (answered.ok) return JSON.parse(text);
    let said: z.infer<typeof errorShape> | null = null;
    try {
      said = refusal.parse(JSON.parse(text)).error;
    } catch {
      // A proxy's own words.
    }
    if (answered.status === 502 || answered.status === 504 || said?.code === 'no-database')
      throw new TypeError(said?.message ?? `the server is away (${answered.status})`);
    if (said?.code === 'not-signed-in')
      throw new AppError(
        'not-signed-in',
        'The key in SATCHEL_API_KEY is not, or not any more, one of this server.',
      );
    if (said) throw new AppError('bad-request', said.message, said.unchanged, said.details);
    throw new AppError('bad-request', `${this.url.host} answered ${answered.status}: ${text.slice(0, 200)}`);
  }

  async ask<S extends z.ZodType>(
    schema: S,
    method: string,
    at: string,
    body?: unknown,
  ): Promise<z.output<S>> {
    const until = Date.now() + patience;
    for (;;)
      try {
        return schema.parse(await this.once(method, at, body));
      } catch (cause) {
        // What changes something is asked for once: it may have been heard.
        if (!(cause instanceof TypeError) || method !== 'GET' || Date.now() > until)
          throw cause instanceof TypeError
            ? new AppError(
                'offline',
                `${this.url.host} does not answer: ${reasonOf(cause)}.`,
                'It is not known whether it was heard.',
              )
            : cause;
        await wait(1000);
      }
  }
}

const reasonOf = (cause: Error) => (cause.cause instanceof Error ? cause.cause.message : cause.message);

const stalled = (job: Job) =>
  new AppError(
    'offline',
    `“${job.title}” has made no progress for ${stalls / 60_000} minutes (${job.progress?.path || job.state}).`,
    'It was not cancelled: it is still in the list of running work on the server.',
  );

/** Does a call on a server; prints what it prints there, and ends as it ends there. */
export async function onServer(address: string, args: readonly string[]): Promise<ExitStatus> {
  try {
    const server = new Server(serverAt(address), keyOf());
    let job: Job = await server.ask(jobView, runVerb.method, runVerb.path, { args });
    const leave = () =>
      void server
        .ask(z.unknown(), 'POST', `/api/jobs/${job.id}/cancel`, {})
        .catch((cause: Error) => process.stderr.write(`${cause.message}\n`));
    process.on('SIGINT', leave).on('SIGTERM', leave);
    let last = '';
    let [progress, changed] = ['', Date.now()];
    while (job.ended === null) {
      await wait(looksEvery);
      job = await server.ask(jobView, 'GET', readJob.path.replace(':job', job.id));
      const now = JSON.stringify([job.state, job.progress]);
      if (now !== progress) [progress, changed] = [now, Date.now()];
      else if (Date.now() - changed > stalls) throw stalled(job);
      const at = job.progress?.path ?? '';
      if (process.stderr.isTTY && at !== '' && at !== last) process.stderr.write(`\r\x1b[K${(last = at)}`);
    }
    if (last !== '') process.stderr.write('\r\x1b[K');
    if (job.state !== 'done') {
      process.stderr.write(`${job.error?.message ?? 'It was ended.'}\n${job.error?.unchanged ?? ''}\n`);
      return 2;
    }
    const { status, out, said } = verbResult.parse(job.result);
    for (const line of said) process.stderr.write(`${line}\n`);
    await new Promise<void>((done) => process.stdout.write(out, () => done()));
    return status;
  } catch (cause) {
    if (!(cause instanceof AppError)) throw cause;
    process.stderr.write(
      `${cause.message}\n${cause.details.map((d) => `  ${d}\n`).join('')}${cause.unchanged} ${cause.next}\n`,
    );
    return 2;
  }
}

function keyOf(): string {
  const key = process.env.SATCHEL_API_KEY ?? '';
  if (key === '')
    throw new AppError(
      'bad-request',
      'SATCHEL_API_KEY has to hold a key of the server: those who manage make one under Pipelines.',
    );
  return key;
}
