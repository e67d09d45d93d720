// A verb of the command line, done for somebody on a server for several: by the command line itself, in a process of its own, which is held to the folders that are
// theirs to see and to change (cli/held.ts). What it had begun when it is ended is put back as after any crash.

import { spawn } from 'node:child_process';
import path from 'node:path';
import { AppError } from '@/core/errors';
import type { VerbResult } from '@/wire/routes/pipelines';
import { dataFolder } from '../dataFolder';
import { currentLimits } from '../disk/limits';
import { fromSystem, toSystem } from '../disk/system';
import { threadsFolder } from '../built/folder';
import { recordsIn, settle } from '../workspaces/changing';
import { hasMarker, rootOf } from '../workspaces/open';
import type { Doing, OrderOf } from './doing';

/** By this the process learns whom it works for. */
export const heldToName = 'SATCHEL_HELD_TO';

const mostPrinted = 32_000_000; // letters
const mostSaid = 200; // lines
const looksEvery = 100; // ms
// A process that does not end by itself is ended.
const patience = 20_000; // ms

/** What of the server's own surroundings a verb has: no secret of it. */
function surroundings(held: object): Record<string, string | undefined> {
  const kept = Object.entries(process.env).filter(
    ([name]) => !/^(SATCHEL_|PG)|SECRET|PASSWORD|TOKEN|KEY/i.test(name),
  );
  return {
    ...Object.fromEntries(kept),
    SATCHEL_DATA: dataFolder(),
    SATCHEL_THREADS: threadsFolder(),
    [heldToName]: JSON.stringify(held),
  };
}

export async function doVerb(order: OrderOf<'verb'>, doing: Doing): Promise<VerbResult> {
  const { allowed, changeable, signal } = doing;
  const held = { see: allowed ?? [], change: changeable, role: order.role, by: currentLimits().by };
  const child = spawn(process.execPath, [path.join(threadsFolder(), '..', 'satchel.mjs'), ...order.args], {
    cwd: path.parse(process.cwd()).root,
    env: surroundings(held) as NodeJS.ProcessEnv,
    stdio: ['ignore', 'pipe', 'pipe', 'ipc'],
    windowsHide: true,
  });
  let out = '';
  let said = '';
  let isTooMuch = false;
  child.stdout!.setEncoding('utf8').on('data', (part: string) => {
    if (isTooMuch) return;
    out += part;
    if (out.length <= mostPrinted) return;
    isTooMuch = true;
    out = '';
    child.kill();
  });
  child.stderr!.setEncoding('utf8').on('data', (part: string) => (said = (said + part).slice(-100_000)));
  child.on('message', (line) => {
    if (typeof line === 'string') doing.toldFiles(0, null, line.slice(0, 300));
  });
  const status = new Promise<number | null>((done, fail) => {
    child.on('error', fail);
    child.on('close', (code) => done(code));
  });
  let isEnding = false;
  const looks = setInterval(() => {
    if (!signal.aborted || isEnding) return;
    isEnding = true;
    child.kill();
    setTimeout(() => child.kill('SIGKILL'), patience).unref();
  }, looksEvery);
  const code = await status.finally(() => clearInterval(looks));
  if (code === null || isEnding || isTooMuch) {
    await putBackBegun(order.args, changeable);
    signal.throwIfAborted();
    throw isTooMuch
      ? new AppError('unsupported', 'The verb prints more than a server hands on; ask for less at a time.')
      : new AppError('lost-work', 'The verb was ended before its time.', whatIsLeft);
  }
  if (code !== 0 && code !== 1 && code !== 2) throw new Error(`satchel ended with ${code}: ${said}`);
  const lines = said.split('\n').filter((line) => line !== '');
  return { status: code, out, said: lines.slice(-mostSaid) };
}

const whatIsLeft = 'What it had begun is done or was put back: the ledger tells.';

/** Whole paths among the words of a verb, as the core writes them; also those behind a flag's `=`. */
export function pathsOf(args: readonly string[]): string[] {
  return args
    .map((arg) => arg.replace(/^--[\w-]+=/, ''))
    .filter((arg) => /^(\/|[A-Za-z]:[\\/])/.test(arg))
    .map((arg) => fromSystem(arg));
}

/** Puts back what the verb had begun in the workspaces that it named. */
async function putBackBegun(args: readonly string[], changeable: readonly string[]): Promise<void> {
  const roots = new Set<string>();
  for (const at of pathsOf(args)) {
    if (!changeable.some((folder) => at === folder || at.startsWith(`${folder}/`))) continue;
    const root = await rootOf(at).catch(() => null);
    if (root !== null && (await hasMarker(root))) roots.add(root);
  }
  for (const root of roots) await settle(recordsIn(toSystem(root) === root ? root : fromSystem(root)));
}
