// What the packs hold, in memory: chunks by their id, contents by theirs. Read from the records of all packs; kept with a tree and read on
// where packs have grown meanwhile.

import type { Digest } from '../files/digest';
import type { FileTree } from '../files/fileTree';
import { storeFolder } from '../files/records';
import { treePath, type TreePath } from '../files/treePath';
import {
  chunkWords,
  decodeRecord,
  footLength,
  readFoot,
  type Content,
  type Extent,
  type PackRecord,
} from './packRecord';

export const packsFolder = treePath(`${storeFolder}/packs`);

/** The path of a pack. */
export function packPath(pack: number): TreePath {
  return treePath(`${packsFolder}/${String(pack).padStart(6, '0')}.pack`);
}

/** A pack as it was read: up to where its appends are good, and how long it is. */
interface PackState {
  good: number;
  size: number;
}

const wordsOfId = 5;
const block = 64 * 1024;

export class PackIndex {
  readonly packs = new Map<number, PackState>();
  readonly contents = new Map<Digest, Content & { /** The pack that tells of it. */ told: number }>();
  sequence = 0;
  /** Chunks that lie in two places: where the first lies (as `pack:offset`), and the place that counts. */
  readonly replaced = new Map<string, Extent>();
  /** Numbers of the chunks of each pack, by where they lie. */
  private readonly inPack = new Map<number, number[]>();
  private count = 0;
  private ids = new Uint32Array(wordsOfId * 1024);
  private places = new Uint32Array(3 * 1024);
  private slots = new Int32Array(4096).fill(-1);

  get chunkCount(): number {
    return this.count;
  }

  /** The number of a chunk; -1: not kept. */
  find(id: readonly number[]): number {
    return this.slots[this.slotOf(id)]!;
  }

  private slotOf(id: ArrayLike<number>): number {
    const mask = this.slots.length - 1;
    for (let slot = id[0]! & mask; ; slot = (slot + 1) & mask) {
      const n = this.slots[slot]!;
      if (n < 0) return slot;
      let same = true;
      for (let i = 0; same && i < wordsOfId; i++) same = this.ids[n * wordsOfId + i] === id[i]! >>> 0;
      if (same) return slot;
    }
  }

  /** Where a chunk lies. */
  place(n: number): Extent {
    return { pack: this.places[3 * n]!, offset: this.places[3 * n + 1]!, length: this.places[3 * n + 2]! };
  }

  /** The chunk that lies behind this one in the same pack; -1: none. */
  after(n: number): number {
    const next = n + 1;
    if (next >= this.count || this.places[3 * next] !== this.places[3 * n]) return -1;
    const end = this.places[3 * n + 1]! + this.places[3 * n + 2]!;
    return this.places[3 * next + 1] === end ? next : -1;
  }

  /** The chunk that begins at a place; -1: none. */
  numberAt(pack: number, offset: number): number {
    const numbers = this.inPack.get(pack) ?? [];
    let [low, high] = [0, numbers.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.places[3 * numbers[middle]! + 1]! < offset) low = middle + 1;
      else high = middle;
    }
    return low < numbers.length && this.places[3 * numbers[low]! + 1] === offset ? numbers[low]! : -1;
  }

  /** The content kept last that this chunk belongs to, of the last few dozen. */
  latestWith(n: number): Content | null {
    const { pack, offset } = this.place(n);
    for (const content of [...this.contents.values()].slice(-64).reverse())
      if (content.extents.some((e) => e.pack === pack && offset >= e.offset && offset < e.offset + e.length))
        return content;
    return null;
  }

  /** The chunks from this one on that lie one behind the other and have together at most so many bytes: the first that does not belong, and where they lie. Without any: as many as none. */
  run(n: number, most: number): { end: number; place: Extent } {
    const { pack, offset } = this.place(n);
    let [end, length] = [n, 0];
    while (
      end < this.count &&
      this.places[3 * end] === pack &&
      this.places[3 * end + 1] === offset + length
    ) {
      const next = this.places[3 * end + 2]!;
      if (length + next > most) break;
      length += next;
      end++;
    }
    return { end, place: { pack, offset, length } };
  }

  /** Adds a chunk; returns its number. */
  add(id: ArrayLike<number>, { pack, offset, length }: Extent): number {
    return this.addAt(id, pack, offset, length);
  }

  private addAt(id: ArrayLike<number>, pack: number, offset: number, length: number): number {
    const n = this.count++;
    if (3 * n >= this.places.length) {
      this.ids = grown(this.ids);
      this.places = grown(this.places);
    }
    this.ids.set(id, n * wordsOfId);
    const numbers = this.inPack.get(pack);
    if (numbers) numbers.push(n);
    else this.inPack.set(pack, [n]);
    this.places[3 * n] = pack;
    this.places[3 * n + 1] = offset;
    this.places[3 * n + 2] = length;
    if (2 * this.count > this.slots.length) this.rehash();
    const slot = this.slotOf(id);
    const before = this.slots[slot]!;
    if (before >= 0) {
      const old = this.place(before);
      this.replaced.set(`${old.pack}:${old.offset}`, { pack, offset, length });
    }
    this.slots[slot] = n;
    return n;
  }

  private rehash(): void {
    this.slots = new Int32Array(this.slots.length * 2).fill(-1);
    for (let n = 0; n < this.count - 1; n++)
      this.slots[this.slotOf(this.ids.subarray(n * wordsOfId, (n + 1) * wordsOfId))] = n;
  }

  /** Every chunk, in the order in which they were kept: its id and its place. */
  *chunks(): Iterable<{ id: readonly number[]; place: Extent }> {
    for (let n = 0; n < this.count; n++)
      yield { id: [...this.ids.subarray(n * wordsOfId, (n + 1) * wordsOfId)], place: this.place(n) };
  }

  take(record: PackRecord, pack: number): void {
    const { chunks } = record;
    for (let i = 0; i < chunks.length; i += chunkWords)
      this.addAt(chunks.subarray(i, i + wordsOfId), pack, chunks[i + wordsOfId]!, chunks[i + wordsOfId + 1]!);
    for (const c of record.contents) this.contents.set(c.digest, { ...c, told: pack });
    this.sequence = Math.max(this.sequence, record.sequence);
  }

  /** Forgets contents of which a pack is not there any more: they were swept, or never whole. */
  dropTorn(): void {
    for (const { digest, extents } of this.contents.values())
      if (!extents.every((e) => e.offset + e.length <= (this.packs.get(e.pack)?.size ?? -1)))
        this.contents.delete(digest);
  }

  /** The pack that is appended to: the last one; 0: there is none yet. */
  last(): number {
    let last = 0;
    for (const pack of this.packs.keys()) last = Math.max(last, pack);
    return last;
  }
}

