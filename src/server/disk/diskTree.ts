// A folder on disk as a tree, the writing half.
//
// Writing: a temporary file beside the target, flushed, renamed, the folder flushed. A target that must not exist is made by
// a hard link, which cannot replace anything, where the disk has links.
//
// Nothing leaves the root: what is to be changed is named by its folder, which is held open and asked where it really lies, so that a link
// swapped in meanwhile changes nothing (on Linux; elsewhere the folder's real path is used).

import fs from 'node:fs';
import path from 'node:path';
import { AppError } from '@/core/errors';
import type { Digest } from '@/core/files/digest';
import { errnoOf, fileError, isAbsence } from '@/core/files/fileErrors';
import type { ByteStream, WritableFileTree, WriteOptions, Written } from '@/core/files/fileTree';
import { folderOf, nameOf, type TreePath } from '@/core/files/treePath';
import { startHash } from './blake';
import { asTime, syncFolder } from './calls';
import { DiskReading } from './diskReading';
import { lookAt, temporaryMark } from './listing';
import { canSyncFolder, hasFolderHandles, isTransient, linkToSystem, toSystem } from './system';

const linkFrom = 256 * 1024 * 1024;
const { O_RDONLY, O_WRONLY, O_APPEND, O_CREAT, O_EXCL, O_DIRECTORY, O_NOFOLLOW } = fs.constants;

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
export class DiskTree extends DiskReading implements WritableFileTree {
  /** Opens the folder that a change concerns. Throws AppError where it is not there or leads out. */
  private folder(p: TreePath): HeldFolder {
    const leadsOut = () =>
      new AppError('no-access', `${p} leads through a link out of ${this.root}; nothing is written there.`);
    if (!hasFolderHandles()) {
      const real = this.calls.realpath(this.at(p));
      if (!this.isInside(real)) throw leadsOut();
      return {
        at: (name) => toSystem(`${real}${path.sep}${name}`),
        sync: () => syncFolder(real, this.calls),
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
          this.calls.utimes(temporary, Date.now() / 1000, asTime(options.modified));
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
        const before = this.calls.fstat(fd).size;
        try {
          for (let at = 0; at < bytes.length;) at += this.calls.append(fd, bytes, at);
          this.calls.fsync(fd);
        } catch (cause) {
          // What came of it is of no use to anybody, and takes room that a full drive lacks.
          try {
            this.calls.truncate(fd, before);
          } catch {
            // Readers bear a torn tail.
          }
          throw cause;
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

  /**
   * Removes a file whose content is `digest`: read now, and removed only if nobody has touched it since. False: it has another content, and stays.
   * A file that is gone already counts as removed.
   */
  async removeContent(p: TreePath, digest: Digest): Promise<boolean> {
    const before = this.told(p, () => lookAt(this.at(p), this.calls));
    if (!before) return true;
    if (!before.isFile() || (await this.digest(p)) !== digest) return false;
    return this.inFolder(p, (system) => {
      const now = lookAt(system, this.calls);
      if (now && !isUntouched(before, now)) return false;
      if (now) patiently(() => this.calls.unlink(system));
      return true;
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

/** Makes a folder with those above it that are not there. */
export async function makeFolders(tree: DiskTree, folder: TreePath): Promise<void> {
  if (folder === '' || (await tree.kind(folder)) === 'folder') return;
  await makeFolders(tree, folderOf(folder));
  await tree.makeFolder(folder);
}

/** Whether two looks at a name found the same file, not written to between them. */
const isUntouched = (a: fs.Stats, b: fs.Stats) =>
  a.ino === b.ino && a.size === b.size && a.mtimeMs === b.mtimeMs && a.ctimeMs === b.ctimeMs;

function temporaryOf(tag: string): string {
  return `.${tag}${temporaryMark}`;
}
