// The reading half of a folder on disk as a tree. Calls are synchronous (calls.ts), but for long files, whose next part is read beside.
// What is read is asked where it really lies once it is open: nothing is read through a link out of the root.

import fs from 'node:fs';
import path from 'node:path';
import { AppError } from '@/core/errors';
import type { Digest } from '@/core/files/digest';
import { errnoOf, fileError, isAbsence } from '@/core/files/fileErrors';
import type {
  ByteRange,
  ByteStream,
  CancelSignal,
  Entry,
  FileStat,
  FileTree,
  Kind,
  PassedOver,
} from '@/core/files/fileTree';
import { comparePaths, folderOf, nameOf, treePath, type TreePath } from '@/core/files/treePath';
import { startHash } from './blake';
import { nodeCalls, type DiskCalls } from './calls';
import { byName, listedAt, lookAt, passedBy, surveyFolder, type Survey } from './listing';
import { currentLimits } from './limits';
import { fromSystem, hasFolderHandles, linkFromSystem, toSystem } from './system';

const chunk = 1024 * 1024;
const { O_RDONLY, O_NONBLOCK } = fs.constants;

/** A folder on disk, for reading. `root` is absolute and '/'-separated. */
export class DiskReading implements FileTree {
  private readonly real: string;
  /** Folders that were found to lie inside, for reading only. */
  protected readonly inside = new Set<string>();

  constructor(
    readonly root: string,
    protected readonly calls: DiskCalls = nodeCalls,
  ) {
    const system = toSystem(root);
    this.real = fs.existsSync(system) ? fs.realpathSync.native(system) : system;
    // Wherever the root really lies when it is opened: there it is read, and there it must be allowed.
    if (!currentLimits().bounds.holds(fromSystem(this.real)))
      throw new AppError('not-allowed', `${root} leads out of the folders that you have allowed.`);
  }

  protected at(p: TreePath): string {
    return toSystem(p === '' ? this.root : `${this.root === '/' ? '' : this.root}/${p}`);
  }

  protected isInside(real: string): boolean {
    return real === this.real || real.startsWith(this.real === path.sep ? path.sep : this.real + path.sep);
  }

  /** Runs calls about a path; a system's error comes out as an AppError that names it. */
  protected told<T>(p: TreePath, call: () => T): T {
    currentLimits().signal?.throwIfAborted();
    try {
      return call();
    } catch (cause) {
      throw fileError(p === '' ? this.root : p, cause);
    }
  }

  /** Opens a file for reading; only a real file that lies inside. A pipe is never waited for. */
  private openFile(p: TreePath): number {
    currentLimits().signal?.throwIfAborted();
    const system = this.at(p);
    const fd = this.calls.open(system, O_RDONLY | (O_NONBLOCK ?? 0));
    try {
      if (!this.calls.fstat(fd).isFile()) throw new AppError('not-found', `${p} is no file.`);
      const real = hasFolderHandles()
        ? this.calls.readlink(`/proc/self/fd/${fd}`)
        : this.calls.realpath(system);
      if (!this.isInside(real))
        throw new AppError('not-found', `${p} leads through a link out of ${this.root}.`);
      return fd;
    } catch (cause) {
      this.calls.close(fd);
      throw cause;
    }
  }

  /** Whether a folder lies inside, links followed. */
  private isFolderInside(p: TreePath): boolean {
    if (p === '' || this.inside.has(p)) return true;
    const real = this.realOrNull(this.at(p));
    if (real === null || !this.isInside(real)) return false;
    this.inside.add(p);
    return true;
  }

  private realOrNull(system: string): string | null {
    try {
      return this.calls.realpath(system);
    } catch (cause) {
      if (isAbsence(cause) || errnoOf(cause) === 'ELOOP') return null;
      throw cause;
    }
  }

