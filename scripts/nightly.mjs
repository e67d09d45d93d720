// The long runs: every single disk call that can fail, 10,000 generated workspaces over all verbs, and generated downloads (SATCHEL_GENERATED says how many of each).
// Takes some hours; ends with the status of what failed.

import path from 'node:path';
import { project, run, say } from './setup.mjs';

const jest = path.join(project, 'node_modules', 'jest', 'bin', 'jest.js');
const verbs = 12;
const each = process.env.SATCHEL_GENERATED ?? String(Math.ceil(10_000 / verbs));
let failed = 0;
for (const [what, pattern, env] of [
  ['every single disk call', 'src/server/workspaces/failing', { SATCHEL_EVERY: '1' }],
  [
    `${Number(each) * verbs} generated workspaces`,
    'src/server/workspaces/generated',
    { SATCHEL_GENERATED: each },
  ],
  [`${each} generated downloads`, 'src/server/workspaces/downloads', { SATCHEL_GENERATED: each }],
]) {
  say(`— ${what}`);
  failed ||= await run(process.execPath, ['--experimental-vm-modules', '--no-warnings', jest, pattern], {
    env: { ...process.env, ...env },
  });
}
process.exitCode = failed;
