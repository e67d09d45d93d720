// Asking the server, by its routes. What is asked and what is answered is of the route's types, and what comes is checked by its schema: a page never
// goes on with an answer of another shape. Errors arrive in one shape and are thrown as such.

import type { z } from 'zod';
import { errorShape, type ErrorShape } from '@/wire/jobs';
import type { ParamsOf, Route } from '@/wire/routes/route';

export class ApiError extends Error {
  constructor(readonly shape: ErrorShape) {
    super(shape.message);
  }
}

const internal = (message: string, next: string): ErrorShape => ({
  code: 'internal',
  message,
  unchanged: '',
  next,
  details: [],
});

/** A session ended meanwhile: to where one signs in, and back here from there. What was typed is kept by its forms. */
function toSignIn(): void {
  const { pathname, search } = window.location;
  if (pathname !== '/sign-in' && pathname !== '/join')
    loadPage(`/sign-in?to=${encodeURIComponent(pathname + search)}`);
}

async function ask(path: string, init: RequestInit): Promise<unknown> {
  let response: Response;
  try {
    response = await fetch(path, init);
  } catch (cause) {
    if (init.signal?.aborted) throw cause;
    throw new ApiError({
      code: 'unreachable',
      message: 'The server of Loyal Satchel does not answer.',
      unchanged: 'Running work goes on if it is only slow.',
      next: 'If it was ended, start it again and open the address it prints.',
      details: [],
    });
  }
  const answer: unknown = await response.json().catch(() => null);
  if (response.ok) return answer;
  const known = errorShape.safeParse((answer as { error?: unknown } | null)?.error);
  if (known.data?.code === 'not-signed-in') toSignIn();
  throw new ApiError(
    known.success ? known.data : internal(`The server answered ${response.status}.`, 'Try again.'),
  );
}

/** A value by its schema; what is of another shape means that page and server are of two versions. */
export function checked<S extends z.ZodType>(schema: S, value: unknown): z.output<S> {
  const read = schema.safeParse(value);
  if (read.success) return read.data;
  throw new ApiError(
    internal('The server answered in a way this page does not know.', 'Load the page again.'),
  );
}

/** The parts of a path that take anything; null where none is chosen, which is never asked. */
export type Given<P extends string> = { [K in keyof ParamsOf<P>]: ParamsOf<P>[K] | null };

/** The address of a route. */
export function addressOf<P extends string, I extends z.ZodType>(
  route: Pick<Route<P, I>, 'path' | 'method'>,
  params: Given<P>,
  input?: z.input<I>,
): string {
  const path = route.path.replace(/:(\w+)/g, (_, name: string) => {
    const value = (params as Record<string, string | null>)[name];
    if (value === null || value === undefined) throw new Error(`${route.path} is asked without ${name}`);
    return encodeURIComponent(value);
  });
  return route.method === 'GET' ? `${path}${query((input ?? {}) as Record<string, Queried>)}` : path;
}

/** Asks a route; resolves with its answer. */
export async function call<P extends string, I extends z.ZodType, A extends z.ZodType>(
  route: Route<P, I, A>,
  params: Given<P>,
  input?: z.input<I>,
): Promise<z.output<A>> {
  const init: RequestInit =
    route.method === 'GET'
      ? {}
      : {
          method: route.method,
          headers: { 'content-type': 'application/json', 'x-satchel': '1' },
          body: JSON.stringify(input ?? {}),
        };
  return checked(route.answer, await ask(addressOf(route, params, input), init));
}

/** Sends bytes as they are. */
export const send = (path: string, body: Uint8Array<ArrayBuffer>, signal: AbortSignal): Promise<unknown> =>
  ask(path, {
    method: 'POST',
    headers: { 'content-type': 'application/octet-stream', 'x-satchel': '1' },
    body,
    signal,
  });

type Queried = string | number | undefined;

/** A query string of the values that are set. */
export function query(values: Record<string, Queried>): string {
  const set = Object.entries(values).filter(([, v]) => v !== undefined && v !== '');
  return set.length === 0 ? '' : `?${new URLSearchParams(set.map(([k, v]) => [k, String(v)]))}`;
}

/** What is known of any error, for showing. */
export function shapeOf(cause: unknown): ErrorShape {
  if (cause instanceof ApiError) return cause.shape;
  return internal(cause instanceof Error ? cause.message : String(cause), 'Load the page again.');
}

/** Goes to a page by loading it from the server: what was known here is forgotten. */
export const loadPage = (path: string): void => window.location.assign(new URL(path, window.location.href));
