// Exact modification times of a bag's files. A ZIP stores whole seconds from 1901 to 2038 (extended timestamp, APPNOTE.TXT 4.6.1, id 0x5455) or even seconds
// from 1980 to 2107 (MS-DOS time, 4.4.6), so a tag file of the bag lists them (RFC 8493 §2.2.4 allows additional tag files).

import { decodePath, encodePath } from './manifest';

/** Name of the tag file. Each line has the time in milliseconds since 1970 UTC and the path within the bag. */
export const timesFile = 'file-times.txt';

export const writeTimes = (files: readonly { at: string; modified: number }[]): string =>
  files.map((f) => `${f.modified}  data/${encodePath(f.at)}\n`).join('');

// The range of a Date in ms around 1970 (ECMA-262, time values).
const farthest = 8.64e15;

/** Maps each path within the bag to its time in ms. Skips malformed lines. */
export function readTimes(text: string): Map<string, number> {
  const times = new Map<string, number>();
  for (const line of text.split('\n')) {
    const said = /^(-?\d+(?:\.\d+)?) {2}([^]+)$/.exec(line);
    if (said && Math.abs(Number(said[1])) <= farthest) times.set(decodePath(said[2]!), Number(said[1]));
  }
  return times;
}
