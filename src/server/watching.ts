// Watches folders of workspaces, in a thread of their own.

import { MessageChannel } from 'node:worker_threads';
import type { WatchTask } from './threads/watch.thread';
import { openPool, type Pool } from './threads/pool';

let pool: Pool<WatchTask, void> | null = null;

/** Tells when something below a folder has changed, once it has been quiet for a moment, and when that was heard of (ms since 1970). Told as well once the watch stands, since nobody saw what was before; a thread that dies is replaced. */
export function keepWatching(root: string, changed: (heard: number) => void): { close(): void } {
  pool ??= openPool('watch', { most: 1, together: 10_000, idle: 30_000 });
  const { port1, port2 } = new MessageChannel();
  let current = port1;
  let isClosed = false;
  function begin(here: typeof port1, there: typeof port2): void {
    current = here;
    here.on('message', changed);
    here.unref();
    pool!.run({ root, port: there }, { transfer: [there] }).then(
      () => undefined,
      () => {
        if (isClosed) return;
        setTimeout(() => {
          if (isClosed || pool === null) return;
          const again = new MessageChannel();
          begin(again.port1, again.port2);
        }, 1000).unref();
      },
    );
  }
  begin(port1, port2);
  return {
    close() {
      isClosed = true;
      current.close();
    },
  };
}

/** Ends the thread. */
export async function endWatching(): Promise<void> {
  const ending = pool;
  pool = null;
  await ending?.close();
}
