// A folder on disk as a tree. Calls are synchronous (calls.ts); between the parts of long work it yields to messages.
//
// Writing: a temporary file beside the target, flushed, renamed, the folder flushed. A target that must not exist is made by
// a hard link, which cannot replace anything, where the disk has links.
//
// Nothing leaves the root: what is to be changed is named by its folder, which is held open and asked where it really lies, so that a link
// swapped in meanwhile changes nothing (on Linux; elsewhere the folder's real path is used). What is read is asked the same once it is open.

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
  Kind,
  PassedOver,
  WritableFileTree,
  WriteOptions,
  Written,
} from '@/core/files/fileTree';
import { comparePaths, folderOf, nameOf, treePath, type TreePath } from '@/core/files/treePath';
import { startHash } from './blake';
import { nodeCalls, type DiskCalls } from './calls';
import { byName, listedAt, lookAt, passedBy, surveyFolder, temporaryMark, type Survey } from './listing';
import {
  canSyncFolder,
  hasFolderHandles,
  isTransient,
  linkFromSystem,
  linkToSystem,
  toSystem,
} from './system';

const chunk = 1024 * 1024;
const linkFrom = 256 * 1024 * 1024;
const tick = () => new Promise<void>((done) => setImmediate(done));
const { O_RDONLY, O_WRONLY, O_APPEND, O_CREAT, O_EXCL, O_NONBLOCK, O_DIRECTORY, O_NOFOLLOW } = fs.constants;
// A time is set in seconds as a double, whose steps are 2.4e-7 s today: rounded up, so that no millisecond comes back as the one before.
const upward = 2e-7;

/** A folder that is to be written in. */
interface HeldFolder {
  at(name: string): string;
  sync(): void;
  close(): void;
}

/** Runs a file call; on Windows tries again for a second when another program holds the file. */
function patiently<T>(call: () => T): T {
  for (let n = 0; ; n++) {
    try {
      return call();
    } catch (cause) {
      if (n >= 10 || !isTransient(errnoOf(cause) ?? undefined)) throw cause;
      Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 100);
    }
  }
}

/** A folder on disk. `root` is absolute and '/'-separated. */
export class DiskTree implements WritableFileTree {
  private readonly real: string;
  /** Folders that were found to lie inside, for reading only. */
  private readonly inside = new Set<string>();

  constructor(
    readonly root: string,
    private readonly calls: DiskCalls = nodeCalls,
  ) {
    const system = toSystem(root);
    this.real = fs.existsSync(system) ? fs.realpathSync.native(system) : system;
  }

  private at(p: TreePath): string {
    return toSystem(p === '' ? this.root : `${this.root === '/' ? '' : this.root}/${p}`);
  }

  private isInside(real: string): boolean {
    return real === this.real || real.startsWith(this.real === path.sep ? path.sep : this.real + path.sep);
  }

  /** Runs calls about a path; a system's error comes out as an AppError that names it. */
  private told<T>(p: TreePath, call: () => T): T {
    try {
      return call();
    } catch (cause) {
      throw fileError(p === '' ? this.root : p, cause);
    }
  }

  /** Opens the folder that a change concerns. Throws AppError where it is not there or leads out. */
  private folder(p: TreePath): HeldFolder {
    const leadsOut = () =>
      new AppError('no-access', `${p} leads through a link out of ${this.root}; nothing is written there.`);
    if (!hasFolderHandles()) {
      const real = this.calls.realpath(this.at(p));
      if (!this.isInside(real)) throw leadsOut();
      return {
        at: (name) => toSystem(`${real}${path.sep}${name}`),
        sync: () => this.syncFolder(real),
        close: () => undefined,
      };
    }
    const fd = this.calls.open(this.at(p), O_RDONLY | O_DIRECTORY);
    const close = () => this.calls.close(fd);
    let real: string;
    try {
      real = this.calls.readlink(`/proc/self/fd/${fd}`);
    } catch (cause) {
      close();
      throw cause;
    }
    if (!this.isInside(real)) {
      close();
      throw leadsOut();
    }
    return {
      at: (name) => `/proc/self/fd/${fd}/${name}`,
      sync: () => this.calls.fsync(fd),
      close,
    };
  }

