// Builds of the present source: the command line, the server's code, the pages; and how a built application is started.

import { createHash } from 'node:crypto';
import fs from 'node:fs';
import path from 'node:path';
import { answers, entryTo, freePortFrom, newKey, serverEnv, tooOld } from '../bin/serving.mjs';
import { project, reporting, run, say, start } from './children.mjs';

export { project, run, say } from './children.mjs';
export { install } from './packages.mjs';

export function stop(text) {
  say(text);
  process.exit(2);
}

export function checkNode() {
  const old = tooOld();
  if (old !== null) stop(old);
}

function* filesBelow(dir) {
  if (!fs.existsSync(dir)) return;
  for (const entry of fs.readdirSync(dir, { withFileTypes: true })) {
    const full = path.join(dir, entry.name);
    if (entry.isDirectory()) yield* filesBelow(full);
    else yield full;
  }
}

/** A digest over the content of files and folders of the project. While no size and no time of them changes, it is not worked out again. */
export function digestOf(parts) {
  const files = [];
  for (const part of parts) {
    const full = path.join(project, part);
    const stat = fs.statSync(full, { throwIfNoEntry: false });
    for (const file of stat?.isDirectory() ? [...filesBelow(full)].sort() : stat ? [full] : [])
      if (!/\.test\.tsx?$/.test(file)) files.push(file);
  }
  const looks = createHash('sha256');
  for (const file of files) {
    const { size, mtimeMs, ino } = fs.statSync(file);
    looks.update(`${path.relative(project, file)}\0${size}\0${mtimeMs}\0${ino}\n`);
  }
  const look = looks.digest('hex');
  const remembered = stampFile(
    `look-${createHash('sha256').update(parts.join('\n')).digest('hex').slice(0, 12)}`,
  );
  const [heldLook, held] = readOr(remembered, '').split(' ');
  if (held && heldLook === look) return held;
  const hash = createHash('sha256');
  for (const file of files)
    hash
      .update(path.relative(project, file).replaceAll('\\', '/'))
      .update('\0')
      .update(fs.readFileSync(file))
      .update('\0');
  const digest = hash.digest('hex');
  fs.mkdirSync(path.dirname(remembered), { recursive: true });
  fs.writeFileSync(remembered, `${look} ${digest}`);
  return digest;
}

function readOr(file, otherwise) {
  try {
    return fs.readFileSync(file, 'utf8');
  } catch {
    return otherwise;
  }
}

const stampFile = (name) => path.join(project, '.cache', 'stamps', `${name}.stamp`);

export function isFresh(name, digest) {
  try {
    return fs.readFileSync(stampFile(name), 'utf8') === digest;
  } catch {
    return false;
  }
}

export function markFresh(name, digest) {
  fs.mkdirSync(path.dirname(stampFile(name)), { recursive: true });
  fs.writeFileSync(stampFile(name), digest);
}

// Messages of schemas are in English here; the other sixty languages would be most of what a call of the command line loads.
const englishOnly = {
  name: 'english-only',
  setup(build) {
    build.onResolve({ filter: /\/locales\/index\.js$/ }, (args) =>
      args.resolveDir.replaceAll('\\', '/').includes('/node_modules/zod/')
        ? { path: path.join(args.resolveDir, path.dirname(args.path), 'en.js'), namespace: 'one-language' }
        : undefined,
    );
    build.onLoad({ filter: /.*/, namespace: 'one-language' }, (args) => ({
      contents: `export { default as en } from ${JSON.stringify(args.path)};`,
      resolveDir: path.dirname(args.path),
    }));
  },
};

/** How TypeScript is made into one file that Node.js runs. */
export const bundled = {
  bundle: true,
  platform: 'node',
  target: 'node20',
  format: 'esm',
  plugins: [englishOnly],
  minifyWhitespace: true,
  absWorkingDir: project,
  logLevel: 'error',
  external: ['@napi-rs/blake-hash', '@electric-sql/pglite', 'pg', 'graphile-worker', 'piscina'],
  banner: {
    js: "import { createRequire as __cr } from 'node:module'; const require = __cr(import.meta.url);",
  },
};

/** Builds the command line (dist/satchel.mjs) unless the present one is of this source. */
export async function buildCli() {
  const digest = digestOf([
    'src/core',
    'src/wire',
    'src/server',
    'src/cli',
    'demo',
    'package-lock.json',
    'scripts/setup.mjs',
  ]);
  const out = path.join(project, 'dist');
  if (isFresh('cli', digest) && fs.existsSync(path.join(out, 'satchel.mjs'))) return;
  const { build } = await import('esbuild');
  fs.rmSync(path.join(out, 'cli'), { recursive: true, force: true });
  await build({
    ...bundled,
    entryPoints: { satchel: 'src/cli/satchel.ts' },
    outdir: out,
    outExtension: { '.js': '.mjs' },
    splitting: true,
    chunkNames: 'cli/[name]-[hash]',
  });
  if (fs.existsSync(path.join(project, 'demo', 'make.ts')))
    await build({
      ...bundled,
      entryPoints: { 'make-demo': 'demo/make.ts' },
      outdir: out,
      outExtension: { '.js': '.mjs' },
    });
  await buildThreads(out);
  markFresh('cli', digest);
}

