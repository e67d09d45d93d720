// Times of files, in ms since 1970 UTC with a fraction, as the disk gives them. Two readings of one time need not be the same number:
// it may have been set by us through seconds as a double (exact to a microsecond), have been written by an older version in whole ms, or
// lie on a drive with a coarse clock since. Sources: exFAT file system specification (Microsoft, 2019) §7.4.5 to §7.4.9: 10 ms; FAT32 File
// System Specification (Microsoft, 2000), "Date and Time Formats": 2 s for the last write.

// Coarse clocks, in ms: FAT, whole seconds (some shares and archives), exFAT.
const grains = [2000, 1000, 10];

const isOn = (time: number, grain: number) => Number.isInteger(time) && time % grain === 0;

/** Whether two times can be readings of one: less than 1 ms apart, or one of them stands on the grain of a coarse clock within which the other lies. */
export function sameTime(a: number, b: number): boolean {
  const apart = Math.abs(a - b);
  if (apart < 1) return true;
  return grains.some((grain) => apart < grain && (isOn(a, grain) || isOn(b, grain)));
}
