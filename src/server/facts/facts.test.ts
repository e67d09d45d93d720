// Facts of files that others wrote (sharp as a writer, fonts of the interface, samples of assimp-testmodels) and of headers after their
// specifications; wrong names, broken and empty files.

import { afterAll, beforeAll, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import sharp from 'sharp';
import { factsText, headerFacts, leafOf } from '@/core/formats/leaves';
import { factsOf } from './facts';

let dir = '';
beforeAll(() => void (dir = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-facts-'))));
afterAll(() => fs.rmSync(dir, { recursive: true }));

const put = (name: string, bytes: Uint8Array | string) => {
  const at = path.join(dir, name);
  fs.writeFileSync(at, bytes);
  return at;
};
const raw = (channels: 1 | 3 | 4) =>
  sharp(Buffer.alloc(20 * 10 * channels, 90), { raw: { width: 20, height: 10, channels } });
const u32 = (n: number) => {
  const b = Buffer.alloc(4);
  b.writeInt32LE(n);
  return b;
};

/** An OpenEXR header after "OpenEXR File Layout": magic, version, attributes, an empty name. Channel types: 1 half, 2 float. */
function exr(channels: Record<string, number>, window: readonly number[]): Buffer {
  const attribute = (name: string, type: string, value: Buffer) =>
    Buffer.concat([Buffer.from(`${name}\0${type}\0`), u32(value.length), value]);
  const list = Buffer.concat([
    ...Object.entries(channels).map(([n, t]) =>
      Buffer.concat([Buffer.from(`${n}\0`), u32(t), u32(0), u32(1), u32(1)]),
    ),
    Buffer.from([0]),
  ]);
  return Buffer.concat([
    Buffer.from([0x76, 0x2f, 0x31, 0x01]),
    u32(2),
    attribute('channels', 'chlist', list),
    attribute('compression', 'compression', Buffer.from([3])),
    attribute('dataWindow', 'box2i', Buffer.concat(window.map(u32))),
    Buffer.from([0]),
  ]);
}

function wav(seconds: number): Buffer {
  const data = 48000 * 4 * seconds;
  const b = Buffer.alloc(44 + data);
  b.write('RIFF', 0);
  b.writeUInt32LE(36 + data, 4);
  b.write('WAVEfmt ', 8);
  [
    [16, 16, 4],
    [20, 1, 2],
    [22, 2, 2],
    [24, 48000, 4],
    [28, 192000, 4],
    [32, 4, 2],
    [34, 16, 2],
    [40, data, 4],
  ].forEach(([at, v, size]) => b.writeUIntLE(v!, at!, size!));
  b.write('data', 36);
  return b;
}

test('pictures that sharp wrote', async () => {
  const files: [string, Buffer, object][] = [
    ['a.png', await raw(3).png().toBuffer(), { format: 'PNG', width: 20, height: 10, channels: 3, bits: 8 }],
    ['a16.png', await raw(3).toColourspace('rgb16').png().toBuffer(), { bits: 16, channels: 3 }],
    ['a.jpg', await raw(3).jpeg().toBuffer(), { format: 'JPEG', channels: 3 }],
    ['a.webp', await raw(4).webp().toBuffer(), { format: 'WebP' }],
    [
      'a.tif',
      await raw(1).toColourspace('b-w').tiff().toBuffer(),
      { format: 'TIFF', width: 20, channels: 1 },
    ],
    ['a.avif', await raw(3).avif().toBuffer(), { format: 'AVIF', width: 20, height: 10 }],
    [
      'f.tif',
      await raw(3).toColourspace('scrgb').tiff({ compression: 'none' }).toBuffer(),
      { bits: 32, float: true },
    ],
  ];
  for (const [name, bytes, facts] of files)
    expect(await factsOf(put(name, bytes))).toMatchObject({ kind: 'texture', ...facts });
});

test('headers read here', async () => {
  const half = { A: 1, B: 1, G: 1, R: 1, Z: 2 };
  expect(await factsOf(put('a.exr', exr(half, [-4, 0, 2043, 857])))).toEqual({
    kind: 'texture',
    format: 'OpenEXR',
    width: 2048,
    height: 858,
    channels: 5,
    channelNames: ['A', 'B', 'G', 'R', 'Z'],
    bits: 32,
    float: true,
  });
  expect(await factsOf(put('a.hdr', '#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 512 +X 1024\n'))).toMatchObject(
    { format: 'Radiance HDR', width: 1024, height: 512, channels: 3, float: true },
  );
  const ktx = Buffer.alloc(80);
  Buffer.from('\xabKTX 20\xbb\r\n\x1a\n', 'latin1').copy(ktx);
  [
    [20, 256],
    [24, 128],
    [36, 6],
  ].forEach(([at, v]) => ktx.writeUInt32LE(v!, at));
  expect(await factsOf(put('a.ktx2', ktx))).toMatchObject({
    format: 'KTX 2',
    width: 256,
    height: 128,
    frames: 6,
  });
  const dds = Buffer.alloc(128);
  dds.write('DDS ');
  dds.writeUInt32LE(64, 12);
  dds.writeUInt32LE(32, 16);
  expect(await factsOf(put('a.dds', dds))).toMatchObject({ format: 'DDS', width: 32, height: 64 });
});

test('sound and fonts', async () => {
  expect(await factsOf(put('a.wav', wav(2)))).toEqual({
    kind: 'audio',
    format: 'WAV',
    duration: 2,
    channels: 2,
    bits: 16,
    sampleRate: 48000,
  });
  const font = path.resolve(
    'node_modules/@fontsource-variable/fraunces/files/fraunces-latin-wght-normal.woff2',
  );
  expect(await factsOf(font)).toMatchObject({
    kind: 'font',
    format: 'WOFF 2',
    name: expect.stringContaining('Fraunces'),
  });
});

test('the content tells, not the name; what is broken keeps its kind; what tells nothing is null', async () => {
  expect((await factsOf(put('really.tga', await raw(3).png().toBuffer())))!.format).toBe('PNG');
  expect(await factsOf(put('cut.png', (await raw(3).png().toBuffer()).subarray(0, 12)))).toEqual({
    kind: 'texture',
    format: 'PNG',
  });
  expect(await factsOf(put('cut.exr', exr({ R: 1 }, [0, 0, 1, 1]).subarray(0, 30)))).toEqual({
    kind: 'texture',
    format: 'OpenEXR',
  });
  expect(await factsOf(put('cut.wav', wav(1).subarray(0, 20)))).toMatchObject({
    kind: 'audio',
    format: 'WAV',
  });
  expect([await factsOf(put('empty.png', '')), await factsOf(put('notes.png', 'hello'))]).toEqual([
    null,
    null,
  ]);
  await expect(factsOf(path.join(dir, 'gone.png'))).rejects.toThrow();
});

test('any bytes behind a known mark end in facts, not in a loop or an exception', () => {
  for (let n = 0; n < 3000; n++) {
    const b = Uint8Array.from({ length: n % 200 }, (_, i) => (Math.imul(n + 1, i + 7) >>> 3) & 255);
    for (const format of ['OpenEXR', 'Radiance HDR', 'KTX 2', 'KTX', 'DDS', 'TGA'])
      expect(typeof headerFacts(format, b)).toBe('object');
    leafOf(b);
  }
});

test('facts in words', () => {
  expect(
    factsText({
      kind: 'texture',
      format: 'OpenEXR',
      width: 2048,
      height: 858,
      channels: 4,
      bits: 16,
      float: true,
    }),
  ).toBe('OpenEXR · 2048 × 858 · 4 channels, 16-bit float');
  expect(
    factsText({ kind: 'audio', format: 'WAV', channels: 1, bits: 24, duration: 95, sampleRate: 44100 }),
  ).toBe('WAV · 1 channel, 24-bit · 1:35 min · 44.1 kHz');
});

// assimp-testmodels 5.2.5 (Debian): a real TGA, 512 × 512 by MediaInfo too.
const tga = path.resolve('.cache/samples/usr/share/assimp/models/Collada/duckCM.tga');
(fs.existsSync(tga) ? test : test.skip)('a real TGA', async () =>
  expect(await factsOf(tga)).toMatchObject({ format: 'TGA', width: 512, height: 512, channels: 3 }),
);
