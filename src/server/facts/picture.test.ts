// Pictures from strangers: what a header claims is looked at before anything is decoded, and a decoder that does not come to an end is replaced while
// the pictures behind it go on.

import { afterAll, beforeAll, describe, expect } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import sharp from 'sharp';
import { openPool } from '../threads/pool';
import { checkClaims, smallPicture, type PictureTask } from './picture';
import { thumbnail } from './thumbnail';
import { closePatient } from '../threads/patient';
import type { PictureEnd } from '../threads/decode.thread';
import { deepTest, test } from '@/core/files/testing/depth';

let base = '';
const put = (name: string, bytes: Uint8Array) => {
  fs.writeFileSync(path.join(base, name), bytes);
  return `${base}/${name}`;
};
beforeAll(() => {
  base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-picture-')));
});
afterAll(async () => {
  await closePatient();
  fs.rmSync(base, { recursive: true, force: true });
});

/** Truevision TGA 2.0: 18 bytes of header; type 2 is plain, 10 is run-length packed; width and height in 16 bits each. */
const tga = (type: 2 | 10, width: number, height: number, depth: number, data: Uint8Array) => {
  const head = Buffer.alloc(18);
  head[2] = type;
  head.writeUInt16LE(width, 12);
  head.writeUInt16LE(height, 14);
  head[16] = depth;
  return Buffer.concat([head, data]);
};
const hdr = (width: number, height: number, data: Uint8Array) =>
  Buffer.concat([
    Buffer.from(`#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y ${height} +X ${width}\n`, 'latin1'),
    data,
  ]);
const picture = (at: string, allowed: readonly string[] | null = null) =>
  smallPicture({ path: at, allowed, side: 32 });

describe('what a header claims', () => {
  test.each([
    [
      '82 bytes that claim 30,000 × 30,000',
      tga(10, 30_000, 30_000, 24, new Uint8Array(64)),
      'claims 30000 × 30000',
    ],
    ['82 bytes that claim 8,000 × 8,000', tga(10, 8000, 8000, 24, new Uint8Array(64)), 'cannot hold'],
    ['plain pixels that are not there', tga(2, 4000, 4000, 32, new Uint8Array(1000)), 'cannot hold'],
    ['a height of nothing', tga(2, 40, 0, 32, new Uint8Array(1000)), 'There is no picture'],
    ['light that is not there', hdr(8000, 8000, new Uint8Array(400)), 'cannot hold'],
    ['light of 60,000 × 60,000', hdr(60_000, 60_000, new Uint8Array(400)), 'claims 60000 × 60000'],
  ])('%s is refused, and nothing is decoded', async (name, bytes, why) => {
    const from = performance.now();
    await expect(picture(put(`${name.length}.bin`, bytes))).rejects.toMatchObject({
      code: 'unsupported',
      message: expect.stringContaining(why),
    });
    expect(performance.now() - from).toBeLessThan(2000);
  });
  test('honest ones pass: at the edge of what can be packed', async () => {
    // 128 pixels in four bytes: the densest packet there is.
    const dense = Buffer.concat(Array.from({ length: 128 }, () => Buffer.from([255, 1, 2, 3])));
    const file = tga(10, 128, 128, 24, dense);
    expect(() => checkClaims('TGA', file, file.length)).not.toThrow();
    expect(await sharp(Buffer.from(await picture(put('dense.tga', file)))).metadata()).toMatchObject({
      width: 32,
    });
  });
  deepTest(
    'a picture that unpacks to more than may be is refused by its header',
    async () => {
      const wide = await sharp({
        create: { width: 16_000, height: 16_800, channels: 3, background: '#222' },
        limitInputPixels: false,
      })
        .png({ compressionLevel: 1 })
        .toBuffer();
      await expect(picture(put('wide.png', wide))).rejects.toMatchObject({ code: 'unsupported' });
    },
    60_000,
  );
});

test('a file that a link leads to out of what is allowed is not opened', async () => {
  fs.mkdirSync(`${base}/in`);
  fs.mkdirSync(`${base}/out`);
  const png = await sharp({ create: { width: 4, height: 4, channels: 3, background: '#444' } })
    .png()
    .toBuffer();
  fs.writeFileSync(`${base}/out/a.png`, png);
  fs.writeFileSync(`${base}/in/b.png`, png);
  fs.symlinkSync(`${base}/out/a.png`, `${base}/in/a.png`);
  const inside = [`${base}/in`];
  await expect(picture(`${base}/in/a.png`, inside)).rejects.toMatchObject({ code: 'not-allowed' });
  expect((await picture(`${base}/in/b.png`, inside)).length).toBeGreaterThan(20);
});

test('a pipe is not waited for', async () => {
  const { execFileSync } = await import('node:child_process');
  execFileSync('mkfifo', [`${base}/pipe.png`]);
  await expect(picture(`${base}/pipe.png`)).rejects.toMatchObject({ code: 'unsupported' });
});

test('decoders that are stuck are replaced; pictures behind them come', async () => {
  const png = put(
    'good.png',
    await sharp({ create: { width: 64, height: 64, channels: 3, background: '#c52' } })
      .png()
      .toBuffer(),
  );
  // Fine steps of light that no run packs: the honest work of seconds, given a moment.
  const slow = put('slow.hdr', hdr(4000, 4000, new Uint8Array(4000 * 4000 * 4).fill(77)));
  const stuck = [1, 2, 3].map(() =>
    thumbnail(slow, null, 64, 30).then(
      () => 'made',
      (cause: { message: string }) => cause.message,
    ),
  );
  expect(new Set(await Promise.all(stuck))).toEqual(
    new Set(['There is no picture of this file: making it takes too long.']),
  );
  const after = await thumbnail(png, null, 32);
  expect((await sharp(Buffer.from(await after.arrayBuffer())).metadata()).width).toBe(32);
}, 60_000);

test('a decoder that takes more memory than it may is ended by itself', async () => {
  const pool = openPool<PictureTask, PictureEnd>('decode', { most: 1, megabytes: 8 });
  const good = put(
    'small.png',
    await sharp({ create: { width: 4, height: 4, channels: 3, background: '#c52' } })
      .png()
      .toBuffer(),
  );
  const ends = await pool.run({ path: good, allowed: null, side: 8 }).then(
    () => 'made',
    () => 'ended',
  );
  // With so little it may or may not come to a picture; the process lives on, and another pool makes one.
  expect(['made', 'ended']).toContain(ends);
  await pool.close();
  expect((await thumbnail(good, null, 8)).status).toBe(200);
}, 60_000);
