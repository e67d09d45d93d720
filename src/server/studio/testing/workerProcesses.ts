// Worker processes, for tests that stop, wake and kill them.

import { spawn, type ChildProcess } from 'node:child_process';
import path from 'node:path';

const bundle = path.resolve(process.cwd(), 'dist', 'satchel.mjs');

/** Starts a worker of the database at `url`, with its data below `base`; resolves when it takes work. `lease`: in seconds. */
export function startWorker(
  of: { base: string; url: string; lease: number; processes: ChildProcess[] },
  name: string,
  more: string[] = [],
): Promise<ChildProcess> {
  const child = spawn(
    process.execPath,
    [bundle, 'worker', '--name', name, '--data', `${of.base}/data-${name}`, ...more],
    {
      // As on another machine: called from anywhere, with nothing of this project in its environment.
      cwd: of.base,
      stdio: ['ignore', 'ignore', 'pipe'],
      env: {
        ...process.env,
        NODE_OPTIONS: '',
        SATCHEL_THREADS: undefined,
        SATCHEL_DATABASE_URL: of.url,
        SATCHEL_LEASE: String(of.lease),
      },
    },
  );
  of.processes.push(child);
  return new Promise<ChildProcess>((done, fail) => {
    let output = '';
    child.stderr!.on('data', (part: Buffer) => {
      output += part.toString();
      if (output.includes('is at work')) done(child);
    });
    child.once('exit', () => fail(new Error(`the worker ended: ${output}`)));
  });
}

/** Waits until `what` is true, at most `most` ms. */
export async function until(what: () => boolean | Promise<boolean>, most = 30_000): Promise<void> {
  const over = Date.now() + most;
  while (!(await what())) {
    if (Date.now() > over) throw new Error(`not within ${most / 1000} s: ${what.toString()}`);
    await new Promise((wait) => setTimeout(wait, 20));
  }
}
