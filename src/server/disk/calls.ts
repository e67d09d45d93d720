// Every call on the disk that a tree makes, as one value: so that a test can put a disk below it that fails or dies at the n-th of them.
// All but `readAhead` and `write` are synchronous: this code runs in worker threads, where one call after another is fastest.

import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import { canSyncFolder } from './system';

export interface DiskCalls {
  open(path: string, flags: number, mode?: number): number;
  close(fd: number): void;
  read(fd: number, into: Uint8Array, at: number, length: number, position: number): number;
  /** The same beside this thread: the next part of a long file, while the one before is being worked on. */
  readAhead(fd: number, into: Uint8Array, at: number, length: number, position: number): Promise<number>;
  write(fd: number, part: Uint8Array, at: number, length: number, position: number): Promise<number>;
  append(fd: number, bytes: Uint8Array, at: number): number;
  truncate(fd: number, size: number): void;
  fsync(fd: number): void;
  fstat(fd: number): fs.Stats;
  stat(path: string): fs.Stats;
  lstat(path: string): fs.Stats;
  readdir(path: string): fs.Dirent[];
  readlink(path: string): string;
  realpath(path: string): string;
  rename(from: string, to: string): void;
  link(from: string, to: string): void;
  symlink(text: string, path: string): void;
  unlink(path: string): void;
  mkdir(path: string, mode?: number): void;
  rmdir(path: string): void;
  /** Takes seconds since 1970 UTC, or the result of `asTime`. */
  utimes(path: string, accessed: number, modified: number | Date): void;
  fchmod(fd: number, mode: number): void;
  fchown(fd: number, uid: number, gid: number): void;
  /** Gives a file the extended attributes and access list of another, as far as the system lets us; its content and times stay. */
  takeAttributes(from: string, to: string): void;
}

// A time is set in seconds as a double, whose steps are 2.4e-7 s today: rounded up, so that no millisecond comes back as the one before.
const upward = 2e-7;

/** Converts ms since 1970 UTC for the calls that set times. Node.js takes a negative number as “now”, so earlier times become a Date. */
export const asTime = (ms: number): number | Date => (ms < 0 ? new Date(Math.floor(ms)) : ms / 1000 + upward);

let attributesTool: boolean | null = null;

/** Whether there is a `cp` that copies attributes alone: Node.js has no call for them. Linux with coreutils; elsewhere they are not carried over. */
function hasAttributesTool(): boolean {
  attributesTool ??=
    process.platform === 'linux' && /coreutils/.test(String(spawnSync('cp', ['--version']).stdout ?? ''));
  return attributesTool;
}

function takeAttributes(from: string, to: string): void {
  if (!hasAttributesTool()) return;
  // Folders that are held open have another name for another process.
  const [a, b] = [from, to].map((p) => p.replace(/^\/proc\/self\//, `/proc/${process.pid}/`)) as [
    string,
    string,
  ];
  spawnSync('cp', ['--attributes-only', '--preserve=mode,ownership,xattr', '--', a, b], { stdio: 'ignore' });
}

/** The machine's own disk. */
export const nodeCalls: DiskCalls = {
  open: (path, flags, mode) => fs.openSync(path, flags, mode),
  close: (fd) => fs.closeSync(fd),
  read: (fd, into, at, length, position) => fs.readSync(fd, into, at, length, position),
  readAhead: (fd, into, at, length, position) =>
    new Promise((resolve, reject) => {
      fs.read(fd, into, at, length, position, (cause, got) => (cause ? reject(cause) : resolve(got)));
    }),
  write: (fd, part, at, length, position) =>
    new Promise((resolve, reject) => {
      fs.write(fd, part, at, length, position, (cause, written) =>
        cause ? reject(cause) : resolve(written),
      );
    }),
  append: (fd, bytes, at) => fs.writeSync(fd, bytes, at, bytes.length - at),
  truncate: (fd, size) => fs.ftruncateSync(fd, size),
  fsync: (fd) => fs.fsyncSync(fd),
  fstat: (fd) => fs.fstatSync(fd),
  stat: (path) => fs.statSync(path),
  lstat: (path) => fs.lstatSync(path),
  readdir: (path) => fs.readdirSync(path, { withFileTypes: true }),
  readlink: (path) => fs.readlinkSync(path),
  realpath: (path) => fs.realpathSync.native(path),
  rename: (from, to) => fs.renameSync(from, to),
  link: (from, to) => fs.linkSync(from, to),
  symlink: (text, path) => fs.symlinkSync(text, path),
  unlink: (path) => fs.unlinkSync(path),
  mkdir: (path, mode) => fs.mkdirSync(path, { mode: mode ?? 0o777 }),
  rmdir: (path) => fs.rmdirSync(path),
  // A negative number of seconds is taken for now; a date before 1970 is not.
  utimes: (path, accessed, modified) => fs.utimesSync(path, accessed, modified),
  fchmod: (fd, mode) => fs.fchmodSync(fd, mode),
  fchown: (fd, uid, gid) => fs.fchownSync(fd, uid, gid),
  takeAttributes,
};

/** Makes what was created, renamed or removed in a folder durable, where the system can. `system`: an absolute path as the system has it. */
export function syncFolder(system: string, calls: DiskCalls = nodeCalls): void {
  if (!canSyncFolder()) return;
  const fd = calls.open(system, fs.constants.O_RDONLY);
  try {
    calls.fsync(fd);
  } finally {
    calls.close(fd);
  }
}
