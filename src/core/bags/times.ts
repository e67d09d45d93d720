// The times of a bag's files, exact: a ZIP has whole seconds from 1901 to 2038 (the extended timestamp, APPNOTE.TXT 4.6.1, id 0x5455) or two seconds from
// 1980 to 2107 (MS-DOS, 4.4.6), and a folder that is copied may keep none. A tag file of our own says them (RFC 8493 §2.2.4 allows others beside its own).

import { decodePath, encodePath } from './manifest';

/** The tag file: a line a file, milliseconds since 1970 UTC and its path in the bag. */
export const timesFile = 'file-times.txt';

export const writeTimes = (files: readonly { at: string; modified: number }[]): string =>
  files.map((f) => `${f.modified}  data/${encodePath(f.at)}\n`).join('');

// What a Date holds, in ms from 1970 both ways (ECMA-262, time values).
const farthest = 8.64e15;

/** Path in the bag → its time in ms; lines that say none are passed over. */
export function readTimes(text: string): Map<string, number> {
  const times = new Map<string, number>();
  for (const line of text.split('\n')) {
    const said = /^(-?\d+(?:\.\d+)?) {2}([^]+)$/.exec(line);
    if (said && Math.abs(Number(said[1])) <= farthest) times.set(decodePath(said[2]!), Number(said[1]));
  }
  return times;
}
