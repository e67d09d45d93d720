// A folder on disk as a tree, and the disk itself as outside files. Calls are synchronous: this code runs in worker threads and
// in the command line, where one call after another is fastest; between the parts of long work it yields to messages.
//
// Writing: a temporary file beside the target, flushed, renamed, the folder flushed. A target that must not exist is made by
// a hard link, which cannot replace anything, where the disk has links.

import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { AppError } from '@/core/errors';
import type { Digest } from '@/core/files/digest';
import type {
  ByteRange,
  ByteStream,
  CancelSignal,
  FileStat,
  OutsideFiles,
  WritableFileTree,
  WriteOptions,
} from '@/core/files/fileTree';
import { comparePaths, folderOf, nameOf, treePath, type TreePath } from '@/core/files/treePath';
import { startHash } from './blake';
import { entriesAt, statOrNull, surveyFolder, temporaryMark, type Survey } from './listing';
import { canSyncFolder, fromSystem, isTransient, toSystem } from './system';

const chunk = 1024 * 1024;
const linkFrom = 256 * 1024 * 1024;
const tick = () => new Promise<void>((done) => setImmediate(done));

/** Runs a file call; on Windows tries again for a second when another program holds the file. */
function patiently<T>(call: () => T): T {
  for (let n = 0; ; n++) {
    try {
      return call();
    } catch (cause) {
      if (n >= 10 || !isTransient((cause as NodeJS.ErrnoException).code)) throw cause;
      Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 100);
    }
  }
}

function readAt(system: string, range?: ByteRange, into?: Uint8Array): Uint8Array {
  const fd = fs.openSync(system, 'r');
  try {
    let start = 0;
    let end: number;
    if (range) [start, end] = range;
    else end = fs.fstatSync(fd).size;
    const length = Math.max(0, end - start);
    const buffer = into && length <= into.length ? into.subarray(0, length) : Buffer.allocUnsafe(length);
    let filled = 0;
    while (filled < buffer.length) {
      const n = fs.readSync(fd, buffer, filled, Math.min(buffer.length - filled, 2 ** 30), start + filled);
      if (n === 0) break;
      filled += n;
    }
    return buffer.subarray(0, filled);
  } finally {
    fs.closeSync(fd);
  }
}

async function writeAt(fd: number, part: Uint8Array, position: number): Promise<void> {
  for (let at = 0; at < part.length;) at += await writeSome(fd, part, at, position + at);
}

function writeSome(fd: number, part: Uint8Array, at: number, position: number): Promise<number> {
  return new Promise((resolve, reject) => {
    fs.write(fd, part, at, part.length - at, position, (cause, written) =>
      cause ? reject(cause) : resolve(written),
    );
  });
}

async function* streamAt(system: string, range?: ByteRange): ByteStream {
  const fd = fs.openSync(system, 'r');
  try {
    let at = range ? range[0] : 0;
    const end = range ? range[1] : Number.MAX_SAFE_INTEGER;
    const size = Math.min(chunk, Math.max(1, end - at));
    // Two in turn, as ByteStream allows: one is still being written while the other is filled.
    const buffers = [Buffer.allocUnsafe(size), end - at > size ? Buffer.allocUnsafe(size) : Buffer.alloc(0)];
    for (let n = 1; at < end; n++) {
      const buffer = buffers[(n - 1) % 2]!;
      const got = fs.readSync(fd, buffer, 0, Math.min(size, end - at), at);
      if (got === 0) break;
      at += got;
      yield buffer.subarray(0, got);
      if (n % 8 === 0) await tick();
    }
  } finally {
    fs.closeSync(fd);
  }
}

async function digestAt(system: string): Promise<Digest | null> {
  if (!statOrNull(system)?.isFile()) return null;
  const hasher = startHash();
  for await (const part of streamAt(system)) hasher.update(part);
  return hasher.digest();
}

/** Makes a folder's entries durable. */
function syncFolder(system: string): void {
  if (!canSyncFolder()) return;
  const fd = fs.openSync(system, 'r');
  try {
    fs.fsyncSync(fd);
  } finally {
    fs.closeSync(fd);
  }
}

/** A folder on disk. `root` is absolute and '/'-separated. Links that lead out of it count as absent. */
export class DiskTree implements WritableFileTree {
  private readonly real: string;

  constructor(readonly root: string) {
    const system = toSystem(root);
    this.real = fs.existsSync(system) ? fs.realpathSync(system) : system;
  }

  private at(p: TreePath): string {
    return toSystem(p === '' ? this.root : `${this.root === '/' ? '' : this.root}/${p}`);
  }

  private isInside(real: string): boolean {
    return real === this.real || real.startsWith(this.real + path.sep);
  }

