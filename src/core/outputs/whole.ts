// Whether a picture file is whole: told by its end, by the positions and sizes in its header, or by walking its packed lines, without decoding it.
// Sources: PNG (ISO/IEC 15948) §5.3 and §11.2.5 (IEND is the last chunk); JPEG (ITU-T T.81) B.2.1 (EOI); RIFF (its size follows its mark); TIFF 6.0 §2 (the
// first directory is at the offset in the header); BMP (its size is in the header). OpenEXR: wholeExr.ts. TGA, Radiance HDR, DPX: wholePacked.ts.

import type { ByteRange } from '../files/fileTree';
import { latin1, viewOf } from '../text/bytes';
import { isWholeExr } from './wholeExr';
import { isWholeDpx, isWholeHdr, isWholeTga } from './wholePacked';

type Read = (range: ByteRange) => Promise<Uint8Array>;

/** True: it is whole. False: it is cut off. Null: the format cannot be checked. */
export async function isWholePicture(format: string, size: number, read: Read): Promise<boolean | null> {
  const check = checks[format];
  return check ? check(size, read) : null;
}

const checks: Record<string, (size: number, read: Read) => Promise<boolean | null>> = {
  PNG: async (size, read) =>
    latin1(await read([Math.max(0, size - 12), size])) === '\0\0\0\0IEND\xaeB\x60\x82',
  async JPEG(size, read) {
    // Some programs write blanks or zeros behind the end.
    const tail = await read([Math.max(0, size - 1024), size]);
    return latin1(tail)
      .replace(/[\0\s]+$/, '')
      .endsWith('\xff\xd9');
  },
  async WebP(size, read) {
    const head = await read([0, 12]);
    return head.length === 12 && viewOf(head).getUint32(4, true) + 8 <= size;
  },
  async BMP(size, read) {
    const head = await read([0, 6]);
    return head.length === 6 && viewOf(head).getUint32(2, true) <= size;
  },
  TIFF: wholeTiff,
  OpenEXR: isWholeExr,
  TGA: isWholeTga,
  'Radiance HDR': isWholeHdr,
  DPX: isWholeDpx,
};

/** By its first directory: where its strips or tiles lie, and how long they are (tags 273 and 279, 324 and 325). */
async function wholeTiff(size: number, read: Read): Promise<boolean | null> {
  const head = await read([0, 8]);
  if (head.length < 8) return false;
  const little = head[0] === 0x49;
  if (viewOf(head).getUint16(2, little) !== 42) return null; // BigTIFF
  const at = viewOf(head).getUint32(4, little);
  const counted = await read([at, at + 2]);
  if (counted.length < 2) return false;
  const count = viewOf(counted).getUint16(0, little);
  const entries = await read([at + 2, at + 2 + 12 * count]);
  if (entries.length < 12 * count) return false;
  const lists = new Map<number, number[] | null>();
  for (let n = 0; n < count; n++) {
    const tag = viewOf(entries).getUint16(12 * n, little);
    const length =
      (widths[viewOf(entries).getUint16(12 * n + 2, little)] ?? 1) *
      viewOf(entries).getUint32(12 * n + 4, little);
    if (length > 4 && viewOf(entries).getUint32(12 * n + 8, little) + length > size) return false;
    if ([273, 279, 324, 325].includes(tag))
      lists.set(tag, await numbersOf(entries.subarray(12 * n, 12 * n + 12), little, read));
  }
  const [offsets, lengths] = lists.has(273)
    ? [lists.get(273), lists.get(279)]
    : [lists.get(324), lists.get(325)];
  if (offsets === undefined || lengths === undefined) return null;
  if (!offsets || lengths?.length !== offsets.length) return false;
  return offsets.every((offset, n) => offset + lengths[n]! <= size);
}

/** Bytes of a value, by its type (TIFF 6.0 §2). */
const widths: Record<number, number> = {
  1: 1,
  2: 1,
  3: 2,
  4: 4,
  5: 8,
  6: 1,
  7: 1,
  8: 2,
  9: 4,
  10: 8,
  11: 4,
  12: 8,
};

/** The numbers of a directory entry: in it where they fit, else where it says. Null: they lie beyond the end. */
async function numbersOf(entry: Uint8Array, little: boolean, read: Read): Promise<number[] | null> {
  const type = viewOf(entry).getUint16(2, little);
  const count = viewOf(entry).getUint32(4, little);
  const width = type === 3 ? 2 : 4;
  if (count > 1_000_000) return null;
  const at = viewOf(entry).getUint32(8, little);
  const bytes =
    count * width <= 4 ? entry.subarray(8, 8 + count * width) : await read([at, at + count * width]);
  if (bytes.length < count * width) return null;
  return Array.from({ length: count }, (_, n) =>
    width === 2 ? viewOf(bytes).getUint16(2 * n, little) : viewOf(bytes).getUint32(4 * n, little),
  );
}
