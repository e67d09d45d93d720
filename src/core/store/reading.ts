// Many contents of a store read one after the other: the index is asked once, and packs are read in large blocks, since contents that were kept together
// lie together.

import type { Digest } from '../files/digest';
import type { ByteStream, FileTree } from '../files/fileTree';
import { packIndex, packPath, type PackIndex } from './packIndex';
import type { Extent } from './packRecord';
import { asItLies, openContent } from './store';

/** Bytes of a pack that are read at once. */
const block = 4 * 1024 * 1024;

/** Reads a store as it is when it begins: what is kept later is not seen. */
export class StoreReading {
  private pack = 0;
  private from = 0;
  private bytes: Uint8Array = new Uint8Array();

  private constructor(
    private readonly tree: FileTree,
    private readonly index: PackIndex,
  ) {}

  static async of(tree: FileTree): Promise<StoreReading> {
    return new StoreReading(tree, await packIndex(tree));
  }

  /** Whether the packs tell of a content. */
  isInPacks(digest: Digest): boolean {
    return this.index.contents.has(digest);
  }

  /** Where a content begins: who reads many in this order reads on. What lies outside the packs comes last. */
  placeOf(digest: Digest): readonly [pack: number, offset: number] {
    const first = this.index.contents.get(digest)?.extents[0];
    return first ? [first.pack, first.offset] : [Number.MAX_SAFE_INTEGER, 0];
  }

  /** A content. A part lasts until the next one is asked for. What it yields is checked by the caller. */
  async *open(digest: Digest): ByteStream {
    const content = this.index.contents.get(digest);
    if (!content) {
      yield* openContent(this.tree, digest);
      return;
    }
    for (const extent of asItLies(this.index, content.extents)) yield* this.extent(extent);
  }

  private async *extent({ pack, offset, length }: Extent): ByteStream {
    for (let at = offset; at < offset + length;) {
      const isAtHand = pack === this.pack && at >= this.from && at < this.from + this.bytes.length;
      if (!isAtHand) {
        this.bytes = await this.tree.read(packPath(pack), [at, at + block]);
        [this.pack, this.from] = [pack, at];
        // The pack ends before: what is read is less than it should be, and so not right.
        if (this.bytes.length === 0) return;
      }
      const end = Math.min(offset + length, this.from + this.bytes.length);
      yield this.bytes.subarray(at - this.from, end - this.from);
      at = end;
    }
  }
}
