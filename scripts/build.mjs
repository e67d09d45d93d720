// npm run build: packages, the command line, the application.

import { buildApp, buildCli, checkNode, install } from './setup.mjs';

checkNode();
await install();
await buildCli();
await buildApp();
