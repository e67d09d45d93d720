// Asks OpenUSD 22 (openUsdProgram.mjs beside this).

import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';

const program = path.resolve('.cache/openusd-program');
export const hasOpenUsd = fs.existsSync(program);

export interface UsdJob {
  name: string;
  bytes: Uint8Array;
  /** Files that lie beside it, by name. */
  beside?: Record<string, Uint8Array>;
  /** The layer as text; the stage as a crate; the stage as one text, all its layers in it. */
  to: 'text' | 'crate' | 'stage';
}

const inBase64 = (bytes: Uint8Array) => Buffer.from(bytes).toString('base64');

/** What it makes of each; null where it cannot read it. `version`: of the crates it writes. */
export function openUsd(jobs: readonly UsdJob[], version?: string): (Buffer | null)[] {
  const run = spawnSync(
    process.execPath,
    [path.resolve('src/core/convert/crate/testing/openUsdProgram.mjs')],
    {
      input: JSON.stringify({
        program,
        version,
        jobs: jobs.map((j) => ({
          ...j,
          bytes: inBase64(j.bytes),
          beside: Object.fromEntries(Object.entries(j.beside ?? {}).map(([k, b]) => [k, inBase64(b)])),
        })),
      }),
      maxBuffer: 2 ** 30,
      timeout: 120_000,
      killSignal: 'SIGTERM',
      env: { ...process.env, NODE_OPTIONS: '' },
    },
  );
  const text = run.stdout.toString();
  const from = text.indexOf('[');
  // It ends itself by SIGKILL once all is said.
  if ((run.status !== 0 && run.signal !== 'SIGKILL') || from < 0 || !text.trimEnd().endsWith(']'))
    throw new Error(`OpenUSD did not answer: ${run.stderr.toString().slice(0, 2000)}`);
  return (JSON.parse(text.slice(from)) as (string | null)[]).map((x) =>
    x === null ? null : Buffer.from(x, 'base64'),
  );
}
