// What pictures say of their making; raster ones as another library writes them.

import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import sharp from 'sharp';
import { latin1, utf8 } from '../text/bytes';
import { bytesToSay, pictureSays } from './pictureSays';

const picture = () =>
  sharp({ create: { width: 8, height: 8, channels: 3, background: 'teal' } }).withExif({
    IFD0: { Software: 'Harbour Painter 4.1' },
  });

test.each(['jpeg', 'png', 'webp'] as const)('%s with its Exif, as sharp writes it', async (format) => {
  const bytes = new Uint8Array(await picture().toFormat(format).toBuffer());
  expect(pictureSays(`a.${format}`, bytes)).toEqual({
    programs: ['Harbour Painter 4.1'],
    fonts: [],
  });
  // Cut off anywhere: less is said, and nothing thrown.
  for (let n = 0; n < Math.min(bytes.length, 600); n += 7) pictureSays('a.png', bytes.subarray(0, n));
});

test('a TIFF, in either order of bytes', () => {
  for (const little of [true, false]) {
    const bytes = new Uint8Array(26 + 9);
    const view = new DataView(bytes.buffer);
    bytes.set(utf8(little ? 'II' : 'MM'));
    view.setUint16(2, 42, little);
    view.setUint32(4, 8, little);
    view.setUint16(8, 1, little);
    view.setUint16(10, 305, little);
    view.setUint16(12, 2, little);
    view.setUint32(14, 9, little);
    view.setUint32(18, 26, little);
    bytes.set(utf8('Quay 2.0\0'), 26);
    expect(pictureSays('a.tif', bytes)!.programs).toEqual(['Quay 2.0']);
  }
});

test('the text of a PNG; a picture that says nothing', async () => {
  const bare = await sharp({ create: { width: 8, height: 8, channels: 3, background: 'teal' } })
    .png()
    .toBuffer();
  expect(pictureSays('a.png', new Uint8Array(bare))).toBeNull();
  const said = utf8('Software\0Lamp <b>');
  const chunk = new Uint8Array(12 + said.length);
  new DataView(chunk.buffer).setUint32(0, said.length);
  chunk.set(utf8('tEXt'), 4);
  chunk.set(said, 8);
  const bytes = new Uint8Array([...bare.subarray(0, 33), ...chunk, ...bare.subarray(33)]);
  expect(pictureSays('a.png', bytes)!.programs).toEqual(['Lamp <b>']);
});

test('an SVG: its typefaces and what made it', () => {
  const svg = `<?xml version="1.0"?><!-- Generator: Sign Shop 3 --><svg xmlns="http://www.w3.org/2000/svg">
    <style>text { font-family: "Harbour Sans", 'Quay', serif; }</style>
    <text font-family="Mooring &amp; Rope, sans-serif">A</text><text style="font-family:Buoy">B</text></svg>`;
  expect(pictureSays('a.SVG', utf8(svg))).toEqual({
    programs: ['Sign Shop 3'],
    fonts: ['Buoy', 'Harbour Sans', 'Mooring & Rope', 'Quay'],
  });
});

test('whatever the bytes are: nothing is thrown, and no control character said', () => {
  const starts = [
    '\xff\xd8\xff\xe1\x00\x20Exif\0\0',
    '\x89PNG\r\n\x1a\n',
    'RIFF\0\0\0\0WEBPEXIF',
    'II*\0\x08\0\0\0',
    'MM\0*\0\0\0\x08',
    '',
  ];
  fc.assert(
    fc.property(fc.constantFrom(...starts), fc.uint8Array({ maxLength: 120 }), (start, rest) => {
      const bytes = new Uint8Array([...Array.from(start, (c) => c.charCodeAt(0)), ...rest]);
      for (const program of pictureSays('a.jpg', bytes)?.programs ?? [])
        expect(latin1(utf8(program))).not.toMatch(/[\x00-\x1f]/);
    }),
  );
  expect([bytesToSay('a.bin'), bytesToSay('a.png') > 0]).toEqual([0, true]);
});
