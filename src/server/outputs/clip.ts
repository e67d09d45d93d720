// A review clip without a browser: frames of a row as an animated WebP or GIF.

import path from 'node:path';
import fs from 'node:fs';
import type { Sharp } from 'sharp';
import { AppError } from '@/core/errors';
import type { CancelSignal } from '@/core/files/fileTree';
import { sequencePattern } from '@/core/names/sequences';
import {
  clipFrames,
  clipLabel,
  clipSize,
  delays,
  holesText,
  type ClipFrame,
  type Holes,
} from '@/core/outputs/clip';
import { frameOf } from '@/core/outputs/origin';
import { appear, clearAway, writeWhole } from '../bags/wholeFile';
import { smallPicture } from '../facts/picture';
import { toSystem } from '../disk/system';

export interface ClipRequest {
  /** Absolute, '/'-separated: a name with a mark for the frame number (####, %04d, {frame}), or one of the frames. */
  pattern: string;
  /** Absolute; .webp or .gif. */
  to: string;
  fps: number;
  /** Pixels of the longest side. */
  side: number;
  first?: number | undefined;
  last?: number | undefined;
  holes: Holes;
  /** Written into each frame with its number; null: nothing is. */
  label: { scene: string | null; version: number | null; camera: string | null } | null;
}

export interface Clip {
  to: string;
  frames: number;
  /** Frames that are not there. */
  missing: number;
  width: number;
  height: number;
  /** Frames a second that the format can say: what was asked for, or near it. */
  fps: number;
  bytes: number;
  said: string[];
}

// All frames are held at once, four bytes a pixel.
const mostHeld = 1.5 * 1024 ** 3;
const mostPages = 5000;

/** Makes the clip. Throws AppError where no frame is there, the format is not known, or the target exists. */
export async function makeClip(
  request: ClipRequest,
  options: {
    signal?: CancelSignal | undefined;
    onFrame?: ((done: number, of: number) => void) | undefined;
  } = {},
): Promise<Clip> {
  const kind = /\.(webp|gif)$/i.exec(request.to)?.[1]?.toLowerCase() as 'webp' | 'gif' | undefined;
  if (!kind)
    throw new AppError(
      'bad-request',
      'The command line makes .webp and .gif; for a video file make the clip in the application, on Versions, Outputs.',
    );
  if (fs.existsSync(toSystem(request.to))) throw new AppError('exists', `${request.to} is there already.`);
  const row = framesOf(request.pattern);
  const numbers = [...row.keys()].sort((a, b) => a - b);
  const frames = clipFrames(
    numbers,
    request.first ?? numbers[0]!,
    request.last ?? numbers.at(-1)!,
    request.holes,
  );
  if (frames.length === 0) throw new AppError('bad-request', 'The last frame comes before the first.');
  const made = await drawn(request, frames, row, options);
  const grain = kind === 'gif' ? 10 : 1;
  const delay = delays(frames.length, request.fps, grain).map((d) => Math.max(d, grain * 2));
  const { default: sharp } = await import('sharp');
  const joined = sharp(made.pages, { join: { animated: true }, limitInputPixels: false });
  const bytes = await (
    kind === 'gif' ? joined.gif({ delay, loop: 0 }) : joined.webp({ delay, loop: 0, quality: 85 })
  ).toBuffer();
  await written(request.to, bytes);
  const shown = (frames.length * 1000) / delay.reduce((sum, d) => sum + d, 0);
  const holes = holesText(frames);
  return {
    to: request.to,
    frames: frames.length,
    missing: frames.filter((f) => f.shows !== f.frame).length,
    width: made.width,
    height: made.height,
    fps: Math.round(shown * 100) / 100,
    bytes: bytes.length,
    said: [
      ...(holes === null
        ? []
        : [`${holes}: ${request.holes === 'hold' ? 'the one before is held' : 'marked in the clip'}.`]),
      ...(made.unread.length === 0 ? [] : [`Not readable, and marked: ${made.unread.join(', ')}.`]),
    ],
  };
}

/** The files of a row by frame number. */
function framesOf(asked: string): Map<number, string> {
  const folder = path.posix.dirname(asked);
  const name = path.posix.basename(asked);
  let names: string[];
  try {
    names = fs.readdirSync(toSystem(folder));
  } catch {
    throw new AppError('not-found', `${folder} cannot be read.`);
  }
  // A name that is there letter for letter is that file: its row is meant.
  // A list of expected outputs writes {frame:4} (outputs/passes.ts).
  const marked = name.replace(/\{frame:(\d{1,2})\}/, '{0$1frame}');
  const pattern = names.includes(name) ? null : sequencePattern(marked);
  const found = new Map<number, string>();
  if (pattern) {
    for (const n of names) {
      const number = pattern.numberOf(n);
      if (number !== null) found.set(number, `${folder}/${n}`);
    }
  } else {
    const asked = frameOf(name);
    for (const n of asked ? names : []) {
      const read = frameOf(n);
      if (read && read.head === asked!.head && read.tail === asked!.tail)
        found.set(Number(read.digits), `${folder}/${n}`);
    }
  }
  if (found.size === 0) throw new AppError('not-found', `No frames are called ${name} in ${folder}.`);
  return found;
}

