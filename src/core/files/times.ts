// Times of files, in ms since 1970 UTC with a fraction, as the disk gives them. Two readings of one time need not be the same number:
// it may have been set by us through seconds as a double (exact to a microsecond), have been written by an older version in whole ms, or
// be on a drive with a coarse clock since. Sources: exFAT file system specification (Microsoft, 2019) §7.4.5 to §7.4.9: 10 ms; FAT32 File
// System Specification (Microsoft, 2000), "Date and Time Formats": 2 s for the last write.

import type { FileStat } from './fileTree';

// Coarse clocks, in ms: FAT, whole seconds (some shares and archives), exFAT.
const grains = [2000, 1000, 10];

const isOn = (time: number, grain: number) => Number.isInteger(time) && time % grain === 0;

/** True when two times can be readings of one: less than 1 ms apart, or one of them is a whole number of ticks of a coarse clock and the other within the same tick. */
export function sameTime(a: number, b: number): boolean {
  const apart = Math.abs(a - b);
  if (apart < 1) return true;
  return grains.some((grain) => apart < grain && (isOn(a, grain) || isOn(b, grain)));
}

/** The part of a file's stat that tells whether its content may have changed. */
export type Seen = Pick<FileStat, 'size' | 'modified' | 'changed'>;

/**
 * True when a file's stat gives no reason to think that it was written since it was `then`. Where both have the time that programs cannot set, it
 * decides: another file of the same size and time, put in its place, is found by it.
 */
export function seemsUnchanged(now: Seen, then: Seen): boolean {
  return (
    now.size === then.size &&
    sameTime(now.modified, then.modified) &&
    (now.changed === undefined || then.changed === undefined || now.changed === then.changed)
  );
}

/** The longest tick of a clock that gives times with a fraction, in ms: Windows' default timer, 15.6 ms. From memory, no source. */
const tick = 20;

/**
 * True when a file need not be read again: its content is still the one read at `readAt` (ms), when its stat was `then`. Within one tick of
 * a clock a file can be written twice and keep its times; where `then` lacks the time that programs cannot set, that time must be before `readAt`.
 */
export function isStillAsRead(now: Seen, then: Seen, readAt: number): boolean {
  if (!seemsUnchanged(now, then) || now.modified >= readAt - grains[0]!) return false;
  if (now.changed === undefined) return true;
  const isCoarse = then.changed === undefined || isOn(now.changed, 1000);
  return now.changed < readAt - (isCoarse ? grains[0]! : tick);
}
