// npm start: the application with your own folders, on 127.0.0.1. Data lies in the system's usual folder, or where SATCHEL_DATA says.

import path from 'node:path';
import { entryTo, newKey, openInBrowser } from '../bin/serving.mjs';
import { buildApp, buildCli, checkNode, freePort, install, project, run, say, serve } from './setup.mjs';

checkNode();
await install();
await buildCli();
if (process.argv.includes('--dev')) {
  const [key, port] = [newKey(), await freePort(Number(process.env.PORT ?? 3000))];
  say(`Once it is ready: ${entryTo(`http://127.0.0.1:${port}`, key)}`);
  process.exit(
    await run(
      process.execPath,
      [
        path.join(project, 'node_modules', 'next', 'dist', 'bin', 'next'),
        'dev',
        '-H',
        '127.0.0.1',
        '-p',
        String(port),
      ],
      {
        seconds: Infinity,
        env: { ...process.env, SATCHEL_KEY: key, NEXT_TELEMETRY_DISABLED: '1' },
      },
    ),
  );
}
await buildApp();
const { entry, ended } = await serve(await freePort(Number(process.env.PORT ?? 4680)), {});
console.log(`Loyal Satchel is ready at ${entry}`);
await openInBrowser(entry);
say('Stop it with Ctrl+C.');
process.exitCode = await ended;
