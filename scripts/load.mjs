// A studio under load (bench/load/studio.ts): `node scripts/load.mjs --minutes 30 --strict`. Needs the build of today and Debian's PostgreSQL; ends with the status of what
// was found wrong.

import path from 'node:path';
import { buildApp, buildCli, bundled, checkNode, install, project, run } from './setup.mjs';

checkNode();
await install();
await buildCli();
await buildApp();
const { build } = await import('esbuild');
const outfile = path.join(project, 'dist', 'load.mjs');
await build({ ...bundled, entryPoints: ['bench/load/studio.ts'], outfile });
// It ends itself when its time is over (bench/load/studio.ts).
process.exitCode = await run(process.execPath, [outfile, ...process.argv.slice(2)], {
  seconds: Infinity,
  what: 'the load',
});
