// A lock on a folder: a file in it that names its owner and is touched again and again while he is at work. It holds between processes,
// containers and machines on one share, and only who may write in the folder can hold it. Of an owner on this machine (same host, same space
// of process numbers) the process itself tells whether he lives; of any other only his heartbeat, measured by the clock of the drive.

import { createHash, randomBytes } from 'node:crypto';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { BroadcastChannel, isMainThread, threadId } from 'node:worker_threads';
import { z } from 'zod';
import { errnoOf } from '@/core/files/fileErrors';

const ownerSchema = z.object({
  token: z.string(),
  host: z.string(),
  space: z.string(),
  pid: z.number(),
  thread: z.number(),
  started: z.string(),
  since: z.string(),
});

/** Who holds a lock. `space`: which numbers processes have where he lives; `started` tells him from a later process of the same number. */
export type LockOwner = z.infer<typeof ownerSchema>;

export interface FolderLock {
  /** An owner who had died and whose lock was taken over; null: it was free. */
  tookOver: LockOwner | null;
  /** Whether the lock is still ours: a machine that slept may have been taken for dead. */
  isHeld(): boolean;
  release(): void;
}

export type LockResult = { lock: FolderLock } | { heldBy: LockOwner };

/** What this thread holds, whichever bundle's copy of this module took it: a lock of its own that is not among these was given back, though the drive did not let it be taken away. */
const atHand: Set<string> = ((globalThis as { satchelLocks?: Set<string> }).satchelLocks ??= new Set());

const beat = 5_000; // ms
/** After so long without a heartbeat an owner elsewhere counts as dead, ms: two dozen missed beats, as a share may hang for a while (common practice, no source). */
export const deadAfter = 120_000;

function readOr(file: string, none: string): string {
  try {
    return fs.readFileSync(file, 'utf8');
  } catch {
    return none;
  }
}

/** What the system says of a process, from its third field on (proc(5), stat); nothing where it does not say. */
function statOf(pid: number): string[] {
  const stat = readOr(`/proc/${pid}/stat`, '');
  return stat.slice(stat.lastIndexOf(')') + 2).split(' ');
}

/** What tells a process from a later one of the same number (the 22nd field); '' where the system does not say. */
const startOf = (pid: number): string => statOf(pid)[19] ?? '';

function spaceHere(): string {
  let space = '';
  try {
    space = fs.readlinkSync('/proc/self/ns/pid');
  } catch {
    // Not Linux: processes of one host have one space.
  }
  return `${readOr('/proc/sys/kernel/random/boot_id', '').trim()} ${space}`.trim();
}

function newOwner(): LockOwner {
  return {
    token: randomBytes(12).toString('hex'),
    host: os.hostname(),
    space: spaceHere(),
    pid: process.pid,
    thread: isMainThread ? 0 : threadId,
    started: startOf(process.pid),
    since: new Date().toISOString(),
  };
}

function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    // One that has ended keeps its number until its parent has asked for its end; in a container that may be never.
    return !/^[ZX]/.test(statOf(pid)[0]!);
  } catch (cause) {
    return errnoOf(cause) === 'EPERM';
  }
}

/** The clock of the drive: the time a file written now gets. */
function driveTime(folder: string): number {
  const probe = path.join(folder, `.lock-${randomBytes(6).toString('hex')}`);
  fs.writeFileSync(probe, '', { flag: 'wx' });
  try {
    return fs.statSync(probe).mtimeMs;
  } finally {
    fs.unlinkSync(probe);
  }
}

/** Whether an owner is at work. Exported for its test. */
export function isAtWork(owner: LockOwner, sinceBeat: number, here = newOwner()): boolean {
  if (owner.host === here.host && owner.space === here.space) {
    const isThis = owner.pid === here.pid && owner.thread === here.thread && owner.started === here.started;
    if (isThis) return atHand.has(owner.token);
    if (!isAlive(owner.pid)) return false;
    if (owner.started !== '') return startOf(owner.pid) === owner.started;
    // Windows and macOS do not report when a process began: the number may be a later process's, so the heartbeat decides.
  }
  return sinceBeat < deadAfter;
}

function parseOwner(text: string): LockOwner | null {
  try {
    return ownerSchema.parse(JSON.parse(text));
  } catch {
    return null;
  }
}

/**
 * Takes the lock `lock` in a folder that exists, or says who holds it. `later`: where the folder may lie before the lock is released, which it
 * then holds there. Throws what the system throws where it cannot be written.
 */
export function takeFolderLock(folder: string, later: readonly string[] = []): LockResult {
  const file = path.join(folder, 'lock');
  keepGivenBack();
  const own = newOwner();
  const text = JSON.stringify(own);
  for (let n = 0; n < 20; n++) {
    if (create(file, text))
      return { lock: held([file, ...later.map((f) => path.join(f, 'lock'))], own, null) };
    const there = readOr(file, '');
    const owner = parseOwner(there);
    const stat = fs.statSync(file, { throwIfNoEntry: false });
    if (!stat) continue; // released meanwhile
    const age = driveTime(folder) - stat.mtimeMs;
    // Not whole yet: somebody is writing it just now, unless it has lain so for long.
    if (owner ? isAtWork(owner, age) : age < 2000)
      return { heldBy: owner ?? { ...own, token: '', host: 'another program', pid: 0 } };
    if (takeOver(file, there, text))
      return { lock: held([file, ...later.map((f) => path.join(f, 'lock'))], own, owner) };
    // Another takes it over just now.
    Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 5);
  }
  return { heldBy: parseOwner(readOr(file, '')) ?? { ...own, token: '' } };
}

