// npm test: whether it works here, in minutes, from a fresh clone: types, lint, format, every unit test in its short form, one end-to-end journey a page
// and one of a studio. `npm run test:deep` holds the rest. Ends with one line, `N passed, N failed` (and how many were skipped, where any were).

import path from 'node:path';
import { run } from './children.mjs';
import { buildApp, buildCli, checkNode, install, project } from './setup.mjs';
import { installSystemPackages, Tally } from './tally.mjs';

checkNode();
const tally = new Tally('test');
const samples = () =>
  run(process.execPath, [path.join(project, 'scripts', 'samples.mjs')], {
    seconds: 600,
    what: 'fetching sample files',
  });
await tally.phase('packages and sample files', () =>
  Promise.all([
    install({ tools: true }),
    installSystemPackages(['chromium-headless-shell', 'postgresql', 'unzip']).then(samples),
  ]),
);
await tally.phase('build', () => Promise.all([buildCli(), buildApp()]));

/** Runs a program of the development packages; `usual`: the seconds it takes. */
const node = (usual, at, ...args) =>
  run(process.execPath, [path.join(project, 'node_modules', ...at), ...args], {
    seconds: usual * 3,
    what: at[0],
    env: { ...process.env, SATCHEL_DEPTH: 'short' },
  });
// The quick compiler; lint still needs the one before it.
const tsc = (config) => node(60, ['typescript-native', 'bin', 'tsc'], '-p', config, '--noEmit');
await Promise.all([
  tally
    .check('types', async () => (await tsc('tsconfig.json')) || tsc('tsconfig.core.json'))
    .then(() =>
      tally.check('format', () =>
        node(60, ['prettier', 'bin', 'prettier.cjs'], '--check', '--log-level', 'warn', '.'),
      ),
    )
    .then(() =>
      tally.check('the compiled scanner is up to date with its source', () =>
        run(process.execPath, [path.join(project, 'scripts', 'wasm.mjs'), '--check'], {
          seconds: 60,
          what: 'wasm.mjs',
        }),
      ),
    ),
  tally.check('lint', () => node(120, ['eslint', 'bin', 'eslint.js'], '.', '--max-warnings', '0')),
]);
await tally.unit('unit tests', [], { usual: 400 });
await tally.endToEnd('end-to-end tests', ['--grep', '@quick'], {
  usual: 300,
  env: { SATCHEL_DEPTH: 'short' },
});
tally.close();
