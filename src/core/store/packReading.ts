// Bytes of packs, compared with bytes at hand. Content mostly lies as it was kept, one chunk behind the other: so a pack is read on from where
// it was read last, ahead of what is asked.

import { AppError } from '../errors';
import type { FileTree } from '../files/fileTree';
import { sameBytes } from '../text/bytes';
import { packPath } from './packIndex';
import type { Extent } from './packRecord';

/** What is passed over in a pack rather than opening it anew: 1 MB. */
const passed = 1024 * 1024;
/** What is read of a place at least, and from how much on it is read ahead of what is asked: 64 kB, 512 kB. */
const least = 64 * 1024;
const long = 512 * 1024;
/** How finely two stretches that differ are compared. */
const step = 4096;
/** Places that are read on from: a version goes back and forth between what its first copy left and what changed since. */
const places = 3;

/** Reads packs of a tree. */
export class PackReading {
  /** Those used last at the end. */
  private readonly cursors: Cursor[] = [];

  constructor(private readonly tree: FileTree) {}

  /** How many of the first bytes are the same, to a multiple of 4 kB where not all are. */
  async same({ pack, offset, length }: Extent, bytes: Uint8Array): Promise<number> {
    let done = 0;
    while (done < length) {
      const there = (await this.at(pack, offset + done, length - done)).subarray(0, length - done);
      const mine = bytes.subarray(done, done + there.length);
      if (there.length === 0) return done;
      if (!sameBytes(there, mine)) {
        let at = 0;
        while (sameBytes(there.subarray(at, at + step), mine.subarray(at, at + step))) at += step;
        return done + at;
      }
      done += there.length;
    }
    return done;
  }

  /** What is at hand from this byte of a pack on; empty where the pack ends before or is not there. It stays until the next call. */
  private async at(pack: number, offset: number, wanted: number): Promise<Uint8Array> {
    let n = this.cursors.findIndex((c) => c.reaches(pack, offset));
    if (n < 0) {
      if (this.cursors.length === places) await this.cursors.shift()!.close();
      n = this.cursors.push(new Cursor(this.tree, pack, offset)) - 1;
    }
    const [cursor] = this.cursors.splice(n, 1) as [Cursor];
    this.cursors.push(cursor);
    return cursor.at(offset, wanted);
  }

  /** Gives the files back. */
  async close(): Promise<void> {
    for (const cursor of this.cursors.splice(0)) await cursor.close();
  }
}

/** A place in a pack that is read on from. */
class Cursor {
  private parts: AsyncIterator<Uint8Array> | null = null;
  private part: Uint8Array = new Uint8Array();
  /** Long stretches that were asked for in a row. */
  private longOnes = 0;

  constructor(
    private readonly tree: FileTree,
    private readonly pack: number,
    /** Where in the pack the part at hand begins. */
    private from: number,
  ) {}

  reaches(pack: number, offset: number): boolean {
    return pack === this.pack && offset >= this.from && offset < this.from + this.part.length + passed;
  }

  async at(offset: number, wanted: number): Promise<Uint8Array> {
    while (offset >= this.from + this.part.length) {
      this.from += this.part.length;
      this.part = new Uint8Array();
      const next = await this.next(offset - this.from + wanted);
      if (next === null) return this.part;
      this.part = next;
    }
    return this.part.subarray(offset - this.from);
  }

  /** The next part; null where the pack ends or is not there. */
  private async next(wanted: number): Promise<Uint8Array | null> {
    const path = packPath(this.pack);
    try {
      this.longOnes = wanted >= long ? this.longOnes + 1 : 0;
      if (!this.parts && this.longOnes < 3) {
        const read = await this.tree.read(path, [this.from, this.from + Math.max(least, wanted)]);
        return read.length > 0 ? read : null;
      }
      this.parts ??= this.tree.stream(path, [this.from, Number.MAX_SAFE_INTEGER])[Symbol.asyncIterator]();
      const next = await this.parts.next();
      return next.done ? null : next.value;
    } catch (cause) {
      if (cause instanceof AppError && cause.code === 'not-found') return null;
      throw cause;
    }
  }

  async close(): Promise<void> {
    await this.parts?.return?.();
    this.parts = null;
  }
}
