// Child processes of the scripts: each has a time limit, and all of them end with this process, however it is told to stop.
// Plain Node.js, no packages: it runs before any are installed.

import { spawn, spawnSync } from 'node:child_process';
import path from 'node:path';

export const project = path.resolve(import.meta.dirname, '..');

export function say(text) {
  process.stderr.write(`${text}\n`);
}

const isWindows = process.platform === 'win32';
const running = new Set();

/** Sends a signal to a child and everything it started. */
function signalTree(child, signal) {
  if (child.exitCode !== null || child.signalCode !== null) return;
  if (isWindows) {
    // Windows has no signals between processes: the whole tree is ended.
    spawnSync('taskkill', ['/pid', String(child.pid), '/t', '/f'], { stdio: 'ignore' });
    return;
  }
  try {
    process.kill(-child.pid, signal);
  } catch {
    // It ended in between.
  }
}

let isStopping = false;
/** Ends all children: gently, then after `grace` ms for good. */
async function stopAll(signal, grace = 8000) {
  const ended = [...running].map((child) => new Promise((done) => child.once('close', done)));
  for (const child of running) signalTree(child, signal);
  const late = setTimeout(() => {
    for (const child of running) signalTree(child, 'SIGKILL');
  }, grace);
  await Promise.all(ended);
  clearTimeout(late);
}
for (const [signal, number] of [
  ['SIGINT', 2],
  ['SIGTERM', 15],
  ['SIGHUP', 1],
])
  process.on(signal, () => {
    if (isStopping) return;
    isStopping = true;
    void stopAll(signal).then(() => process.exit(128 + number));
  });
process.on('exit', () => {
  for (const child of running) signalTree(child, 'SIGKILL');
});

/** Starts a program that ends with this process. POSIX: in a process group of its own, so that its own children end with it. */
export function start(command, args, options = {}) {
  const child = spawn(command, args, { cwd: project, detached: !isWindows, ...options });
  running.add(child);
  child.once('close', () => running.delete(child));
  child.once('error', () => running.delete(child));
  return child;
}

/** The programs below a process, as `ps` lists them; for the report of a run that took too long. */
function programsBelow(pid) {
  if (isWindows) return '';
  const { stdout } = spawnSync('ps', ['-eo', 'pid=,pgid=,etimes=,args='], { encoding: 'utf8' });
  return (stdout ?? '')
    .split('\n')
    .filter((line) => Number(line.trim().split(/\s+/)[1]) === pid)
    .map((line) => `    ${line.trim().slice(0, 200)}`)
    .join('\n');
}

/**
 * Runs a program; resolves with its exit status, 127 where it could not be started, 124 where it was stopped after `seconds`.
 * Its output goes to standard error unless `stdio` says otherwise. `seconds`: the time limit, three times what it usually takes; Infinity for
 * what a person stops.
 */
export function run(command, args, { seconds = 600, what = path.basename(command), ...options } = {}) {
  return new Promise((resolve) => {
    const child = start(command, args, { stdio: ['ignore', 2, 2], ...options });
    let isLate = false;
    const tooLate = () => {
      isLate = true;
      say(`${what} was stopped after ${seconds} s. Running at that moment:\n${programsBelow(child.pid)}`);
      signalTree(child, 'SIGTERM');
      setTimeout(() => signalTree(child, 'SIGKILL'), 8000).unref();
    };
    const limit = seconds === Infinity ? undefined : setTimeout(tooLate, seconds * 1000);
    child.on('error', (cause) => {
      clearTimeout(limit);
      say(`${command} could not be started: ${cause.message}`);
      resolve(127);
    });
    child.on('close', (code, signal) => {
      clearTimeout(limit);
      resolve(isLate ? 124 : (code ?? (signal ? 130 : 1)));
    });
  });
}

/** Reports every five seconds that work goes on, and how far: `progress` returns a short text or null. */
export async function reporting(title, work, progress = () => null) {
  const begun = Date.now();
  say(`${title} …`);
  const timer = setInterval(() => {
    const far = progress();
    say(`${title}: ${Math.round((Date.now() - begun) / 1000)} s${far ? `, ${far}` : ''}`);
  }, 5000);
  try {
    return await work();
  } finally {
    clearInterval(timer);
  }
}
