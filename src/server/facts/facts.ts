// What a file is and holds: recognised by its first bytes, its facts from sharp (pictures), MediaInfo (sound, film, rarer pictures) and fontkit,
// or from its header. Nothing is decoded beyond what the facts need; a file that a package chokes on still has its kind.

import fs from 'node:fs';
import type { MediaInfo, MediaInfoResult, Track } from 'mediainfo.js';
import { headerFacts, leafOf, type LeafFacts } from '@/core/formats/leaves';
import { toSystem } from '../disk/system';
import { isSharps } from './picture';

const headSize = 64 * 1024;
const remembered = 2000;
const known = new Map<string, LeafFacts | null>();
const bitsOf: Record<string, [bits: number, float: boolean]> = {
  uchar: [8, false],
  char: [8, false],
  ushort: [16, false],
  short: [16, false],
  uint: [32, false],
  int: [32, false],
  float: [32, true],
  double: [64, true],
};

let mediaInfo: Promise<MediaInfo<'object'>> | null = null;
// It reads one file at a time.
let turn: Promise<unknown> = Promise.resolve();

function headOf(file: string): Uint8Array {
  const fd = fs.openSync(file, 'r');
  try {
    const buffer = Buffer.alloc(headSize);
    return buffer.subarray(0, fs.readSync(fd, buffer, 0, headSize, 0));
  } finally {
    fs.closeSync(fd);
  }
}

async function pictureFacts(file: string): Promise<Partial<LeafFacts>> {
  const { default: sharp } = await import('sharp');
  const m = await sharp(file, { failOn: 'none', limitInputPixels: false }).metadata();
  const [bits, float] = bitsOf[m.depth ?? ''] ?? [];
  return {
    width: m.width,
    height: m.height,
    channels: m.channels,
    ...(bits === undefined ? {} : { bits }),
    ...(float ? { float } : {}),
    ...((m.pages ?? 1) > 1 ? { frames: m.pages! } : {}),
  };
}

async function tracksOf(file: string): Promise<readonly Track[]> {
  const { default: create } = await import('mediainfo.js');
  const info = await (mediaInfo ??= create({ format: 'object' }));
  const { size } = fs.statSync(file);
  const fd = fs.openSync(file, 'r');
  try {
    const result: MediaInfoResult = await info.analyzeData(size, (length, offset) => {
      const part = new Uint8Array(length);
      return part.subarray(0, fs.readSync(fd, part, 0, length, offset));
    });
    return result.media?.track ?? [];
  } finally {
    fs.closeSync(fd);
  }
}

async function mediaFacts(file: string): Promise<Partial<LeafFacts>> {
  const mine = turn.then(() => tracksOf(file));
  turn = mine.catch(() => {});
  const facts: Partial<LeafFacts> = {};
  for (const t of await mine) {
    const set = (
      key: 'width' | 'height' | 'channels' | 'bits' | 'frames' | 'duration' | 'sampleRate',
      value: unknown,
    ) => {
      const n = Number(value);
      if (value !== undefined && Number.isFinite(n) && n > 0 && facts[key] === undefined) facts[key] = n;
    };
    const has = t as unknown as Record<string, unknown>;
    if (t['@type'] === 'Image' || t['@type'] === 'Video') {
      set('width', has.Width);
      set('height', has.Height);
      set('bits', has.BitDepth);
      set('frames', has.FrameCount);
    } else if (t['@type'] === 'Audio') {
      set('channels', has.Channels);
      set('bits', has.BitDepth);
      set('sampleRate', has.SamplingRate);
    } else if (t['@type'] === 'General') set('duration', has.Duration);
  }
  return facts;
}

async function fontFacts(file: string): Promise<Partial<LeafFacts>> {
  const { openSync } = await import('fontkit');
  const font = openSync(file);
  const one = 'fonts' in font ? font.fonts[0] : font;
  return one?.fullName ? { name: one.fullName } : {};
}

/** What is known of the file at an absolute path; null where its first bytes tell nothing. Throws where it cannot be read. */
export async function factsOf(absolute: string): Promise<LeafFacts | null> {
  const file = toSystem(absolute);
  const stat = fs.statSync(file);
  const key = `${file}\0${stat.size}\0${stat.mtimeMs}\0${stat.ctimeMs}`;
  const held = known.get(key);
  if (held !== undefined) return held;
  const head = headOf(file);
  const leaf = leafOf(head);
  let facts: LeafFacts | null = leaf;
  if (leaf) {
    const read = isSharps(leaf.format)
      ? pictureFacts
      : leaf.kind === 'font'
        ? fontFacts
        : leaf.kind === 'audio' ||
            leaf.kind === 'video' ||
            ['BMP', 'PSD', 'DPX', 'JPEG 2000', 'JPEG XL', 'DDS'].includes(leaf.format)
          ? mediaFacts
          : null;
    facts = {
      ...leaf,
      ...(read ? await read(file).catch(() => ({})) : {}),
      ...headerFacts(leaf.format, head),
    };
  }
  known.set(key, facts);
  if (known.size > remembered) known.delete(known.keys().next().value!);
  return facts;
}
