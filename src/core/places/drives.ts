// How long copying takes: bytes by how fast a drive writes, and each file by what making one costs there. Figures of kinds of drives are common
// practice, no source: what is sold varies, so a place that was measured counts before them.

import type { DriveSpeed } from './machine';

export const driveKinds = [
  { id: 'usb2', name: 'USB 2 stick', speed: { write: 12e6, smallFiles: 12 } },
  { id: 'usb3', name: 'USB 3 stick', speed: { write: 70e6, smallFiles: 40 } },
  { id: 'ssd', name: 'External SSD', speed: { write: 400e6, smallFiles: 400 } },
  { id: 'net100', name: 'Network, 100 Mbit/s', speed: { write: 11.5e6, smallFiles: 25 } },
  { id: 'synced', name: 'Synced folder, 20 Mbit/s up', speed: { write: 2.4e6, smallFiles: 4 } },
  { id: 'net1000', name: 'Network, 1 Gbit/s', speed: { write: 100e6, smallFiles: 60 } },
] as const satisfies readonly { id: string; name: string; speed: DriveSpeed }[];

/** Seconds for so many bytes in so many files. */
export function secondsFor(size: { bytes: number; files: number }, speed: DriveSpeed): number {
  return size.bytes / speed.write + (speed.smallFiles === null ? 0 : size.files / speed.smallFiles);
}

/** 'about 4 min', as coarse as such a figure is. */
export function aboutTime(seconds: number): string {
  if (seconds < 20) return 'a few seconds';
  if (seconds < 90) return 'about a minute';
  const minutes = seconds / 60;
  if (minutes < 90) return `about ${Math.round(minutes)} min`;
  const hours = minutes / 60;
  return hours < 48
    ? `about ${hours < 10 ? hours.toFixed(1).replace(/\.0$/, '') : Math.round(hours)} h`
    : `about ${Math.round(hours / 24)} days`;
}
