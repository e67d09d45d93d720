// Hashes in a thread of its own while this one reads and writes: SHA-512 is the slowest part of packing. The thread's code is
// given as text, so that it needs no file of its own in any build.

import { Worker } from 'node:worker_threads';

const code = `
const { parentPort } = require('node:worker_threads');
const { createHash } = require('node:crypto');
let hash;
parentPort.on('message', (m) => {
  if (m.start) hash = createHash(m.start);
  else if (m.part) { hash.update(m.part); parentPort.postMessage({ free: m.part }, [m.part.buffer]); }
  else parentPort.postMessage({ digest: hash.digest('hex') });
});`;

const partSize = 1024 * 1024;
const parts = 8;

/** One file after another: start, update…, digest. At most 8 MiB wait for the thread. */
export class HashThread {
  private readonly worker = new Worker(code, { eval: true });
  private readonly free: Uint8Array<ArrayBuffer>[] = Array.from(
    { length: parts },
    () => new Uint8Array(partSize),
  );
  private wake: (() => void) | null = null;
  private finished: ((digest: string) => void) | null = null;
  private failed: ((cause: Error) => void) | null = null;

  constructor() {
    this.worker.unref();
    this.worker.on('message', (m: { free?: Uint8Array<ArrayBuffer>; digest?: string }) => {
      if (m.free) {
        this.free.push(new Uint8Array(m.free.buffer));
        this.wake?.();
      } else if (m.digest !== undefined) this.finished?.(m.digest);
    });
    this.worker.on('error', (cause) => this.failed?.(cause));
  }

  start(algorithm: string): void {
    this.worker.postMessage({ start: algorithm });
  }

  /** Takes a copy of the bytes; waits while too many are on their way. */
  async update(bytes: Uint8Array): Promise<void> {
    for (let at = 0; at < bytes.length; at += partSize) {
      while (this.free.length === 0) await new Promise<void>((done) => (this.wake = done));
      const buffer = this.free.pop()!;
      const piece = bytes.subarray(at, at + partSize);
      buffer.set(piece);
      this.worker.postMessage({ part: buffer.subarray(0, piece.length) }, [buffer.buffer]);
    }
  }

  /** Hex digest of what was given since `start`. */
  digest(): Promise<string> {
    return new Promise((resolve, reject) => {
      this.finished = resolve;
      this.failed = reject;
      this.worker.postMessage({ end: true });
    });
  }

  async close(): Promise<void> {
    await this.worker.terminate();
  }
}
