// npm run demo: installs, builds, makes the demo scenario and serves it on 127.0.0.1. A second start finds all of it done.
// Data lies in demo-data/ in this folder; `npm run demo -- --fresh` makes the scenario anew (the old one is moved aside).

import { execFileSync } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import { openInBrowser } from '../bin/serving.mjs';
import { buildApp, buildCli, checkNode, freePort, install, project, say, serve } from './setup.mjs';

checkNode();
await install();
await buildCli();
await buildApp();
const data = process.env.SATCHEL_DEMO_DATA ?? path.join(project, 'demo-data');
const scenario = path.join(data, 'harbour-lantern');
if (process.argv.includes('--fresh') && fs.existsSync(data)) {
  const aside = `${data}-${new Date().toISOString().replace(/[:.]/g, '-')}`;
  fs.renameSync(data, aside);
  say(`The old demo data was moved to ${aside}.`);
}
if (!fs.existsSync(scenario)) {
  say('Making the demo scenario “Harbour Lantern” …');
  fs.mkdirSync(data, { recursive: true });
  execFileSync(process.execPath, [path.join(project, 'dist', 'make-demo.mjs'), scenario], {
    stdio: ['ignore', 'ignore', 'inherit'],
  });
}
const { entry, ended } = await serve(await freePort(Number(process.env.PORT ?? 4680)), {
  SATCHEL_DATA: path.join(data, 'app'),
  SATCHEL_DEMO: scenario,
});
console.log(`\nLoyal Satchel is ready at ${entry}\nThe demo's files lie in ${scenario}\n`);
await openInBrowser(entry);
say('Stop it with Ctrl+C.');
process.exitCode = await ended;
