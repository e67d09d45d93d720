// Entry of the built command line.

import { fileURLToPath } from 'node:url';
import { main } from './main';

// The code of threads lies beside this file, wherever it is called from.
process.env.SATCHEL_THREADS ??= fileURLToPath(new URL('./threads', import.meta.url));

process.exitCode = await main(process.argv.slice(2)).catch((cause: unknown) => {
  process.stderr.write(
    `Something unexpected went wrong; this is a fault of Loyal Satchel.\n${cause instanceof Error ? cause.stack : String(cause)}\n`,
  );
  return 2 as const;
});
