// Threads beside the one that answers requests, by piscina: started when wanted, replaced when they end, ended when they do not answer.
//
// Their code is built into files of its own (scripts/setup.mjs, dist/threads): a pool starts a thread by a file's name, and the framework's
// bundler knows only workers that are written out where they are started.

import fs from 'node:fs';
import path from 'node:path';
import { pathToFileURL } from 'node:url';
import { Piscina } from 'piscina';
import { threadsFolder } from '../built/folder';

export interface PoolOptions {
  /** How many threads at most. */
  most: number;
  /** After so many ms without a task a thread ends, and its memory is free; the next task starts another (some 0.2 s). */
  idle?: number;
  /** Tasks at once in one thread; 1 unless told. */
  together?: number;
  /** Megabytes a thread's JavaScript may hold; it ends beyond that. */
  megabytes?: number;
}

/** Tasks of one kind, in threads. */
export interface Pool<Task, Answer> {
  /** Runs a task. Rejects with an AbortError once `signal` is aborted, when its thread is ended wherever it is. */
  run(task: Task, options?: { transfer?: readonly MessagePort[]; signal?: AbortSignal }): Promise<Answer>;
  close(): Promise<void>;
}

type MessagePort = import('node:worker_threads').MessagePort;

/** A pool of the threads built from src/server/threads/<name>.thread.ts. */
export function openPool<Task, Answer>(name: string, options: PoolOptions): Pool<Task, Answer> {
  const file = path.join(threadsFolder(), `${name}.cjs`);
  // Without it a thread would end and be started anew for ever, and who waits would wait on.
  if (!fs.existsSync(file)) throw new Error(`Loyal Satchel is not whole here: ${file} is missing.`);
  const piscina = new Piscina({
    filename: pathToFileURL(file).href,
    minThreads: 0,
    maxThreads: options.most,
    concurrentTasksPerWorker: options.together ?? 1,
    idleTimeout: options.idle ?? 60_000,
    // A thread that waits for its next task must hear messages meanwhile.
    atomics: 'disabled',
    ...(options.megabytes === undefined
      ? {}
      : { resourceLimits: { maxOldGenerationSizeMb: options.megabytes } }),
  });
  // A thread that ends with nothing to do is replaced when it is wanted; that is no error of anybody's.
  piscina.on('error', () => undefined);
  return {
    run: (task, { transfer, signal } = {}) =>
      piscina.run(task, {
        ...(transfer ? { transferList: [...transfer] } : {}),
        ...(signal ? { signal } : {}),
      }) as Promise<Answer>,
    close: () => piscina.destroy(),
  };
}
