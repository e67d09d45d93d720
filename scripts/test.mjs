// npm test: everything from a fresh clone — packages, Chromium, outside data, types, lint, unit tests, build, end-to-end tests.
// Ends with one line, `N passed, N failed` (and how many were skipped, where any were).

import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { chromiumFile } from './chromium.mjs';
import { fetchSamples } from './samples.mjs';
import { buildApp, buildCli, checkNode, install, project, run, say, stop } from './setup.mjs';

checkNode();

const isRoot = process.platform === 'linux' && process.getuid?.() === 0;
const has = (program) => spawnSync(program, ['--version'], { stdio: 'ignore' }).status === 0;
const system = { env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' } };
let fetchedLists = false;
const lists = () =>
  (fetchedLists ||=
    spawnSync('apt-get', ['update', '-qq'], { cwd: project, stdio: ['ignore', 2, 2], ...system }).status ===
    0);

// Chromium for the interface; unzip, assimp, pycollada, ffmpeg and view3dscene to check bags, readers, clips and conversions against; a PostgreSQL server for a
// server for several.
const mayInstall = isRoot && has('apt-get');
const runs = (program, ...args) => spawnSync(program, args, { stdio: 'ignore' }).status === 0;
const wanted = [
  ['chromium-headless-shell', process.env.SATCHEL_CHROMIUM || /headless/.test(chromiumFile())],
  ['unzip', runs('unzip', '-v')],
  ['assimp-utils', runs('assimp', 'version')],
  ['view3dscene', runs('tovrmlx3d', '--version')],
  ['ffmpeg', runs('ffmpeg', '-version')],
  ['postgresql', fs.existsSync('/usr/lib/postgresql')],
  ['python3-collada', runs('/usr/bin/python3', '-c', 'import collada')],
]
  .filter(([, there]) => !there)
  .map(([name]) => name);
if (!fs.existsSync(chromiumFile()) && !mayInstall)
  stop(
    "The interface tests need Chromium. Install your system's package (Debian: apt-get install chromium) or point SATCHEL_CHROMIUM to one; then run npm test again.",
  );
/** The system's packages, while npm fetches its own. */
async function installTools() {
  say(`Installing ${wanted.join(', ')} …`);
  fetchedLists = (await run('apt-get', ['update', '-qq'], system)) === 0;
  const take = (names) =>
    run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...names], system);
  // Of an older Debian only the whole one is given out.
  const older = wanted.map((name) => (name === 'chromium-headless-shell' ? 'chromium' : name));
  if ((await take(wanted)) !== 0 && (await take(older)) !== 0 && !fs.existsSync(chromiumFile()))
    stop("Chromium could not be installed from Debian's packages.");
}
if (wanted.length > 0 && mayInstall) {
  await Promise.all([install(), installTools()]);
} else await install();
if (wanted.length > 0 && !mayInstall)
  say(`Not here: ${wanted.join(', ')}; the checks against them will be counted as skipped.`);

fetchSamples(isRoot ? lists : null);

let passed = 0;
let failed = 0;
let skipped = 0;
// What failed is said again at the end: the middle of a long output is what gets cut.
const failures = [];
const node = (file, args, env = {}) =>
  run(process.execPath, [...(file.flags ?? []), path.join(project, 'node_modules', ...file.at), ...args], {
    env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1', ...env },
  });
const check = async (what, work) => {
  say(`— ${what}`);
  if ((await work()) === 0) passed++;
  else {
    failed++;
    failures.push(what);
    say(`${what}: FAILED`);
  }
};

