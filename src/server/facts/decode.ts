// Pictures that sharp does not read: OpenEXR, Radiance HDR, TGA and KTX 2, decoded by three.js' readers and brought to eight bits for looking at.
// Values of light are shown as they are up to white, and cut off above; frames of a moving picture go through the neutral tone mapper instead.

import { createRequire } from 'node:module';
import fs from 'node:fs';
import path from 'node:path';
import { runInThisContext } from 'node:vm';

/** Eight-bit RGBA, rows from the top. */
export interface Raw {
  width: number;
  height: number;
  rgba: Uint8Array;
}

export const decoded = new Set(['OpenEXR', 'Radiance HDR', 'TGA', 'KTX 2']);

/** Linear light → sRGB (IEC 61966-2-1), 0…1 → 0…255. */
export function srgbByte(linear: number): number {
  const v = Number.isNaN(linear) ? 0 : Math.min(1, Math.max(0, linear));
  return Math.round(255 * (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055));
}

/** Brings linear red, green and blue, in place, to what a screen can show. */
export type ToneMapper = (colour: Float64Array) => void;

/** As it is; `srgbByte` cuts off what is above white. */
export const cutOff: ToneMapper = () => undefined;

/**
 * The Khronos PBR Neutral tone mapper (specification of 2024): colours below 0.8 keep hue and contrast, highlights are pressed together and lose their
 * colour slowly.
 */
export const neutral: ToneMapper = (c) => {
  const start = 0.8 - 0.04;
  const desaturation = 0.15;
  for (let i = 0; i < 3; i++)
    c[i] = Number.isFinite(c[i]!) ? Math.max(0, c[i]!) : c[i] === Infinity ? 65504 : 0;
  const x = Math.min(c[0]!, c[1]!, c[2]!);
  const offset = x < 0.08 ? x - 6.25 * x * x : 0.04;
  for (let i = 0; i < 3; i++) c[i]! -= offset;
  const peak = Math.max(c[0]!, c[1]!, c[2]!);
  if (peak < start) return;
  const d = 1 - start;
  const newPeak = 1 - (d * d) / (peak + d - start);
  const g = 1 - 1 / (desaturation * (peak - newPeak) + 1);
  for (let i = 0; i < 3; i++) c[i] = (c[i]! * newPeak * (1 - g)) / peak + newPeak * g;
};

interface Floats {
  data: Float32Array;
  width: number;
  height: number;
}

function fromLight(
  { data, width, height }: Floats,
  fromBelow: boolean,
  hasAlpha: boolean,
  tone: ToneMapper,
): Raw {
  const colour = new Float64Array(3);
  const rgba = new Uint8Array(width * height * 4);
  const channels = Math.round(data.length / (width * height));
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const from = ((fromBelow ? height - 1 - y : y) * width + x) * channels;
      const to = (y * width + x) * 4;
      for (let c = 0; c < 3; c++) colour[c] = data[from + (channels < 3 ? 0 : c)]!;
      tone(colour);
      for (let c = 0; c < 3; c++) rgba[to + c] = srgbByte(colour[c]!);
      rgba[to + 3] =
        hasAlpha && channels === 4 ? Math.round(255 * Math.min(1, Math.max(0, data[from + 3]!))) : 255;
    }
  return { width, height, rgba };
}

// Numbers of the formats (Khronos, Vulkan specification, VkFormat): bytes a pixel.
const plain = new Map([
  [9, 1],
  [15, 1],
  [16, 2],
  [22, 2],
  [23, 3],
  [29, 3],
  [37, 4],
  [43, 4],
]);

