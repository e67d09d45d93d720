// Whether TGA, Radiance HDR and DPX pictures are whole. None of them has an end mark, so the length follows from the header, or from walking packed pixels.
// Sources: Truevision TGA File Format Specification 2.0 (1991); Radiance file formats (Ward), "Radiance picture format"; SMPTE 268M-2003 (DPX 2.0), checked
// against files of ImageMagick (testing/README.md).

import type { ByteRange } from '../files/fileTree';
import { latin1, viewOf } from '../text/bytes';

type Read = (range: ByteRange) => Promise<Uint8Array>;

const partSize = 1024 * 1024;

/** Bytes of a file, one after another. */
class Bytes {
  private part: Uint8Array = new Uint8Array(0);
  private from = 0;

  constructor(
    private readonly size: number,
    private readonly read: Read,
    public at: number,
  ) {}

  /** The next byte; null beyond the end. */
  async next(): Promise<number | null> {
    if (this.at >= this.size) return null;
    if (this.at < this.from || this.at >= this.from + this.part.length) {
      this.from = this.at;
      this.part = await this.read([this.at, Math.min(this.size, this.at + partSize)]);
      if (this.part.length === 0) return null;
    }
    return this.part[this.at++ - this.from]!;
  }
}

/** Bytes 0 id length, 1 map type, 2 image type, 5 map length, 7 map depth, 12 width, 14 height, 16 depth of a pixel (TGA 2.0, "TGA file header"). */
export async function isWholeTga(size: number, read: Read): Promise<boolean | null> {
  const head = await read([0, 18]);
  if (head.length < 18) return false;
  const v = viewOf(head);
  const pixels = v.getUint16(12, true) * v.getUint16(14, true);
  const pixel = Math.ceil(head[16]! / 8);
  const map = head[1] === 1 ? v.getUint16(5, true) * Math.ceil(head[7]! / 8) : 0;
  const begin = 18 + head[0]! + map;
  if ([1, 2, 3].includes(head[2]!)) return begin + pixels * pixel <= size;
  if (![9, 10, 11].includes(head[2]!)) return null;
  const bytes = new Bytes(size, read, begin);
  for (let done = 0; done < pixels;) {
    const packet = await bytes.next();
    if (packet === null) return false;
    const count = (packet & 0x7f) + 1;
    bytes.at += packet & 0x80 ? pixel : count * pixel;
    if (bytes.at > size) return false;
    done += count;
  }
  return true;
}

/** Lines of text to an empty one, the resolution, then lines of pixels: flat, in runs by pixel, or in runs by channel where a line begins with 2 2. */
export async function isWholeHdr(size: number, read: Read): Promise<boolean | null> {
  const head = latin1(await read([0, Math.min(size, 64 * 1024)]));
  const blank = head.indexOf('\n\n');
  if (blank < 0) return head.length < size ? null : false;
  const end = head.indexOf('\n', blank + 2);
  if (end < 0) return head.length < size ? null : false;
  const resolution = /^[-+][XY] (\d{1,9}) [-+][XY] (\d{1,9})$/.exec(head.slice(blank + 2, end).trim());
  if (!resolution) return null;
  const [lines, width] = [Number(resolution[1]), Number(resolution[2])];
  const bytes = new Bytes(size, read, end + 1);
  for (let line = 0; line < lines; line++) {
    const isThere = await lineOfHdr(bytes, width, size);
    if (isThere !== true) return isThere;
  }
  return true;
}

/** Reads over one line. False: the file ends in it. */
async function lineOfHdr(bytes: Bytes, width: number, size: number): Promise<boolean> {
  const begin = bytes.at;
  const four = [await bytes.next(), await bytes.next(), await bytes.next(), await bytes.next()];
  if (four[3] === null) return false;
  const isByChannel =
    width >= 8 && width <= 0x7fff && four[0] === 2 && four[1] === 2 && four[2]! * 256 + four[3]! === width;
  if (!isByChannel) {
    bytes.at = begin;
    // A pixel of 1 1 1 n repeats the last one n times; further ones in a row count by 256.
    for (let [done, shift] = [0, 0]; done < width;) {
      const pixel = [await bytes.next(), await bytes.next(), await bytes.next(), await bytes.next()];
      if (pixel[3] === null) return false;
      const isRun = pixel[0] === 1 && pixel[1] === 1 && pixel[2] === 1;
      done += isRun ? pixel[3]! << shift : 1;
      shift = isRun ? shift + 8 : 0;
      if (shift > 24) return false;
    }
    return true;
  }
  for (let channel = 0; channel < 4; channel++)
    for (let done = 0; done < width;) {
      const count = await bytes.next();
      if (count === null || count === 0) return false;
      bytes.at += count > 128 ? 1 : count;
      if (bytes.at > size) return false;
      done += count > 128 ? count - 128 : count;
    }
  return true;
}

/** Components of a pixel, by the descriptor of an image element (SMPTE 268M, table 1): single ones, then RGB and so on; 100 to 103: sampled 4:2:2 and 4:4:4. */
const componentsOf: Record<number, number> = {
  ...{ 1: 1, 2: 1, 3: 1, 4: 1, 6: 1, 7: 1, 8: 1, 9: 1 },
  ...{ 50: 3, 51: 4, 52: 4, 100: 2, 101: 3, 102: 3, 103: 4 },
};

/**
 * By the size that the file header tells, else by the first image element: 4 offset of the pixels, 16 size of the file, 770 number of elements, 772 width, 776
 * height, 800 descriptor, 803 depth, 804 packing, 806 encoding, 808 offset of the element, 812 padding of a line.
 */
export async function isWholeDpx(size: number, read: Read): Promise<boolean | null> {
  const head = await read([0, 816]);
  if (head.length < 816) return false;
  const v = viewOf(head);
  const little = latin1(head.subarray(0, 4)) === 'XPDS';
  const u32 = (at: number) => v.getUint32(at, little);
  const u16 = (at: number) => v.getUint16(at, little);
  const unset = 0xffffffff;
  const told = u32(16);
  if (told !== unset && told > u32(4) && size < told) return false;
  const components = componentsOf[head[800]!];
  const [depth, packing, encoding] = [head[803]!, u16(804), u16(806)];
  if (components === undefined || encoding !== 0 || u16(770) !== 1 || ![8, 10, 12, 16].includes(depth))
    return told !== unset && told > u32(4) ? true : null;
  const values = u32(772) * components;
  const line =
    packing === 0 || depth === 8 || depth === 16
      ? Math.ceil((values * depth) / 32) * 4
      : depth === 10
        ? Math.ceil(values / 3) * 4
        : values * 2;
  const begin = u32(808) === unset || u32(808) === 0 ? u32(4) : u32(808);
  const padding = u32(812) === unset ? 0 : u32(812);
  // Some programs do not pad lines to whole words.
  const least = Math.floor(packing === 0 || depth === 8 || depth === 16 ? (values * depth) / 8 : line);
  return begin + u32(776) * (least + padding) <= size;
}
