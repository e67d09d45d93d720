// Small pictures of files, from threads of their own: two at a time, each for so long; one that takes longer loses its thread, and the next goes on in
// a new one.

import pLimit from 'p-limit';
import { AppError } from '@/core/errors';
import { openPool, type Pool } from '../threads/pool';
import type { PictureEnd } from '../threads/decode.thread';
import type { PictureTask } from './picture';

const atOnce = 2;
const patience = 20_000; // ms
// A picture's pixels lie outside of this; what a decoder's own lists and texts take lies in it.
const megabytes = 512;

// In a build, modules are not shared between routes: one pool for all of them.
const held = globalThis as { satchelPictures?: Pictures };
interface Pictures {
  pool: Pool<PictureTask, PictureEnd>;
  turn: ReturnType<typeof pLimit>;
}

function pictures(): Pictures {
  return (held.satchelPictures ??= {
    pool: openPool('decode', { most: atOnce, megabytes }),
    turn: pLimit(atOnce),
  });
}

/** A picture of the file at an absolute path that is allowed, at most `side` pixels a side. Throws AppError('unsupported') where there is none. */
export async function thumbnail(
  path: string,
  allowed: PictureTask['allowed'],
  side = 640,
  limit = patience,
  use?: PictureTask['use'],
): Promise<Response> {
  const { pool, turn } = pictures();
  const ended = await turn(() =>
    pool.run({ path, allowed, side, use }, { signal: AbortSignal.timeout(limit) }).catch(() => {
      throw new AppError('unsupported', 'There is no picture of this file: making it takes too long.');
    }),
  );
  if ('why' in ended) throw new AppError(ended.code, ended.why);
  return new Response(new Uint8Array(ended.picture), {
    headers: {
      'content-type': use === 'frame' ? 'image/jpeg' : 'image/webp',
      'cache-control': 'private, max-age=60',
    },
  });
}

/** Ends the threads. */
export async function closePictures(): Promise<void> {
  await held.satchelPictures?.pool.close();
  held.satchelPictures = undefined;
}
