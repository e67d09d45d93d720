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
  /** Whether somebody took it, or removed it. While its drive is away, or fails, nobody knows: false. */
  isLost(): boolean;
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

/** Whether the process with this number runs on this machine. */
export function isAlive(pid: number): boolean {
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
  releaseForThreads();
  const own = newOwner();
  const text = JSON.stringify(own);
  const places = [file, ...later.map((f) => path.join(f, 'lock'))];
  // Before it is on the disk: a thread may be lost at any moment from here on.
  tellTaken({ places, text });
  let result: LockResult | null = null;
  try {
    return (result = take(folder, places, own, text));
  } finally {
    if (!result || 'heldBy' in result) tellReleased(text);
  }
}

function take(folder: string, places: readonly string[], own: LockOwner, text: string): LockResult {
  const file = places[0]!;
  for (let n = 0; n < 20; n++) {
    if (create(file, text)) return { lock: held(places, own, null) };
    const there = readOr(file, '');
    const owner = parseOwner(there);
    const stat = fs.statSync(file, { throwIfNoEntry: false });
    if (!stat) continue; // released meanwhile
    const age = driveTime(folder) - stat.mtimeMs;
    // Not whole yet: somebody is writing it just now, unless it has lain so for long.
    if (owner ? isAtWork(owner, age) : age < 2000)
      return { heldBy: owner ?? { ...own, token: '', host: 'another program', pid: 0 } };
    if (takeOver(file, there, text)) return { lock: held(places, own, owner) };
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

/** A lock on the disk: where it may be, and its content. */
interface LockOnDisk {
  places: readonly string[];
  text: string;
}

/** What threads tell the main thread of their process: locks are released there when their thread is lost, or their drive is away. */
type LockMessage =
  | { what: 'taken'; thread: number; lock: LockOnDisk }
  | { what: 'released'; thread: number; text: string }
  | { what: 'to-release'; lock: LockOnDisk };

const channelName = 'satchel-locks';
// At first twice in a second: a share comes back soon, a drive that was pulled out later, or never.
const triesEvery = (waited: number): number => (waited < 60_000 ? 500 : 10_000); // ms
const mostWaiting = 200;

/** Tells the thread that lives as long as the process (releaseForThreads). */
function tellMainThread(message: LockMessage): void {
  const channel = new BroadcastChannel(channelName);
  channel.postMessage(message);
  channel.close();
}

function tellTaken(lock: LockOnDisk): void {
  if (!isMainThread) tellMainThread({ what: 'taken', thread: threadId, lock });
}

function tellReleased(text: string): void {
  if (!isMainThread) tellMainThread({ what: 'released', thread: threadId, text });
}

/** Locks by the number of the thread that holds them, and the threads that were lost. In the main thread. */
interface ThreadLocks {
  held: Map<number, Map<string, LockOnDisk>>;
  lost: Set<number>;
  release(lock: LockOnDisk): void;
}
const mainThread = globalThis as { satchelThreadLocks?: ThreadLocks };

/**
 * Releases what a thread of this process held that has ended, or is being ended, before it could: a lock belongs to its work, not to the process. A
 * thread that lives on for a moment loses the lock, and commits nothing more (fencedCalls.ts). In the main thread.
 */
export async function releaseLocksOf(thread: number): Promise<void> {
  // What the thread said last may be on its way.
  await new Promise((next) => setImmediate(next));
  const all = mainThread.satchelThreadLocks;
  if (!all || thread === 0) return;
  all.lost.add(thread);
  const locks = [...(all.held.get(thread)?.values() ?? [])];
  all.held.delete(thread);
  for (const lock of locks) all.release(lock);
}

/** Removes a lock at once where it can be: false where its drive is away. */
function removeNow({ places, text }: LockOnDisk): boolean {
  try {
    const file = places.find((f) => readOr(f, '') === text);
    if (file !== undefined) fs.rmSync(file, { force: true });
    return file !== undefined;
  } catch {
    return false;
  }
}

/**
 * Releases locks of all threads of this process: of those that were lost, and of those whose drive was away when they released them, as soon as it is
 * back. Once for each process, in its main thread; anywhere else nothing is done.
 */
export function releaseForThreads(): void {
  if (!isMainThread || mainThread.satchelThreadLocks) return;
  const held: ThreadLocks['held'] = new Map();
  const lost: ThreadLocks['lost'] = new Set();
  const waiting = new Set<LockOnDisk>();
  const channel = new BroadcastChannel(channelName);
  let timer: NodeJS.Timeout | null = null;
  let newest = 0;
  const later = (lock: LockOnDisk) => {
    waiting.add(lock);
    for (const oldest of [...waiting].slice(0, -mostWaiting)) waiting.delete(oldest);
    newest = Date.now();
    timer ??= setTimeout(() => void tryAll(), 0).unref();
  };
  const release = (lock: LockOnDisk) => {
    if (!removeNow(lock)) later(lock);
  };
  mainThread.satchelThreadLocks = { held, lost, release };
  /** Not for a moment in the way of others: a share may hang. */
  async function tryAll(): Promise<void> {
    for (const given of waiting) if (await isTakenAway(given)) waiting.delete(given);
    const next = triesEvery(Date.now() - newest);
    timer = waiting.size > 0 ? setTimeout(() => void tryAll(), next).unref() : null;
  }
  channel.onmessage = (event) => {
    const message = (event as unknown as { data: LockMessage }).data;
    if (message.what === 'to-release') later(message.lock);
    else if (message.what === 'released') held.get(message.thread)?.delete(message.text);
    else if (lost.has(message.thread)) release(message.lock);
    else {
      const its = held.get(message.thread) ?? new Map<string, LockOnDisk>();
      held.set(message.thread, its.set(message.lock.text, message.lock));
    }
  };
  channel.unref();
}

/** Takes a lock away wherever it lies; false: the folder it was taken in is not there, or the drive fails. */
async function isTakenAway({ places, text }: LockOnDisk): Promise<boolean> {
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

/** Whether a folder that can be read has another lock than ours, or none. */
function isGoneFrom(file: string, text: string): boolean {
  try {
    return fs.readFileSync(file, 'utf8') !== text;
  } catch (cause) {
    return errnoOf(cause) === 'ENOENT' && fs.existsSync(path.dirname(file));
  }
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
    isLost: () => held() === undefined && places.some((file) => isGoneFrom(file, text)),
    release() {
      clearInterval(timer);
      atHand.delete(own.token);
      // A drive that fails once must not keep everybody out for as long as this process lives.
      for (let n = 0; n < 3; n++)
        try {
          const file = held();
          if (file === undefined) continue;
          fs.rmSync(file, { force: true });
          // Once it is gone, and not before: a thread lost between the two would leave it.
          return tellReleased(text);
        } catch {
          // Tried again.
        }
      // It may be away: once it is back the lock lies there again, and its process lives.
      tellReleased(text);
      tellMainThread({ what: 'to-release', lock: { places, text } });
    },
  };
}
