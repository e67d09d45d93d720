// One call of the command line: its words, where it may write, how it answers.

import { parseArgs, type ParseArgsConfig } from 'node:util';
import type { z } from 'zod';
import { AppError } from '@/core/errors';
import { currentLimits, namedPaths } from '@/server/disk/limits';
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

/** The server of a studio that a call is for, by `--server URL` or SATCHEL_SERVER, and the call without it; null: it is done here. */
export function serverOf(args: readonly string[]): { url: string; args: string[] } | null {
  const at = args.findIndex((arg) => arg === '--server' || arg.startsWith('--server='));
  if (at < 0) {
    const url = process.env.SATCHEL_SERVER ?? '';
    return url === '' ? null : { url, args: [...args] };
  }
  const isOne = args[at]!.includes('=');
  const url = isOne ? args[at]!.slice('--server='.length) : args[at + 1];
  return { url: url ?? '', args: [...args.slice(0, at), ...args.slice(at + (isOne ? 1 : 2))] };
}

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

/**
 * A path from the command line as the core writes it: absolute, '/'-separated. Every path that a verb is given passes here: done for somebody on a server, it has to
 * lie where they may look. Throws AppError('not-allowed').
 */
export function absolute(given: string): string {
  const { bounds } = currentLimits();
  if (bounds.allowed !== null && !isAbsolute(given))
    throw new AppError(
      'bad-request',
      `“${given}”: on a server, paths are whole ones, as the server calls them.`,
    );
  const at = fromSystem(isAbsolute(given) ? given : path.resolve(callerFolder, given));
  bounds.checkPath(at);
  namedPaths.push(at);
  return at;
}

/** A string flag, undefined when it was not given. */
export function text(call: Call, name: string): string | undefined {
  const value = call.flags[name];
  return typeof value === 'string' ? value : undefined;
}

/** A line of progress on standard error, on terminals only; or to the server that does this for somebody. */
export function progress(line: string): void {
  if (process.send && process.connected && line !== '') process.send(line);
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
