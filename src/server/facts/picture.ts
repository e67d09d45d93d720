// A small picture of a file, made anew from its pixels: whatever else the file holds never reaches the browser. Runs in a thread that may be ended.
//
// Files come from strangers. What a header claims is compared with what the file can hold, and with what a picture may cost, before a byte of it is
// decoded; how long it may take is the caller's (thumbnail.ts).

import type { Sharp } from 'sharp';
import { AppError } from '@/core/errors';
import { headerFacts, leafOf } from '@/core/formats/leaves';
import { Bounds, readWithin, type Allowed } from '../disk/bounds';
import { nodeCalls } from '../disk/calls';
import { readOpen } from '../disk/diskReading';
import { cutOff, decoded, decodePicture, neutral } from './decode';

export interface PictureTask {
  /** '/'-separated, absolute. */
  path: string;
  allowed: Allowed;
  /** Pixels a side, at most. */
  side: number;
  /** What for; absent: to be looked at small (WebP). `frame`: for a moving picture, on black, light brought below white (JPEG); `exact`: the same without loss (PNG). */
  use?: 'frame' | 'exact' | undefined;
}

/** 16,384 pixels a side is the largest texture in use; more would be a bomb. */
export const mostPixels = 16_384 ** 2;
// What our own decoders hold for a pixel, in bytes: four floats, and four bytes more for looking at.
const mostDecoded = 1.5 * 1024 ** 3;
const bytesOf: Record<string, number> = { OpenEXR: 20, 'Radiance HDR': 20, TGA: 8, 'KTX 2': 8 };
export const mostBytes = 512 * 1024 * 1024;
const headSize = 64 * 1024;

const none = (why: string) => new AppError('unsupported', `There is no picture of this file: ${why}.`);

/**
 * The most pixels that so many bytes of a format can hold; Infinity where there is no bound. TGA packs at most 128 pixels into a packet of two bytes and
 * more (Truevision TGA 2.0, image type 10); Radiance at most 127 values of a channel into two bytes (Ward, "Real Pixels": new run-length form).
 */
function mostIn(format: string, head: Uint8Array, size: number): number {
  if (format === 'TGA') {
    const depth = Math.max(1, head[16]! >> 3);
    return head[2]! >= 8 ? (size / (1 + depth)) * 128 : size / depth;
  }
  if (format === 'Radiance HDR') return (size / 8) * 127;
  return Infinity;
}

/** Throws AppError('unsupported') for a picture that claims more than its file can hold, or than may be held here. */
export function checkClaims(format: string, head: Uint8Array, size: number): void {
  if (size > mostBytes) throw none('it is too large');
  const { width, height } = headerFacts(format, head);
  const cost = bytesOf[format];
  if (cost === undefined) return; // sharp checks before it decodes
  if (width === undefined || height === undefined || width < 1 || height < 1)
    throw none('its header tells no size');
  if (width * height > mostPixels || width * height * cost > mostDecoded)
    throw none(`its header claims ${width} × ${height} pixels`);
  if (width * height > mostIn(format, head, size))
    throw none(`its header claims ${width} × ${height} pixels, which its ${size} bytes cannot hold`);
}

/** The picture in the format of its use. Throws AppError('unsupported') where there is none, 'not-allowed' where the file leads out of what is allowed. */
export async function smallPicture({ path, allowed, side, use }: PictureTask): Promise<Uint8Array> {
  try {
    const { format, bytes } = readWithin(path, new Bounds(allowed), (fd, size) => {
      const head = readOpen(nodeCalls, fd, [0, Math.min(size, headSize)]);
      const format = leafOf(head)?.format ?? null;
      if (format === null || !hasPicture(format)) throw none('its format has none');
      checkClaims(format, head, size);
      return { format, bytes: readOpen(nodeCalls, fd, undefined) };
    });
    const { default: sharp } = await import('sharp');
    // One picture at a time in each thread; sharp's own threads would let one picture take them all.
    sharp.concurrency(1);
    const options = { limitInputPixels: mostPixels };
    let picture;
    if (decoded.has(format)) {
      const { rgba, width, height } = await decodePicture(
        format,
        new Uint8Array(bytes),
        use ? neutral : cutOff,
      );
      picture = sharp(rgba, { ...options, raw: { width, height, channels: 4 } });
    } else picture = sharp(bytes, options).rotate();
    const small = picture.resize(side, side, { fit: 'inside', withoutEnlargement: true });
    const made = use
      ? inForm(small.toColourspace('srgb').flatten({ background: 'black' }), use)
      : small.webp({ quality: 88 });
    return await made.timeout({ seconds: 15 }).toBuffer();
  } catch (cause) {
    throw cause instanceof AppError ? cause : none('it cannot be read');
  }
}

const inForm = (picture: Sharp, use: 'frame' | 'exact') =>
  use === 'frame'
    ? picture.jpeg({ quality: 95, chromaSubsampling: '4:4:4' })
    : picture.png({ compressionLevel: 1 });

const shown = new Set(['PNG', 'JPEG', 'GIF', 'WebP', 'AVIF', 'TIFF', ...decoded]);

/** Whether pictures of this format (as `leafOf` names it) can be shown. */
export function hasPicture(format: string): boolean {
  return shown.has(format);
}

/** Whether sharp reads this format. */
export function isSharps(format: string): boolean {
  return shown.has(format) && !decoded.has(format);
}
