// What a route is: one way to ask the server, with the schemas of what is asked and of what is answered. The server answers by it, the browser asks
// by it, and the published description of the interface is made from it: none of the three can say another thing than the others.

import { z } from 'zod';
import { jobView } from '../jobs';

export type Method = 'GET' | 'POST' | 'DELETE';

/** `input`: the query of a GET, the JSON body of others. `result`: of a route that starts a job, what the job ends with. `bytes`: the media type, where the answer is no JSON. */
export interface Route<
  P extends string = string,
  I extends z.ZodType = z.ZodType,
  A extends z.ZodType = z.ZodType,
  R extends z.ZodType = z.ZodType,
> {
  method: Method;
  /** '/api/workspaces/:id/scan'; a part that begins with ':' takes anything. */
  path: P;
  /** One sentence, for the published description. */
  about: string;
  input: I;
  answer: A;
  result: R | null;
  bytes: string | null;
}

/** The parts of a path that take anything, by name. */
export type ParamsOf<P extends string> = P extends `${string}:${infer Name}/${infer Rest}`
  ? { [K in Name]: string } & ParamsOf<`/${Rest}`>
  : P extends `${string}:${infer Name}`
    ? { [K in Name]: string }
    : object;

/** Nothing is asked beside the path. */
export const nothing = z.object({});
/** Nothing is answered but that it is done. */
export const done = z.null();

/** A route that answers with JSON. */
export function route<P extends string, I extends z.ZodType, A extends z.ZodType>(
  method: Method,
  path: P,
  about: string,
  input: I,
  answer: A,
): Route<P, I, A, z.ZodNever> {
  return { method, path, about, input, answer, result: null, bytes: null };
}

/** A route that starts a job, and answers with it. */
export function jobRoute<P extends string, I extends z.ZodType, R extends z.ZodType>(
  path: P,
  about: string,
  input: I,
  result: R,
): Route<P, I, typeof jobView, R> {
  return { method: 'POST', path, about, input, answer: jobView, result, bytes: null };
}

/** A route that answers with bytes. */
export function bytesRoute<P extends string, I extends z.ZodType>(
  path: P,
  about: string,
  input: I,
  media: string,
): Route<P, I, z.ZodNever, z.ZodNever> {
  return { method: 'GET', path, about, input, answer: z.never(), result: null, bytes: media };
}

/** Part of a list: rows from `offset` on, at most `limit`. */
export const pageQuery = z.object({
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(1000).default(200),
});

/** The id of a plan that was made, to be reviewed. */
export const planMade = z.object({ plan: z.string() });