function create(file: string, text: string): boolean {
  let fd: number;
  try {
    fd = fs.openSync(file, 'wx');
  } catch (cause) {
    if (errnoOf(cause) === 'EEXIST') return false;
    throw cause;
  }
  try {
    fs.writeFileSync(fd, text);
    fs.closeSync(fd);
    return true;
  } catch (cause) {
    // Ours, and not whole: left there it would keep everybody out for a while.
    try {
      fs.closeSync(fd);
    } catch {
      // Closed already.
    }
    fs.rmSync(file, { force: true });
    throw cause;
  }
}

/** A claim left by a process that died between two calls counts as none after so long, ms. */
const claimLasts = 10_000;

/**
 * Replaces a dead lock, whose content is `dead`, by ours; false: another did, or is about to. Several may find the same lock dead: only who makes the one
 * claim on that content may replace it, and looks again first, so that a lock that was taken over meanwhile is never replaced.
 */
function takeOver(file: string, dead: string, text: string): boolean {
  const folder = path.dirname(file);
  const claim = path.join(folder, `.lock-${createHash('sha256').update(dead).digest('hex').slice(0, 16)}`);
  if (!create(claim, '')) {
    const stat = fs.statSync(claim, { throwIfNoEntry: false });
    if (stat && driveTime(folder) - stat.mtimeMs > claimLasts) fs.rmSync(claim, { force: true });
    return false;
  }
  const ours = path.join(folder, `.lock-${randomBytes(6).toString('hex')}`);
  try {
    if (readOr(file, '') !== dead) return false;
    fs.writeFileSync(ours, text, { flag: 'wx' });
    fs.renameSync(ours, file);
    return true;
  } finally {
    fs.rmSync(ours, { force: true });
    fs.rmSync(claim, { force: true });
  }
}

/** A lock that was given back and could not be taken away. */
interface GivenBack {
  places: readonly string[];
  text: string;
}

const channelName = 'satchel-given-back';
// At first twice in a second: a share comes back soon, a drive that was pulled out later, or never.
const triesEvery = (waited: number): number => (waited < 60_000 ? 500 : 10_000); // ms
const mostWaiting = 200;

/** Hands it to the thread that lives as long as the process (keepGivenBack). */
function giveBackLater(given: GivenBack): void {
  const channel = new BroadcastChannel(channelName);
  channel.postMessage(given);
  channel.close();
}

/** Takes locks of all threads of this process away as soon as their drive is back. Once for each process, in its main thread; anywhere else nothing is done. */
export function keepGivenBack(): void {
  const here = globalThis as { satchelKeepsGivenBack?: boolean };
  if (!isMainThread || here.satchelKeepsGivenBack) return;
  here.satchelKeepsGivenBack = true;
  const waiting = new Set<GivenBack>();
  const channel = new BroadcastChannel(channelName);
  let timer: NodeJS.Timeout | null = null;
  let newest = 0;
  /** Not for a moment in the way of others: a share may hang. */
  async function tryAll(): Promise<void> {
    for (const given of waiting) if (await isTakenAway(given)) waiting.delete(given);
    const next = triesEvery(Date.now() - newest);
    timer = waiting.size > 0 ? setTimeout(() => void tryAll(), next).unref() : null;
  }
  channel.onmessage = (message) => {
    waiting.add((message as unknown as { data: GivenBack }).data);
    for (const oldest of [...waiting].slice(0, -mostWaiting)) waiting.delete(oldest);
    newest = Date.now();
    timer ??= setTimeout(() => void tryAll(), 0).unref();
  };
  channel.unref();
}

/** Takes a lock away wherever it lies; false: the folder it was taken in is not there, or the drive fails. */
async function isTakenAway({ places, text }: GivenBack): Promise<boolean> {
  for (const file of places)
    try {
      if ((await fs.promises.readFile(file, 'utf8')) !== text) continue;
      await fs.promises.rm(file, { force: true });
      return true;
    } catch (cause) {
      if (errnoOf(cause) !== 'ENOENT') return false;
    }
  return fs.promises.access(path.dirname(places[0]!)).then(
    () => true,
    () => false,
  );
}

function held(places: readonly string[], own: LockOwner, tookOver: LockOwner | null): FolderLock {
  const text = JSON.stringify(own);
  atHand.add(own.token);
  const held = () => places.find((file) => readOr(file, '') === text);
  const touch = () => {
    try {
      const file = held();
      // Written, not stamped: so the drive's own clock says when.
      if (file !== undefined) fs.writeFileSync(file, text, { flag: 'r+' });
    } catch {
      // The drive may be away for a moment.
    }
  };
  const timer = setInterval(touch, beat);
  timer.unref();
  return {
    tookOver,
    isHeld: () => held() !== undefined,
    release() {
      clearInterval(timer);
      atHand.delete(own.token);
      // A drive that fails once must not keep everybody out for as long as this process lives.
      for (let n = 0; n < 3; n++)
        try {
          const file = held();
          if (file !== undefined) return fs.rmSync(file, { force: true });
        } catch {
          // Tried again.
        }
      // It may be away: once it is back the lock lies there again, and its process lives.
      giveBackLater({ places, text });
    },
  };
}

/** Takes away the lock of a thread of this process that has ended. */
export function dropLockOfThread(folder: string, thread: number): void {
  const file = path.join(folder, 'lock');
  const owner = parseOwner(readOr(file, ''));
  const here = newOwner();
  const isIts = owner?.host === here.host && owner.space === here.space && owner.pid === here.pid;
  if (isIts && owner.thread === thread) fs.rmSync(file, { force: true });
}
