// Questions of the disk that the thread which answers requests may ask: never waiting longer than a person would. A share whose server is gone
// can hold a call for minutes; then the answer is that it is not there, and the call is left to end by itself.

import fs from 'node:fs';
import { fromSystem, toSystem } from './system';

/** So long an answer is waited for, in ms. */
export const patience = 3000;

/** What `call` resolves with; `late` once it takes too long, or where it fails. */
export async function inTime<T>(call: Promise<T>, late: T, limit = patience): Promise<T> {
  let timer: NodeJS.Timeout | undefined;
  try {
    return await Promise.race([
      call.catch(() => late),
      new Promise<T>((done) => {
        timer = setTimeout(() => done(late), limit);
      }),
    ]);
  } finally {
    clearTimeout(timer);
  }
}

/** What lies at a path ('/'-separated), links followed; null where nothing does, it may not be seen, or nobody answers. */
export function statInTime(path: string): Promise<fs.Stats | null> {
  return inTime<fs.Stats | null>(fs.promises.stat(toSystem(path)), null);
}

/** Whether something lies at a path. */
export async function isThere(path: string): Promise<boolean> {
  return (await statInTime(path)) !== null;
}

/** The path without links, '/'-separated; null where nothing lies there, or nobody answers. */
export async function realInTime(path: string): Promise<string | null> {
  const real = await inTime<string | null>(fs.promises.realpath(toSystem(path)), null);
  return real === null ? null : fromSystem(real);
}
