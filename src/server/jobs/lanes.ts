// The threads in which jobs run: so many one-thread pools. A job on a workspace goes to the thread that worked on it last, since that one
// remembers what it read there.

import { MessageChannel } from 'node:worker_threads';
import { workMessage, type WorkMessage, type WorkOrder } from '@/wire/jobs';
import { Flag } from '../threads/flag';
import { shapeOfError } from '../errorShape';
import { openPool, type Pool } from '../threads/pool';
import type { ConfirmAnswer, WorkEnd, WorkTask } from '../threads/work.thread';

interface Lane {
  pool: Pool<WorkTask, WorkEnd>;
  isBusy: boolean;
  workspace: string | null;
}

/** Work under way in a thread. */
export interface Run {
  /** Rejects where the thread ended before its work: by itself, or since `kill` was called. */
  end: Promise<WorkEnd>;
  cancel(): void;
  /** Ends the thread wherever it is. */
  kill(): void;
  /** The thread's number while it lives; 0: it has not begun. */
  thread(): number;
}

export class Lanes {
  private readonly lanes: Lane[];

  constructor(count: number) {
    this.lanes = Array.from({ length: count }, (_, i) => ({
      // The first keeps what it read for as long as somebody may come back to it.
      pool: openPool<WorkTask, WorkEnd>('work', { most: 1, idle: i === 0 ? 30 * 60_000 : 60_000 }),
      isBusy: false,
      workspace: null,
    }));
  }

  /** How many threads have nothing to do. */
  get free(): number {
    return this.lanes.filter((l) => !l.isBusy).length;
  }

  /** Starts work in a free thread. `onMessage` may take its time: a thread waits once too many batches of rows are on their way. */
  start(
    order: WorkOrder,
    of: { workspace: string | null } & Pick<WorkTask, 'parts' | 'allowed' | 'changeable' | 'by'>,
    onMessage: (m: WorkMessage) => Promise<void>,
    /** Whether the work is still this machine's; absent: no other can take it over. */
    confirm?: () => Promise<boolean>,
  ): Run {
    const free = this.lanes.filter((l) => !l.isBusy);
    const lane =
      free.find((l) => l.workspace !== null && l.workspace === of.workspace) ??
      free.find((l) => l.workspace === null) ??
      free[0];
    if (!lane) throw new Error('every thread has work');
    lane.isBusy = true;
    lane.workspace = of.workspace ?? lane.workspace;
    const flag = new Flag();
    const { port1, port2 } = new MessageChannel();
    let failure: unknown = null;
    let handled: Promise<void> = Promise.resolve();
    port1.on('message', (raw: unknown) => {
      const m = workMessage.parse(raw);
      if (m.say === 'confirm') {
        void Promise.resolve(confirm?.() ?? true).then(
          (isOurs) => port1.postMessage({ isOurs } satisfies ConfirmAnswer),
          (cause: unknown) => port1.postMessage({ error: shapeOfError(cause) } satisfies ConfirmAnswer),
        );
        return;
      }
      handled = handled
        .then(() => (failure === null ? onMessage(m) : undefined))
        .catch((cause: unknown) => {
          failure ??= cause;
          flag.cancel();
        })
        .then(() => (m.say === 'rows' ? flag.batchStored() : undefined));
    });
    const stop = new AbortController();
    const { parts, allowed, changeable, by } = of;
    const task: WorkTask = {
      order,
      parts,
      allowed,
      changeable,
      by,
      confirms: confirm !== undefined,
      memory: flag.memory,
      port: port2,
    };
    const end = lane.pool
      .run(task, { transfer: [port2], signal: stop.signal })
      .finally(() => (lane.isBusy = false))
      .then(async (ended) => {
        await handled;
        return failure === null ? ended : { error: shapeOfError(failure) };
      })
      .finally(() => port1.close());
    return { end, cancel: () => flag.cancel(), kill: () => stop.abort(), thread: () => flag.thread };
  }

  async close(): Promise<void> {
    await Promise.all(this.lanes.map((l) => l.pool.close()));
  }
}
