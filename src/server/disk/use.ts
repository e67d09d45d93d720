// How much room a drive has.

import fs from 'node:fs';
import { toSystem } from './system';

/** Bytes free on the drive a folder lies on. */
export function freeBytes(folder: string): number {
  const disk = fs.statfsSync(toSystem(folder));
  return Number(disk.bavail) * Number(disk.bsize);
}
