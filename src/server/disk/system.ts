// What differs between systems, in one place: path forms, links, long paths. Everything else speaks '/'-separated
// absolute paths. Functions take the platform as an argument so that each can be tried everywhere.

import path from 'node:path';

export type Platform = 'win32' | 'darwin' | 'linux' | (string & {});

/** A path as the system gives it → '/'-separated, drive letter upper case, no slash at the end (but for a root itself). */
export function fromSystem(given: string, platform: Platform = process.platform): string {
  if (platform !== 'win32') {
    const plain = path.posix.normalize(given);
    return plain.length > 1 ? plain.replace(/\/+$/, '') : plain;
  }
  let plain = given.replace(/^\\\\\?\\UNC\\/i, '\\\\').replace(/^\\\\\?\\/, '');
  plain = path.win32.normalize(plain).replaceAll('\\', '/');
  plain = plain.replace(/^[a-z]:/, (d) => d.toUpperCase());
  return plain.length > 3 ? plain.replace(/\/+$/, '') : plain;
}

/** '/'-separated → the form for file calls; on Windows paths near the old limit get the long form (Microsoft, "Maximum Path Length Limitation"). */
export function toSystem(absolute: string, platform: Platform = process.platform): string {
  if (platform !== 'win32') return absolute;
  const native = absolute.replaceAll('/', '\\');
  if (native.length < 240 || native.startsWith('\\\\?\\')) return native;
  return native.startsWith('\\\\') ? `\\\\?\\UNC\\${native.slice(2)}` : `\\\\?\\${native}`;
}

/** True for an absolute path of this system, in either spelling. */
export function isAbsolute(given: string, platform: Platform = process.platform): boolean {
  return platform === 'win32' ? /^([A-Za-z]:[\\/]|\\\\|\/\/)/.test(given) : given.startsWith('/');
}

/** Errors that pass when tried again a moment later: another program (indexer, scanner, painter) holds the file. */
export function isTransient(code: string | undefined, platform: Platform = process.platform): boolean {
  return platform === 'win32' && (code === 'EPERM' || code === 'EACCES' || code === 'EBUSY');
}

/** True where a folder can be made durable by itself; Windows has no such call and needs none for a rename. */
export function canSyncFolder(platform: Platform = process.platform): boolean {
  return platform !== 'win32';
}

/** A link's text as the system gives it → '/'-separated; and back. On Linux and macOS a backslash is a character like any other. */
export function linkFromSystem(text: string, platform: Platform = process.platform): string {
  return platform === 'win32' ? text.replace(/^\\\\\?\\/, '').replaceAll('\\', '/') : text;
}

export function linkToSystem(text: string, platform: Platform = process.platform): string {
  return platform === 'win32' ? text.replaceAll('/', '\\') : text;
}

/** True where an open folder can be asked where it lies, and names can be reached through it (Linux: proc(5), /proc/self/fd). */
export function hasFolderHandles(platform: Platform = process.platform): boolean {
  return platform === 'linux';
}

/**
 * Where drives, sticks and shares stand: drives by their letters, and folders whose folders each are one. Windows gives letters, macOS has /Volumes, Linux
 * /media and /run/media of the user (udisks) and /mnt (Filesystem Hierarchy Standard 3.0).
 */
export function drivePlaces(
  user: string,
  platform: Platform = process.platform,
): { drives: string[]; holders: string[] } {
  if (platform === 'win32')
    return { drives: [...'CDEFGHIJKLMNOPQRSTUVWXYZAB'].map((letter) => `${letter}:/`), holders: [] };
  if (platform === 'darwin') return { drives: [], holders: ['/Volumes'] };
  return { drives: [], holders: [`/media/${user}`, `/run/media/${user}`, '/mnt'] };
}

/** True where one watch sees a whole tree of folders; on Linux each folder needs its own. */
export function watchesTrees(): boolean {
  return process.platform === 'win32' || process.platform === 'darwin';
}
