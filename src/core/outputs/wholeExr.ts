// Whether an OpenEXR file is whole: every chunk in its offset tables must begin, and the last one must end, within the file. Source: OpenEXR file layout and
// technical introduction (Academy Software Foundation): headers, then one offset table for each part, then chunks.

import type { ByteRange } from '../files/fileTree';
import { latin1, viewOf } from '../text/bytes';

type Read = (range: ByteRange) => Promise<Uint8Array>;

// Headers are read up to this size.
const headAtMost = 1024 * 1024;
const chunksAtMost = 4_000_000;

// Bits of the version field.
const [tiledBit, deepBit, multiPartBit] = [0x200, 0x800, 0x1000];

/** Lines in a chunk, by the compression: none, RLE, ZIPS, ZIP, PIZ, PXR24, B44, B44A, DWAA, DWAB. */
const linesOf: Record<number, number> = {
  0: 1,
  1: 1,
  2: 1,
  3: 16,
  4: 32,
  5: 16,
  6: 32,
  7: 32,
  8: 32,
  9: 256,
};

/** What the header of a part says. */
interface Part {
  isTiled: boolean;
  isDeep: boolean;
  /** Number of entries in its offset table; null: it cannot be told. */
  chunks: number | null;
}

/** True: whole. False: cut off. Null: it cannot be told. */
export async function isWholeExr(size: number, read: Read): Promise<boolean | null> {
  const b = await read([0, Math.min(size, headAtMost)]);
  if (b.length < 9) return false;
  const version = viewOf(b).getUint32(4, true);
  const hasParts = (version & multiPartBit) !== 0;
  const headers = readHeaders(b, version);
  if (headers === null) return b.length < size ? null : false;
  const { parts } = headers;
  if (parts.some((p) => p.chunks === null)) return null;
  const entries = parts.reduce((sum, p) => sum + p.chunks!, 0);
  if (entries < 1 || entries > chunksAtMost) return null;
  const table = await read([headers.end, headers.end + 8 * entries]);
  if (table.length < 8 * entries) return false;
  const chunksBegin = headers.end + 8 * entries;
  let last = { at: 0, part: parts[0]! };
  let n = 0;
  for (const part of parts)
    for (const end = n + part.chunks!; n < end; n++) {
      const at = Number(viewOf(table).getBigUint64(8 * n, true));
      // A program that was ended leaves zeros for the chunks that it did not write.
      if (at < chunksBegin || at + 8 > size) return false;
      if (at > last.at) last = { at, part };
    }
  return chunkEnds(last.at + (hasParts ? 4 : 0), last.part, size, read);
}

/** Whether the chunk whose coordinates are at `at` ends within the file. */
async function chunkEnds(at: number, { isTiled, isDeep }: Part, size: number, read: Read): Promise<boolean> {
  const data = at + (isTiled ? 16 : 4);
  const sizes = await read([data, data + (isDeep ? 24 : 4)]);
  if (sizes.length < (isDeep ? 24 : 4)) return false;
  if (!isDeep) return data + 4 + viewOf(sizes).getUint32(0, true) <= size;
  // Packed sizes of the table of sample counts and of the samples, then the unpacked size.
  return (
    data + 24 + Number(viewOf(sizes).getBigUint64(0, true) + viewOf(sizes).getBigUint64(8, true)) <= size
  );
}

/** The headers, and where they end. Null: they go on beyond the bytes. */
function readHeaders(b: Uint8Array, version: number): { parts: Part[]; end: number } | null {
  const hasParts = (version & multiPartBit) !== 0;
  const parts: Part[] = [];
  let i = 8;
  for (;;) {
    const header = readHeader(b, i);
    if (header === null) return null;
    i = header.end;
    // Of several parts, the headers end with an empty one.
    if (hasParts && header.attributes.size === 0) return { parts, end: i };
    parts.push(partOf(header.attributes, version));
    if (!hasParts) return { parts, end: i };
  }
}