  /** Runs a change in the folder of `p`, then makes the folder durable. */
  private inFolder<T>(p: TreePath, change: (system: string, folder: HeldFolder) => T): T {
    return this.told(p, () => {
      const folder = this.folder(folderOf(p));
      try {
        const done = change(folder.at(nameOf(p)), folder);
        folder.sync();
        return done;
      } finally {
        folder.close();
      }
    });
  }

  private syncFolder(system: string): void {
    if (!canSyncFolder()) return;
    const fd = this.calls.open(system, O_RDONLY);
    try {
      this.calls.fsync(fd);
    } finally {
      this.calls.close(fd);
    }
  }

  /** Opens a file for reading; only a real file that lies inside. A pipe is never waited for. */
  private openFile(p: TreePath): number {
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

  async digest(p: TreePath): Promise<Digest | null> {
    if ((await this.stat(p)) === null) return null;
    const hasher = startHash();
    for await (const part of this.stream(p)) hasher.update(part);
    return hasher.digest();
  }

  async write(p: TreePath, content: ByteStream, options: WriteOptions): Promise<Written> {
    const folder = this.told(p, () => this.folder(folderOf(p)));
    const via = options.via === undefined ? folder : this.folder(options.via);
    try {
      return await this.writeIn(folder, via, p, content, options);
    } catch (cause) {
      throw fileError(p, cause);
    } finally {
      folder.close();
      if (via !== folder) via.close();
    }
  }

  private async writeIn(
    folder: HeldFolder,
    via: HeldFolder,
    p: TreePath,
    content: ByteStream,
    options: WriteOptions,
  ): Promise<Written> {
    const target = folder.at(nameOf(p));
    const temporary = via.at(temporaryOf(options.tag));
    const old = lookAt(target, this.calls);
    if (old && (!old.isFile() || !options.replace)) throw new AppError('exists', `${p} is already there.`);
    this.unlinkIfThere(temporary); // left by a crash under the same tag
    // What replaces a file is for nobody's eyes until it has that file's rights.
    const fd = this.calls.open(temporary, O_WRONLY | O_CREAT | O_EXCL, old ? 0o600 : 0o666);
    try {
      let written: { digest: Digest; size: number };
      let modified: number;
      try {
        written = await this.fill(fd, content, options);
        if (old) {
          this.takeRights(fd, old);
          this.calls.takeAttributes(target, temporary);
        } else if (options.mode !== undefined) this.calls.fchmod(fd, options.mode & 0o7777);
        if (options.modified !== undefined)
          this.calls.utimes(temporary, Date.now() / 1000, options.modified / 1000 + upward);
        this.calls.fsync(fd);
        modified = this.calls.fstat(fd).mtimeMs;
      } finally {
        this.calls.close(fd);
      }
      await options.beforeCommit?.({ ...written, modified });
      if (options.replace) patiently(() => this.calls.rename(temporary, target));
      else this.linkOrRename(temporary, target, p);
      folder.sync();
      return { ...written, modified };
    } catch (cause) {
      try {
        this.unlinkIfThere(temporary);
      } catch {
        // The first failure is the one to tell; recovery clears what is left.
      }
      throw cause;
    }
  }

  /** Writes the content behind a file number, hashing each part while the one before is being written. */
  private async fill(
    fd: number,
    content: ByteStream,
    options: WriteOptions,
  ): Promise<{ digest: Digest; size: number }> {
    const hasher = startHash();
    let size = 0;
    let writing: Promise<void> | null = null;
    const writeAt = async (part: Uint8Array, position: number) => {
      for (let at = 0; at < part.length;)
        at += await this.calls.write(fd, part, at, part.length - at, position + at);
    };
    try {
      for await (const part of content) {
        options.signal?.throwIfAborted();
        hasher.update(part);
        await writing;
        writing = writeAt(part, size);
        writing.catch(() => undefined); // awaited below
        size += part.length;
        options.onBytes?.(part.length);
      }
      await writing;
    } finally {
      await writing?.catch(() => undefined);
    }
    return { digest: hasher.digest(), size };
  }

  /** Gives a new file the owner, group and mode of the one it replaces, as far as the system lets us. */
  private takeRights(fd: number, old: fs.Stats): void {
    const now = this.calls.fstat(fd);
    if (now.uid !== old.uid || now.gid !== old.gid)
      try {
        this.calls.fchown(fd, old.uid, old.gid);
      } catch (cause) {
        if (errnoOf(cause) !== 'EPERM' && errnoOf(cause) !== 'EINVAL' && errnoOf(cause) !== 'ENOSYS')
          throw cause;
      }
    this.calls.fchmod(fd, old.mode & 0o7777);
  }

  private unlinkIfThere(system: string): void {
    try {
      this.calls.unlink(system);
    } catch (cause) {
      if (!isAbsence(cause)) throw cause;
    }
  }

  private linkOrRename(temporary: string, target: string, p: TreePath): void {
    try {
      this.calls.link(temporary, target);
    } catch (cause) {
      const code = errnoOf(cause);
      if (code === 'EEXIST') throw new AppError('exists', `${p} is already there.`);
      const hasNoLinks = ['EPERM', 'ENOTSUP', 'EOPNOTSUPP', 'ENOSYS', 'EXDEV', 'EISDIR', 'EMLINK'];
      if (code === null || !hasNoLinks.includes(code)) throw cause;
      if (lookAt(target, this.calls)) throw new AppError('exists', `${p} is already there.`);
      patiently(() => this.calls.rename(temporary, target));
      return;
    }
    this.calls.unlink(temporary);
  }

  async append(p: TreePath, bytes: Uint8Array) {
    this.told(p, () => {
      const folder = this.folder(folderOf(p));
      try {
        const system = folder.at(nameOf(p));
        const isNew = lookAt(system, this.calls) === null;
        const fd = this.calls.open(system, O_WRONLY | O_APPEND | O_CREAT | (O_NOFOLLOW ?? 0), 0o666);
        try {
          for (let at = 0; at < bytes.length;) at += this.calls.append(fd, bytes, at);
          this.calls.fsync(fd);
        } finally {
          this.calls.close(fd);
        }
        if (isNew) folder.sync();
      } finally {
        folder.close();
      }
    });
  }

  async move(p: TreePath, to: TreePath) {
    this.rename(p, to, (stat) => !stat.isDirectory());
  }

  async moveFolder(p: TreePath, to: TreePath) {
    this.rename(p, to, (stat) => stat.isDirectory());
  }

  private rename(p: TreePath, to: TreePath, fits: (stat: fs.Stats) => boolean): void {
    this.inFolder(to, (target) =>
      this.inFolder(p, (source) => {
        const stat = lookAt(source, this.calls);
        if (!stat || !fits(stat)) throw new AppError('not-found', `${p} is not there.`);
        const there = lookAt(target, this.calls);
        // On a disk that ignores case, a name in other letters is the same file.
        const isSame =
          there !== null &&
          there.ino === stat.ino &&
          there.dev === stat.dev &&
          to.normalize('NFC').toLowerCase() === p.normalize('NFC').toLowerCase();
        if (there && !isSame) throw new AppError('exists', `${to} is already there.`);
        patiently(() => this.calls.rename(source, target));
        this.inside.clear();
      }),
    );
  }

  async keep(p: TreePath, to: TreePath, options: Pick<WriteOptions, 'tag' | 'via'>) {
    if ((await this.kind(to)) !== null) return;
    const stat = await this.stat(p);
    const { modified, mode, size } = stat ?? {};
    const copy = () => this.write(to, this.stream(p), { replace: false, modified, mode, ...options });
    // A second name costs nothing, but a program that has the file open and writes into it would write into both: only large
    // files are kept that way.
    if ((size ?? 0) < linkFrom) return void (await copy());
    try {
      this.inFolder(to, (target) =>
        this.inFolder(p, (source) => {
          if (lookAt(source, this.calls)?.isSymbolicLink()) throw new AppError('exists', `${p} is a link.`);
          this.calls.link(source, target);
        }),
      );
    } catch {
      await copy();
    }
  }

  async remove(p: TreePath) {
    if (lookAt(this.at(folderOf(p)), this.calls) === null) return;
    this.inFolder(p, (system) => {
      try {
        patiently(() => this.calls.unlink(system));
      } catch (cause) {
        if (!isAbsence(cause)) throw cause;
      }
    });
  }

  async makeLink(p: TreePath, text: string) {
    this.inFolder(p, (system) => this.calls.symlink(linkToSystem(text), system));
  }

  async makeFolder(p: TreePath, mode?: number) {
    this.inFolder(p, (system) => {
      const stat = lookAt(system, this.calls);
      if (stat?.isDirectory()) return;
      if (stat) throw new AppError('exists', `${p} is no folder.`);
      this.calls.mkdir(system);
      if (mode !== undefined) this.chmodFolder(system, mode);
    });
  }

  private chmodFolder(system: string, mode: number): void {
    if (!canSyncFolder()) return; // Windows: folders have no such bits
    const fd = this.calls.open(system, O_RDONLY | O_DIRECTORY);
    try {
      this.calls.fchmod(fd, mode & 0o7777);
    } finally {
      this.calls.close(fd);
    }
  }

  async folderMode(p: TreePath): Promise<number | undefined> {
    return this.told(p, () => {
      const stat = lookAt(this.at(p), this.calls);
      return stat?.isDirectory() ? stat.mode & 0o7777 : undefined;
    });
  }

  async removeFolder(p: TreePath): Promise<boolean> {
    if (p === '' || lookAt(this.at(p), this.calls) === null) return false;
    try {
      this.inFolder(p, (system) => this.calls.rmdir(system));
    } catch (cause) {
      if (cause instanceof AppError && (cause.code === 'exists' || cause.code === 'not-found')) return false;
      throw cause;
    }
    this.inside.clear();
    return true;
  }

  async clearTemporary(p: TreePath, tag: string) {
    if (lookAt(this.at(folderOf(p)), this.calls) === null) return;
    this.told(p, () => {
      const folder = this.folder(folderOf(p));
      try {
        this.unlinkIfThere(folder.at(temporaryOf(tag)));
      } finally {
        folder.close();
      }
    });
  }
}

function temporaryOf(tag: string): string {
  return `.${tag}${temporaryMark}`;
}

function statOf(p: TreePath, stat: fs.Stats): FileStat {
  return { path: p, size: stat.size, modified: stat.mtimeMs, mode: stat.mode & 0o7777 };
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

/** Streams an open file in parts and closes it. */
export async function* streamOpen(calls: DiskCalls, fd: number, range?: ByteRange): ByteStream {
  try {
    let at = range ? range[0] : 0;
    const end = range ? range[1] : Number.MAX_SAFE_INTEGER;
    const size = Math.min(chunk, Math.max(1, end - at));
    // Two in turn, as ByteStream allows: one is still being written while the other is filled.
    const buffers = [Buffer.allocUnsafe(size), end - at > size ? Buffer.allocUnsafe(size) : Buffer.alloc(0)];
    for (let n = 1; at < end; n++) {
      const buffer = buffers[(n - 1) % 2]!;
      const got = calls.read(fd, buffer, 0, Math.min(size, end - at), at);
      if (got === 0) break;
      at += got;
      yield buffer.subarray(0, got);
      if (n % 8 === 0) await tick();
    }
  } finally {
    calls.close(fd);
  }
}
