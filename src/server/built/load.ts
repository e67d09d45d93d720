// Loads the built server code (src/server/main.ts) at run time. Routes, the proxy and the start hook get the same module instance.

import path from 'node:path';
import { pathToFileURL } from 'node:url';
import { threadsFolder } from './folder';

/** The built server. Rejects where its file is missing. */
export const builtServer = () =>
  import(/* turbopackIgnore: true */ pathToFileURL(path.join(threadsFolder(), 'server.mjs')).href) as Promise<
    typeof import('../main')
  >;

/** Loads the built server and starts it. A failure ends the process: a start hook that throws would leave a server that answers 500 to everything. */
export async function startBuiltServer(): Promise<void> {
  try {
    await (await builtServer()).startUp();
  } catch (cause) {
    console.error('Loyal Satchel is incomplete here: its server code could not be loaded.', cause);
    process.exit(3);
  }
}
