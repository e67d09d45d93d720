// The thread that watches folders, all of them: on a share that does not answer it waits, and nobody else does.

import type { MessagePort } from 'node:worker_threads';
import { lookAtFolder } from '../disk/look';
import { currentShares, shareOf } from '../disk/shares';
import { watchFolder } from '../disk/watch';

/** `port`: told each change by when it was heard of (ms since 1970); the watch ends with it. */
export interface WatchTask {
  root: string;
  port: MessagePort;
}

export default function watch({ root, port }: WatchTask): Promise<void> {
  return new Promise((done) => {
    const changed = (heard = Date.now()) => port.postMessage(heard);
    let looking: { close(): void } | null = null;
    const look = () => (looking ??= lookAtFolder(root, changed));
    // What others do on a share no system tells.
    if (shareOf(root, currentShares(), process.platform) !== null) look();
    const watching = watchFolder(root, changed, look);
    // What happened before nobody saw: while the server was not there, or this thread. Who looks tells that after the first look.
    if (!looking) changed();
    port.on('close', () => {
      watching.close();
      looking?.close();
      done();
    });
  });
}
