// npm run demo: installs, builds, makes the demo scenario and serves it on 127.0.0.1. A second start finds all of it done.
// Its data is in demo-data/ in this folder; `npm run demo -- --fresh` makes the scenario anew (the old one is moved aside).

import fs from 'node:fs';
import path from 'node:path';
import { openInBrowser } from '../bin/serving.mjs';
import {
  buildApp,
  buildCli,
  checkNode,
  freePort,
  install,
  project,
  run,
  say,
  serve,
  stop,
} from './setup.mjs';

checkNode();
await install();
const data = process.env.SATCHEL_DEMO_DATA ?? path.join(project, 'demo-data');
const scenario = path.join(data, 'harbour-lantern');
if (process.argv.includes('--fresh') && fs.existsSync(data)) {
  const aside = `${data}-${new Date().toISOString().replace(/[:.]/g, '-')}`;
  fs.renameSync(data, aside);
  say(`The old demo data was moved to ${aside}.`);
}

// There while the scenario is made: one that was broken off is made anew, never taken for a whole one.
const unfinished = `${scenario}.unfinished`;

async function makeScenario() {
  if (fs.existsSync(unfinished)) fs.rmSync(scenario, { recursive: true, force: true });
  if (fs.existsSync(scenario)) return;
  say('Making the demo scenario “Harbour Lantern” …');
  fs.mkdirSync(data, { recursive: true });
  fs.writeFileSync(unfinished, '');
  const status = await run(process.execPath, [path.join(project, 'dist', 'make-demo.mjs'), scenario], {
    seconds: 120,
    what: 'making the demo scenario',
    stdio: ['ignore', 'ignore', 2],
  });
  if (status !== 0) stop('The demo scenario could not be made; the reason is above.');
  fs.rmSync(unfinished);
}

await Promise.all([buildCli().then(makeScenario), buildApp()]);
const { entry, ended } = await serve(await freePort(Number(process.env.PORT ?? 4680)), {
  SATCHEL_DATA: path.join(data, 'app'),
  SATCHEL_DEMO: scenario,
});
console.log(`\nLoyal Satchel is ready at ${entry}\nThe demo's files are in ${scenario}\n`);
await openInBrowser(entry);
say('Stop it with Ctrl+C.');
process.exitCode = await ended;
