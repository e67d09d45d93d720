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

/** An 8-bit RGB PNG of `width` × `height` pixels, square where only one is said. */
export function png(width: number, paint: Paint, height = width): Buffer {
  const raw = Buffer.alloc(height * (width * 3 + 1));
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) raw.set(paint(x, y), y * (width * 3 + 1) + 1 + x * 3);
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width, 0);
  head.writeUInt32BE(height, 4);
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

/** Dusk over the harbour, 320 × 180: the tower, and the beam of its lantern that has turned `turn` (0 to 1) of the way round. */
export function dusk(turn: number): Paint {
  const [lampX, lampY] = [214, 52];
  const angle = turn * 2 * Math.PI;
  return (x, y) => {
    const sea = y > 128;
    const grain = sea ? (noise(x >> 4, y >> 1, 5) - 0.5) * 12 : 0;
    let [r, g, b] = sea
      ? [34 + grain, 52 + grain, 66 + grain]
      : [70 + y * 0.9 + grain, 74 + y * 0.55 + grain, 104 + y * 0.12 + grain];
    const half = 11 + (y - 60) * 0.06;
    const isTower = y > 60 && y < 140 && Math.abs(x - lampX) < half;
    const isRoom = y > 42 && y <= 60 && Math.abs(x - lampX) < 9;
    const isBeach = y > 136 && Math.abs(x - lampX) < 70 + (y - 136) * 3;
    if (isBeach) [r, g, b] = [112 + grain, 98 + grain, 76 + grain];
    if (isTower) [r, g, b] = Math.floor((y - 60) / 18) % 2 ? [150, 146, 138] : [128, 44, 38];
    if (isRoom) [r, g, b] = [226, 196, 120];
    // The beam: a wedge that thins with distance.
    const [dx, dy] = [x - lampX, (y - lampY) * 3];
    const off = Math.abs(((Math.atan2(dy, dx) - angle + 3 * Math.PI) % (2 * Math.PI)) - Math.PI);
    const light = off < 0.16 && !isTower ? (1 - off / 0.16) * 150 * Math.exp(-Math.hypot(dx, dy) / 190) : 0;
    // In steps of four, so that the files stay small.
    const step = (v: number) => clamp(Math.round(v / 4) * 4);
    return [step(r + light), step(g + light * 0.9), step(b + light * 0.55)];
  };
}
