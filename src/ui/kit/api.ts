// Asking the server. Errors arrive in one shape and are thrown as such.

import type { ErrorShape } from '@/wire/jobs';

export class ApiError extends Error {
  constructor(readonly shape: ErrorShape) {
    super(shape.message);
  }
}

async function ask<T>(method: string, path: string, body?: unknown): Promise<T> {
  let response: Response;
  try {
    response = await fetch(path, {
      method,
      headers: method === 'GET' ? {} : { 'content-type': 'application/json', 'x-satchel': '1' },
      ...(method === 'GET' ? {} : { body: JSON.stringify(body ?? {}) }),
    });
  } catch {
    throw new ApiError({
      code: 'unreachable',
      message: 'The server of Loyal Satchel does not answer.',
      unchanged: 'Running work goes on if it is only slow.',
      next: 'Start it again where it was started.',
      details: [],
    });
  }
  const answer = (await response.json().catch(() => null)) as { error?: ErrorShape } | null;
  if (!response.ok)
    throw new ApiError(
      answer?.error ?? {
        code: 'internal',
        message: `The server answered ${response.status}.`,
        unchanged: '',
        next: 'Try again.',
        details: [],
      },
    );
  return answer as T;
}

export const get = <T>(path: string) => ask<T>('GET', path);
export const post = <T>(path: string, body?: unknown) => ask<T>('POST', path, body);
export const remove = <T>(path: string, body?: unknown) => ask<T>('DELETE', path, body);

/** A query string of the values that are set. */
export function query(values: Record<string, string | number | undefined>): string {
  const set = Object.entries(values).filter(([, v]) => v !== undefined && v !== '');
  return set.length === 0 ? '' : `?${new URLSearchParams(set.map(([k, v]) => [k, String(v)]))}`;
}

/** What is known of any error, for showing. */
export function shapeOf(cause: unknown): ErrorShape {
  if (cause instanceof ApiError) return cause.shape;
  return {
    code: 'internal',
    message: cause instanceof Error ? cause.message : String(cause),
    unchanged: '',
    next: 'Load the page again.',
    details: [],
  };
}
