// Keeps content in packs. What the packs have already is found by comparing, byte by byte, with what lies behind the chunk before it: most of a
// next version is the version before, and so is read back and right without hashing a chunk of it. Where that ends it is cut (chunking.ts), and
// looked for by id; what is found is compared too. The rest is new, and is read back once it is written.

import { AppError } from '../errors';
import type { Digest } from '../files/digest';
import type { ByteStream, CancelSignal, WritableFileTree } from '../files/fileTree';
import { storeFolder } from '../files/records';
import { sameBytes } from '../text/bytes';
import { cutAt, sizesFor, type ChunkSizes } from './chunking';
import { Following } from './following';
import { forgetIndex, packIndex, packPath, packsFolder, type PackIndex } from './packIndex';
import { PackReading } from './packReading';
import { encodeRecord, wordsOf, type Content, type Extent } from './packRecord';

/** Bytes gathered before they are written. */
const gathered = 16 * 1024 * 1024;
/** A pack this long is appended to no more. */
export const packFull = 64 * 1024 * 1024;

/** What was kept: its content id, its length, and how many bytes of it the packs did not have. */
export interface Kept {
  digest: Digest;
  size: number;
  added: number;
}

/** Content being kept: one after the other, safe when `finish` resolves. */
export interface Keeping {
  /** Keeps the content of a stream. `size`: about how long it is. */
  put(content: ByteStream, size: number): Promise<Kept>;
  /** Makes all of it durable. */
  finish(): Promise<void>;
}

/** A store that is being written in. */
interface Open {
  tree: WritableFileTree;
  index: PackIndex;
  appending: Appending;
  reading: PackReading;
}

/** Begins to keep. `chunks`: how content of a size is cut. Nobody else may write in this store until `finish`. */
export async function startKeeping(
  tree: WritableFileTree,
  signal?: CancelSignal,
  chunks: (size: number) => ChunkSizes = sizesFor,
): Promise<Keeping> {
  const index = await packIndex(tree);
  const store: Open = {
    tree,
    index,
    appending: new Appending(tree, index),
    reading: new PackReading(tree),
  };
  const unfinished = async <T>(work: () => Promise<T>): Promise<T> => {
    try {
      return await work();
    } catch (cause) {
      await store.reading.close();
      forgetIndex(tree); // it tells of chunks that were not written
      throw cause;
    }
  };
  return {
    put: (content, size) => unfinished(() => put(store, content, chunks(size), signal)),
    async finish() {
      await store.reading.close();
      await unfinished(() => store.appending.flush());
    },
  };
}

async function put(
  store: Open,
  content: ByteStream,
  chunks: ChunkSizes,
  signal: CancelSignal | undefined,
): Promise<Kept> {
  const whole = store.tree.startHash();
  const cutting = new Cutting(store, chunks);
  for await (const part of content) {
    signal?.throwIfAborted();
    whole.update(part);
    await cutting.enter(part);
  }
  await cutting.end();
  const digest = whole.digest();
  const { extents, size, added } = cutting;
  const known = store.index.contents.get(digest);
  if (!known || !sameExtents(known.extents, extents)) store.appending.whole({ digest, size, extents });
  return { digest, size, added };
}

/** One content on its way into chunks: those that are there, and those that are new. */
class Cutting {
  /** Where its bytes lie. */
  readonly extents: Extent[] = [];
  size = 0;
  /** Bytes that were not there yet. */
  added = 0;
  /** The chunk that is likely to come next; -1: nobody knows. */
  private expected = -1;
  private readonly window: Window;
  private readonly following: Following;

  constructor(
    private readonly store: Open,
    private readonly sizes: ChunkSizes,
  ) {
    this.window = new Window(sizes.most);
    this.following = new Following(store.index);
  }

  /** Takes all of a part but what the next part may belong to. */
  async enter(part: Uint8Array): Promise<void> {
    this.window.enter(part);
    while (this.window.length >= this.sizes.most) await this.next();
    this.window.leave();
  }

