// Entry of the built command line.

import { main } from './main';

process.exitCode = await main(process.argv.slice(2)).catch((cause: unknown) => {
  process.stderr.write(
    `Something unexpected went wrong; this is a fault of Loyal Satchel.\n${cause instanceof Error ? cause.stack : String(cause)}\n`,
  );
  return 2 as const;
});
