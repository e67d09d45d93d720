// Tasks that a stranger's file may make endless: so many at a time, each for so long. One that takes longer loses its thread, and the next goes on in a new
// one. In a build, modules are not shared between routes: each kind has one pool for all of them.

import pLimit from 'p-limit';
import { AppError, type ErrorCode } from '@/core/errors';
import { openPool, type Pool } from './pool';

/** Errors of our own do not cross threads whole, their words do. */
export type Refused = { code: ErrorCode; why: string };

export interface PatientOptions {
  /** How many at a time. */
  atOnce: number;
  /** Megabytes that a thread's JavaScript may hold. */
  megabytes: number;
  /** What is said of a task that takes too long. */
  tooLong: string;
}

interface Turns {
  pool: Pool<unknown, unknown>;
  turn: ReturnType<typeof pLimit>;
}
const held = globalThis as { satchelPatient?: Map<string, Turns> };

/**
 * Runs a task in a thread of this name (src/server/threads/<name>.thread.ts), at most `patience` ms. Throws AppError('unsupported') where it takes longer,
 * and what the thread refuses.
 */
export async function runPatiently<Task, Answer extends object>(
  name: string,
  { atOnce, megabytes, tooLong }: PatientOptions,
  task: Task,
  patience: number,
): Promise<Answer> {
  const kinds = (held.satchelPatient ??= new Map<string, Turns>());
  let turns = kinds.get(name);
  if (!turns)
    kinds.set(name, (turns = { pool: openPool(name, { most: atOnce, megabytes }), turn: pLimit(atOnce) }));
  const { pool, turn } = turns;
  const ended = (await turn(() =>
    pool.run(task, { signal: AbortSignal.timeout(patience) }).catch(() => {
      throw new AppError('unsupported', tooLong);
    }),
  )) as Answer | Refused;
  if ('why' in ended) throw new AppError(ended.code, ended.why);
  return ended;
}

/** Ends all these threads. */
export async function closePatient(): Promise<void> {
  const kinds = [...(held.satchelPatient?.values() ?? [])];
  held.satchelPatient = undefined;
  await Promise.all(kinds.map(({ pool }) => pool.close()));
}