  async end(): Promise<void> {
    while (this.window.length > 0) await this.next();
  }

  private async next(): Promise<void> {
    if (this.expected >= 0 && (await this.follow())) return;
    const { window, following } = this;
    const { index, appending, tree } = this.store;
    const length = cutAt(window.bytes, window.from, window.to, this.sizes) - window.from;
    const bytes = window.head(length);
    const id = idOf(tree, bytes);
    const found = index.find(id);
    const isThere =
      found >= 0 && index.place(found).length === length && (await this.same(index.place(found))) === length;
    if (!isThere) this.added += length;
    const n = isThere ? found : await appending.add(id, bytes);
    this.take(index.place(n), isThere ? following.after(n) : -1);
  }

  /** Takes what lies behind the last chunk, as far as it is the same; false: nothing is. */
  private async follow(): Promise<boolean> {
    const { window, following, expected } = this;
    const { index } = this.store;
    const { end, place } = index.run(expected, Math.min(window.length, following.reach(expected)));
    if (place.length === 0) return false;
    const shared = await this.same(place);
    if (shared === place.length) {
      this.take(place, following.after(end - 1));
      return true;
    }
    let at = 0;
    for (let n = expected; ; n++) {
      const one = index.place(n);
      if (at + one.length > shared) return at > 0;
      this.take(one, following.after(n));
      at += one.length;
    }
  }

  /** How many bytes of a place are those that come next. */
  private async same(place: Extent): Promise<number> {
    const bytes = this.window.head(place.length);
    const pending = this.store.appending.pending(place);
    if (pending) return sameBytes(pending, bytes) ? place.length : 0;
    return this.store.reading.same(place, bytes);
  }

  private take(place: Extent, next: number): void {
    extend(this.extents, place);
    this.window.pass(place.length);
    this.size += place.length;
    this.expected = next;
  }
}

function idOf(tree: WritableFileTree, bytes: Uint8Array): number[] {
  const hash = tree.startHash();
  hash.update(bytes);
  return wordsOf(hash.digest(), 5);
}

/** Adds a place to a list of places; one that follows upon the last makes it longer. */
export function extend(extents: Extent[], { pack, offset, length }: Extent): void {
  const last = extents.at(-1);
  if (last && last.pack === pack && last.offset + last.length === offset) last.length += length;
  else extents.push({ pack, offset, length });
}

function sameExtents(a: readonly Extent[], b: readonly Extent[]): boolean {
  return (
    a.length === b.length &&
    a.every((e, i) => e.pack === b[i]!.pack && e.offset === b[i]!.offset && e.length === b[i]!.length)
  );
}

/** Content as it comes, part by part, as one stretch of which chunks are taken. Only what lies across two parts is copied. */
class Window {
  bytes: Uint8Array = new Uint8Array();
  from = 0;
  to = 0;
  private readonly own: Uint8Array;
  /** The part of which only the beginning lies in `own`, and how much of it. */
  private part: Uint8Array | null = null;
  private copied = 0;

  constructor(private readonly most: number) {
    this.own = new Uint8Array(2 * most);
  }

  get length(): number {
    return this.to - this.from;
  }

  head(length: number): Uint8Array {
    return this.bytes.subarray(this.from, this.from + length);
  }

  /** Adds a part behind what is left, which is less than a chunk can have. */
  enter(part: Uint8Array): void {
    if (this.length === 0) {
      [this.bytes, this.from, this.to] = [part, 0, part.length];
      return;
    }
    const left = this.length;
    this.copied = Math.min(this.most, part.length);
    this.own.set(part.subarray(0, this.copied), left);
    [this.from, this.to] = [0, left + this.copied];
    this.part = part;
  }

  /** Passes over what was taken. */
  pass(length: number): void {
    this.from += length;
    if (!this.part || this.length > this.copied) return;
    this.bytes = this.part;
    this.from = this.copied - this.length;
    this.to = this.part.length;
    this.part = null;
  }

