// What the test commands have in common: phases with their seconds, checks, reports of Jest and Playwright, and the closing lines.

import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import { chromiumFile } from './chromium.mjs';
import { project, run, say, stop } from './setup.mjs';

const results = path.join(project, 'test-results');
export const isRoot = process.platform === 'linux' && process.getuid?.() === 0;
const apt = { env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' } };
const has = (program, ...args) => spawnSync(program, args, { stdio: 'ignore' }).status === 0;

/** Debian packages the tests use, each with whether it is here. */
const systemPackages = {
  'chromium-headless-shell': () => process.env.SATCHEL_CHROMIUM || /headless/.test(chromiumFile()),
  postgresql: () => fs.existsSync('/usr/lib/postgresql'),
  unzip: () => has('unzip', '-v'),
  'assimp-utils': () => has('assimp', 'version'),
  view3dscene: () => has('tovrmlx3d', '--version'),
  ffmpeg: () => has('ffmpeg', '-version'),
  'python3-collada': () => has('/usr/bin/python3', '-c', 'import collada'),
};

let fetchedLists = false;
/** Fetches the package lists once; false where that failed. */
export async function fetchLists() {
  return (fetchedLists ||=
    (await run('apt-get', ['update', '-qq'], { ...apt, seconds: 180, what: 'apt-get update' })) === 0);
}

/** Installs those of the named system packages that are missing, where this account may; the others are counted as skipped by the tests that need them. */
export async function installSystemPackages(names) {
  const wanted = names.filter((name) => !systemPackages[name]());
  const mayInstall = isRoot && has('apt-get', '--version');
  if (wanted.length > 0 && mayInstall) {
    say(`Installing ${wanted.join(', ')} …`);
    await fetchLists();
    const take = (some) =>
      run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...some], {
        ...apt,
        stdio: ['ignore', 'ignore', 2],
        seconds: 600,
        what: 'apt-get install',
      });
    // An older Debian has only the whole Chromium.
    const older = wanted.map((name) => (name === 'chromium-headless-shell' ? 'chromium' : name));
    if ((await take(wanted)) !== 0) await take(older);
  } else if (wanted.length > 0)
    say(`Not here: ${wanted.join(', ')}. The checks that need them are counted as skipped.`);
  if (!fs.existsSync(chromiumFile()))
    stop(
      "The interface tests need Chromium. Install your system's package (Debian: apt-get install chromium) or point SATCHEL_CHROMIUM to one; then run the command again.",
    );
}