function grown(words: Uint32Array): Uint32Array<ArrayBuffer> {
  const more = new Uint32Array(words.length * 2);
  more.set(words);
  return more;
}

const loaded = new WeakMap<object, PackIndex>();

/** Forgets what was read of a tree's packs. */
export function forgetIndex(tree: FileTree): void {
  loaded.delete(tree);
}

/** What the packs of a tree hold now. */
export async function packIndex(tree: FileTree): Promise<PackIndex> {
  let index = loaded.get(tree);
  if (index && (await isAsRead(tree, index))) return index;
  index = await readPacks(tree);
  loaded.set(tree, index);
  return index;
}

/** The packs that are there, each with its size in bytes. */
export async function packSizes(tree: FileTree): Promise<[pack: number, size: number][]> {
  const found: [number, number][] = [];
  for (const { name } of (await tree.entries(packsFolder)) ?? []) {
    const pack = Number(/^(\d{6,})\.pack$/.exec(name)?.[1] ?? 0);
    if (pack > 0) found.push([pack, (await tree.stat(packPath(pack)))?.size ?? 0]);
  }
  return found;
}

/** Packs only grow at their end, and new ones have the next number: so two looks tell. */
async function isAsRead(tree: FileTree, index: PackIndex): Promise<boolean> {
  const last = index.last();
  if ((await tree.stat(packPath(last + 1))) !== null) return false;
  const stat = last === 0 ? null : await tree.stat(packPath(last));
  return last === 0 ? true : stat?.size === index.packs.get(last)!.size;
}

async function readPacks(tree: FileTree): Promise<PackIndex> {
  const index = new PackIndex();
  const found: { record: PackRecord; pack: number }[] = [];
  for (const { name } of (await tree.entries(packsFolder)) ?? []) {
    const pack = Number(/^(\d{6,})\.pack$/.exec(name)?.[1] ?? 0);
    if (pack === 0) continue;
    const { records, good, size } = await readPack(tree, packPath(pack));
    index.packs.set(pack, { good, size });
    for (const record of records) found.push({ record, pack });
  }
  found.sort((a, b) => a.record.sequence - b.record.sequence);
  for (const { record, pack } of found) index.take(record, pack);
  index.dropTorn();
  return index;
}

/** The records of one pack, the oldest first. */
async function readPack(
  tree: FileTree,
  path: TreePath,
): Promise<{ records: PackRecord[]; good: number; size: number }> {
  const size = (await tree.stat(path))?.size ?? 0;
  const tail = new Tail(tree, path, size);
  const records: PackRecord[] = [];
  let good = 0;
  for (let end = size; end >= footLength;) {
    const read = await recordBefore(tail, end);
    if (!read) {
      end = await tail.lastMarkBefore(end - 1);
      continue;
    }
    records.push(read.record);
    good ||= end;
    end = read.start;
  }
  return { records: records.reverse(), good, size };
}

async function recordBefore(tail: Tail, end: number): Promise<{ record: PackRecord; start: number } | null> {
  const foot = readFoot(await tail.bytes(end - footLength, end), footLength);
  if (!foot || foot.length + foot.before + footLength > end) return null;
  const body = await tail.bytes(end - footLength - foot.length, end - footLength);
  const record = decodeRecord(body, foot.crc);
  return record && { record, start: end - footLength - foot.length - foot.before };
}

/** A pack read from its end, a block at a time. */
class Tail {
  private held: Uint8Array = new Uint8Array();
  private from: number;

  constructor(
    private readonly tree: FileTree,
    private readonly path: TreePath,
    private readonly size: number,
  ) {
    this.from = size;
  }

  async bytes(start: number, end: number): Promise<Uint8Array> {
    if (start < this.from || end > this.from + this.held.length) {
      this.from = Math.max(0, Math.min(start, end - block));
      this.held = await this.tree.read(this.path, [this.from, end]);
    }
    return this.held.subarray(start - this.from, end - this.from);
  }

  /** The end of the last foot that seems to end at or before `end`; 0: none. Where an append was torn, or the disk lost something. */
  async lastMarkBefore(end: number): Promise<number> {
    for (let to = Math.min(end, this.size); to >= footLength;) {
      const from = Math.max(0, to - 16 * block);
      const bytes = await this.tree.read(this.path, [from, to]);
      for (let at = bytes.length; at >= footLength; at--) if (readFoot(bytes, at)) return from + at;
      to = from === 0 ? 0 : from + footLength - 1;
    }
    return 0;
  }
}
