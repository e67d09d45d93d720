// Small pictures of files, from threads of their own: two at a time, each for so long; one that takes longer loses its thread, and the next goes on in
// a new one.

import { runPatiently } from '../threads/patient';
import type { PictureTask } from './picture';

const patience = 20_000; // ms
const options = {
  atOnce: 2,
  // A picture's pixels lie outside of this; what a decoder's own lists and texts take lies in it.
  megabytes: 512,
  tooLong: 'There is no picture of this file: making it takes too long.',
};

/** A picture of the file at an absolute path that is allowed, at most `side` pixels a side. Throws AppError('unsupported') where there is none. */
export async function thumbnail(
  path: string,
  allowed: PictureTask['allowed'],
  side = 640,
  limit = patience,
  use?: PictureTask['use'],
): Promise<Response> {
  const task = { path, allowed, side, use };
  const ended = await runPatiently<PictureTask, { picture: Uint8Array }>('decode', options, task, limit);
  return new Response(new Uint8Array(ended.picture), {
    headers: {
      'content-type': use === 'frame' ? 'image/jpeg' : 'image/webp',
      'cache-control': 'private, max-age=60',
    },
  });
}
