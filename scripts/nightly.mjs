// The long runs: every single disk call that can fail, 10,000 generated workspaces over all verbs, generated downloads (SATCHEL_GENERATED says how many of each),
// half an hour of a studio under load, docs/studio.md step by step, and the release as somebody gets it. Takes some hours; ends with the status of what failed.

import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import * as tar from 'tar';
import { project, run, say } from './setup.mjs';

const jest = path.join(project, 'node_modules', 'jest', 'bin', 'jest.js');
const verbs = 12;
const each = process.env.SATCHEL_GENERATED ?? String(Math.ceil(10_000 / verbs));
let failed = 0;
for (const [what, pattern, env] of [
  ['every single disk call', 'src/server/(workspaces|bags)/failing', { SATCHEL_EVERY: '1' }],
  [
    `${Number(each) * verbs} generated workspaces`,
    'src/server/workspaces/generated',
    { SATCHEL_GENERATED: each },
  ],
  [
    `${each} generated downloads, collections, and scenes carried over`,
    'src/server/workspaces/(downloads|collect|carry|carryNodes)\\.',
    { SATCHEL_GENERATED: each },
  ],
  [
    '10,000 random histories over everything that keeps old states',
    'src/server/backups/history\\.',
    { SATCHEL_GENERATED: '10000' },
  ],
  [
    '200 jobs with workers stopped, woken and killed at random moments',
    'src/server/studio/stops\\.',
    { SATCHEL_GENERATED: '200' },
  ],
]) {
  say(`— ${what}`);
  failed ||= await run(process.execPath, ['--experimental-vm-modules', '--no-warnings', jest, pattern], {
    env: { ...process.env, SATCHEL_DEPTH: 'deep', ...env },
    seconds: 6 * 3600,
    what,
  });
}
say('— a studio under load, half an hour');
failed ||= await run(
  process.execPath,
  [path.join(project, 'scripts', 'load.mjs'), '--minutes', '30', '--strict'],
  { seconds: 3600, what: 'the load' },
);
say('— the release, unpacked in an empty home: the first ten minutes and the whole way');
const here = `${process.platform.replace('win32', 'win')}-${process.arch}`;
failed ||= await run(process.execPath, [path.join(project, 'scripts', 'release.mjs'), here]);
if (!failed) {
  const home = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-release-'));
  const archive = fs
    .readdirSync(path.join(project, 'release'))
    .find((f) => f.includes(here) && f.endsWith('.tar.gz'));
  await tar.x({ file: path.join(project, 'release', archive), cwd: home, strip: 1 });
  fs.mkdirSync(path.join(home, 'home'));
  failed = await run(
    process.execPath,
    [
      path.join(project, 'node_modules', 'playwright', 'cli.js'),
      'test',
      'e2e/firstHour.spec.ts',
      'e2e/wholeWay.spec.ts',
    ],
    {
      seconds: 3600,
      what: 'the first ten minutes and the whole way',
      env: { ...process.env, SATCHEL_RELEASE: home, HOME: path.join(home, 'home') },
    },
  );
  fs.rmSync(home, { recursive: true, force: true });
}
// Where it can be: as somebody does who has never seen it.
if (process.platform === 'linux' && process.getuid() === 0 && !failed) {
  say('— docs/studio.md, as it is written');
  failed = await run(process.execPath, [path.join(project, 'scripts', 'try-studio.mjs')], {
    seconds: 1800,
    what: 'docs/studio.md',
  });
}
process.exitCode = failed;
