// A scene as binary glTF by Assimp, for what the browser's own readers do not make out: COLLADA of many programs, glTF 1. In a thread that is ended when it
// takes too long: files come from strangers. Nothing is written.

import pLimit from 'p-limit';
import { AppError } from '@/core/errors';
import type { Allowed } from '../disk/bounds';
import type { ReadAgainEnd } from '../threads/readAgain.thread';
import { openPool, type Pool } from '../threads/pool';

export interface ReadAgainTask {
  /** '/'-separated, absolute. */
  path: string;
  /** Format of the scene. */
  format: string;
  allowed: Allowed;
  /** Files that belong to it: how the scene names them, and where they lie, absolute. */
  beside: { written: string; path: string }[];
}

const patience = 60_000; // ms

// In a build, modules are not shared between routes: one pool for all of them.
const held = globalThis as { satchelReadAgain?: Reader };
interface Reader {
  pool: Pool<ReadAgainTask, ReadAgainEnd>;
  turn: ReturnType<typeof pLimit>;
}

/** Binary glTF of a scene. Throws AppError('unsupported') where there is none. */
export async function readAgain(task: ReadAgainTask): Promise<Uint8Array> {
  const { pool, turn } = (held.satchelReadAgain ??= {
    pool: openPool('readAgain', { most: 1, megabytes: 1024 }),
    turn: pLimit(1),
  });
  const ended = await turn(() =>
    pool.run(task, { signal: AbortSignal.timeout(patience) }).catch(() => {
      throw new AppError('unsupported', 'This scene takes too long to be read.');
    }),
  );
  if ('why' in ended) throw new AppError(ended.code, ended.why);
  return ended.glb;
}

/** Ends the thread. */
export async function closeSecondReader(): Promise<void> {
  await held.satchelReadAgain?.pool.close();
  held.satchelReadAgain = undefined;
}
