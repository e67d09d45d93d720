import { expect, test } from '@jest/globals';
import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { pathToFileURL } from 'node:url';

const ends = `
import { createRequire } from 'node:module';
const { Piscina } = createRequire(process.argv[2])('piscina');
for (let n = 0; n < 30; n++) {
  const pool = new Piscina({ filename: process.argv[3], minThreads: 1, maxThreads: 1, atomics: 'disabled' });
  pool.on('error', () => undefined);
  pool.run({}).catch(() => undefined);
  await new Promise((wait) => setTimeout(wait, 50 * n));
  await pool.destroy();
}
console.log('still running');
`;

test('a thread that is ended while it loads does not end the process', async () => {
  const { threadEntry } = (await import(pathToFileURL(path.resolve('scripts/setup.mjs')).href)) as {
    threadEntry: (name: string) => string;
  };
  const folder = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-pool-'));
  // A graph of modules that takes about a second to load, so that most threads are ended in the middle of it.
  const names = Array.from({ length: 40 }, (_, k) => `a${k}`);
  const imports = Array.from({ length: 1500 }, (_, n) => {
    fs.writeFileSync(path.join(folder, `m${n}.mjs`), names.map((a) => `export const ${a} = 1;`).join('\n'));
    return `import { ${names.map((a) => `${a} as x${n}${a}`).join(', ')} } from './m${n}.mjs';`;
  });
  fs.writeFileSync(
    path.join(folder, 'work.mjs'),
    `${imports.join('\n')}\nexport default () => new Promise(() => undefined);`,
  );
  fs.writeFileSync(path.join(folder, 'work.cjs'), threadEntry('work'));
  // A file, not `-e`: a thread takes the options of its process, and none can start with that one.
  fs.writeFileSync(path.join(folder, 'ends.mjs'), ends);
  const run = spawnSync(
    process.execPath,
    [path.join(folder, 'ends.mjs'), path.resolve('package.json'), path.join(folder, 'work.cjs')],
    { encoding: 'utf8', timeout: 100_000 },
  );
  fs.rmSync(folder, { recursive: true });
  expect([run.stdout, run.stderr, run.signal]).toEqual(['still running\n', '', null]);
}, 120_000);
