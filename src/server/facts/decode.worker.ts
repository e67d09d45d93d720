// A thread that decodes pictures: a large one takes seconds, in which the server goes on answering.

import fs from 'node:fs';
import { parentPort } from 'node:worker_threads';
import { decodePicture } from './decode';

parentPort!.on('message', ({ n, file, format }: { n: number; file: string; format: string }) => {
  Promise.resolve()
    .then(() => decodePicture(format, new Uint8Array(fs.readFileSync(file))))
    .then(
      (raw) => parentPort!.postMessage({ n, raw }),
      (cause: unknown) => parentPort!.postMessage({ n, error: String(cause) }),
    );
});
