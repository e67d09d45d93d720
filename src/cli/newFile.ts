// A list or table that the user wants as a file: where nothing lies yet.

import fs from 'node:fs';
import { AppError } from '@/core/errors';
import { fileError } from '@/core/files/fileErrors';
import { toSystem } from '@/server/disk/system';

/** Writes it. Throws AppError('exists') where something lies, whatever the system says of a folder that is not there or a drive that is full. */
export function writeNew(file: string, text: string): void {
  try {
    fs.writeFileSync(toSystem(file), text, { flag: 'wx' });
  } catch (cause) {
    if ((cause as NodeJS.ErrnoException).code === 'EEXIST')
      throw new AppError('exists', `${file} is there already. Give a name at which nothing lies.`);
    throw fileError(file, cause);
  }
}

/** Throws AppError('exists') already before the work for it is done. */
export function checkNew(file: string): void {
  if (fs.existsSync(toSystem(file)))
    throw new AppError('exists', `${file} is there already. Give a name at which nothing lies.`);
}
