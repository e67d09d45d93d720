// One call of the command line: its words, where it may write, how it answers.

import { parseArgs, type ParseArgsConfig } from 'node:util';
import type { z } from 'zod';
import { AppError } from '@/core/errors';
import { namedPaths } from '@/server/disk/limits';
import { fromSystem, isAbsolute } from '@/server/disk/system';
import path from 'node:path';

/** Exit status: 0 done, nothing wrong · 1 done, with findings · 2 the call was wrong or something could not be read. */
export type ExitStatus = 0 | 1 | 2;

export interface Call {
  words: string[];
  flags: Record<string, string | boolean | string[] | undefined>;
  json: boolean;
  yes: boolean;
}

/** What a verb answers: the JSON document, the same for people (made when asked for), and whether there are findings. */
export interface Answer {
  json: unknown;
  /** The document's text in parts, where it may be large: then `json` is not looked at. */
  parts?: AsyncIterable<string>;
  text(): string;
  /** Known once the answer is printed. */
  findings: boolean;
}

/** What a verb does, and the shape of its JSON document. */
export interface Verb {
  schema(): Promise<z.ZodType>;
  run(call: Call): Promise<Answer>;
}

/** Flags every verb has. */
export const commonFlags = {
  json: { type: 'boolean' },
  yes: { type: 'boolean', short: 'y' },
  help: { type: 'boolean', short: 'h' },
  schema: { type: 'boolean' },
} as const;

/** Reads a verb's words and flags; throws AppError('bad-request') for what it does not take. */
export function readCall(verb: { flags: NonNullable<ParseArgsConfig['options']> }, args: string[]): Call {
  let parsed;
  try {
    parsed = parseArgs({
      args,
      options: { ...commonFlags, ...verb.flags },
      allowPositionals: true,
      strict: true,
    });
  } catch (cause) {
    throw new AppError('bad-request', (cause as Error).message);
  }
  const flags = parsed.values as Call['flags'];
  return { words: parsed.positionals, flags, json: flags.json === true, yes: flags.yes === true };
}

// npm runs scripts in the project's folder; the caller's own is in INIT_CWD.
const callerFolder =
  process.env.npm_lifecycle_event === 'satchel' && process.env.INIT_CWD
    ? process.env.INIT_CWD
    : process.cwd();

/** A path from the command line as the core writes it: absolute, '/'-separated. */
export function absolute(given: string): string {
  const at = fromSystem(isAbsolute(given) ? given : path.resolve(callerFolder, given));
  namedPaths.push(at);
  return at;
}

/** A string flag, undefined when it was not given. */
export function text(call: Call, name: string): string | undefined {
  const value = call.flags[name];
  return typeof value === 'string' ? value : undefined;
}

/** A line of progress on standard error, on terminals only. */
export function progress(line: string): void {
  if (process.stderr.isTTY) process.stderr.write(`\r\x1b[K${line}`);
}

/** Rows as columns of a readable table. */
export function table(rows: readonly (readonly string[])[]): string {
  const widths: number[] = [];
  for (const row of rows) row.forEach((cell, i) => (widths[i] = Math.max(widths[i] ?? 0, cell.length)));
  return rows
    .map((row) =>
      row
        .map((cell, i) => (i === row.length - 1 ? cell : cell.padEnd(widths[i]!)))
        .join('  ')
        .trimEnd(),
    )
    .join('\n');
}
