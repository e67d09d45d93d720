// Pictures that only our own decoding shows, against values known beforehand: samples written here by the formats' rules, and what sharp makes of
// the same pixels.

import { expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import sharp from 'sharp';
import { decodePicture, srgbByte } from './decode';
import { smallPicture } from './picture';

const u32 = (...values: number[]) => {
  const b = Buffer.alloc(values.length * 4);
  values.forEach((v, i) => b.writeUInt32LE(v >>> 0, i * 4));
  return b;
};
const text = (s: string) => Buffer.from(`${s}\0`, 'latin1');
const bytes = (b: Buffer) => new Uint8Array(b) as Uint8Array<ArrayBuffer>;
const pixel = (raw: { rgba: Uint8Array; width: number }, x: number, y: number) => [
  ...raw.rgba.subarray((y * raw.width + x) * 4, (y * raw.width + x) * 4 + 4),
];

/** An uncompressed OpenEXR of 32-bit floats by its specification (openexr.com, "OpenEXR File Layout"): scan lines from the top, channels by name. */
function exr(
  width: number,
  height: number,
  value: (channel: 'R' | 'G' | 'B', x: number, y: number) => number,
): Buffer {
  const attribute = (name: string, type: string, v: Buffer) =>
    Buffer.concat([text(name), text(type), u32(v.length), v]);
  const channels = Buffer.concat([
    ...['B', 'G', 'R'].map((c) => Buffer.concat([text(c), u32(2, 0, 1, 1)])),
    Buffer.from([0]),
  ]);
  const window = u32(0, 0, width - 1, height - 1);
  const float = (v: number) => {
    const b = Buffer.alloc(4);
    b.writeFloatLE(v);
    return b;
  };
  const head = Buffer.concat([
    u32(20000630, 2),
    attribute('channels', 'chlist', channels),
    attribute('compression', 'compression', Buffer.from([0])),
    attribute('dataWindow', 'box2i', window),
    attribute('displayWindow', 'box2i', window),
    attribute('lineOrder', 'lineOrder', Buffer.from([0])),
    attribute('pixelAspectRatio', 'float', float(1)),
    attribute('screenWindowCenter', 'v2f', Buffer.concat([float(0), float(0)])),
    attribute('screenWindowWidth', 'float', float(1)),
    Buffer.from([0]),
  ]);
  const lines = Array.from({ length: height }, (_, y) =>
    Buffer.concat([
      u32(y, width * 12),
      ...(['B', 'G', 'R'] as const).flatMap((c) =>
        Array.from({ length: width }, (_x, x) => float(value(c, x, y))),
      ),
    ]),
  );
  let at = head.length + height * 8;
  const table = lines.map((l) => {
    const entry = u32(at, 0);
    at += l.length;
    return entry;
  });
  return Buffer.concat([head, ...table, ...lines]);
}

test('sRGB by IEC 61966-2-1', () => {
  expect([0, 0.0031308, 0.214041, 0.5, 1, 7, -1, NaN].map(srgbByte)).toEqual([
    0, 10, 127, 188, 255, 255, 0, 0,
  ]);
});

test('OpenEXR: light to eight bits, the first line on top', async () => {
  const raw = await decodePicture(
    'OpenEXR',
    bytes(exr(3, 2, (c, x, y) => (y === 0 && c === 'R' ? 1 : x === 2 && c === 'G' ? 0.214041 : 0))),
  );
  expect([raw.width, raw.height]).toEqual([3, 2]);
  expect([pixel(raw, 0, 0), pixel(raw, 2, 0), pixel(raw, 0, 1), pixel(raw, 2, 1)]).toEqual([
    [255, 0, 0, 255],
    [255, 127, 0, 255],
    [0, 0, 0, 255],
    [0, 127, 0, 255],
  ]);
});

test('Radiance HDR: flat pixels of shared exponent, the first line on top', async () => {
  // Four bytes a pixel, value = mantissa / 256 × 2^(exponent − 128) (Radiance file formats, "pic").
  const raw = await decodePicture(
    'Radiance HDR',
    bytes(
      Buffer.concat([
        Buffer.from('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 2 +X 2\n'),
        Buffer.from([128, 0, 0, 129, 128, 0, 0, 129, 0, 128, 0, 128, 0, 128, 0, 128]),
      ]),
    ),
  );
  expect(pixel(raw, 1, 0)).toEqual([255, 0, 0, 255]);
  expect(pixel(raw, 0, 1)[1]).toBe(srgbByte(0.5));
});

test('TGA: uncompressed, from below and from above', async () => {
  // Truevision TGA 2.0: bit 5 of the descriptor says the first line is the top one; pixels are B, G, R.
  const tga = (descriptor: number) =>
    bytes(
      Buffer.concat([
        Buffer.from([0, 0, 2, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1, 0, 2, 0, 24, descriptor]),
        Buffer.from([0, 0, 255, 255, 0, 0]),
      ]),
    );
  expect(pixel(await decodePicture('TGA', tga(0x20)), 0, 0)).toEqual([255, 0, 0, 255]);
  expect(pixel(await decodePicture('TGA', tga(0)), 0, 0)).toEqual([0, 0, 255, 255]);
});

test('KTX 2: plain pixels; what only a graphics card reads is refused', async () => {
  const { createDefaultContainer, write } = await import('three/examples/jsm/libs/ktx-parse.module.js');
  const file = createDefaultContainer();
  Object.assign(file, {
    vkFormat: 37,
    pixelWidth: 2,
    pixelHeight: 1,
    levels: [{ levelData: Uint8Array.from([1, 2, 3, 4, 5, 6, 7, 8]), uncompressedByteLength: 8 }],
  });
  const raw = await decodePicture('KTX 2', new Uint8Array(write(file)) as Uint8Array<ArrayBuffer>);
  expect([pixel(raw, 0, 0), pixel(raw, 1, 0)]).toEqual([
    [1, 2, 3, 4],
    [5, 6, 7, 8],
  ]);
  // Basis Universal: the transcoder starts, and says what is wrong with what is none.
  Object.assign(file, { vkFormat: 0 });
  await expect(
    decodePicture('KTX 2', new Uint8Array(write(file)) as Uint8Array<ArrayBuffer>),
  ).rejects.toThrow('cannot be unpacked');
  Object.assign(file, { vkFormat: 131 });
  await expect(
    decodePicture('KTX 2', new Uint8Array(write(file)) as Uint8Array<ArrayBuffer>),
  ).rejects.toThrow('graphics cards');
});

// Encoded by the Basis Universal encoder 2 (in the npm package @loaders.gl/textures 4.5.4) from four squares: red, blue, green, white.
test.each(['etc1s', 'uastc'])('KTX 2: Basis Universal, %s', async (name) => {
  const raw = await decodePicture(
    'KTX 2',
    new Uint8Array(fs.readFileSync(path.resolve('src/server/facts/testing', `${name}.ktx2`))),
  );
  expect([raw.width, raw.height]).toEqual([16, 16]);
  for (const [x, y, wanted] of [
    [3, 3, [255, 0, 0]],
    [12, 3, [0, 0, 255]],
    [3, 12, [0, 255, 0]],
    [12, 12, [255, 255, 255]],
  ] as const) {
    const [r, g, b, a] = pixel(raw, x, y);
    for (const [i, v] of [r, g, b].entries()) expect(Math.abs(v! - wanted[i]!)).toBeLessThan(24);
    expect(a).toBe(255);
  }
});

test('broken bytes end in an error', async () => {
  for (const format of ['OpenEXR', 'Radiance HDR', 'TGA', 'KTX 2', 'PNG'])
    for (let n = 0; n < 20; n++)
      await expect(
        decodePicture(
          format,
          Uint8Array.from({ length: n * 7 }, (_, i) => (i * 31 + n) & 255),
        ),
      ).rejects.toBeDefined();
});

test('a small picture of a file of each', async () => {
  const folder = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-decode-'));
  const put = (name: string, b: Buffer) => {
    fs.writeFileSync(path.join(folder, name), b);
    return `${folder}/${name}`.replaceAll('\\', '/');
  };
  const tif = await sharp({ create: { width: 8, height: 4, channels: 3, background: '#336699' } })
    .tiff()
    .toBuffer();
  const answer = await smallPicture({ path: put('a.tif', tif), allowed: null, side: 4 });
  expect(await sharp(Buffer.from(answer)).metadata()).toMatchObject({
    format: 'webp',
    width: 4,
    height: 2,
  });
  await expect(
    smallPicture({ path: put('a.exr', exr(2, 2, () => 0).subarray(0, 200)), allowed: null, side: 640 }),
  ).rejects.toMatchObject({
    code: 'unsupported',
  });
  fs.rmSync(folder, { recursive: true });
});
