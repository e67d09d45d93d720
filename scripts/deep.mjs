// npm run test:deep: what `npm test` leaves out, since it takes longer: generated runs, faults at each call, a crash at every write, damaged files, all other
// end-to-end tests against an unpacked release, and a studio under load. Ends as `npm test` does.

import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { run } from './children.mjs';
import { buildApp, buildCli, checkNode, install, project } from './setup.mjs';
import { installSystemPackages, isRoot, Tally } from './tally.mjs';

checkNode();
const tally = new Tally('deep');
const script = (seconds, name, ...args) =>
  run(process.execPath, [path.join(project, 'scripts', name), ...args], { seconds, what: name });

await tally.phase('packages and sample files', () =>
  Promise.all([
    install({ tools: true }),
    installSystemPackages([
      'chromium-headless-shell',
      'postgresql',
      'unzip',
      'assimp-utils',
      'view3dscene',
      'ffmpeg',
      'python3-collada',
    ]).then(() => script(600, 'samples.mjs')),
  ]),
);
await tally.phase('build', () => Promise.all([buildCli(), buildApp({ isRelease: true })]));

/** The unit tests with a deep form (src/core/files/testing/depth.ts), as Jest takes them. */
const deepFiles = () =>
  fs
    .readdirSync(path.join(project, 'src'), { recursive: true, withFileTypes: true })
    .filter((e) => e.isFile() && /\.test\.tsx?$/.test(e.name))
    .map((e) => path.join(e.parentPath, e.name))
    .filter((f) => /\.deep\.test\.ts$/.test(f) || /testing\/depth'/.test(fs.readFileSync(f, 'utf8')));

/** The archive for this system, unpacked in an empty home: what is given out is what is tested, with no npm and no Node.js in its path (e2e/server.ts). */
async function unpackRelease(home) {
  const target = `${process.platform}-${process.arch}`;
  const status = await script(600, 'release.mjs', target, '--quick');
  if (status !== 0) return status;
  const release = path.join(home, 'loyal-satchel');
  fs.mkdirSync(release);
  const folder = path.join(project, 'release');
  const archive = fs.readdirSync(folder).find((f) => f.endsWith(`${target}.tar.gz`));
  const tar = await import('tar');
  await tar.x({ file: path.join(folder, archive), cwd: release, strip: 1 });
  // Too heavy to be handed to an artist: no release.
  return fs.statSync(path.join(folder, archive)).size < 150e6 ? 0 : 1;
}

// The load leaves a processor idle much of the time.
const load = async () => {
  const name = 'a studio under load';
  if (!isRoot || !fs.existsSync('/usr/lib/postgresql'))
    return tally.skip(name, 'it needs PostgreSQL, and root');
  return tally.check(name, () => script(900, 'load.mjs', '--minutes', '3'));
};
const lintPages = () =>
  run(
    process.execPath,
    [
      path.join(project, 'node_modules', 'eslint', 'bin', 'eslint.js'),
      ...['src/app', 'src/ui', '--max-warnings', '0'],
    ],
    { seconds: 360, what: 'eslint' },
  );
const home = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-release-'));
try {
  await Promise.all([
    load(),
    tally
      .check('the release', () => unpackRelease(home))
      .then(() => tally.check('rules for React components', lintPages)),
  ]);
  await tally.unit('unit tests', deepFiles(), {
    usual: 900,
    env: { SATCHEL_DEPTH: 'deep' },
  });
  const release = path.join(home, 'loyal-satchel');
  await tally.endToEnd('end-to-end tests', [], {
    usual: 1200,
    env: fs.existsSync(path.join(release, 'loyal-satchel')) ? { SATCHEL_RELEASE: release } : {},
  });
} finally {
  fs.rmSync(home, { recursive: true, force: true });
}
tally.close();
