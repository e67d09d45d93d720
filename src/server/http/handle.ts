// How a request becomes an answer: input checked by a schema, errors told in one shape, bodies as JSON.

import { z } from 'zod';
import { AppError } from '@/core/errors';
import type { ErrorShape } from '@/wire/jobs';
import { shapeOfError } from '../jobs/work';
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
  return Response.json(body ?? null, {
    status,
    headers: { 'cache-control': 'no-store', 'x-content-type-options': 'nosniff' },
  });
}

function statusOf(cause: unknown, shape: ErrorShape): number {
  return cause instanceof AppError ? cause.status : shape.code === 'disk-full' ? 507 : 500;
}

function match(pattern: string, path: string): Record<string, string> | null {
  const [a, b] = [pattern.split('/'), path.split('/')];
  if (a.length !== b.length) return null;
  const params: Record<string, string> = {};
  for (const [i, part] of a.entries()) {
    if (part.startsWith(':')) params[part.slice(1)] = decodeURIComponent(b[i]!);
    else if (part !== b[i]) return null;
  }
  return params;
}

const bodyLimit = 8 * 1024 * 1024;

/** Answers a request from a table of endpoints. */
export async function dispatch(endpoints: readonly Endpoint[], request: Request): Promise<Response> {
  const url = new URL(request.url);
  try {
    for (const e of endpoints) {
      if (e.method !== request.method) continue;
      const params = match(e.path, url.pathname);
      if (!params) continue;
      let input: unknown = Object.fromEntries(url.searchParams);
      if (request.method !== 'GET') {
        if (!(request.headers.get('content-type') ?? '').startsWith('application/json'))
          throw new AppError('bad-request', 'Only JSON is taken.');
        const text = await request.text();
        if (text.length > bodyLimit) throw new AppError('bad-request', 'The request is too large.');
        try {
          input = JSON.parse(text === '' ? '{}' : text);
        } catch {
          throw new AppError('bad-request', 'The request is no JSON.');
        }
      }
      const result = await e.run(await hub(), input, params);
      return result instanceof Response ? result : answer(200, result);
    }
    throw new AppError('not-found', `There is nothing at ${url.pathname}.`);
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
