// The lint rule for `writers` (layers.mjs) rejects the code of every listed file anywhere else, so no row is unused.

import { expect, test } from '@jest/globals';
import { ESLint } from 'eslint';
import fs from 'node:fs';
import path from 'node:path';
// @ts-expect-error: plain JavaScript
import { writers as table } from '../../../layers.mjs';

const writers = table as Record<string, string>;
const src = path.resolve(import.meta.dirname, '..', '..');
const project = path.resolve(src, '..');
const eslint = new ESLint({ cwd: project });

async function refusedIn(text: string): Promise<string[]> {
  const [result] = await eslint.lintText(text, { filePath: path.join(src, 'server', 'jobs', 'nobody.ts') });
  return result!.messages.filter((m) => m.ruleId === 'satchel/write').map((m) => m.message.split(':')[0]!);
}

const filesOf = (row: string) =>
  row.endsWith('/')
    ? fs
        .readdirSync(path.join(src, row))
        .filter((f) => f.endsWith('.ts') && !f.endsWith('.test.ts'))
        .map((f) => path.join(src, row, f))
    : [path.join(src, `${row}.ts`)];

test.each(Object.keys(writers))('rejects the code of %s elsewhere', async (row) => {
  const refused: string[] = [];
  for (const file of filesOf(row)) refused.push(...(await refusedIn(fs.readFileSync(file, 'utf8'))));
  expect(refused).not.toEqual([]);
});

test('rejects calls that write, and allows calls that read', async () => {
  const refused = await refusedIn(
    [
      `import fs, { rmSync } from 'node:fs';`,
      `import { writeFile, readFile } from 'fs/promises';`,
      `import { DiskTree } from '../disk/diskTree';`,
      `fs.openSync('a', 'r');`,
      `fs.openSync('a', 'r+');`,
      `fs.promises.rename('a', 'b');`,
      `fs.readFileSync('a');`,
    ].join('\n'),
  );
  expect(refused).toEqual([
    'rmSync writes',
    'writeFile writes',
    'DiskTree writes',
    'fs.openSync may write',
    'fs.rename writes',
  ]);
  expect(await refusedIn(`import type { DiskTree } from '../disk/diskTree';`)).toEqual([]);
});
