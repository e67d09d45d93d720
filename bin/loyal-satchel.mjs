#!/usr/bin/env node
// Starts the application as it was given out: built, with all it needs beside it. Nothing is built or fetched here.

import fs from 'node:fs';
import { createRequire } from 'node:module';
import path from 'node:path';
import { parseArgs } from 'node:util';
import { answers, entryTo, freePortFrom, newKey, openInBrowser, serverEnv, tooOld } from './serving.mjs';

const home = path.resolve(import.meta.dirname, '..');
const usage = `loyal-satchel [--port N] [--data FOLDER] [--no-open]

Starts Loyal Satchel on this machine (127.0.0.1) and opens it in your browser. Stop it with Ctrl+C.

  --port N       the first port to try (4680)
  --data FOLDER  where settings and the index are kept, instead of the system's usual folder
  --no-open      do not open the browser; the address is printed
  --version      the version
`;
const leave = (text, status) => {
  (status === 0 ? process.stdout : process.stderr).write(text.endsWith('\n') ? text : `${text}\n`);
  process.exit(status);
};

let values;
try {
  ({ values } = parseArgs({
    options: {
      port: { type: 'string' },
      data: { type: 'string' },
      'no-open': { type: 'boolean' },
      version: { type: 'boolean' },
      help: { type: 'boolean', short: 'h' },
    },
  }));
} catch (cause) {
  leave(`${cause.message}\n\n${usage}`, 2);
}
const { version } = JSON.parse(fs.readFileSync(path.join(home, 'package.json'), 'utf8'));
if (values.help) leave(usage, 0);
if (values.version) leave(version, 0);
const old = tooOld();
if (old !== null) leave(old, 2);
const settings = path.join(home, '.next', 'required-server-files.json');
if (!fs.existsSync(settings))
  leave('This copy of Loyal Satchel is not whole: the built application is missing. Unpack it again.', 2);
const first = values.port === undefined ? 4680 : Number(values.port);
if (!Number.isInteger(first) || first < 1 || first > 65_485) leave('--port takes a number, such as 4680.', 2);
// A server for several is where its proxy looks for it; one's own may move on.
const isStudio = process.env.SATCHEL_MODE === 'studio';
const port = await freePortFrom(first, isStudio ? 1 : 50);
if (port === null)
  leave(isStudio ? `Port ${first} is taken.` : `No free port between ${first} and ${first + 49}.`, 2);

// One that is given is for tests, which bring it themselves.
const key = process.env.SATCHEL_KEY ?? newKey();
const { config } = JSON.parse(fs.readFileSync(settings, 'utf8'));
Object.assign(process.env, {
  ...serverEnv(key),
  SATCHEL_THREADS: path.join(home, 'dist', 'threads'),
  __NEXT_PRIVATE_STANDALONE_CONFIG: JSON.stringify(config),
  ...(values.data === undefined ? {} : { SATCHEL_DATA: path.resolve(values.data) }),
});
process.chdir(home);
const require = createRequire(import.meta.url);
const { startServer } = require('next/dist/server/lib/start-server');
await startServer({
  dir: home,
  isDev: false,
  config,
  hostname: '127.0.0.1',
  port,
  allowRetry: false,
});
const address = `http://127.0.0.1:${port}`;
if (!(await answers(address, key))) leave('The server did not answer within a minute.', 2);
const entry = isStudio
  ? `${process.env.SATCHEL_ORIGIN.split(/[\s,]+/)[0]} (by ${address})`
  : entryTo(address, key);
console.log(`Loyal Satchel is ready at ${entry}`);
if (!values['no-open'] && !isStudio) await openInBrowser(entry);
console.error('Stop it with Ctrl+C.');