// Colours out, the first lines of what a failed test said.
const firstLines = (messages) =>
  messages
    .join('\n')
    .replace(/\u001b\[[\d;]*m/g, '')
    .split('\n')
    .slice(0, 25)
    .map((line) => `    ${line}`)
    .join('\n');
/** The tests of a Playwright report that did not pass as they were meant to. */
const failedIn = (suites, above) =>
  suites.flatMap((suite) => [
    ...failedIn(suite.suites ?? [], [...above, suite.title]),
    ...(suite.specs ?? [])
      .filter((spec) => !spec.ok || spec.tests.some((t) => t.status === 'flaky'))
      .map((spec) => {
        const said = spec.tests.flatMap((t) =>
          t.results.flatMap((r) => r.errors.map((e) => e.message ?? '')),
        );
        return `${[...above, suite.title, spec.title].join(' › ')}\n${firstLines(said)}`;
      }),
  ]);

await Promise.all([buildCli(), buildApp()]);
/** A studio under load, and everything that goes wrong there; how quick it is stands in the output, and counts at night alone (scripts/nightly.mjs). */
const load = async () => {
  if (isRoot && fs.existsSync('/usr/lib/postgresql'))
    return check('a studio under load', () =>
      run(process.execPath, [path.join(project, 'scripts', 'load.mjs'), '--minutes', '3']),
    );
  say('A studio under load needs PostgreSQL, and root: skipped.');
  skipped++;
};
// The compiler that is quick; lint still needs the one before it.
const tsc = (config) => node({ at: ['typescript-native', 'bin', 'tsc'] }, ['-p', config, '--noEmit']);
await Promise.all([
  load(),
  check('types', async () => (await tsc('tsconfig.json')) || tsc('tsconfig.core.json')),
  check('the compiled scanner is of its source', () =>
    run(process.execPath, [path.join(project, 'scripts', 'wasm.mjs'), '--check']),
  ),
  check('lint', () => node({ at: ['eslint', 'bin', 'eslint.js'] }, ['.', '--max-warnings', '0'])).then(() =>
    check('format', () =>
      node({ at: ['prettier', 'bin', 'prettier.cjs'] }, ['--check', '--log-level', 'warn', '.']),
    ),
  ),
]);

say('— unit tests');
fs.mkdirSync(path.join(project, 'test-results'), { recursive: true });
const unitReport = path.join(project, 'test-results', 'unit.json');
fs.rmSync(unitReport, { force: true });
// A database that lives for seconds gains nothing by code that is compiled a second time, and better.
const flags = [
  '--experimental-vm-modules',
  '--no-warnings',
  '--no-wasm-tier-up',
  '--no-wasm-dynamic-tiering',
];
await node({ at: ['jest', 'bin', 'jest.js'], flags }, ['--silent', '--json', `--outputFile=${unitReport}`]);
try {
  const unit = JSON.parse(fs.readFileSync(unitReport, 'utf8'));
  passed += unit.numPassedTests;
  failed += unit.numFailedTests + unit.numRuntimeErrorTestSuites;
  skipped += unit.numPendingTests + unit.numTodoTests;
  for (const suite of unit.testResults) {
    const named = suite.assertionResults.filter((test) => test.status === 'failed');
    for (const test of named)
      failures.push(
        `${path.relative(project, suite.name)}: ${test.fullName}\n${firstLines(test.failureMessages)}`,
      );
    if (suite.status === 'failed' && named.length === 0)
      failures.push(`${path.relative(project, suite.name)}\n${firstLines([suite.message])}`);
  }
} catch {
  failed++;
}

// What is given out is what is tried: unpacked, in an empty home, with no npm and no Node.js in its path (e2e/server.ts).
const home = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-release-'));
const release = path.join(home, 'loyal-satchel');
const target = `${process.platform}-${process.arch}`;
await check('the release', async () => {
  const failed = await run(process.execPath, [
    path.join(project, 'scripts', 'release.mjs'),
    target,
    '--quick',
  ]);
  if (failed) return failed;
  const tar = await import('tar');
  fs.mkdirSync(release);
  const folder = path.join(project, 'release');
  const archive = fs.readdirSync(folder).find((f) => f.endsWith(`${target}.tar.gz`));
  await tar.x({ file: path.join(folder, archive), cwd: release, strip: 1 });
  // Too heavy to be handed to an artist: no release.
  return fs.statSync(path.join(folder, archive)).size < 150e6 ? 0 : 1;
});
say('— end-to-end tests');
const e2eReport = path.join(project, 'test-results', 'e2e.json');
fs.rmSync(e2eReport, { force: true });
await node({ at: ['@playwright', 'test', 'cli.js'] }, ['test'], {
  ...(fs.existsSync(path.join(release, 'loyal-satchel')) ? { SATCHEL_RELEASE: release } : {}),
});
fs.rmSync(home, { recursive: true, force: true });
try {
  const { stats, suites } = JSON.parse(fs.readFileSync(e2eReport, 'utf8'));
  passed += stats.expected;
  failed += stats.unexpected + stats.flaky;
  skipped += stats.skipped;
  failures.push(...failedIn(suites, []));
} catch {
  failed++;
}

if (failures.length > 0) say(`— what failed\n${failures.join('\n')}`);
console.log(`${passed} passed, ${failed} failed${skipped > 0 ? `, ${skipped} skipped` : ''}`);
process.exitCode = failed === 0 && passed > 0 ? 0 : 1;
