// Pictures that other programs wrote (testing/README.md), whole and cut off at every byte.

import { describe, expect, test } from '@jest/globals';
import fs from 'node:fs';
import path from 'node:path';
import { isDeep } from '../files/testing/depth';
import { leafOf } from '../formats/leaves';
import { isWholePicture } from './whole';

const folder = path.resolve('src/core/outputs/testing');
const isWhole = (format: string, b: Buffer) =>
  isWholePicture(format, b.length, ([start, end]) => Promise.resolve(new Uint8Array(b.subarray(start, end))));

describe.each(fs.readdirSync(folder).filter((name) => !name.endsWith('.md')))('%s', (name) => {
  const bytes = fs.readFileSync(path.join(folder, name));
  const { format } = leafOf(bytes.subarray(0, 512))!;

  test('is whole, also with bytes after its end', async () => {
    expect(await isWhole(format, bytes)).toBe(true);
    expect(await isWhole(format, Buffer.concat([bytes, Buffer.alloc(40)]))).toBe(true);
  });

  test('is cut off wherever it ends early', async () => {
    // Lines of 8-bit DPX are padded to whole words by some programs, and not by others: 1 byte in each of 23 lines.
    const padding = name === 'eight.dpx' ? 23 : 0;
    for (let length = 1; length < bytes.length - padding; length += isDeep ? 1 : 61)
      expect([name, length, await isWhole(format, bytes.subarray(0, length))]).toEqual([name, length, false]);
  });
});

test('an OpenEXR with chunks that were never written is cut off', async () => {
  for (const name of ['tiled.exr', 'parts.exr', 'mipmap.exr']) {
    const bytes = fs.readFileSync(path.join(folder, name));
    // The last entry of the offset table is the last number before the first chunk.
    const first = bytes.findIndex(
      (_, i) => i > 100 && bytes.readBigUInt64LE(i) === BigInt(i + tableOf(name)),
    );
    bytes.fill(0, first + tableOf(name) - 8, first + tableOf(name));
    expect([name, first > 0, await isWhole('OpenEXR', bytes)]).toEqual([name, true, false]);
  }
});

/** Size of the offset tables in bytes: 3 × 2 tiles; those and 23 lines; levels of 3 × 2, 2 × 1, 1, 1, 1 and 1 tiles. */
function tableOf(name: string): number {
  return 8 * ({ 'tiled.exr': 6, 'parts.exr': 29, 'mipmap.exr': 12 }[name] ?? 0);
}

test('formats that cannot be checked give null', async () => {
  expect(await isWhole('PSD', Buffer.alloc(10))).toBeNull();
});
