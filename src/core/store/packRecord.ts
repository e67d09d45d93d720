// How the store lies on the disk. Chunks lie one behind the other in pack files, `.satchel/store/packs/000001.pack` and so on; each append ends
// with what has to be known of it:
//
//     chunks … │ record │ foot            the foot: mark, length of the record, its CRC-32, length of all before it (u32, little-endian)
//
// The record lists the chunks before it and the contents that are whole with them. So one append, made durable once, keeps something or does not; an
// append that was torn has no foot and counts for nothing; and a pack explains itself: nothing else has to be right for it to be read.
// Packs are read from their ends, foot to foot, without reading what is in them.

import type { Digest } from '../files/digest';
import { crc32 } from '../text/crc32';

/** Bytes [offset, offset + length) of a pack. */
export interface Extent {
  pack: number;
  offset: number;
  length: number;
}

/** Words of a chunk in a record: the first 160 bits of its BLAKE3, its offset in the pack, its length. */
export const chunkWords = 7;

/** A content: its whole length, and where its bytes lie, in order. */
export interface Content {
  digest: Digest;
  size: number;
  extents: readonly Extent[];
}

export interface PackRecord {
  /** Records count on over all packs: of two that say different things of a content, the later one holds. */
  sequence: number;
  /** `chunkWords` for each. */
  chunks: Uint32Array;
  contents: readonly Content[];
}

export const footLength = 16;
const mark = 0x314b504c; // "LPK1"
const digestWords = 8;

/** Words of an id written as hex digits. */
export function wordsOf(hex: string, words: number): number[] {
  return Array.from({ length: words }, (_, i) => Number.parseInt(hex.slice(8 * i, 8 * i + 8), 16));
}

const hexOf = (words: readonly number[]) => words.map((w) => w.toString(16).padStart(8, '0')).join('');

/** A record with its foot. `before`: bytes between the end of the last good append and this record. */
export function encodeRecord(record: PackRecord, before: number): Uint8Array {
  const rest: number[] = [];
  for (const c of record.contents) {
    rest.push(
      ...wordsOf(c.digest, digestWords),
      c.size >>> 0,
      Math.floor(c.size / 2 ** 32),
      c.extents.length,
    );
    for (const e of c.extents) rest.push(e.pack, e.offset, e.length);
  }
  const words = new Uint32Array(3 + record.chunks.length + rest.length + footLength / 4);
  words.set([record.sequence, record.chunks.length / chunkWords, record.contents.length]);
  words.set(record.chunks, 3);
  words.set(rest, 3 + record.chunks.length);
  const body = asBytes(words).subarray(0, -footLength);
  words.set([mark, body.length, crc32(body), before], words.length - footLength / 4);
  return asBytes(words);
}

/** Words as bytes, little-endian as every machine is that Node.js runs on. */
const asBytes = (words: Uint32Array) => new Uint8Array(words.buffer, words.byteOffset, words.byteLength);

/** The foot that ends at `end`, if one does: the length of its record and of what lies before that. */
export function readFoot(
  bytes: Uint8Array,
  end: number,
): { length: number; crc: number; before: number } | null {
  if (end < footLength || bytes[end - footLength] !== (mark & 255)) return null;
  const view = new DataView(bytes.buffer, bytes.byteOffset + end - footLength, footLength);
  if (view.getUint32(0, true) !== mark) return null;
  return { length: view.getUint32(4, true), crc: view.getUint32(8, true), before: view.getUint32(12, true) };
}

/** A record's bytes read; null where they are not what the foot says. */
export function decodeRecord(body: Uint8Array, crc: number): PackRecord | null {
  if (body.length < 12 || body.length % 4 !== 0 || crc32(body) !== crc) return null;
  const words = new Uint32Array(new Uint8Array(body).buffer);
  const [sequence, chunkCount, contentCount] = words as unknown as [number, number, number];
  let at = 3 + chunkCount * chunkWords;
  const chunks = words.subarray(3, at);
  const contents: Content[] = [];
  for (let n = 0; n < contentCount; n++) {
    const [low, high, count] = words.subarray(at + digestWords) as unknown as [number, number, number];
    const extents = words.subarray(at + digestWords + 3, at + digestWords + 3 + 3 * count);
    if (!(extents.length === 3 * count)) return null;
    contents.push({
      digest: hexOf([...words.subarray(at, at + digestWords)]) as Digest,
      size: low + high * 2 ** 32,
      extents: Array.from({ length: count }, (_, i) => ({
        pack: extents[3 * i]!,
        offset: extents[3 * i + 1]!,
        length: extents[3 * i + 2]!,
      })),
    });
    at += digestWords + 3 + extents.length;
  }
  return at === words.length ? { sequence, chunks, contents } : null;
}