async function fromKtx2(bytes: Uint8Array): Promise<Raw> {
  const { read } = await import('three/examples/jsm/libs/ktx-parse.module.js');
  const file = read(bytes);
  const size = plain.get(file.vkFormat);
  const [width, height] = [file.pixelWidth, Math.max(1, file.pixelHeight)];
  if (size !== undefined) {
    let { levelData } = file.levels[0]!;
    if (file.supercompressionScheme === 2) {
      const { ZSTDDecoder } = await import('three/examples/jsm/libs/zstddec.module.js');
      const decoder = new ZSTDDecoder();
      await decoder.init();
      levelData = decoder.decode(levelData, file.levels[0]!.uncompressedByteLength);
    } else if (file.supercompressionScheme !== 0) throw new Error('packed in a way that is not known');
    if (levelData.length < width * height * size) throw new Error('the picture is cut off');
    const rgba = new Uint8Array(width * height * 4).fill(255);
    for (let i = 0; i < width * height; i++)
      for (let c = 0; c < 4; c++)
        if (c < size) rgba[i * 4 + c] = levelData[i * size + c]!;
        else if (c < 3 && size === 1) rgba[i * 4 + c] = levelData[i]!;
    return { width, height, rgba };
  }
  if (file.vkFormat !== 0) throw new Error('packed for graphics cards only');
  const basis = await startBasis();
  basis.initializeBasis();
  const ktx = new basis.KTX2File(bytes);
  try {
    if (!ktx.isValid() || !ktx.startTranscoding()) throw new Error('cannot be unpacked');
    const rgba = new Uint8Array(ktx.getImageTranscodedSizeInBytes(0, 0, 0, rgba32));
    if (!ktx.transcodeImage(rgba, 0, 0, 0, rgba32, 0, -1, -1)) throw new Error('cannot be unpacked');
    return { width, height, rgba };
  } finally {
    ktx.close();
    ktx.delete();
  }
}

/** The transcoder of Basis Universal that comes with three.js. It is no module of either kind, so its text is run by itself. */
async function startBasis(): Promise<Basis> {
  const require = createRequire(import.meta.url);
  const file = (name: string) =>
    require.resolve(/*turbopackIgnore: true*/ `three/examples/jsm/libs/basis/basis_transcoder.${name}`);
  const filled = { exports: {} as (options: object) => Promise<Basis> };
  runInThisContext(
    `(function (module, exports, require, __filename, __dirname) {${fs.readFileSync(file('js'), 'utf8')}\n})`,
  )(filled, filled.exports, require, file('js'), path.dirname(file('js')));
  return filled.exports({ wasmBinary: fs.readFileSync(file('wasm')) });
}

// cTFRGBA32 of the transcoder.
const rgba32 = 13;
interface Basis {
  initializeBasis(): void;
  KTX2File: new (bytes: Uint8Array) => {
    isValid(): boolean;
    startTranscoding(): boolean;
    getImageTranscodedSizeInBytes(level: number, layer: number, face: number, format: number): number;
    transcodeImage(
      into: Uint8Array,
      level: number,
      layer: number,
      face: number,
      format: number,
      alpha: number,
      c0: number,
      c1: number,
    ): boolean;
    close(): void;
    delete(): void;
  };
}

/** The picture in a file's bytes, by its format as `leafOf` names it. Throws where it cannot be read. */
export async function decodePicture(
  format: string,
  bytes: Uint8Array<ArrayBuffer>,
  tone: ToneMapper = cutOff,
): Promise<Raw> {
  const buffer =
    bytes.byteOffset === 0 && bytes.byteLength === bytes.buffer.byteLength
      ? bytes.buffer
      : bytes.slice().buffer;
  switch (format) {
    case 'OpenEXR': {
      const [{ FloatType }, { EXRLoader }] = [
        await import('three'),
        await import('three/examples/jsm/loaders/EXRLoader.js'),
      ];
      return fromLight(
        new EXRLoader().setDataType(FloatType).parse(buffer) as unknown as Floats,
        true,
        true,
        tone,
      );
    }
    case 'Radiance HDR': {
      const [{ FloatType }, { HDRLoader }] = [
        await import('three'),
        await import('three/examples/jsm/loaders/HDRLoader.js'),
      ];
      return fromLight(
        new HDRLoader().setDataType(FloatType).parse(buffer) as unknown as Floats,
        false,
        false,
        tone,
      );
    }
    case 'TGA': {
      const { TGALoader } = await import('three/examples/jsm/loaders/TGALoader.js');
      const { data, width, height } = new TGALoader().parse(buffer) as {
        data: Uint8Array;
        width: number;
        height: number;
      };
      return { width, height, rgba: data };
    }
    case 'KTX 2':
      return fromKtx2(bytes);
    default:
      throw new Error(`${format} is not decoded here`);
  }
}
