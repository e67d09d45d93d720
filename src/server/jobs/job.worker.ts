// A work thread: takes one order, says how it goes, ends.

import { parentPort, workerData } from 'node:worker_threads';
import { workOrder, type WorkMessage } from '@/wire/jobs';
import { carryOut, shapeOfError } from './work';

const port = parentPort!;
const cancel = new AbortController();
port.on('message', (m: unknown) => {
  if (m === 'cancel') cancel.abort();
});
const say = (message: WorkMessage) => port.postMessage(message);

carryOut(workOrder.parse(workerData), cancel.signal, say)
  .then((result) => say({ say: 'done', result }), (cause: unknown) => say({ say: 'failed', error: shapeOfError(cause) }))
  .finally(() => port.close());
