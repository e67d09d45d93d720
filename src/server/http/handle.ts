// How a request becomes an answer: input checked by a schema, errors told in one shape, bodies as JSON.

import { isDeepStrictEqual } from 'node:util';
import { z } from 'zod';
import { AppError } from '@/core/errors';
import type { ErrorShape } from '@/wire/jobs';
import type { ParamsOf, Route } from '@/wire/routes/route';
import { issueWords } from '@/wire/words';
import { shapeOfError } from '../errorShape';
import { hub, type Hub } from '../hub';
import type { Who } from '../who';

/** A route with what is done for it. */
export interface Endpoint {
  route: Route;
  run(h: Hub, input: unknown, params: Record<string, string>): Promise<unknown>;
}

/** What a route answers: by its schema, bytes, or nothing but that it is done. */
type AnswerOf<A extends z.ZodType> = [A] extends [z.ZodNever]
  ? Response
  : [A] extends [z.ZodNull]
    ? null | void
    : z.input<A>;

/** What is asked, by its schema. Throws AppError('bad-request') with what is wrong in it. */
export function understood<S extends z.ZodType>(schema: S, asked: unknown): z.output<S> {
  const parsed = schema.safeParse(asked);
  if (parsed.success) return parsed.data;
  throw new AppError('bad-request', issueWords(parsed.error));
}

/** The query of a request as plain values. */
export const queryOf = (request: Request): Record<string, string> =>
  Object.fromEntries(new URL(request.url).searchParams);

/** An endpoint: what is asked is checked by the route's schema before `run` sees it; what `run` answers is of the route's type. */
export function endpoint<P extends string, I extends z.ZodType, A extends z.ZodType, R extends z.ZodType>(
  route: Route<P, I, A, R>,
  run: (h: Hub, input: z.output<I>, params: ParamsOf<P>) => Promise<AnswerOf<A>>,
): Endpoint {
  return {
    route,
    run(h, input, params) {
      return run(h, understood(route.input, input), params as ParamsOf<P>);
    },
  };
}

function answer(status: number, body: unknown): Response {
  return Response.json(body ?? null, { status });
}

function statusOf(cause: unknown, shape: ErrorShape): number {
  return cause instanceof AppError ? cause.status : shape.code === 'disk-full' ? 507 : 500;
}

// The longest request is a drop of 200,000 paths.
const mostText = 64 * 1024 * 1024;

/** The input of a request, as every route of ours takes it: the query of a GET, the JSON body of others. */
export async function inputOf(request: Request): Promise<unknown> {
  if (request.method === 'GET') return queryOf(request);
  if (!(request.headers.get('content-type') ?? '').startsWith('application/json'))
    throw new AppError('bad-request', 'Only JSON is taken.');
  const tooLarge = () => new AppError('bad-request', 'The request is too large.');
  if (Number(request.headers.get('content-length') ?? 0) > mostText) throw tooLarge();
  const parts: Uint8Array[] = [];
  let size = 0;
  for await (const part of (request.body ?? []) as unknown as AsyncIterable<Uint8Array>) {
    if ((size += part.length) > mostText) throw tooLarge();
    parts.push(part);
  }
  try {
    return size === 0 ? {} : JSON.parse(Buffer.concat(parts).toString('utf8'));
  } catch {
    throw new AppError('bad-request', 'The request is no JSON.');
  }
}

/** Throws where an answer is not what its route says, or holds more than that: what a page would not see, or could not rely on. */
function checkAnswer(route: Route, result: unknown): void {
  const sent: unknown = JSON.parse(JSON.stringify(result ?? null));
  const seen: unknown = JSON.parse(JSON.stringify(route.answer.parse(sent)));
  if (!isDeepStrictEqual(sent, seen))
    throw new Error(`${route.path} answers more than its schema: ${JSON.stringify(sent).slice(0, 2000)}`);
}

/** Answers a request with what an endpoint makes of it. */
export async function answerFrom(
  e: Endpoint,
  request: Request,
  params: Record<string, string>,
  isChecked = false,
  who: Who | null = null,
): Promise<Response> {
  try {
    const h = await hub();
    const result = await e.run(who ? h.as(who) : h, await inputOf(request), params);
    if (result instanceof Response) return result;
    if (isChecked) checkAnswer(e.route, result);
    return answer(200, result);
  } catch (cause) {
    return answerError(cause);
  }
}

/** An error as an answer. */
export function answerError(cause: unknown): Response {
  const shape = shapeOfError(cause);
  if (shape.code === 'internal') console.error(cause);
  return answer(statusOf(cause, shape), { error: shape });
}
