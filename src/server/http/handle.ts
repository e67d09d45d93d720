// How a request becomes an answer: input checked by a schema, errors told in one shape, bodies as JSON.

import { z } from 'zod';
import { AppError } from '@/core/errors';
import type { ErrorShape } from '@/wire/jobs';
import { shapeOfError } from '../errorShape';
import { hub, type Hub } from '../hub';

export interface Endpoint {
  method: 'GET' | 'POST' | 'DELETE';
  /** '/api/workspaces/:id/scan'; a part that begins with ':' takes anything. */
  path: string;
  run(h: Hub, input: unknown, params: Record<string, string>): Promise<unknown>;
}

/** Part of a list: rows from `offset` on, at most `limit`. */
export const pageQuery = z.object({
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(1000).default(200),
});

/** An endpoint whose input (query of GET, JSON body of others) is checked by `schema`. */
export function endpoint<S extends z.ZodType>(
  method: Endpoint['method'],
  path: string,
  schema: S,
  run: (h: Hub, input: z.output<S>, params: Record<string, string>) => Promise<unknown>,
): Endpoint {
  return {
    method,
    path,
    run(h, input, params) {
      const parsed = schema.safeParse(input);
      if (!parsed.success)
        throw new AppError('bad-request', `The request was not understood: ${z.prettifyError(parsed.error)}`);
      return run(h, parsed.data, params);
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

/** The input of a request: the query of a GET, the JSON body of others. */
async function inputOf(request: Request): Promise<unknown> {
  if (request.method === 'GET') return Object.fromEntries(new URL(request.url).searchParams);
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

/** Answers a request with what an endpoint makes of it. */
export async function answerFrom(
  e: Endpoint,
  request: Request,
  params: Record<string, string>,
): Promise<Response> {
  try {
    const result = await e.run(await hub(), await inputOf(request), params);
    return result instanceof Response ? result : answer(200, result);
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
