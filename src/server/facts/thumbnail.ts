// Small pictures of files, made anew from their pixels: whatever else a file holds never reaches the browser.

import { AppError } from '@/core/errors';
import { toSystem } from '../disk/system';

const shown = new Set(['PNG', 'JPEG', 'GIF', 'WebP', 'AVIF', 'TIFF']);
const side = 640;

/** Whether pictures of this format (as `leafOf` names it) can be shown. */
export function hasPicture(format: string): boolean {
  return shown.has(format);
}

/** A picture of the file at an absolute path, at most 640 pixels a side. Throws AppError('unsupported') where there is none. */
export async function thumbnail(absolute: string): Promise<Response> {
  try {
    const { default: sharp } = await import('sharp');
    // 16,384 pixels a side is the largest texture in use; more would be a bomb.
    const picture = await sharp(toSystem(absolute), { limitInputPixels: 16_384 ** 2 }).rotate().resize(side, side, { fit: 'inside', withoutEnlargement: true }).webp({ quality: 88 }).toBuffer();
    return new Response(new Uint8Array(picture), { headers: { 'content-type': 'image/webp', 'x-content-type-options': 'nosniff', 'content-security-policy': "default-src 'none'; sandbox", 'cache-control': 'private, max-age=60' } });
  } catch {
    throw new AppError('unsupported', 'There is no picture of this file.');
  }
}
