// Asking the server. Errors arrive in one shape and are thrown as such.

import type { ErrorShape } from '@/wire/jobs';

export class ApiError extends Error {
  constructor(readonly shape: ErrorShape) {
    super(shape.message);
  }
}

async function ask<T>(path: string, init: RequestInit): Promise<T> {
  let response: Response;
  try {
    response = await fetch(path, init);
  } catch (cause) {
    if (init.signal?.aborted) throw cause;
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

const json = (method: string, body: unknown): RequestInit => ({
  method,
  headers: { 'content-type': 'application/json', 'x-satchel': '1' },
  body: JSON.stringify(body ?? {}),
});

export const get = <T>(path: string) => ask<T>(path, {});
export const post = <T>(path: string, body?: unknown) => ask<T>(path, json('POST', body));
export const remove = <T>(path: string, body?: unknown) => ask<T>(path, json('DELETE', body));

/** Sends bytes as they are. */
export const send = <T>(path: string, body: Uint8Array<ArrayBuffer>, signal: AbortSignal) =>
  ask<T>(path, {
    method: 'POST',
    headers: { 'content-type': 'application/octet-stream', 'x-satchel': '1' },
    body,
    signal,
  });

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
