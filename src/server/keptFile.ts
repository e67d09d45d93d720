// Writes small files of the data folder atomically and durably.

import { randomBytes } from 'node:crypto';
import fs from 'node:fs';
import path from 'node:path';
import { syncFolder } from './disk/calls';

/** Replaces a file, readable only by the user. Creates its folder when missing. */
export function keepFile(file: string, text: string): void {
  const folder = path.dirname(file);
  fs.mkdirSync(folder, { recursive: true, mode: 0o700 });
  const temporary = `${file}.${process.pid}-${randomBytes(3).toString('hex')}.new`;
  try {
    fs.writeFileSync(temporary, text, { mode: 0o600, flush: true, flag: 'wx' });
    fs.renameSync(temporary, file);
  } catch (cause) {
    fs.rmSync(temporary, { force: true });
    throw cause;
  }
  syncFolder(folder);
}

/** Removes a file that is no longer needed. */
export const dropFile = (file: string): void => fs.rmSync(file, { force: true });

/** Renames a file so that the application ignores it. Never overwrites one set aside before. */
export function setAside(file: string): void {
  for (let n = 1; fs.existsSync(file); n++) {
    const aside = `${file}.removed${n === 1 ? '' : `-${n}`}`;
    if (fs.existsSync(aside)) continue;
    fs.renameSync(file, aside);
  }
}
