// How much room a drive has.

import fs from 'node:fs';
import { toSystem } from './system';

/** Bytes free on the drive a folder lies on, or will lie on once it is made. */
export function freeBytes(folder: string): number {
  const cut = folder.lastIndexOf('/');
  if (cut > 0 && !fs.existsSync(toSystem(folder))) return freeBytes(folder.slice(0, cut));
  const disk = fs.statfsSync(toSystem(folder));
  return Number(disk.bavail) * Number(disk.bsize);
}
