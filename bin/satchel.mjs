#!/usr/bin/env node
// Starts the command line, building it first when it is not of the present source.

import path from 'node:path';
import { pathToFileURL } from 'node:url';
import { buildCli, checkNode, install, project } from '../scripts/setup.mjs';

checkNode();
await install();
await buildCli();
await import(pathToFileURL(path.join(project, 'dist', 'satchel.mjs')).href);