/**
 * The text of the file that a pool starts a thread by (src/server/threads/pool.ts): it loads the thread's module with `import()`. Piscina loads the
 * file with `require`, and Node.js 20.20 aborts the whole process when a thread is ended while it loads an ECMAScript module with `require`.
 */
export const threadEntry = (name) =>
  `module.exports = (task) => import('./${name}.mjs').then((m) => m.default(task));\n`;

/** Builds the server's code: server.mjs (src/server/main.ts) and two files per src/server/threads/*.thread.ts, with shared chunks beside them. */
export async function buildThreads(out) {
  const { build } = await import('esbuild');
  const from = path.join(project, 'src', 'server', 'threads');
  const names = fs
    .readdirSync(from)
    .filter((f) => f.endsWith('.thread.ts'))
    .map((f) => f.slice(0, -'.thread.ts'.length));
  const threads = path.join(out, 'threads');
  if (fs.existsSync(threads))
    for (const f of fs.readdirSync(threads)) if (/\.[cm]js$/.test(f)) fs.rmSync(path.join(threads, f));
  await build({
    ...bundled,
    banner: {},
    external: [],
    packages: 'external',
    entryPoints: {
      server: path.join(project, 'src', 'server', 'main.ts'),
      ...Object.fromEntries(names.map((name) => [name, path.join(from, `${name}.thread.ts`)])),
    },
    outdir: threads,
    outExtension: { '.js': '.mjs' },
    splitting: true,
  });
  for (const name of names) fs.writeFileSync(path.join(threads, `${name}.cjs`), threadEntry(name));
  // One for each version of the database: it is the same whatever our own code says.
  const template = path.join(out, 'threads', 'template.tar');
  const version = JSON.parse(
    fs.readFileSync(path.join(project, 'node_modules', '@electric-sql', 'pglite', 'package.json'), 'utf8'),
  ).version;
  const stamp = `${template}.version`;
  const isThere = (at) =>
    fs.existsSync(at) &&
    fs.existsSync(`${at}.version`) &&
    fs.readFileSync(`${at}.version`, 'utf8') === version;
  const made = path.join(project, 'dist', 'threads', 'template.tar');
  if (!isThere(template) && isThere(made)) {
    fs.copyFileSync(made, template);
    fs.writeFileSync(stamp, version);
  }
  if (!isThere(template)) {
    const { PGlite } = await import('@electric-sql/pglite');
    const db = await PGlite.create();
    fs.writeFileSync(template, Buffer.from(await (await db.dumpDataDir('none')).arrayBuffer()));
    fs.writeFileSync(stamp, version);
    await db.close();
  }
}

/**
 * Builds the pages unless the present build is of this source. `isRelease`: smaller files for the release, which take twice as long; a build of either
 * kind serves everything else.
 */
export async function buildApp({ isRelease = false } = {}) {
  const digest = digestOf([
    ...['app', 'ui', 'core', 'wire', 'server/built', 'proxy.ts', 'instrumentation.ts'].map((f) => `src/${f}`),
    'next.config.ts',
    'tsconfig.json',
    'package-lock.json',
  ]);
  const hasBuild = fs.existsSync(path.join(project, '.next', 'BUILD_ID'));
  const kinds = isRelease ? ['release'] : ['quick', 'release'];
  if (hasBuild && kinds.some((kind) => isFresh('app', `${kind} ${digest}`))) return;
  const status = await reporting('Building the pages', () =>
    run(process.execPath, [path.join(project, 'node_modules', 'next', 'dist', 'bin', 'next'), 'build'], {
      what: 'next build',
      env: {
        ...process.env,
        NEXT_TELEMETRY_DISABLED: '1',
        NODE_ENV: 'production',
        SATCHEL_BUILD: isRelease ? 'release' : hasBuild ? 'again' : 'first',
      },
      stdio: ['ignore', 'ignore', 2],
    }),
  );
  if (status !== 0) stop('The pages could not be built; the reason is above. Run the command again.');
  markFresh('app', `${isRelease ? 'release' : 'quick'} ${digest}`);
}

/** The first free port from `from` on, on 127.0.0.1. */
export async function freePort(from) {
  return (await freePortFrom(from)) ?? stop(`No free port between ${from} and ${from + 49}.`);
}

/** Starts the built application on 127.0.0.1, to end with this process; resolves once it answers. `env` adds to the environment. */
export async function serve(port, env) {
  const key = newKey();
  const child = start(
    process.execPath,
    [
      path.join(project, 'node_modules', 'next', 'dist', 'bin', 'next'),
      'start',
      '-H',
      '127.0.0.1',
      '-p',
      String(port),
    ],
    {
      stdio: ['ignore', 'ignore', 2],
      env: {
        ...process.env,
        ...env,
        ...serverEnv(key),
      },
    },
  );
  const ended = new Promise((resolve) => child.on('close', (code) => resolve(code ?? 1)));
  const address = `http://127.0.0.1:${port}`;
  let code = null;
  void ended.then((status) => (code = status));
  if (await answers(address, key, () => code !== null))
    return { address, key, entry: entryTo(address, key), child, ended };
  if (code !== null) stop('The server could not be started; why stands above.');
  return stop('The server did not answer within a minute.');
}
