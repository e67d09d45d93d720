// A work thread: takes one order after another, says how each goes.

import { parentPort } from 'node:worker_threads';
import { workOrder, type WorkMessage } from '@/wire/jobs';
import { carryOut } from './work';
import { shapeOfError } from '../errorShape';

const port = parentPort!;
let cancel = new AbortController();
const say = (message: WorkMessage) => port.postMessage(message);

port.on('message', (m: unknown) => {
  if (m === 'cancel') {
    cancel.abort();
    return;
  }
  cancel = new AbortController();
  const { signal } = cancel;
  Promise.resolve()
    .then(() => carryOut(workOrder.parse(m), signal, say))
    .then(
      (result) => say({ say: 'done', result }),
      (cause: unknown) => say({ say: 'failed', error: shapeOfError(cause) }),
    );
});
