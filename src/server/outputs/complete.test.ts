// Outputs on a real disk: missing, empty, cut off anywhere, of another size or depth, older than their scene.

import { afterAll, describe, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import sharp from 'sharp';
import { framesText } from '@/core/text/figures';
import { isWholePicture } from '@/core/outputs/whole';
import { readPassList } from '@/wire/passes';
import { plainFolder } from '../workspaces/open';
import { complete } from './complete';

const root = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-complete-')));
afterAll(() => fs.rmSync(root, { recursive: true }));
const picture = (width: number, height: number) =>
  sharp({ create: { width, height, channels: 3, background: '#456' } });
const put = (at: string, content: Buffer | string) => {
  fs.mkdirSync(path.dirname(path.join(root, at)), { recursive: true });
  fs.writeFileSync(path.join(root, at), content);
};

test('each trouble is told by its frames; the rest is whole', async () => {
  const good = await picture(16, 9).png().toBuffer();
  put('scenes/boat.gltf', '{}');
  for (let f = 1; f <= 12; f++)
    if (f !== 3 && f !== 4) put(`renders/boat/beauty.${String(f).padStart(4, '0')}.png`, good);
  put('renders/boat/beauty.0005.png', '');
  put('renders/boat/beauty.0006.png', good.subarray(0, good.length - 5));
  put('renders/boat/beauty.0007.png', await picture(16, 10).png().toBuffer());
  put(
    'renders/boat/beauty.0008.png',
    await picture(16, 9).toColourspace('rgb16').png({ palette: false }).toBuffer(),
  );
  fs.utimesSync(path.join(root, 'renders/boat/beauty.0009.png'), 1, 1);
  const list = readPassList(
    JSON.stringify({
      format: 1,
      file: 'renders/{scene}/{pass}.{frame:4}.png',
      frames: { first: 1, last: 12 },
      passes: ['beauty', 'depth'],
      scenes: [{ name: 'boat', scene: 'scenes/boat.gltf' }],
    }),
    'passes.json',
  );
  const report = await complete(plainFolder(root), list);
  expect(report.rows[0]!.troubles).toEqual({
    missing: [3, 4],
    empty: [5],
    truncated: [6],
    size: [7],
    depth: [8],
    older: [9],
  });
  expect(report.rows[0]).toMatchObject({ width: 16, height: 9, bits: 8 });
  expect(report.rows[1]!.troubles).toEqual({ missing: [1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12] });
  expect([report.expected, report.whole, report.unchecked]).toEqual([24, 5, 0]);
  expect(framesText([9, 1, 2, 3, 7])).toBe('1-3, 7, 9');
});

test.each([
  ['{', /no JSON/],
  ['{"format":2,"file":"{frame}","scenes":[{"name":"a"}]}', /format/],
  ['{"format":1,"file":"a.png","scenes":[{"name":"a"}]}', /frame/],
  ['{"format":1,"file":"{frame}.png","frames":{"first":9,"last":1},"scenes":[{"name":"a"}]}', /last frame/],
  ['{"format":1,"file":"{frame}.png","scenes":[]}', /scenes/],
])('%s is told', (text, why) => expect(() => readPassList(text, 'passes.json')).toThrow(why));

/** An OpenEXR of one part in lines, not packed, after the format's own description. */
function exr(width: number, height: number): Buffer {
  const attribute = (name: string, type: string, value: Buffer) => {
    const length = Buffer.alloc(4);
    length.writeInt32LE(value.length);
    return Buffer.concat([Buffer.from(`${name}\0${type}\0`), length, value]);
  };
  const ints = (...n: number[]) => Buffer.from(Int32Array.from(n).buffer);
  const channel = Buffer.concat([Buffer.from('Y\0'), ints(2, 0, 1, 1), Buffer.from('\0')]);
  const head = Buffer.concat([
    ints(0x01312f76, 2),
    attribute('channels', 'chlist', channel),
    attribute('compression', 'compression', Buffer.from([0])),
    attribute('dataWindow', 'box2i', ints(0, 0, width - 1, height - 1)),
    Buffer.from('\0'),
  ]);
  const line = 8 + 4 * width;
  const table = Buffer.alloc(8 * height);
  for (let y = 0; y < height; y++)
    table.writeBigUInt64LE(BigInt(head.length + table.length + y * line), 8 * y);
  const lines = Array.from({ length: height }, (_, y) =>
    Buffer.concat([ints(y, 4 * width), Buffer.alloc(4 * width, y + 1)]),
  );
  return Buffer.concat([head, table, ...lines]);
}

describe('cut off anywhere', () => {
  const made: [string, () => Promise<Buffer>][] = [
    ['PNG', () => picture(40, 30).png().toBuffer()],
    ['JPEG', () => picture(40, 30).jpeg().toBuffer()],
    ['WebP', () => picture(40, 30).webp().toBuffer()],
    ['TIFF', () => picture(40, 30).tiff().toBuffer()],
    ['OpenEXR', async () => exr(20, 12)],
  ];
  test.each(made)('%s', async (format, make) => {
    const bytes = await make();
    const whole = (b: Buffer) =>
      isWholePicture(format, b.length, async ([s, e]) => new Uint8Array(b.subarray(s, e)));
    expect(await whole(bytes)).toBe(true);
    for (const part of [0.2, 0.5, 0.9])
      expect(await whole(bytes.subarray(0, Math.floor(bytes.length * part)))).toBe(false);
    if (format !== 'TIFF') expect(await whole(bytes.subarray(0, bytes.length - 1))).toBe(false);
  });
  test('an OpenEXR whose program died: the places that it did not come to are zeros', async () => {
    const bytes = exr(20, 12);
    bytes.fill(0, bytes.length - 12 * 88 - 8, bytes.length - 12 * 88);
    expect(
      await isWholePicture('OpenEXR', bytes.length, async ([s, e]) => new Uint8Array(bytes.subarray(s, e))),
    ).toBe(false);
  });
  test('of others nobody can tell', async () =>
    expect(await isWholePicture('PSD', 10, async () => new Uint8Array(10))).toBeNull());
});
