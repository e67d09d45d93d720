// What is likely to come next while content is kept: what came next in the content kept last that has the same chunk, most of all the version
// before.

import type { PackIndex } from './packIndex';
import type { Content } from './packRecord';

export class Following {
  private guide: Content | null = null;
  /** The extent of the guide that was come to last. */
  private at = 0;

  constructor(private readonly index: PackIndex) {}

  /** The chunk that is likely to come after this one; -1: nobody knows. */
  after(n: number): number {
    const { pack, offset, length } = this.index.place(n);
    const end = offset + length;
    if (!this.isIn(pack, offset) && !this.find(n)) return this.index.after(n);
    const extent = this.guide!.extents[this.at]!;
    if (end < extent.offset + extent.length) return this.index.after(n);
    const next = this.guide!.extents[this.at + 1];
    return next ? this.index.numberAt(next.pack, next.offset) : -1;
  }

  /** How far what is likely lies in one piece from the beginning of this chunk on, in bytes. */
  reach(n: number): number {
    const { pack, offset } = this.index.place(n);
    if (!this.isIn(pack, offset)) return Number.MAX_SAFE_INTEGER;
    const extent = this.guide!.extents[this.at]!;
    return extent.offset + extent.length - offset;
  }

  /** Whether the guide has this place, there or in the extent that follows. */
  private isIn(pack: number, offset: number): boolean {
    for (const i of [this.at, this.at + 1]) {
      const e = this.guide?.extents[i];
      if (e && e.pack === pack && offset >= e.offset && offset < e.offset + e.length) {
        this.at = i;
        return true;
      }
    }
    return false;
  }

  /** Takes a guide, or a place further on in it. */
  private find(n: number): boolean {
    const { pack, offset } = this.index.place(n);
    const has = (c: Content) =>
      c.extents.findIndex((e) => e.pack === pack && offset >= e.offset && offset < e.offset + e.length);
    let at = this.guide ? has(this.guide) : -1;
    if (at < 0) {
      const found = this.index.latestWith(n);
      if (!found) return false;
      this.guide = found;
      at = has(found);
    }
    this.at = at;
    return true;
  }
}
