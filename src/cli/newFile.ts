// Writes a list or table to a new file. Never overwrites.

import fs from 'node:fs';
import { AppError } from '@/core/errors';
import { fileError } from '@/core/files/fileErrors';
import { toSystem } from '@/server/disk/system';

const taken = (file: string) => new AppError('exists', `${file} already exists. Use another file name.`);

/** Writes a new file. Throws AppError('exists') when the path is taken, or the AppError for a missing folder or a full drive. */
export function writeNew(file: string, text: string): void {
  try {
    fs.writeFileSync(toSystem(file), text, { flag: 'wx' });
  } catch (cause) {
    if ((cause as NodeJS.ErrnoException).code === 'EEXIST') throw taken(file);
    throw fileError(file, cause);
  }
}

/** Throws AppError('exists') when the path is taken. Call it before the long work that fills the file. */
export function checkNew(file: string): void {
  if (fs.existsSync(toSystem(file))) throw taken(file);
}
