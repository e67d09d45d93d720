// The packing inside USD crate files: little-endian numbers, LZ4 blocks, and lists of integers as differences.
//
//     fast compression   one byte: number of chunks. 0: the rest is one LZ4 block. n: n times (i32 size, LZ4 block)
//     integers           i32 the common difference; for each number 2 bits (0 common, 1 i8, 2 i16, 3 i32), four to a byte, low bits
//                        first; then the differences that are not the common one
//
// Layout as found in files that OpenUSD 22 wrote; LZ4 after the published LZ4 block format. A block of literals only is a valid LZ4
// block, so nothing needs to be packed for writing.

/** Thrown inside the crate reader on data that cannot be followed; the reader turns it into a problem. */
export class BadCrate extends Error {
  constructor(
    message: string,
    readonly at: number,
  ) {
    super(message);
  }
}

/** Undoes one LZ4 block into `size` bytes. */
export function unpackLz4(b: Uint8Array, size: number): Uint8Array {
  const out = new Uint8Array(size);
  let i = 0;
  let o = 0;
  const length = (n: number): number => {
    if (n === 15) {
      let more: number;
      do {
        more = b[i++] ?? 0;
        n += more;
      } while (more === 255);
    }
    return n;
  };
  while (i < b.length) {
    const token = b[i++]!;
    const literals = length(token >> 4);
    if (i + literals > b.length || o + literals > size)
      throw new BadCrate('A compressed block is longer than it says.', 0);
    out.set(b.subarray(i, i + literals), o);
    i += literals;
    o += literals;
    if (i >= b.length) break;
    const back = b[i]! | (b[i + 1]! << 8);
    i += 2;
    const match = length(token & 15) + 4;
    if (back === 0 || back > o || o + match > size)
      throw new BadCrate('A compressed block points outside itself.', 0);
    for (let n = 0; n < match; n++, o++) out[o] = out[o - back]!;
  }
  if (o !== size) throw new BadCrate('A compressed block is shorter than it says.', 0);
  return out;
}

// LZ4 packs no tighter than 255 to 1: a claim beyond that is no file but a bomb.
const mostRatio = 255;
// 64 million: a list of numbers is held whole.
const mostNumbers = 2 ** 26;

/** Undoes fast compression into `size` bytes. */
export function unpackFast(b: Uint8Array, size: number): Uint8Array {
  if (size < 0 || size > b.length * mostRatio + 64)
    throw new BadCrate('A compressed part claims a size it cannot have.', 0);
  const chunks = b[0] ?? 0;
  if (chunks === 0) return unpackLz4(b.subarray(1), size);
  const out = new Uint8Array(size);
  let at = 1;
  let o = 0;
  for (let n = 0; n < chunks; n++) {
    const packed = new DataView(b.buffer, b.byteOffset + at, 4).getInt32(0, true);
    const part = unpackLz4(b.subarray(at + 4, at + 4 + packed), Math.min(0x7e000000, size - o));
    out.set(part, o);
    o += part.length;
    at += 4 + packed;
  }
  return out;
}

/** Bytes as one block of literals under fast compression. */
export function packLiteral(raw: Uint8Array): Uint8Array {
  const extra = raw.length >= 15 ? Math.floor((raw.length - 15) / 255) + 1 : 0;
  const out = new Uint8Array(2 + extra + raw.length);
  out[1] = raw.length >= 15 ? 0xf0 : raw.length << 4;
  if (extra > 0) {
    out.fill(255, 2, 1 + extra);
    out[1 + extra] = (raw.length - 15) % 255;
  }
  out.set(raw, 2 + extra);
  return out;
}

/** Undoes integer compression into `count` numbers of 32 bits. */
export function unpackIntegers(b: Uint8Array, count: number): Int32Array {
  const { raw, view, codes } = unpackDifferences(b, count, 4);
  const common = view.getInt32(0, true);
  const out = new Int32Array(count);
  let at = 4 + codes;
  let sum = 0;
  for (let n = 0; n < count; n++) {
    const code = (raw[4 + (n >> 2)]! >> ((n & 3) * 2)) & 3;
    if (code === 0) sum += common;
    else {
      sum += code === 1 ? view.getInt8(at) : code === 2 ? view.getInt16(at, true) : view.getInt32(at, true);
      at += code === 1 ? 1 : code === 2 ? 2 : 4;
    }
    // Sums run over the end as 32 bits do.
    sum |= 0;
    out[n] = sum;
  }
  return out;
}

/** The same of 64 bits: the differences take 2, 4 or 8 bytes. */
export function unpackLongs(b: Uint8Array, count: number): BigInt64Array {
  const { raw, view, codes } = unpackDifferences(b, count, 8);
  const common = view.getBigInt64(0, true);
  const out = new BigInt64Array(count);
  let at = 8 + codes;
  let sum = 0n;
  for (let n = 0; n < count; n++) {
    const code = (raw[8 + (n >> 2)]! >> ((n & 3) * 2)) & 3;
    if (code === 0) sum += common;
    else if (code === 1) sum += BigInt(view.getInt16(at, true));
    else if (code === 2) sum += BigInt(view.getInt32(at, true));
    else sum += view.getBigInt64(at, true);
    at += code === 0 ? 0 : 2 ** code;
    sum = BigInt.asIntN(64, sum);
    out[n] = sum;
  }
  return out;
}

function unpackDifferences(b: Uint8Array, count: number, each: number) {
  const codes = Math.ceil((count * 2) / 8);
  // How much the differences take is not said: the block ends where it ends, at most here.
  if (!(count >= 0 && count <= mostNumbers))
    throw new BadCrate('A list of numbers is longer than any scene has.', 0);
  const raw = unpackUpTo(b, each + codes, each + codes + count * each);
  return { raw, view: new DataView(raw.buffer, raw.byteOffset, raw.byteLength), codes };
}

/** Undoes fast compression of one chunk whose raw size is known only within bounds. */
function unpackUpTo(b: Uint8Array, least: number, most: number): Uint8Array {
  if (least > b.length * mostRatio + 64)
    throw new BadCrate('A compressed part claims a size it cannot have.', 0);
  if ((b[0] ?? 0) !== 0) throw new BadCrate('A list of numbers is longer than any scene has.', 0);
  const size = sizeOfLz4(b.subarray(1));
  if (size < least || size > most) throw new BadCrate('A list of numbers is not as long as it says.', 0);
  return unpackLz4(b.subarray(1), size);
}

/** Raw size of an LZ4 block, by walking it. */
function sizeOfLz4(b: Uint8Array): number {
  let i = 0;
  let size = 0;
  const length = (n: number): number => {
    if (n === 15) {
      let more: number;
      do {
        more = b[i++] ?? 0;
        n += more;
      } while (more === 255);
    }
    return n;
  };
  while (i < b.length) {
    const token = b[i++]!;
    const literals = length(token >> 4);
    i += literals;
    size += literals;
    if (i >= b.length) break;
    i += 2;
    size += length(token & 15) + 4;
  }
  return size;
}
