// How far the application may look. The user allows folders; nothing that lies elsewhere is read, by whatever way it is reached. What counts is
// where a thing really lies once it is open: a link may lead anywhere, and may be put in a folder's place between a check and its use.

import fs from 'node:fs';
import { AppError } from '@/core/errors';
import { isWithin } from '@/core/files/treePath';
import { nodeCalls, type DiskCalls } from './calls';
import { fromSystem, hasFolderHandles, toSystem } from './system';

const { O_RDONLY, O_NONBLOCK } = fs.constants;

/** Folders that were allowed, '/'-separated; null: everything (a command line runs with its user's rights, and asks for what is named). */
export type Allowed = readonly string[] | null;

const covers = (folder: string, path: string) => folder === '/' || isWithin(path, folder);

export class Bounds {
  private reals: readonly string[] | null = null;

  constructor(
    readonly allowed: Allowed,
    private readonly calls: DiskCalls = nodeCalls,
  ) {}

  /** Whether a path, as it is written, lies in an allowed folder. */
  named(path: string): boolean {
    return this.allowed === null || this.allowed.some((folder) => covers(folder, path));
  }

  /** The same for a place without links. An allowed folder that is a link itself allows what it leads to. */
  holds(real: string): boolean {
    if (this.allowed === null) return true;
    this.reals ??= this.allowed.map((folder) => this.realOrSame(folder));
    return this.reals.some((folder) => covers(folder, real));
  }

  private realOrSame(folder: string): string {
    try {
      return fromSystem(this.calls.realpath(toSystem(folder)));
    } catch {
      return folder;
    }
  }

  /** Throws AppError('not-allowed') unless what is open as `fd`, under this name, lies in an allowed folder. */
  checkOpen(fd: number, path: string): void {
    if (this.allowed === null) return;
    const real = hasFolderHandles()
      ? this.calls.readlink(`/proc/self/fd/${fd}`)
      : this.calls.realpath(toSystem(path));
    if (!this.holds(fromSystem(real)))
      throw new AppError('not-allowed', `${path} leads out of the folders that you have allowed.`);
  }

  /** The same for what exists of a path: it may be about to be made. */
  checkPath(path: string): void {
    if (this.allowed === null) return;
    for (let at = path; ; at = at.slice(0, at.lastIndexOf('/')) || '/') {
      let real: string;
      try {
        real = fromSystem(this.calls.realpath(toSystem(at)));
      } catch (cause) {
        if (at === '/' || !at.includes('/')) throw cause;
        continue;
      }
      if (this.named(path) && this.holds(real)) return;
      throw new AppError('not-allowed', `${path} lies in no folder that you have allowed.`);
    }
  }

  /** The same for what lies at a path now. */
  checkAt(path: string): void {
    if (this.allowed === null) return;
    const real = fromSystem(this.calls.realpath(toSystem(path)));
    if (!this.holds(real))
      throw new AppError('not-allowed', `${path} leads out of the folders that you have allowed.`);
  }
}

/** Opens a file for a stream to a page: a real one, that lies in an allowed folder once it is open. Resolves with the handle and its size in bytes. */
export async function openWithin(
  path: string,
  bounds: Bounds,
): Promise<{ handle: fs.promises.FileHandle; size: number }> {
  const handle = await fs.promises.open(toSystem(path), O_RDONLY | (O_NONBLOCK ?? 0));
  try {
    const stat = await handle.stat();
    if (!stat.isFile()) throw new AppError('not-found', `${path} is no file.`);
    bounds.checkOpen(handle.fd, path);
    return { handle, size: stat.size };
  } catch (cause) {
    await handle.close();
    throw cause;
  }
}

/** The same for a thread that reads a file as a whole: what `read` gives, which gets the open file and its size in bytes; closed in any case. */
export function readWithin<T>(path: string, bounds: Bounds, read: (fd: number, size: number) => T): T {
  const fd = nodeCalls.open(toSystem(path), O_RDONLY | (O_NONBLOCK ?? 0));
  try {
    const stat = nodeCalls.fstat(fd);
    if (!stat.isFile()) throw new AppError('unsupported', `${path} is no file.`);
    bounds.checkOpen(fd, path);
    return read(fd, stat.size);
  } finally {
    nodeCalls.close(fd);
  }
}
