// npm run fuzz: 200,000 damaged files over all formats (SATCHEL_FUZZ says how many, SATCHEL_FUZZ_SEED which).

import path from 'node:path';
import { fetchSamples } from './samples.mjs';
import { project, run } from './setup.mjs';

fetchSamples(null);
process.exitCode = await run(
  process.execPath,
  [
    '--experimental-vm-modules',
    '--no-warnings',
    path.join(project, 'node_modules', 'jest', 'bin', 'jest.js'),
    'src/core/formats/fuzz',
  ],
  { env: { SATCHEL_FUZZ: '200000', ...process.env }, seconds: 3 * 3600, what: 'fuzzing' },
);