  async *list(folder: TreePath = treePath('')): AsyncIterable<FileStat> {
    if ((await this.kind(folder)) !== 'folder') return;
    const visited = new Set<string>();
    // What is still to come, the next at the end; one generator for all depths, since each file handed up through many costs.
    const waiting: { path: TreePath; kind: 'file' | 'folder' }[] = [{ path: folder, kind: 'folder' }];
    for (let at = waiting.pop(); at !== undefined; at = waiting.pop()) {
      if (at.kind === 'file') {
        const stat = statOrNull(this.at(at.path));
        if (stat?.isFile()) yield { path: at.path, size: stat.size, modified: Math.floor(stat.mtimeMs) };
        continue;
      }
      const { path: parent } = at;
      const real = fs.realpathSync(this.at(parent));
      if (visited.has(real)) continue; // a link that leads back up
      visited.add(real);
      const all = (entriesAt(this.at(parent), (target) => this.isInside(target)) ?? []).map((e) => ({
        path: (parent === '' ? e.name : `${parent}/${e.name}`) as TreePath,
        kind: e.kind,
      }));
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
    return surveyFolder(
      (folder) => this.at(folder as TreePath),
      skip,
      (target) => this.isInside(target),
      signal,
    );
  }

  async entries(folder: TreePath) {
    return entriesAt(this.at(folder), (real) => this.isInside(real));
  }

  async kind(p: TreePath): Promise<'file' | 'folder' | null> {
    if (p === '') return statOrNull(this.at(p))?.isDirectory() ? 'folder' : null;
    const stat = statOrNull(this.at(p));
    if (!stat) return null;
    if (!(await this.isLetterForLetter(p))) return null;
    return stat.isDirectory() ? 'folder' : stat.isFile() ? 'file' : null;
  }

  /** On disks that ignore case a stat answers for other letters too, and links may lead out: the listings decide. */
  private async isLetterForLetter(p: TreePath): Promise<boolean> {
    const real = fs.realpathSync.native(this.at(p));
    if (!this.isInside(real)) return false;
    const tail = path.relative(this.real, real).split(path.sep).join('/');
    if (tail === p) return true;
    // A link inside the root, or other letters: ask each folder for its names.
    for (let at: string = p; at !== ''; at = folderOf(at)) {
      const names = fs.readdirSync(this.at(folderOf(at)));
      if (!names.includes(nameOf(at))) return false;
    }
    return true;
  }

  async stat(p: TreePath): Promise<FileStat | null> {
    const stat = statOrNull(this.at(p));
    return stat?.isFile() ? { path: p, size: stat.size, modified: Math.floor(stat.mtimeMs) } : null;
  }

  async read(p: TreePath, range?: ByteRange, into?: Uint8Array): Promise<Uint8Array> {
    try {
      return readAt(this.at(p), range, into);
    } catch (cause) {
      throw readError(p, cause);
    }
  }

  stream(p: TreePath, range?: ByteRange): ByteStream {
    return streamAt(this.at(p), range);
  }

  async digest(p: TreePath): Promise<Digest | null> {
    return digestAt(this.at(p));
  }

  private temporary(p: TreePath, tag: string): string {
    return toSystem(`${this.root}/${folderOf(p) === '' ? '' : `${folderOf(p)}/`}.${tag}${temporaryMark}`);
  }

  async write(p: TreePath, content: ByteStream, options: WriteOptions) {
    const target = this.at(p);
    const temporary = this.temporary(p, options.tag);
    const old = statOrNull(target);
    if (old?.isDirectory() || (old && !options.replace))
      throw new AppError('exists', `${p} is already there.`);
    const hasher = startHash();
    let size = 0;
    let writing: Promise<void> | null = null;
    fs.rmSync(temporary, { force: true }); // left by a crash under the same tag
    const fd = fs.openSync(temporary, 'wx', old ? old.mode : 0o666);
    try {
      try {
        for await (const part of content) {
          options.signal?.throwIfAborted();
          hasher.update(part); // while the part before is being written
          await writing;
          writing = writeAt(fd, part, size);
          size += part.length;
          options.onBytes?.(part.length);
        }
        await writing;
        fs.fsyncSync(fd);
        if (old) fs.fchmodSync(fd, old.mode & 0o7777);
      } finally {
        await writing?.catch(() => undefined);
        fs.closeSync(fd);
      }
      if (options.modified !== undefined)
        fs.utimesSync(temporary, Date.now() / 1000, options.modified / 1000);
      const written = { digest: hasher.digest(), size };
      await options.beforeCommit?.(written);
      if (options.replace) patiently(() => fs.renameSync(temporary, target));
      else this.linkOrRename(temporary, target, p);
      syncFolder(path.dirname(target));
      return written;
    } catch (cause) {
      fs.rmSync(temporary, { force: true });
      throw cause;
    }
  }

  private linkOrRename(temporary: string, target: string, p: TreePath): void {
    try {
      fs.linkSync(temporary, target);
      fs.unlinkSync(temporary);
    } catch (cause) {
      const code = (cause as NodeJS.ErrnoException).code;
      if (code === 'EEXIST') throw new AppError('exists', `${p} is already there.`);
      if (
        code !== 'EPERM' &&
        code !== 'ENOTSUP' &&
        code !== 'EOPNOTSUPP' &&
        code !== 'ENOSYS' &&
        code !== 'EXDEV' &&
        code !== 'EISDIR'
      )
        throw cause;
      if (fs.existsSync(target)) throw new AppError('exists', `${p} is already there.`);
      patiently(() => fs.renameSync(temporary, target));
    }
  }

  async append(p: TreePath, bytes: Uint8Array) {
    const isNew = !fs.existsSync(this.at(p));
    const fd = fs.openSync(this.at(p), 'a');
    try {
      for (let at = 0; at < bytes.length;) at += fs.writeSync(fd, bytes, at, bytes.length - at);
      fs.fsyncSync(fd);
    } finally {
      fs.closeSync(fd);
    }
    if (isNew) syncFolder(path.dirname(this.at(p)));
  }

  async move(p: TreePath, to: TreePath) {
    if (fs.existsSync(this.at(to)) && !sameFile(this.at(p), this.at(to)))
      throw new AppError('exists', `${to} is already there.`);
    patiently(() => fs.renameSync(this.at(p), this.at(to)));
    syncFolder(path.dirname(this.at(to)));
    syncFolder(path.dirname(this.at(p)));
  }

  async moveFolder(p: TreePath, to: TreePath) {
    if (fs.existsSync(this.at(to)) && !sameFile(this.at(p), this.at(to)))
      throw new AppError('exists', `${to} is already there.`);
    if (!statOrNull(this.at(p))?.isDirectory()) throw new AppError('not-found', `${p} is no folder.`);
    patiently(() => fs.renameSync(this.at(p), this.at(to)));
    syncFolder(path.dirname(this.at(to)));
    syncFolder(path.dirname(this.at(p)));
  }

  async keep(p: TreePath, to: TreePath) {
    if (fs.existsSync(this.at(to))) return;
    // A second name costs nothing, but a program that has the file open and writes into it would write into both: only large
    // files are kept that way.
    if ((statOrNull(this.at(p))?.size ?? 0) < linkFrom) {
      await this.write(to, this.stream(p), { replace: false, tag: `keep-${nameOf(to).slice(0, 16)}` });
      return;
    }
    try {
      fs.linkSync(this.at(p), this.at(to));
      syncFolder(path.dirname(this.at(to)));
    } catch (cause) {
      if ((cause as NodeJS.ErrnoException).code === 'EEXIST') return;
      await this.write(to, this.stream(p), { replace: false, tag: `keep-${nameOf(to).slice(0, 16)}` });
    }
  }

  async remove(p: TreePath) {
    patiently(() => fs.rmSync(this.at(p), { force: true }));
    syncFolder(path.dirname(this.at(p)));
  }

  async makeFolder(p: TreePath) {
    const stat = statOrNull(this.at(p));
    if (stat?.isDirectory()) return;
    if (stat) throw new AppError('exists', `${p} is a file.`);
    fs.mkdirSync(this.at(p));
    syncFolder(path.dirname(this.at(p)));
  }

  async removeFolder(p: TreePath): Promise<boolean> {
    try {
      fs.rmdirSync(this.at(p));
    } catch {
      return false;
    }
    syncFolder(path.dirname(this.at(p)));
    return true;
  }

  async clearTemporary(p: TreePath, tag: string) {
    fs.rmSync(this.temporary(p, tag), { force: true });
  }
}

function sameFile(a: string, b: string): boolean {
  const [x, y] = [statOrNull(a), statOrNull(b)];
  return x !== null && y !== null && x.ino === y.ino && x.dev === y.dev;
}

function readError(p: string, cause: unknown): Error {
  const code = (cause as NodeJS.ErrnoException).code;
  if (code === 'ENOENT' || code === 'ENOTDIR') return new AppError('not-found', `${p} is not there.`);
  if (code === 'EACCES' || code === 'EPERM') return new AppError('no-access', `${p} may not be read.`);
  return cause instanceof Error ? cause : new Error(String(cause));
}

/** The disk beyond any root, read only; links are followed. */
export const diskOutside: OutsideFiles = {
  home: fromSystem(os.homedir()),
  async kind(p) {
    const stat = statOrNull(toSystem(p));
    return stat?.isDirectory() ? 'folder' : stat?.isFile() ? 'file' : null;
  },
  async stat(p) {
    const stat = statOrNull(toSystem(p));
    return stat?.isFile() ? { size: stat.size, modified: Math.floor(stat.mtimeMs) } : null;
  },
  entries: async (p) => entriesAt(toSystem(p), () => true),
  async read(p, range) {
    try {
      return readAt(toSystem(p), range);
    } catch (cause) {
      throw readError(p, cause);
    }
  },
  stream: (p, range) => streamAt(toSystem(p), range),
  digest: (p) => digestAt(toSystem(p)),
};