  /** Keeps what is left when the part is given back. */
  leave(): void {
    const left = this.length;
    this.part = null;
    this.own.set(this.bytes.subarray(this.from, this.to));
    [this.bytes, this.from, this.to] = [this.own, 0, left];
  }
}

/** What will be appended to a pack. */
export class Appending {
  private buffer = new Uint8Array(64 * 1024);
  private filled = 0;
  private chunks: number[] = [];
  private contents: Content[] = [];
  private pack = 0;
  private base = 0;
  private failure: { cause: unknown } | null = null;

  constructor(
    private readonly tree: WritableFileTree,
    private readonly index: PackIndex,
    /** Packs below this number are not appended to. */
    private readonly from = 0,
  ) {}

  /** The bytes of a chunk that is not written yet; null: it lies on the disk. */
  pending({ pack, offset, length }: Extent): Uint8Array | null {
    if (pack !== this.pack || offset < this.base || this.filled === 0) return null;
    return this.buffer.subarray(offset - this.base, offset - this.base + length);
  }

  /** Adds a new chunk; returns its number. */
  async add(id: readonly number[], bytes: Uint8Array): Promise<number> {
    if (this.filled + bytes.length > gathered) await this.flush();
    if (this.filled === 0) await this.open();
    if (this.filled + bytes.length > this.buffer.length) {
      const more = new Uint8Array(Math.max(2 * this.buffer.length, this.filled + bytes.length));
      more.set(this.buffer.subarray(0, this.filled));
      this.buffer = more;
    }
    this.buffer.set(bytes, this.filled);
    const place = { pack: this.pack, offset: this.base + this.filled, length: bytes.length };
    this.chunks.push(...id, place.offset, place.length);
    this.filled += bytes.length;
    return this.index.add(id, place);
  }

  whole(content: Content): void {
    this.contents.push(content);
  }

  /** Chooses the pack that is appended to: the last one while there is room in it. */
  private async open(): Promise<void> {
    const last = this.index.last();
    const size =
      last === 0 || last < this.from ? packFull : ((await this.tree.stat(packPath(last)))?.size ?? 0);
    [this.pack, this.base] = size >= packFull ? [last + 1, 0] : [last, size];
  }

  /** Appends what was gathered, reads it back, and makes it count. After one that failed nothing more is written: what lies at the end is not known then. */
  async flush(): Promise<void> {
    if (this.failure) throw this.failure.cause;
    try {
      await this.append();
    } catch (cause) {
      this.failure = { cause };
      throw cause;
    }
  }

  private async append(): Promise<void> {
    if (this.chunks.length === 0 && this.contents.length === 0) return;
    if (this.filled === 0) await this.open();
    const { pack, base, index, tree } = this;
    for (const folder of [storeFolder, packsFolder])
      if ((await tree.kind(folder)) === null) await tree.makeFolder(folder);
    const good = index.packs.get(pack)?.good ?? 0;
    const sequence = index.sequence + 1;
    const record = encodeRecord(
      { sequence, chunks: Uint32Array.from(this.chunks), contents: this.contents },
      base - good + this.filled,
    );
    const bytes = new Uint8Array(this.filled + record.length);
    bytes.set(this.buffer.subarray(0, this.filled));
    bytes.set(record, this.filled);
    const path = packPath(pack);
    await tree.append(path, bytes);
    if (!sameBytes(await tree.read(path, [base, base + bytes.length]), bytes))
      throw new AppError('disk-error', `What was kept reads back different from the drive (${path}).`);
    const size = base + bytes.length;
    for (const content of this.contents) index.contents.set(content.digest, { ...content, told: pack });
    index.packs.set(pack, { good: size, size });
    index.sequence = sequence;
    [this.chunks, this.contents, this.filled] = [[], [], 0];
  }
}
