// Installs the locked packages, and only those that are needed: a start needs no test tools. Packages that are already right are left alone.
// Plain Node.js, no packages: it runs before any are installed.

import fs from 'node:fs';
import path from 'node:path';
import { project, reporting, run, say } from './children.mjs';

const modules = path.join(project, 'node_modules');

/** The packages of a lock file, by folder; {} where it cannot be read. */
function lockedIn(file) {
  try {
    return JSON.parse(fs.readFileSync(file, 'utf8')).packages ?? {};
  } catch {
    return {};
  }
}

const isTool = (entry) => Boolean(entry.dev || entry.devOptional);

/**
 * Compares what npm wrote down as installed (node_modules/.package-lock.json) with what is locked. `tools`: development packages count, too.
 * Optional packages may be absent: most are for other systems.
 */
function missingPackages(tools) {
  const installed = lockedIn(path.join(modules, '.package-lock.json'));
  return Object.entries(lockedIn(path.join(project, 'package-lock.json')))
    .filter(([at, entry]) => at !== '' && !entry.link && (tools || !isTool(entry)))
    .filter(([at, entry]) => {
      const here = installed[at];
      if (here === undefined) return !entry.optional;
      return (
        here.version !== entry.version ||
        here.integrity !== entry.integrity ||
        !fs.existsSync(path.join(project, at, 'package.json'))
      );
    })
    .map(([at]) => at);
}

function npm(args) {
  const options = { seconds: 600, what: `npm ${args[0]}` };
  const file = process.env.npm_execpath;
  return file && /\.[cm]?js$/.test(file)
    ? run(process.execPath, [file, ...args], options)
    : run(process.platform === 'win32' ? 'npm.cmd' : 'npm', args, {
        ...options,
        shell: process.platform === 'win32',
      });
}

/** Installs the locked packages unless they are there. `tools`: also what only development and tests need. */
export async function install({ tools = false } = {}) {
  const missing = missingPackages(tools);
  if (missing.length === 0) return;
  const isFirst = !fs.existsSync(path.join(modules, '.package-lock.json'));
  const flags = ['--no-audit', '--no-fund', '--loglevel=error', ...(tools ? [] : ['--omit=dev'])];
  const status = await reporting(
    'Installing packages',
    // Adding to what is there keeps it; only a first install, or one that was broken off, begins from nothing.
    () => npm(isFirst ? ['ci', ...flags] : ['install', '--no-save', '--prefer-offline', ...flags]),
    () => {
      const there = missing.filter((at) => fs.existsSync(path.join(project, at, 'package.json'))).length;
      return `${there} of ${missing.length}`;
    },
  );
  if (status === 0) return;
  say(
    'The packages could not be installed. Check that the npm registry can be reached, then run the command again.',
  );
  process.exit(2);
}
