// Small pictures of files, made anew from their pixels: whatever else a file holds never reaches the browser.

import fs from 'node:fs';
import { Worker } from 'node:worker_threads';
import { AppError } from '@/core/errors';
import { leafOf } from '@/core/formats/leaves';
import { toSystem } from '../disk/system';
import { decoded, type Raw } from './decode';

const shown = new Set(['PNG', 'JPEG', 'GIF', 'WebP', 'AVIF', 'TIFF', ...decoded]);
// 16,384 pixels a side is the largest texture in use; more would be a bomb.
const mostPixels = 16_384 ** 2;
const mostBytes = 512 * 1024 * 1024;

/** Whether pictures of this format (as `leafOf` names it) can be shown. */
export function hasPicture(format: string): boolean {
  return shown.has(format);
}

/** Whether sharp reads this format. */
export function isSharps(format: string): boolean {
  return shown.has(format) && !decoded.has(format);
}

interface Waiting {
  resolve: (raw: Raw) => void;
  reject: (cause: Error) => void;
}
// In a build, modules are not shared between routes: one thread for all of them.
const held = globalThis as { satchelDecoder?: { worker: Worker; waiting: Map<number, Waiting>; n: number } };

/** Decodes in a thread of its own, which ends with the process. */
function decodeAside(file: string, format: string): Promise<Raw> {
  const decoder = (held.satchelDecoder ??= (() => {
    const worker = new Worker(new URL('./decode.worker.ts', import.meta.url));
    const waiting = new Map<number, Waiting>();
    worker.on('message', (m: { n: number; raw?: Raw; error?: string }) => {
      const call = waiting.get(m.n);
      waiting.delete(m.n);
      if (m.raw) call?.resolve(m.raw);
      else call?.reject(new Error(m.error));
    });
    const end = (cause: Error) => {
      held.satchelDecoder = undefined;
      for (const call of waiting.values()) call.reject(cause);
    };
    worker.on('error', end);
    worker.on('exit', () => end(new Error('the decoder ended')));
    worker.unref();
    return { worker, waiting, n: 0 };
  })());
  return new Promise((resolve, reject) => {
    const n = ++decoder.n;
    decoder.waiting.set(n, { resolve, reject });
    decoder.worker.postMessage({ n, file, format });
  });
}

function formatOf(file: string): string | null {
  const fd = fs.openSync(file, 'r');
  try {
    const head = Buffer.alloc(4096);
    return leafOf(head.subarray(0, fs.readSync(fd, head, 0, head.length, 0)))?.format ?? null;
  } finally {
    fs.closeSync(fd);
  }
}

/** A picture of the file at an absolute path, at most `side` pixels a side. Throws AppError('unsupported') where there is none. */
export async function thumbnail(absolute: string, side = 640): Promise<Response> {
  try {
    const { default: sharp } = await import('sharp');
    const file = toSystem(absolute);
    const format = formatOf(file);
    let picture = null;
    if (format !== null && decoded.has(format)) {
      if (fs.statSync(file).size > mostBytes) throw new Error('too large');
      const { rgba, width, height } = await decodeAside(file, format);
      picture = sharp(rgba, { raw: { width, height, channels: 4 }, limitInputPixels: mostPixels });
    } else picture = sharp(file, { limitInputPixels: mostPixels }).rotate();
    const bytes = await picture
      .resize(side, side, { fit: 'inside', withoutEnlargement: true })
      .webp({ quality: 88 })
      .toBuffer();
    return new Response(new Uint8Array(bytes), {
      headers: {
        'content-type': 'image/webp',
        'x-content-type-options': 'nosniff',
        'content-security-policy': "default-src 'none'; sandbox",
        'cache-control': 'private, max-age=60',
      },
    });
  } catch {
    throw new AppError('unsupported', 'There is no picture of this file.');
  }
}