/** The attributes of the header that begins at `i`. Null: it goes on beyond the bytes. */
function readHeader(b: Uint8Array, i: number): { attributes: Map<string, Uint8Array>; end: number } | null {
  const attributes = new Map<string, Uint8Array>();
  const text = () => {
    const end = b.indexOf(0, i);
    if (end < 0) return null;
    const read = latin1(b.subarray(i, end));
    i = end + 1;
    return read;
  };
  for (;;) {
    const name = text();
    if (name === null) return null;
    if (name === '') return { attributes, end: i };
    if (text() === null || i + 4 > b.length) return null;
    const length = viewOf(b).getInt32(i, true);
    i += 4;
    if (length < 0 || i + length > b.length) return null;
    attributes.set(name, b.subarray(i, i + length));
    i += length;
  }
}

function partOf(attributes: ReadonlyMap<string, Uint8Array>, version: number): Part {
  const type = attributes.get('type');
  const name = type ? latin1(type).replace(/\0+$/, '') : null;
  const isTiled = name === null ? (version & tiledBit) !== 0 : name === 'tiledimage' || name === 'deeptile';
  const isDeep = name === null ? (version & deepBit) !== 0 : name.startsWith('deep');
  const count = attributes.get('chunkCount');
  const chunks =
    count?.length === 4
      ? viewOf(count).getInt32(0, true)
      : isTiled
        ? tilesIn(attributes)
        : chunksIn(attributes);
  return { isTiled, isDeep, chunks };
}

/** Width and height of the data window. */
function windowOf(attributes: ReadonlyMap<string, Uint8Array>): [number, number] | null {
  const box = attributes.get('dataWindow');
  if (box?.length !== 16) return null;
  const at = (n: number) => viewOf(box).getInt32(4 * n, true);
  const [width, height] = [at(2) - at(0) + 1, at(3) - at(1) + 1];
  return width > 0 && height > 0 ? [width, height] : null;
}

function chunksIn(attributes: ReadonlyMap<string, Uint8Array>): number | null {
  const size = windowOf(attributes);
  const lines = linesOf[attributes.get('compression')?.[0] ?? -1];
  return size && lines !== undefined ? Math.ceil(size[1] / lines) : null;
}

/** Tiles of all levels. `tiledesc`: width and height of a tile, then the mode: level mode in the low four bits, rounding in the high ones. */
function tilesIn(attributes: ReadonlyMap<string, Uint8Array>): number | null {
  const size = windowOf(attributes);
  const tiles = attributes.get('tiles');
  if (!size || tiles?.length !== 9) return null;
  const [tileWidth, tileHeight] = [viewOf(tiles).getUint32(0, true), viewOf(tiles).getUint32(4, true)];
  if (tileWidth === 0 || tileHeight === 0) return null;
  const [levels, roundsUp] = [tiles[8]! & 0xf, tiles[8]! >> 4 === 1];
  const levelsOf = (length: number) =>
    (roundsUp ? Math.ceil(Math.log2(length)) : Math.floor(Math.log2(length))) + 1;
  const lengthAt = (length: number, level: number) =>
    Math.max(1, roundsUp ? Math.ceil(length / 2 ** level) : Math.floor(length / 2 ** level));
  const across = (level: number) => Math.ceil(lengthAt(size[0], level) / tileWidth);
  const down = (level: number) => Math.ceil(lengthAt(size[1], level) / tileHeight);
  const sum = (count: number, of: (level: number) => number) =>
    Array.from({ length: count }, (_, level) => of(level)).reduce((a, n) => a + n, 0);
  if (levels === 0) return across(0) * down(0);
  if (levels === 1) return sum(levelsOf(Math.max(...size)), (level) => across(level) * down(level));
  if (levels === 2) return sum(levelsOf(size[0]), across) * sum(levelsOf(size[1]), down);
  return null;
}
