// A disk of which one call fails, whichever code makes it: Node's own functions are put in place of for the while.

import fs from 'node:fs';

const names = [
  'openSync',
  'readSync',
  'writeSync',
  'fsyncSync',
  'renameSync',
  'linkSync',
  'symlinkSync',
  'unlinkSync',
  'rmdirSync',
  'mkdirSync',
  'fchmodSync',
  'futimesSync',
  'fstatSync',
  'readdirSync',
  'readlinkSync',
  'lstatSync',
  'open',
  'read',
  'write',
  'writev',
] as const;

/**
 * Runs work on a disk whose n-th call fails (0: none); tells how it ended and how many calls it made. `forGood`: all after it fail, too, as if the
 * program had died there.
 */
export async function onFailingDisk<T>(
  n: number,
  code: string,
  work: () => Promise<T>,
  { forGood = false }: { forGood?: boolean } = {},
): Promise<{ done: T | null; error: unknown; calls: number }> {
  let calls = 0;
  const failure = (name: string) => Object.assign(new Error(`${code}: made up, ${name}`), { code });
  const real = names.map((name) => [name, fs[name]] as const);
  const patched = fs as unknown as Record<string, (...args: unknown[]) => unknown>;
  for (const [name, call] of real) {
    const made = (...args: unknown[]) => {
      const last = args.at(-1);
      const fails = ++calls === n || (forGood && n > 0 && calls > n);
      if (!fails) return (call as (...a: unknown[]) => unknown)(...args);
      if (name.endsWith('Sync')) throw failure(name);
      return process.nextTick(last as (cause: Error) => void, failure(name));
    };
    // A name of its own (realpathSync.native and its like) stays.
    patched[name] = Object.assign(made, call);
  }
  try {
    return { done: await work(), error: null, calls };
  } catch (error) {
    return { done: null, error, calls };
  } finally {
    for (const [name, call] of real) patched[name] = call as never;
  }
}
