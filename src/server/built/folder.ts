// The folder of the built server code: one file per thread, and server.mjs, which the pages' framework loads (scripts/setup.mjs, dist/threads).

import path from 'node:path';

/** An absolute path. The command line and a release set SATCHEL_THREADS; a checkout runs in its own folder. */
export const threadsFolder = () =>
  process.env.SATCHEL_THREADS ?? path.join(/*turbopackIgnore: true*/ process.cwd(), 'dist', 'threads');
