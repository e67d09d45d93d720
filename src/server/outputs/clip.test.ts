// A clip made without a browser, read back by sharp's decoders and, where it is installed, by ffmpeg.

import { afterAll, describe, expect, test } from '@jest/globals';
import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import sharp from 'sharp';
import { neutral } from '../facts/decode';
import { makeClip } from './clip';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-clip-')));
afterAll(() => fs.rmSync(base, { recursive: true }));

/** A frame of one colour, which tells its number. */
const frame = (n: number) =>
  sharp({ create: { width: 60, height: 40, channels: 3, background: { r: n * 40, g: 255 - n * 40, b: 20 } } })
    .png()
    .toBuffer();
let made = 0;
async function row(numbers: readonly number[]): Promise<string> {
  const folder = path.join(base, `r${++made}`);
  fs.mkdirSync(folder);
  for (const n of numbers)
    fs.writeFileSync(path.join(folder, `boat.${String(n).padStart(4, '0')}.png`), await frame(n));
  return folder;
}
const usual = { fps: 10, side: 640, holes: 'hold', label: null } as const;
/** The colour in the middle of each page. */
async function colours(file: string): Promise<number[][]> {
  const { pages = 1 } = await sharp(file).metadata();
  const found: number[][] = [];
  for (let page = 0; page < pages; page++) {
    const { data, info } = await sharp(file, { page })
      .removeAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true });
    const at = (Math.floor(info.height / 4) * info.width + 5) * info.channels;
    found.push([...data.subarray(at, at + 3)]);
  }
  return found;
}
const near = (found: number[] | undefined, n: number) =>
  [n * 40, 255 - n * 40, 20].every((v, i) => Math.abs(v - found![i]!) < 12);

describe.each(['webp', 'gif'])('%s', (kind) => {
  test('every frame in its order, for its time', async () => {
    const folder = await row([1, 2, 3, 5]);
    const to = path.join(base, `a${made}.${kind}`);
    const clip = await makeClip({ ...usual, holes: 'mark', pattern: `${folder}/boat.####.png`, to });
    expect(clip).toMatchObject({ frames: 5, missing: 1, width: 60, height: 40, fps: 10 });
    const asListed = { ...usual, pattern: `${folder}/boat.{frame:4}.png`, to: `${to}.${kind}` };
    expect(await makeClip(asListed)).toMatchObject({ frames: 5, missing: 1 });
    const found = await colours(to);
    expect(found.map((c, i) => near(c, i + 1))).toEqual([true, true, true, false, true]);
    expect((await sharp(to).metadata()).delay).toEqual([100, 100, 100, 100, 100]);
    const decoder = kind === 'gif' && spawnSync('ffprobe', ['-version']).status === 0;
    if (decoder) {
      const probed = spawnSync(
        'ffprobe',
        [
          '-v',
          'error',
          '-count_frames',
          '-show_entries',
          'stream=nb_read_frames,width',
          '-of',
          'csv=p=0',
          to,
        ],
        { encoding: 'utf8' },
      ).stdout.trim();
      expect(probed).toBe('60,5');
    }
  });

  test('any of the frames means the row; what is written in changes the foot only', async () => {
    const folder = await row([4, 5]);
    const [plain, written] = [path.join(base, `p${made}.${kind}`), path.join(base, `w${made}.${kind}`)];
    const pattern = `${folder}/boat.0005.png`;
    await makeClip({ ...usual, pattern, to: plain });
    await makeClip({ ...usual, pattern, to: written, label: { scene: 'boat', version: 3, camera: null } });
    for (const file of [plain, written])
      expect((await colours(file)).map((c, i) => near(c, i + 4))).toEqual([true, true]);
    const foot = async (file: string) =>
      sharp(file).extract({ left: 0, top: 30, width: 60, height: 10 }).removeAlpha().raw().toBuffer();
    expect((await foot(written)).equals(await foot(plain))).toBe(false);
  });
});

