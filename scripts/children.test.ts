// The scripts' child processes: each ends at its time limit, and with its parent, together with what it started itself.

import { afterAll, expect, test } from '@jest/globals';
import { spawn, spawnSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';

const base = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-children-'));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));
const children = path.resolve(import.meta.dirname, 'children.mjs');

/** A program that starts another one, which writes its process number to a file; both would go on for a minute. */
function endless(name: string): { program: string; pidFile: string } {
  const pidFile = path.join(base, name);
  const inner = `require('fs').writeFileSync(${JSON.stringify(pidFile)}, String(process.pid)); setTimeout(() => {}, 60000)`;
  return {
    pidFile,
    program: `require('child_process').spawn(process.execPath, ['-e', ${JSON.stringify(inner)}], { stdio: 'inherit' }); setTimeout(() => {}, 60000)`,
  };
}

/** A script that runs that program with a time limit. */
const running = (program: string, seconds: number) => [
  '--input-type=module',
  '-e',
  `import { run } from ${JSON.stringify(children)};
   process.exitCode = await run(process.execPath, ['-e', ${JSON.stringify(program)}], { seconds: ${seconds}, what: 'the endless program' });`,
];

/** Whether a process runs; one that has ended and is not waited for by its parent yet does not. */
function isRunning(pid: number): boolean {
  const { stdout } = spawnSync('ps', ['-o', 'stat=', '-p', String(pid)], { encoding: 'utf8' });
  return stdout.trim() !== '' && !stdout.trim().startsWith('Z');
}

async function until(isSo: () => boolean, what: string): Promise<void> {
  for (const end = Date.now() + 15_000; !isSo();) {
    if (Date.now() > end) throw new Error(`waited 15 s for ${what}`);
    await new Promise((done) => setTimeout(done, 50));
  }
}

const onPosix = process.platform === 'win32' ? test.skip : test;

onPosix(
  'a program that takes too long is stopped with all it started, and the report lists them',
  async () => {
    const { program, pidFile } = endless('late');
    const { status, stderr } = spawnSync(process.execPath, running(program, 2), { encoding: 'utf8' });
    expect(status).toBe(124);
    expect(stderr).toContain('the endless program was stopped after 2 s');
    const pid = Number(fs.readFileSync(pidFile, 'utf8'));
    expect(stderr).toContain(String(pid));
    await until(() => !isRunning(pid), 'the inner program to end');
  },
);

onPosix.each(['SIGTERM', 'SIGINT'] as const)('%s to the script ends all it started', async (signal) => {
  const { program, pidFile } = endless(signal);
  const script = spawn(process.execPath, running(program, 60), { stdio: 'ignore' });
  const ended = new Promise<number | null>((done) => script.once('close', done));
  await until(
    () => fs.existsSync(pidFile) && fs.readFileSync(pidFile, 'utf8') !== '',
    'the inner program to start',
  );
  const pid = Number(fs.readFileSync(pidFile, 'utf8'));
  script.kill(signal);
  expect(await ended).toBe(signal === 'SIGTERM' ? 143 : 130);
  await until(() => !isRunning(pid), 'the inner program to end');
});
