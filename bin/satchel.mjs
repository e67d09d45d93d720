#!/usr/bin/env node
// Starts the command line. From a checkout it is built first when it is not of the present source; as it was given out, it is there.

import fs from 'node:fs';
import path from 'node:path';
import { pathToFileURL } from 'node:url';

const home = path.resolve(import.meta.dirname, '..');
const setup = path.join(home, 'scripts', 'setup.mjs');
if (fs.existsSync(setup)) {
  const { buildCli, checkNode, install } = await import(pathToFileURL(setup).href);
  checkNode();
  await install();
  await buildCli();
}
await import(pathToFileURL(path.join(home, 'dist', 'satchel.mjs')).href);
