// Small files of the application's own, in its data folder: written whole or not at all, also when the power goes.

import { randomBytes } from 'node:crypto';
import fs from 'node:fs';
import path from 'node:path';
import { syncFolder } from './disk/calls';

/** Writes a file anew; its folder is made where it is not there. For nobody's eyes but the user's own. */
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

/** Takes away a file that has served. */
export const dropFile = (file: string): void => fs.rmSync(file, { force: true });

/** Takes a file out of use: it stays in its folder, under a name that nothing reads. */
export function setAside(file: string): void {
  for (let n = 1; fs.existsSync(file); n++) {
    const aside = `${file}.removed${n === 1 ? '' : `-${n}`}`;
    if (fs.existsSync(aside)) continue;
    fs.renameSync(file, aside);
  }
}
