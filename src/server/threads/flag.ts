// Memory that a thread shares with the one that answers requests: whether its work is cancelled, and how many batches of rows are stored. Read
// without waiting for a message, so that work which never yields sees it, too.

import type { CancelSignal } from '@/core/files/fileTree';

/** Places in the shared memory. */
const [cancelled, sent, stored, threadOf] = [0, 1, 2, 3];

/** So many batches may be on their way before the thread waits. */
const mostUnderWay = 4;

/** An index that stores nothing for so long has failed. */
const storesWithin = 10 * 60_000; // ms

/** Both sides of a thread's shared memory. */
export class Flag {
  private readonly cells: Int32Array;

  constructor(readonly memory = new SharedArrayBuffer(4 * Int32Array.BYTES_PER_ELEMENT)) {
    this.cells = new Int32Array(memory);
  }

  cancel(): void {
    Atomics.store(this.cells, cancelled, 1);
    Atomics.notify(this.cells, stored);
  }

  get isCancelled(): boolean {
    return Atomics.load(this.cells, cancelled) === 1;
  }

  /** Which thread works; 0: none has begun. */
  get thread(): number {
    return Atomics.load(this.cells, threadOf);
  }

  set thread(id: number) {
    Atomics.store(this.cells, threadOf, id);
  }

  /** Counts a batch that goes out; waits, in the thread, while too many are on their way. */
  beforeBatch(): void {
    Atomics.add(this.cells, sent, 1);
    this.waitUntil(mostUnderWay);
  }

  /** Waits, in the thread, until all that went out is stored. */
  allStored(): void {
    this.waitUntil(0);
  }

  /** Counts a batch as stored. */
  batchStored(): void {
    Atomics.add(this.cells, stored, 1);
    Atomics.notify(this.cells, stored);
  }

  /** Throws where no batch was stored for ten minutes. */
  private waitUntil(most: number): void {
    for (let last = -1, since = Date.now(); ;) {
      const done = Atomics.load(this.cells, stored);
      if (this.isCancelled || Atomics.load(this.cells, sent) - done <= most) return;
      if (done !== last) [last, since] = [done, Date.now()];
      if (Date.now() - since > storesWithin)
        throw new Error(
          `The index has stored nothing for ${storesWithin / 60_000} minutes; ${Atomics.load(this.cells, sent) - done} batches wait for it.`,
        );
      Atomics.wait(this.cells, stored, done, 1000);
    }
  }
}

/** A flag as the signal that work asks. */
export function signalOf(flag: Flag): CancelSignal {
  return {
    get aborted() {
      return flag.isCancelled;
    },
    throwIfAborted() {
      if (flag.isCancelled) throw new DOMException('The work was cancelled.', 'AbortError');
    },
  };
}