  async *list(
    folder: TreePath = treePath(''),
    passedOver?: (path: string, why: PassedOver) => void,
  ): AsyncIterable<FileStat> {
    if ((await this.kind(folder)) !== 'folder') return;
    // What is still to come, the next at the end; one generator for all depths, since each file handed up through many costs.
    const waiting: { path: TreePath; kind: 'file' | 'folder' }[] = [{ path: folder, kind: 'folder' }];
    for (let at = waiting.pop(); at !== undefined; at = waiting.pop()) {
      currentLimits().signal?.throwIfAborted();
      const { path: here } = at;
      if (at.kind === 'file') {
        const stat = this.told(here, () => lookAt(this.at(here), this.calls));
        if (stat?.isFile()) yield statOf(here, stat);
        continue;
      }
      const prefix = here === '' ? '' : `${here}/`;
      const all: typeof waiting = [];
      try {
        for (const e of listedAt(this.at(here), this.calls) ?? []) {
          const path = (prefix + e.name) as TreePath;
          if (e.kind === 'file' || e.kind === 'folder') all.push({ path, kind: e.kind });
          else passedOver?.(path, passedBy(e.kind));
        }
      } catch (cause) {
        if (!passedOver) throw fileError(here === '' ? this.root : here, cause);
        passedOver(here, 'unreadable');
      }
      // Path order over whole paths: 'a.x' comes before 'a/b'.
      all.sort((a, b) =>
        comparePaths(
          b.kind === 'folder' ? `${b.path}/` : b.path,
          a.kind === 'folder' ? `${a.path}/` : a.path,
        ),
      );
      for (const e of all) waiting.push(e);
    }
  }

  /** All of the tree at one time; see `surveyFolder`. `skip`: a top folder left out. */
  survey(skip: string, signal?: CancelSignal): Survey {
    return surveyFolder((folder) => this.at(folder as TreePath), skip, this.calls, signal);
  }

  async entries(folder: TreePath): Promise<Entry[] | null> {
    return this.told(folder, () => {
      if (!this.isFolderInside(folder)) return null;
      const listed = listedAt(this.at(folder), this.calls);
      return listed?.map((e) => this.entryOf(folder, e.name, e.kind)).sort(byName) ?? null;
    });
  }

  private entryOf(folder: TreePath, name: string, kind: Kind | 'name'): Entry {
    if (kind === 'file' || kind === 'folder') return { name, kind };
    if (kind !== 'link') return { name, kind: 'other' };
    const system = this.at((folder === '' ? name : `${folder}/${name}`) as TreePath);
    const link = linkFromSystem(this.calls.readlink(system));
    const real = this.realOrNull(system);
    const stat = real !== null && this.isInside(real) ? lookAt(real, this.calls) : null;
    return { name, kind: stat?.isFile() ? 'file' : stat?.isDirectory() ? 'folder' : 'other', link };
  }

  async kind(p: TreePath): Promise<Kind | null> {
    return this.told(p, () => {
      const stat = lookAt(this.at(p), this.calls);
      if (!stat) return null;
      if (p === '') return fs.statSync(this.at(p)).isDirectory() ? 'folder' : null;
      if (!this.isFolderInside(folderOf(p)) || !this.isLetterForLetter(p, stat)) return null;
      return stat.isSymbolicLink()
        ? 'link'
        : stat.isDirectory()
          ? 'folder'
          : stat.isFile()
            ? 'file'
            : 'other';
    });
  }

  /** On disks that ignore case a stat answers for other letters too: real paths, or the listings, decide. */
  private isLetterForLetter(p: TreePath, stat: fs.Stats): boolean {
    if (!stat.isSymbolicLink()) {
      const real = this.calls.realpath(this.at(p));
      if (path.relative(this.real, real).split(path.sep).join('/') === p) return true;
    }
    // A link on the way, or other letters: ask each folder for its names.
    for (let at: string = p; at !== ''; at = folderOf(at))
      if (!this.calls.readdir(this.at(folderOf(at))).some((e) => e.name === nameOf(at))) return false;
    return true;
  }

