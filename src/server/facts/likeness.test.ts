// What looks the same, and what does not: pictures made here, resized, packed in other ways, and dyed.

import { afterAll, describe, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import sharp, { type Sharp } from 'sharp';
import { apart, printOf } from './likeness';

const folder = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-alike-')));
afterAll(() => fs.rmSync(folder, { recursive: true }));

/** Waves in light and dark of one colour. */
function waves([r, g, b]: readonly [number, number, number], turn = 0, side = 256): Sharp {
  const pixels = Buffer.alloc(side * side * 3);
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      const light = 0.6 + 0.4 * Math.sin(x / 17 + Math.sin(y / 31 + turn) * 3) * Math.cos(y / 23 + turn);
      pixels.set([r * light, g * light, b * light], (y * side + x) * 3);
    }
  return sharp(pixels, { raw: { width: side, height: side, channels: 3 } });
}
let n = 0;
async function print(bytes: Buffer | Promise<Buffer>, ending: string) {
  const at = path.join(folder, `${n++}.${ending}`);
  fs.writeFileSync(at, await bytes);
  const made = await printOf(at, [folder]);
  if (made === null) throw new Error(`no print of ${at}`);
  return made;
}
/** Uncompressed TGA, 24 bits, rows from the top (Truevision TGA 2.0). */
async function tga(picture: Sharp): Promise<Buffer> {
  const { data, info } = await picture.raw().toBuffer({ resolveWithObject: true });
  const head = Buffer.alloc(18);
  head[2] = 2;
  head.writeUInt16LE(info.width, 12);
  head.writeUInt16LE(info.height, 14);
  head[16] = 24;
  head[17] = 0x20;
  for (let i = 0; i < data.length; i += 3) [data[i], data[i + 2]] = [data[i + 2]!, data[i]!];
  return Buffer.concat([head, data]);
}
const brick = [200, 70, 50] as const;
const oak = [140, 100, 60] as const;

describe('the same picture', () => {
  test.each([
    ['smaller', 'png', () => waves(brick).resize(100).png().toBuffer()],
    ['as WebP', 'webp', () => waves(brick).webp({ quality: 70 }).toBuffer()],
    ['as JPEG, smaller', 'jpg', () => waves(brick).resize(128).jpeg({ quality: 60 }).toBuffer()],
    ['as TIFF', 'tif', () => waves(brick).tiff().toBuffer()],
    ['as TGA', 'tga', () => tga(waves(brick))],
  ])('%s', async (_, ending, other) => {
    const a = await print(waves(brick).png().toBuffer(), 'png');
    expect(apart(a, await print(other(), ending))).not.toBeNull();
  });
});

test('a red and a brown picture of one pattern are two', async () => {
  const a = await print(waves(brick).png().toBuffer(), 'png');
  expect(apart(a, await print(waves(oak).png().toBuffer(), 'png'))).toBeNull();
  expect(apart(a, await print(waves(brick, 2).png().toBuffer(), 'png'))).toBeNull();
});

test('a plain picture, and what is none, have no looks', async () => {
  const at = path.join(folder, 'plain.png');
  await sharp({ create: { width: 40, height: 40, channels: 3, background: '#884422' } })
    .png()
    .toFile(at);
  expect(await printOf(at, [folder])).toBeNull();
  fs.writeFileSync(path.join(folder, 'no.png'), 'no picture');
  expect(await printOf(path.join(folder, 'no.png'), [folder])).toBeNull();
  // What lies outside of what is allowed is not looked at.
  const outside = path.join(folder, 'outside.png');
  await waves(brick).png().toFile(outside);
  expect(await printOf(outside, [path.join(folder, 'elsewhere')])).toBeNull();
});
