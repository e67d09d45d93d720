// Where content is cut into chunks: by what it says, not by where it stands, so that a change cuts anew only around itself.
//
// FastCDC with normalised chunking (W. Xia et al., "FastCDC: a Fast and Efficient Content-Defined Chunking Approach for Data Deduplication",
// USENIX ATC 2016, §4): a rolling hash h = (h << 1) + gear[byte] since the last cut; no cut before the least size; below the wanted size a
// stricter mask, above it a looser one; at the most size in any case. Here h has 32 bits, and the masks look at its highest ones, which
// 32 bytes have gone into.

/** Sizes of chunks in bytes, and the masks that make the middle one the usual. */
export interface ChunkSizes {
  least: number;
  wanted: number;
  most: number;
  /** Bits that must be zero for a cut below the wanted size, and above it. */
  strict: number;
  loose: number;
}

const highest = (bits: number) => (bits === 0 ? 0 : -1 << (32 - bits));

/** Sizes around a wanted one of 2^`bits` bytes; two bits stricter before it and two looser after it (the paper's level 2). */
export function sizesAround(bits: number): ChunkSizes {
  const wanted = 2 ** bits;
  return {
    least: wanted / 4,
    wanted,
    most: wanted * 4,
    strict: highest(bits + 2),
    loose: highest(bits - 2),
  };
}

const usual = sizesAround(13);
const wide = sizesAround(17);
const wideFrom = 512 * 1024 * 1024;

/** Chunks of 8 kB, and of 128 kB for content above 512 MB, where ten thousands of small ones would cost more than they spare. */
export function sizesFor(size: number): ChunkSizes {
  return size < wideFrom ? usual : wide;
}

// What stands before the least size is not looked at: the more of it, the faster, and the later a cut is found again after a change.
const forBackups: ChunkSizes = { ...wide, least: (wide.wanted * 3) / 4 };

/** Chunks of about 150 kB for all but small content: for stores of many terabytes, of which the index has to fit into memory. */
export function sizesForBackups(size: number): ChunkSizes {
  return size < 256 * 1024 ? usual : forBackups;
}

// 256 numbers without any pattern, the same for ever: the splitmix32 sequence from 1.
const gear = new Int32Array(256);
for (let i = 0, state = 1; i < 256; i++) {
  state = (state + 0x9e3779b9) | 0;
  let z = state ^ (state >>> 16);
  z = Math.imul(z, 0x21f0aaad);
  z ^= z >>> 15;
  z = Math.imul(z, 0x735a2d97);
  gear[i] = z ^ (z >>> 15);
}

/** The end of the chunk that begins at `start`. `end`: where the bytes end, which is a cut when nothing else is. */
export function cutAt(
  bytes: Uint8Array,
  start: number,
  end: number,
  { least, wanted, most, strict, loose }: ChunkSizes,
): number {
  // All that the loops ask for is at hand: they look at every byte behind the least size.
  const numbers = gear;
  const last = Math.min(end, start + most) | 0;
  const middle = Math.min(last, start + wanted) | 0;
  let h = 0;
  let i = (start + least) | 0;
  for (; i < middle; i = (i + 1) | 0) {
    h = ((h << 1) + numbers[bytes[i]!]!) | 0;
    if ((h & strict) === 0) return i + 1;
  }
  for (; i < last; i = (i + 1) | 0) {
    h = ((h << 1) + numbers[bytes[i]!]!) | 0;
    if ((h & loose) === 0) return i + 1;
  }
  return last;
}
