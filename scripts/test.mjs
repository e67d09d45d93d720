// npm test: everything from a fresh clone — packages, Chromium, outside data, types, lint, unit tests, build, end-to-end tests.
// Ends with one line, `N passed, N failed` (and how many were skipped, where any were).

import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import { fetchSamples } from './samples.mjs';
import { buildApp, buildCli, checkNode, install, project, run, say, stop } from './setup.mjs';

checkNode();
await install();

const isRoot = process.platform === 'linux' && process.getuid?.() === 0;
const has = (program) => spawnSync(program, ['--version'], { stdio: 'ignore' }).status === 0;
const apt = (args, cwd) =>
  spawnSync('apt-get', args, {
    cwd,
    stdio: ['ignore', 2, 2],
    env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
  }).status === 0;
let fetchedLists = false;
const lists = () => (fetchedLists ||= apt(['update', '-qq'], project));

// Chromium for the interface; unzip, assimp and pycollada to check bags and readers against.
const chromium = process.env.SATCHEL_CHROMIUM ?? '/usr/bin/chromium';
const mayInstall = isRoot && has('apt-get');
const runs = (program, ...args) => spawnSync(program, args, { stdio: 'ignore' }).status === 0;
const wanted = [
  ['chromium', fs.existsSync(chromium)],
  ['unzip', runs('unzip', '-v')],
  ['assimp-utils', runs('assimp', 'version')],
  ['python3-collada', runs('/usr/bin/python3', '-c', 'import collada')],
]
  .filter(([, there]) => !there)
  .map(([name]) => name);
if (wanted.includes('chromium') && !mayInstall)
  stop(
    "The interface tests need Chromium. Install your system's package (Debian: apt-get install chromium) or point SATCHEL_CHROMIUM to one; then run npm test again.",
  );
if (wanted.length > 0 && mayInstall) {
  say(`Installing ${wanted.join(', ')} …`);
  lists();
  if (
    !apt(['install', '-y', '-qq', '--no-install-recommends', ...wanted], project) &&
    !fs.existsSync(chromium)
  )
    stop("Chromium could not be installed from Debian's packages.");
} else if (wanted.length > 0)
  say(`Not here: ${wanted.join(', ')}; the checks against them will be counted as skipped.`);

fetchSamples(isRoot ? lists : null);

let passed = 0;
let failed = 0;
let skipped = 0;
const node = (file, args, env = {}) =>
  run(process.execPath, [...(file.flags ?? []), path.join(project, 'node_modules', ...file.at), ...args], {
    env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1', ...env },
  });
const check = async (what, work) => {
  say(`— ${what}`);
  if ((await work()) === 0) passed++;
  else {
    failed++;
    say(`${what}: FAILED`);
  }
};

await buildCli();
await check(
  'types',
  async () =>
    (await node({ at: ['typescript', 'bin', 'tsc'] }, ['-p', 'tsconfig.json', '--noEmit'])) ||
    node({ at: ['typescript', 'bin', 'tsc'] }, ['-p', 'tsconfig.core.json', '--noEmit']),
);
await check('the compiled scanner is of its source', () =>
  run(process.execPath, [path.join(project, 'scripts', 'wasm.mjs'), '--check']),
);
await check('format', () =>
  node({ at: ['prettier', 'bin', 'prettier.cjs'] }, ['--check', '--log-level', 'warn', '.']),
);
await check('lint', () => node({ at: ['eslint', 'bin', 'eslint.js'] }, ['.', '--max-warnings', '0']));

say('— unit tests');
fs.mkdirSync(path.join(project, 'test-results'), { recursive: true });
const unitReport = path.join(project, 'test-results', 'unit.json');
fs.rmSync(unitReport, { force: true });
await node({ at: ['jest', 'bin', 'jest.js'], flags: ['--experimental-vm-modules', '--no-warnings'] }, [
  '--silent',
  '--json',
  `--outputFile=${unitReport}`,
]);
try {
  const unit = JSON.parse(fs.readFileSync(unitReport, 'utf8'));
  passed += unit.numPassedTests;
  failed += unit.numFailedTests + unit.numRuntimeErrorTestSuites;
  skipped += unit.numPendingTests + unit.numTodoTests;
} catch {
  failed++;
}

await buildApp();
say('— end-to-end tests');
const e2eReport = path.join(project, 'test-results', 'e2e.json');
fs.rmSync(e2eReport, { force: true });
await node({ at: ['@playwright', 'test', 'cli.js'] }, ['test'], { SATCHEL_CHROMIUM: chromium });
try {
  const { stats } = JSON.parse(fs.readFileSync(e2eReport, 'utf8'));
  passed += stats.expected;
  failed += stats.unexpected + stats.flaky;
  skipped += stats.skipped;
} catch {
  failed++;
}

console.log(`${passed} passed, ${failed} failed${skipped > 0 ? `, ${skipped} skipped` : ''}`);
process.exitCode = failed === 0 && passed > 0 ? 0 : 1;
