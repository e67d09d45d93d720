// A new file written whole: its content flushed, with its time, and whether it is a program. And a name that appears when all is there.

import fs from 'node:fs';
import path from 'node:path';
import { asTime, syncFolder } from '../disk/calls';

/** Whether a file can be run: the one bit of its rights that travels. */
export function isProgram(mode: number | undefined): boolean {
  return mode !== undefined && (mode & 0o111) !== 0;
}

/** Makes a file, with its folders, from `content`, which writes its parts. `modified` in ms; NaN: now. */
export async function writeWhole(
  file: string,
  /** `rights`: its rights as they were, not only whether it is a program. */
  of: { modified: number; mode?: number | undefined; rights?: boolean },
  content: (write: (part: Uint8Array) => void) => Promise<void>,
  flushing?: Flushing,
): Promise<void> {
  fs.mkdirSync(path.dirname(file), { recursive: true });
  const fd = fs.openSync(file, 'wx');
  try {
    let size = 0;
    let end = 0;
    await content((part) => {
      for (const [from, to] of filled(part)) {
        for (let at = from; at < to;) at += fs.writeSync(fd, part, at, to - at, size + at);
        end = size + to;
      }
      size += part.length;
    });
    if (end < size) fs.ftruncateSync(fd, size);
    if (of.rights && of.mode !== undefined) fs.fchmodSync(fd, of.mode & 0o7777);
    else if (isProgram(of.mode)) fs.fchmodSync(fd, fs.fstatSync(fd).mode | 0o111);
    if (Number.isFinite(of.modified)) fs.futimesSync(fd, Date.now() / 1000, asTime(of.modified));
    if (!flushing) fs.fsyncSync(fd);
  } catch (cause) {
    fs.closeSync(fd);
    throw cause;
  }
  if (flushing) await flushing.add(fd);
  else fs.closeSync(fd);
}

const blockSize = 64 * 1024;
const zeros = new Uint8Array(blockSize);

/** The stretches of some bytes without blocks that are all zero: these are left out of the file, so that one with holes stays small on the drive. */
function* filled(part: Uint8Array): Generator<readonly [from: number, to: number]> {
  let from = 0;
  for (let at = 0; at < part.length; at += blockSize) {
    const block = part.subarray(at, at + blockSize);
    if (block.length < blockSize || Buffer.compare(block, zeros) !== 0) continue;
    if (at > from) yield [from, at];
    from = at + blockSize;
  }
  if (from < part.length) yield [from, part.length];
}

/** So many files are flushed at a time, while the next ones are written. */
const flushedAtOnce = 64;

/** Flushes many new files together: a drive does that in a fraction of the time that one after the other takes. All are on it once `end` resolves. */
export class Flushing {
  private open: number[] = [];
  private running: Promise<void> = Promise.resolve();

  /** Takes a file that is written; it is flushed and closed in time. Throws what went wrong with one before. */
  async add(fd: number): Promise<void> {
    this.open.push(fd);
    if (this.open.length < flushedAtOnce) return;
    const before = this.running;
    this.running = flushAll(this.open.splice(0));
    // Who waits for it comes later.
    this.running.catch(() => undefined);
    await before;
  }

  async end(): Promise<void> {
    await this.running;
    await flushAll(this.open.splice(0));
  }

  /** Closes what is open without flushing: it is thrown away. Nothing is open any more when it resolves. */
  async abandon(): Promise<void> {
    for (const fd of this.open.splice(0)) fs.closeSync(fd);
    await this.running.catch(() => undefined);
  }
}

async function flushAll(fds: readonly number[]): Promise<void> {
  const done = await Promise.allSettled(fds.map((fd) => flush(fd)));
  for (const fd of fds) fs.closeSync(fd);
  const failed = done.find((d) => d.status === 'rejected');
  if (failed) throw failed.reason;
}

const flush = (fd: number) =>
  new Promise<void>((resolve, reject) => fs.fsync(fd, (cause) => (cause ? reject(cause) : resolve())));

/** Gives what was made under another name its own, durably. */
export function appear(temporary: string, target: string): void {
  fs.renameSync(temporary, target);
  syncFolder(path.dirname(target));
}

/** Takes away what was made so far. Null: nothing of it is left; else what is, in words. */
export function clearAway(temporary: string): string | null {
  try {
    fs.rmSync(temporary, { recursive: true, force: true });
    return null;
  } catch {
    return `${temporary} is left of it and may be deleted.`;
  }
}