test('names that hold marks themselves', async () => {
  const folder = await row([]);
  const odd = path.join(folder, '#1 100%d <frame>');
  fs.mkdirSync(odd);
  for (const n of [1, 2]) fs.writeFileSync(path.join(odd, `shot#2 ü.000${n}.png`), await frame(n));
  const clip = await makeClip({
    ...usual,
    pattern: `${odd}/shot#2 ü.0001.png`,
    to: path.join(base, 'odd.webp'),
  });
  expect(clip).toMatchObject({ frames: 2, missing: 0 });
});

describe('what goes wrong', () => {
  test('nothing is written over; nothing is left', async () => {
    const folder = await row([1, 2]);
    const to = path.join(folder, 'there.webp');
    fs.writeFileSync(to, 'mine');
    const pattern = `${folder}/boat.%04d.png`;
    await expect(makeClip({ ...usual, pattern, to })).rejects.toMatchObject({ code: 'exists' });
    expect(fs.readFileSync(to, 'utf8')).toBe('mine');
    await expect(makeClip({ ...usual, pattern, to: `${folder}/a.mp4` })).rejects.toMatchObject({
      code: 'bad-request',
    });
    await expect(
      makeClip({ ...usual, pattern: `${folder}/no.####.png`, to: `${folder}/a.gif` }),
    ).rejects.toMatchObject({
      code: 'not-found',
    });
    await expect(
      makeClip({ ...usual, pattern, to: `${folder}/a.gif`, first: 1, last: 100_000, side: 4096 }),
    ).rejects.toMatchObject({ code: 'bad-request' });
    const stop = new AbortController();
    await expect(
      makeClip(
        { ...usual, pattern, to: `${folder}/b.gif` },
        { signal: stop.signal, onFrame: () => stop.abort() },
      ),
    ).rejects.toThrow();
    expect(fs.readdirSync(folder).sort()).toEqual(['boat.0001.png', 'boat.0002.png', 'there.webp']);
  });

  test('a frame that is broken, empty or no picture is marked and told', async () => {
    const folder = await row([1, 2, 3, 4]);
    fs.writeFileSync(path.join(folder, 'boat.0001.png'), '');
    fs.truncateSync(path.join(folder, 'boat.0003.png'), 40);
    const clip = await makeClip({ ...usual, pattern: `${folder}/boat.####.png`, to: `${folder}/c.webp` });
    expect(clip.said).toEqual(['Not readable, and marked: 1, 3.']);
    expect((await colours(`${folder}/c.webp`)).map((c, i) => near(c, i + 1))).toEqual([
      false,
      true,
      false,
      true,
    ]);
  });
});

test('the neutral tone mapper is the one of three.js', async () => {
  // three.js, tonemapping_pars_fragment (NeutralToneMapping), after the Khronos PBR Neutral specification: the same steps in another language.
  const source = fs.readFileSync(
    path.join(
      import.meta.dirname,
      '../../../node_modules/three/src/renderers/shaders/ShaderChunk/tonemapping_pars_fragment.glsl.js',
    ),
    'utf8',
  );
  const constant = (name: string) => new RegExp(`${name}\\s*=\\s*([^;]+);`).exec(source)![1]!;
  expect([constant('StartCompression'), constant('Desaturation')]).toEqual(['0.8 - 0.04', '0.15']);
  const of = (...c: number[]) => {
    const colour = Float64Array.from(c);
    neutral(colour);
    return [...colour];
  };
  expect(of(0.04, 0.04, 0.04).map((v) => Math.round(v * 1e6))).toEqual([10000, 10000, 10000]);
  expect(of(0.5, 0.3, 0.2).map((v) => Math.round(v * 1e6))).toEqual([460000, 260000, 160000]);
  // However bright: below white, and in the order it was.
  let last = 0;
  for (let e = 0; e < 12; e += 0.5) {
    const [r, g] = of(2 ** e, 2 ** (e - 1), 0.1) as [number, number];
    expect(r > last && r <= 1 && g < r).toBe(true);
    last = r;
  }
  expect(of(Infinity, NaN, -1).every((v) => v >= 0 && v <= 1)).toBe(true);
});