  async readLink(p: TreePath): Promise<string | null> {
    return this.told(p, () => {
      const stat = lookAt(this.at(p), this.calls);
      if (!stat?.isSymbolicLink() || !this.isFolderInside(folderOf(p))) return null;
      return linkFromSystem(this.calls.readlink(this.at(p)));
    });
  }

  async stat(p: TreePath): Promise<FileStat | null> {
    return this.told(p, () => {
      const system = this.at(p);
      const stat = lookAt(system, this.calls);
      if (!stat || !this.isFolderInside(folderOf(p))) return null;
      if (stat.isFile()) return statOf(p, stat);
      if (!stat.isSymbolicLink()) return null;
      const real = this.realOrNull(system);
      const led = real !== null && this.isInside(real) ? lookAt(real, this.calls) : null;
      return led?.isFile() ? statOf(p, led) : null;
    });
  }

  async read(p: TreePath, range?: ByteRange, into?: Uint8Array): Promise<Uint8Array> {
    return this.told(p, () => {
      const fd = this.openFile(p);
      try {
        return readOpen(this.calls, fd, range, into);
      } finally {
        this.calls.close(fd);
      }
    });
  }

  async *stream(p: TreePath, range?: ByteRange): ByteStream {
    try {
      yield* streamOpen(this.calls, this.openFile(p), range);
    } catch (cause) {
      throw fileError(p, cause);
    }
  }

  startHash = startHash;

  async digest(p: TreePath): Promise<Digest | null> {
    if ((await this.stat(p)) === null) return null;
    const hasher = startHash();
    for await (const part of this.stream(p)) hasher.update(part);
    return hasher.digest();
  }
}

function statOf(p: TreePath, stat: fs.Stats): FileStat {
  return {
    path: p,
    size: stat.size,
    modified: stat.mtimeMs,
    mode: stat.mode & 0o7777,
    changed: stat.ctimeMs,
  };
}

/** Bytes of an open file; a range past the end is cut. */
export function readOpen(calls: DiskCalls, fd: number, range?: ByteRange, into?: Uint8Array): Uint8Array {
  const [start, end] = range ?? [0, calls.fstat(fd).size];
  const length = Math.max(0, end - start);
  const buffer = into && length <= into.length ? into.subarray(0, length) : Buffer.allocUnsafe(length);
  let filled = 0;
  while (filled < buffer.length) {
    const n = calls.read(fd, buffer, filled, Math.min(buffer.length - filled, 2 ** 30), start + filled);
    if (n === 0) break;
    filled += n;
  }
  return buffer.subarray(0, filled);
}

/** Streams an open file in parts and closes it. While a part is worked on the next one is read. */
export async function* streamOpen(calls: DiskCalls, fd: number, range?: ByteRange): ByteStream {
  let ahead: Promise<number> | null = null;
  try {
    let at = range ? range[0] : 0;
    const end = range ? range[1] : Number.MAX_SAFE_INTEGER;
    const size = Math.min(chunk, Math.max(1, end - at));
    // Three in turn, as ByteStream allows: one is still being written, one is worked on, one is filled.
    const buffers: Buffer[] = [];
    const buffer = (n: number) => (buffers[n % 3] ??= Buffer.allocUnsafe(size));
    let got = at < end ? calls.read(fd, buffer(0), 0, Math.min(size, end - at), at) : 0;
    for (let n = 0; got > 0; n++) {
      at += got;
      const rest = Math.min(size, end - at);
      const isLong = got === size && rest > 0;
      ahead = isLong ? calls.readAhead(fd, buffer(n + 1), 0, rest, at) : null;
      ahead?.catch(() => undefined); // awaited below
      yield buffer(n).subarray(0, got);
      got = ahead ? await ahead : rest > 0 ? calls.read(fd, buffer(n + 1), 0, rest, at) : 0;
    }
  } finally {
    await ahead?.catch(() => undefined); // it still reads from the file
    calls.close(fd);
  }
}
