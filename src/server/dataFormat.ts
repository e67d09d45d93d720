// In which form a data folder is: written down beside the database, since the database itself may be of a kind that only a newer version can open. A
// folder that a newer version has used is left as it is.

import fs from 'node:fs';
import path from 'node:path';
import { z } from 'zod';
import { AppError } from '@/core/errors';
import { migrations } from './database/migrations';
import { keepFile } from './keptFile';

/** `format`: of everything but the database; `tables`: how many migrations its tables have had. */
const dataFormat = z.object({ format: z.number().int(), tables: z.number().int() });

/** The form that this version makes. */
export const ownFormat: z.infer<typeof dataFormat> = { format: 1, tables: migrations.length };

const fileIn = (folder: string) => path.join(folder, 'data.json');

/** Throws AppError('newer-format') where a newer version has used a data folder (the system's form); nothing in it is touched then. */
export function checkDataFormat(folder: string): void {
  let text: string;
  try {
    text = fs.readFileSync(fileIn(folder), 'utf8');
  } catch (cause) {
    // A folder of a version before this file was written, or a new one.
    if ((cause as NodeJS.ErrnoException).code === 'ENOENT') return;
    throw cause;
  }
  const read = dataFormat.loose().safeParse(parsed(text));
  // What cannot be read was damaged, not written by a newer version: that would keep to the two numbers.
  if (!read.success) return;
  if (read.data.format > ownFormat.format || read.data.tables > ownFormat.tables) throw newer(folder);
}

/** A data folder, or a database, that a newer version has used. */
export const newer = (what: string): AppError =>
  new AppError(
    'newer-format',
    `${what} was used by a newer version of Loyal Satchel. This version does not know all that is in it, and leaves it as it is.`,
  );

/** Writes down that this version has used a data folder, whole or not at all. */
export function writeDataFormat(folder: string): void {
  const text = `${JSON.stringify(ownFormat)}\n`;
  const file = fileIn(folder);
  try {
    if (fs.readFileSync(file, 'utf8') === text) return;
  } catch {
    // Not there yet, or not to be read: it is written.
  }
  keepFile(file, text);
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
