// Small pictures for the demo, made from numbers alone: PNG (W3C PNG Specification, third edition: signature, IHDR, IDAT, IEND).

import zlib from 'node:zlib';

/** Colour of a pixel, 0 to 255 each. */
export type Paint = (x: number, y: number) => readonly [r: number, g: number, b: number];

function chunk(type: string, data: Buffer): Buffer {
  const body = Buffer.concat([Buffer.from(type, 'latin1'), data]);
  const out = Buffer.alloc(body.length + 8);
  out.writeUInt32BE(data.length, 0);
  body.copy(out, 4);
  out.writeUInt32BE(zlib.crc32(body), body.length + 4);
  return out;
}

/** An 8-bit RGB PNG of size × size pixels. */
export function png(size: number, paint: Paint): Buffer {
  const raw = Buffer.alloc(size * (size * 3 + 1));
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) raw.set(paint(x, y), y * (size * 3 + 1) + 1 + x * 3);
  const head = Buffer.alloc(13);
  head.writeUInt32BE(size, 0);
  head.writeUInt32BE(size, 4);
  head.set([8, 2, 0, 0, 0], 8);
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
    chunk('IHDR', head),
    chunk('IDAT', zlib.deflateSync(raw, { level: 9 })),
    chunk('IEND', Buffer.alloc(0)),
  ]);
}

/** The same noise for the same place and seed, 0 to 1. */
export function noise(x: number, y: number, seed: number): number {
  let h = Math.imul(x, 374761393) + Math.imul(y, 668265263) + Math.imul(seed, 2147483647);
  h = Math.imul(h ^ (h >>> 13), 1274126177);
  return ((h ^ (h >>> 16)) >>> 0) / 4294967295;
}

const clamp = (v: number) => Math.max(0, Math.min(255, Math.round(v)));

/** Planks, sand, glass …: a colour with bands and grain. */
export function material(
  colour: readonly [number, number, number],
  band: number,
  grain: number,
  seed: number,
): Paint {
  return (x, y) => {
    const gap = band > 0 && y % band < 1 ? 0.55 : 1;
    const n = 1 + (noise(x >> 1, y, seed) - 0.5) * grain;
    return [clamp(colour[0] * gap * n), clamp(colour[1] * gap * n), clamp(colour[2] * gap * n)];
  };
}
