// Advice on the place where a workspace lies or shall lie, from signs read on the machine (server/disk/signs.ts). What it means for live
// work is common practice, no source; limits of file systems as in names/fileSystems.ts.

import { bytes } from '../text/figures';

/** What is known of the drive and the folder. Bytes; null: not known. */
export interface PlaceSigns {
  drive: 'local' | 'removable' | 'network' | 'memory' | 'unknown';
  /** As the system names it: 'ext4', 'exfat', 'nfs4'. */
  fileSystem: string | null;
  /** Where the drive is mounted. */
  mount: string | null;
  isReadOnly: boolean;
  /** Whether this user may look into the folder, and make something in it. */
  mayRead: boolean;
  mayWrite: boolean;
  /** A folder above (or this one) that a service keeps in step with another machine, and the mark that tells. */
  synced: { folder: string; mark: string } | null;
  free: number | null;
  total: number | null;
  /** Measured on request. */
  speed: PlaceSpeed | null;
}

/** Bytes a second, and small files made and taken away a second. */
export interface PlaceSpeed {
  write: number;
  read: number;
  smallFiles: number;
}

export interface Advice {
  level: 'warning' | 'info' | 'good';
  code: string;
  message: string;
}

const longPathFrom = 10 * 1000 ** 3;
const slow = { write: 30e6, smallFiles: 40 };

/** What the signs mean for work; the weightiest first. `needed`: bytes that shall lie there, where that is known. */
export function adviseOn(signs: PlaceSigns, needed: number | null = null): Advice[] {
  const said: Advice[] = [];
  const warn = (code: string, message: string) => said.push({ level: 'warning', code, message });
  const tell = (code: string, message: string) => said.push({ level: 'info', code, message });
  if (!signs.mayRead)
    warn(
      'unreadable',
      'You may not look into this folder. Its owner, or whoever looks after this machine, can change that.',
    );
  else if (signs.isReadOnly)
    warn('read-only', 'This drive cannot be written to. A workspace here can be looked at, not worked in.');
  else if (!signs.mayWrite)
    warn(
      'no-writing',
      'You may look into this folder but change nothing in it. A workspace here can be looked at, not worked in.',
    );
  if (signs.free !== null && needed !== null && needed > signs.free)
    warn('too-little', `${bytes(needed)} are needed and ${bytes(signs.free)} are free.`);
  else if (signs.free !== null && signs.free < longPathFrom)
    warn('little-room', `Only ${bytes(signs.free)} are free. Caches and versions fill that soon.`);
  if (signs.synced)
    warn(
      'synced',
      `${signs.synced.folder} is kept in step with another machine (${signs.synced.mark} lies there). Thousands of small files sync badly, and a half-synced scene is a broken one: work beside it, and let packed bags travel through it.`,
    );
  if (signs.drive === 'network')
    warn(
      'network',
      'This is a network drive. Live work on it is slow with many small files, and what is not saved is lost when it goes; it suits libraries, bags and backups.',
    );
  if (signs.drive === 'removable')
    warn(
      'removable',
      'This is a removable drive. A loose cable in the middle of a save breaks files: work on a drive inside the machine, and take bags along on this one.',
    );
  if (signs.drive === 'memory')
    warn('memory', 'This drive is in memory: all on it is gone when the machine is switched off.');
  const system = signs.fileSystem?.toLowerCase() ?? '';
  if (/^(vfat|fat|msdos|fat32)$/.test(system))
    warn(
      'fat32',
      'FAT32 takes no file of 4 GiB or more, and knows times only to two seconds: long caches and films will not fit.',
    );
  else if (system === 'exfat')
    tell('exfat', 'exFAT keeps no journal: pulled out while it is written to, it can lose files.');
  if (signs.speed) {
    const { write, read, smallFiles } = signs.speed;
    const text = `It writes ${bytes(write)} and reads ${bytes(read)} a second, and makes ${Math.round(smallFiles)} small files a second.`;
    if (write < slow.write || smallFiles < slow.smallFiles)
      warn('slow', `${text} That is slow for live work.`);
    else said.push({ level: 'good', code: 'fast', message: text });
  }
  if (said.every((a) => a.level !== 'warning') && signs.drive === 'local')
    said.push({
      level: 'good',
      code: 'good',
      message: 'A drive inside this machine: a good place for live work.',
    });
  const rank = { warning: 0, info: 1, good: 2 };
  return said.sort((a, b) => rank[a.level] - rank[b.level]);
}
