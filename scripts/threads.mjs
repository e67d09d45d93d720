// Before the unit tests: the server's threads are built from the present source into a folder of the tests' own.

import path from 'node:path';
import { buildThreads, project } from './setup.mjs';

export default async function threads() {
  const out = path.join(project, 'test-results', 'built');
  await buildThreads(out);
  process.env.SATCHEL_THREADS = path.join(out, 'threads');
}