interface Drawn {
  pages: Buffer[];
  width: number;
  height: number;
  unread: number[];
}

async function drawn(
  { side, label }: ClipRequest,
  frames: readonly ClipFrame[],
  row: ReadonlyMap<number, string>,
  { signal, onFrame }: NonNullable<Parameters<typeof makeClip>[1]>,
): Promise<Drawn> {
  const { default: sharp } = await import('sharp');
  const unread = new Set<number>();
  const pictureOf = async (frame: number): Promise<Buffer | null> => {
    try {
      return Buffer.from(await smallPicture({ path: row.get(frame)!, allowed: null, side, use: 'exact' }));
    } catch (cause) {
      if (!(cause instanceof AppError)) throw cause;
      unread.add(frame);
      return null;
    }
  };
  let size: { width: number; height: number } | null = null;
  // The first picture that can be read tells the size.
  for (const { shows } of frames) {
    const first = shows === null ? null : await pictureOf(shows);
    if (!first) continue;
    const { width, height } = await sharp(first).metadata();
    size = clipSize(width, height, side);
    break;
  }
  if (!size) throw new AppError('unsupported', 'None of these frames is a picture that can be read.');
  const { width, height } = size;
  if (frames.length > mostPages || frames.length * width * height * 4 > mostHeld)
    throw new AppError(
      'bad-request',
      `${frames.length} frames of ${width} × ${height} are too much for one picture file: choose fewer with --first and --last, or smaller ones with --side.`,
    );
  const pages: Buffer[] = [];
  const held = { shows: NaN, picture: null as Buffer | null };
  for (const [n, { frame, shows }] of frames.entries()) {
    signal?.throwIfAborted();
    onFrame?.(n + 1, frames.length);
    if (shows !== null && held.shows !== shows)
      Object.assign(held, { shows, picture: await pictureOf(shows) });
    const picture = shows === null ? null : held.picture;
    const page: Sharp = picture
      ? sharp(picture).resize(width, height, { fit: 'contain', background: 'black' })
      : sharp({ create: { width, height, channels: 3, background: '#3a3a3a' } });
    const texts = [
      ...(picture
        ? []
        : [await textOf(shows === null ? `${frame} is missing` : `${frame} is not readable`, width, 0.05)]),
      ...(label ? [await textOf(clipLabel(label, frame), width, 0.032)] : []),
    ];
    const placed = texts.map((input, i) => ({
      input,
      gravity: i === 0 && !picture ? ('center' as const) : ('south' as const),
    }));
    pages.push(await page.composite(placed).removeAlpha().png({ compressionLevel: 1 }).toBuffer());
  }
  return { pages, width, height, unread: [...unread].sort((a, b) => a - b) };
}

/** White words on a dark ground, a part of the width high, in whatever typeface the machine has. */
async function textOf(text: string, width: number, part: number): Promise<Buffer> {
  const { default: sharp } = await import('sharp');
  const size = Math.max(10, Math.round(width * part));
  const marked = text.replace(/[&<>]/g, (c) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;' })[c]!);
  const words = sharp({
    text: { text: `<span foreground="white">${marked}</span>`, font: `sans ${size}`, dpi: 72, rgba: true },
  });
  const { data, info } = await words.png().toBuffer({ resolveWithObject: true });
  const edge = Math.round(size * 0.4);
  const framed = await sharp(data)
    .extend({ top: edge, bottom: edge, left: edge, right: edge, background: '#00000000' })
    .flatten({ background: '#141414' })
    .png()
    .toBuffer();
  // A long name is made narrower rather than cut off.
  return info.width + 2 * edge <= width ? framed : sharp(framed).resize({ width }).png().toBuffer();
}

/** Under another name until it is whole. */
async function written(to: string, bytes: Uint8Array): Promise<void> {
  const target = toSystem(to);
  const temporary = `${target}.part`;
  try {
    await writeWhole(temporary, { modified: NaN }, (write) => {
      write(bytes);
      return Promise.resolve();
    });
    if (fs.existsSync(target)) throw new AppError('exists', `${to} has come to be there meanwhile.`);
    appear(temporary, target);
  } catch (cause) {
    const left = clearAway(temporary);
    if (cause instanceof AppError) throw cause;
    throw new AppError(
      'disk-error',
      `${to} could not be written: ${(cause as Error).message}.${left ? ` ${left}` : ''}`,
    );
  }
}