const firstLines = (messages) =>
  messages
    .join('\n')
    .replace(/\u001b\[[\d;]*m/g, '')
    .split('\n')
    .slice(0, 25)
    .map((line) => `    ${line}`)
    .join('\n');

/** All tests of a Playwright report, with the names of the suites above them. */
const specsIn = (suites, above = []) =>
  suites.flatMap((suite) => [
    ...specsIn(suite.suites ?? [], [...above, suite.title]),
    ...(suite.specs ?? []).map((spec) => ({
      ...spec,
      title: [...above, suite.title, spec.title].join(' › '),
    })),
  ]);

/** Counts, failures and times of one run of a test command. */
export class Tally {
  passed = 0;
  failed = 0;
  skipped = 0;
  failures = [];
  phases = [];
  tests = [];
  begun = performance.now();

  constructor(name) {
    this.name = name;
    fs.mkdirSync(results, { recursive: true });
  }

  /** Does work as a phase of this name, whose seconds are reported at the end. */
  async phase(name, work) {
    const begun = performance.now();
    say(`— ${name}`);
    try {
      return await work();
    } finally {
      this.phases.push([name, performance.now() - begun]);
    }
  }

  /** A check that counts as one test; `work` returns an exit status. */
  check(name, work) {
    return this.phase(name, async () => {
      if ((await work()) === 0) this.passed++;
      else this.fail(name);
    });
  }

  fail(name, messages = []) {
    this.failed++;
    this.failures.push(messages.length > 0 ? `${name}\n${firstLines(messages)}` : name);
    say(`${name}: FAILED`);
  }

  skip(name, why) {
    this.skipped++;
    say(`${name}: skipped; ${why}`);
  }

  /** Runs Jest over the files that match; `usual`: the seconds it takes, of which three times as many are its limit. */
  unit(name, patterns, { usual, env = {}, args = [] }) {
    return this.phase(name, async () => {
      const report = path.join(results, `${this.name}-unit.json`);
      fs.rmSync(report, { force: true });
      await run(
        process.execPath,
        [
          // A database that lives for seconds gains nothing by code that is compiled a second time.
          ...['--experimental-vm-modules', '--no-warnings', '--no-wasm-tier-up', '--no-wasm-dynamic-tiering'],
          path.join(project, 'node_modules', 'jest', 'bin', 'jest.js'),
          ...['--silent', '--json', `--outputFile=${report}`],
          ...args,
          ...patterns,
        ],
        { env: { ...process.env, ...env }, what: name, seconds: usual * 3 },
      );
      let unit;
      try {
        unit = JSON.parse(fs.readFileSync(report, 'utf8'));
      } catch {
        return this.fail(`${name}: no report`);
      }
      this.passed += unit.numPassedTests;
      this.skipped += unit.numPendingTests + unit.numTodoTests;
      for (const suite of unit.testResults) {
        const file = path.relative(project, suite.name);
        const failed = suite.assertionResults.filter((test) => test.status === 'failed');
        for (const test of failed) this.fail(`${file}: ${test.fullName}`, test.failureMessages);
        if (suite.status === 'failed' && failed.length === 0) this.fail(file, [suite.message]);
        for (const test of suite.assertionResults)
          this.tests.push([`${file}: ${test.fullName}`, test.duration ?? 0]);
      }
    });
  }

  /** Runs Playwright with these arguments; `usual` as for `unit`. */
  endToEnd(name, args, { usual, env = {} }) {
    return this.phase(name, async () => {
      const report = path.join(results, `${this.name}-e2e.json`);
      fs.rmSync(report, { force: true });
      await run(
        process.execPath,
        [path.join(project, 'node_modules', 'playwright', 'cli.js'), 'test', ...args],
        {
          env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1', SATCHEL_E2E_REPORT: report, ...env },
          what: name,
          seconds: usual * 3,
        },
      );
      let said;
      try {
        said = JSON.parse(fs.readFileSync(report, 'utf8'));
      } catch {
        return this.fail(`${name}: no report`);
      }
      this.passed += said.stats.expected;
      this.skipped += said.stats.skipped;
      for (const error of said.errors ?? []) this.fail(name, [error.message ?? '']);
      for (const spec of specsIn(said.suites)) {
        const runs = spec.tests.flatMap((test) => test.results);
        this.tests.push([spec.title, runs.reduce((sum, r) => sum + r.duration, 0)]);
        if (!spec.ok || spec.tests.some((test) => test.status === 'flaky'))
          this.fail(
            spec.title,
            runs.flatMap((r) => r.errors.map((e) => e.message ?? '')),
          );
      }
    });
  }

  /** Reports times and failures, prints the closing line, and sets the exit status. */
  close() {
    const seconds = (ms) => `${(ms / 1000).toFixed(1).padStart(7)} s`;
    say('— slowest tests');
    for (const [name, ms] of this.tests.sort((a, b) => b[1] - a[1]).slice(0, 20))
      say(`${seconds(ms)}  ${name}`);
    say('— phases (some run side by side)');
    for (const [name, ms] of this.phases) say(`${seconds(ms)}  ${name}`);
    say(`${seconds(performance.now() - this.begun)}  in all`);
    // Failures are repeated at the end: the middle of a long output is what gets cut.
    if (this.failures.length > 0) say(`— failures\n${this.failures.join('\n')}`);
    const skipped = this.skipped > 0 ? `, ${this.skipped} skipped` : '';
    console.log(`${this.passed} passed, ${this.failed} failed${skipped}`);
    process.exitCode = this.failed === 0 && this.passed > 0 ? 0 : 1;
  }
}
