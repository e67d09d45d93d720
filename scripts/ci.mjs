// Runs `npm test`, then `npm run test:deep`, also where the first failed, and closes with the sum of their counts in one line.

import path from 'node:path';
import { project, say, start } from './children.mjs';

const line = /^(\d+) passed, (\d+) failed(?:, (\d+) skipped)?$/;

/** Runs one of the commands; returns its counts, null where it printed none. */
function countsOf(script, minutes) {
  return new Promise((resolve) => {
    const child = start(process.execPath, [path.join(project, 'scripts', script)], {
      stdio: ['ignore', 'pipe', 2],
    });
    let out = '';
    child.stdout.on('data', (part) => {
      out += part;
      process.stderr.write(part);
    });
    // The commands limit their own steps; this is for a step that has no limit.
    const late = setTimeout(() => {
      say(`${script} was stopped after ${minutes} minutes.`);
      child.kill('SIGTERM');
    }, minutes * 60_000);
    child.on('close', (status) => {
      clearTimeout(late);
      const found = line.exec(out.trim().split('\n').at(-1) ?? '');
      const counts = found?.slice(1).map((n) => Number(n ?? 0)) ?? null;
      resolve({ counts, isGood: status === 0 && counts !== null });
    });
  });
}

let [passed, failed, skipped] = [0, 0, 0];
for (const [script, minutes] of [
  ['test.mjs', 30],
  ['deep.mjs', 55],
]) {
  const { counts, isGood } = await countsOf(script, minutes);
  const [p, f, s] = counts ?? [0, 0, 0];
  [passed, failed, skipped] = [passed + p, failed + (isGood ? f : Math.max(f, 1)), skipped + s];
}
console.log(`${passed} passed, ${failed} failed${skipped > 0 ? `, ${skipped} skipped` : ''}`);
process.exitCode = failed === 0 && passed > 0 ? 0 : 1;
