// Files at the end of a chain (images, caches, audio, fonts), told by their first bytes, whatever their names say; and the facts that stand in
// headers which no package here reads: OpenEXR, Radiance HDR, KTX, DDS. Sources: OpenEXR file layout (Academy Software Foundation);
// Radiance file formats (Ward); KTX 1/2 specification (Khronos); DDS_HEADER (Microsoft); PNG (ISO/IEC 15948); OpenType (ISO/IEC 14496-22);
// RIFF; Alembic (Ogawa), OpenVDB and TGA from memory.

import { latin1 } from '../text/bytes';
import type { ReferenceKind } from './format';

/** What is known of a file. Sizes in pixels, bits a channel, times in seconds; absent: not known. */
export interface LeafFacts {
  kind: ReferenceKind;
  /** For people: 'PNG', 'OpenEXR'. */
  format: string;
  width?: number;
  height?: number;
  channels?: number;
  /** Names of the channels, where the file names them. */
  channelNames?: string[];
  bits?: number;
  /** True for floating point numbers. */
  float?: boolean;
  /** Frames of a moving picture, layers of an array, parts of a picture. */
  frames?: number;
  duration?: number;
  /** Samples a second. */
  sampleRate?: number;
  /** A font's name. */
  name?: string;
}

const signatures: [format: string, kind: ReferenceKind, test: (t: string) => boolean][] = [
  ['PNG', 'texture', (t) => t.startsWith('\x89PNG\r\n\x1a\n')],
  ['JPEG', 'texture', (t) => t.startsWith('\xff\xd8\xff')],
  ['GIF', 'texture', (t) => /^GIF8[79]a/.test(t)],
  ['WebP', 'texture', (t) => t.startsWith('RIFF') && t.slice(8, 12) === 'WEBP'],
  ['AVIF', 'texture', (t) => t.slice(4, 8) === 'ftyp' && /avi[fs]/.test(t.slice(8, 32))],
  [
    'TIFF',
    'texture',
    (t) => t.startsWith('II*\0') || t.startsWith('MM\0*') || t.startsWith('II+\0') || t.startsWith('MM\0+'),
  ],
  ['BMP', 'texture', (t) => t.startsWith('BM') && t.slice(6, 10) === '\0\0\0\0'],
  ['OpenEXR', 'texture', (t) => t.startsWith('\x76\x2f\x31\x01')],
  ['Radiance HDR', 'texture', (t) => /^#\?(RADIANCE|RGBE)/.test(t)],
  ['DDS', 'texture', (t) => t.startsWith('DDS ')],
  ['KTX 2', 'texture', (t) => t.startsWith('\xabKTX 20\xbb\r\n\x1a\n')],
  ['KTX', 'texture', (t) => t.startsWith('\xabKTX 11\xbb\r\n\x1a\n')],
  ['PSD', 'texture', (t) => t.startsWith('8BPS')],
  ['DPX', 'texture', (t) => t.startsWith('SDPX') || t.startsWith('XPDS')],
  ['JPEG 2000', 'texture', (t) => t.startsWith('\0\0\0\x0cjP  ')],
  ['JPEG XL', 'texture', (t) => t.startsWith('\0\0\0\x0cJXL ') || t.startsWith('\xff\x0a')],
  ['Alembic', 'cache', (t) => t.startsWith('Ogawa') || t.startsWith('\x89HDF\r\n\x1a\n')],
  ['OpenVDB', 'cache', (t) => t.startsWith(' BDV\0\0\0\0')],
  ['WAV', 'audio', (t) => /^(RIFF|RF64)/.test(t) && t.slice(8, 12) === 'WAVE'],
  ['FLAC', 'audio', (t) => t.startsWith('fLaC')],
  ['Ogg', 'audio', (t) => t.startsWith('OggS')],
  ['MP3', 'audio', (t) => t.startsWith('ID3') || /^\xff[\xe2\xe3\xf2\xf3\xfa\xfb]/.test(t)],
  ['AIFF', 'audio', (t) => t.startsWith('FORM') && /^AIF[FC]/.test(t.slice(8, 12))],
  ['M4A', 'audio', (t) => t.slice(4, 11) === 'ftypM4A'],
  ['Matroska', 'video', (t) => t.startsWith('\x1a\x45\xdf\xa3')],
  ['MPEG-4', 'video', (t) => t.slice(4, 8) === 'ftyp'],
  ['QuickTime', 'video', (t) => /^(moov|mdat|wide|free)$/.test(t.slice(4, 8))],
  ['AVI', 'video', (t) => t.startsWith('RIFF') && t.slice(8, 12) === 'AVI '],
  ['OpenType', 'font', (t) => t.startsWith('OTTO')],
  ['TrueType', 'font', (t) => t.startsWith('\0\x01\0\0') || t.startsWith('true')],
  ['Font collection', 'font', (t) => t.startsWith('ttcf')],
  ['WOFF', 'font', (t) => t.startsWith('wOFF')],
  ['WOFF 2', 'font', (t) => t.startsWith('wOF2')],
];

/** What a file is, by its first bytes (512 are enough); null where they do not tell. A TGA has no mark at its head: its fields must fit. */
export function leafOf(head: Uint8Array): LeafFacts | null {
  const text = latin1(head.subarray(0, 64));
  for (const [format, kind, test] of signatures) if (test(text)) return { kind, format };
  return isTga(head) ? { kind: 'texture', format: 'TGA' } : null;
}

function isTga(b: Uint8Array): boolean {
  if (b.length < 18) return false;
  const [map, type, depth] = [b[1]!, b[2]!, b[16]!];
  return (
    map <= 1 &&
    [1, 2, 3, 9, 10, 11].includes(type) &&
    [8, 15, 16, 24, 32].includes(depth) &&
    (map === 1) === (type === 1 || type === 9) &&
    b[12]! + b[13]! > 0 &&
    b[14]! + b[15]! > 0
  );
}

/** Facts from a header that is read here; {} where its format is not, or it is broken. `head`: up to 64 kB of the file. */
export function headerFacts(format: string, head: Uint8Array): Partial<LeafFacts> {
  try {
    const read = readers[format];
    return read ? read(head, new DataView(head.buffer, head.byteOffset, head.byteLength)) : {};
  } catch {
    return {}; // the header ends early
  }
}

const readers: Record<string, (b: Uint8Array, v: DataView) => Partial<LeafFacts>> = {
  OpenEXR: exr,
  'Radiance HDR': (b) => {
    // After a blank line the resolution: '-Y height +X width', axes in either order.
    const m = /\n\n([-+])([XY]) (\d+) [-+]([XY]) (\d+)\n/.exec(latin1(b.subarray(0, 8192)));
    if (!m) return {};
    const [first, second] = [Number(m[3]), Number(m[5])];
    return {
      ...(m[2] === 'Y' ? { height: first, width: second } : { width: first, height: second }),
      channels: 3,
      bits: 8,
      float: true,
    };
  },
  'KTX 2': (_, v) => ({
    width: v.getUint32(20, true),
    height: Math.max(1, v.getUint32(24, true)),
    frames: Math.max(1, v.getUint32(32, true)) * Math.max(1, v.getUint32(36, true)),
  }),
  KTX: (_, v) => {
    const little = v.getUint32(12, true) === 0x04030201;
    return {
      width: v.getUint32(36, little),
      height: Math.max(1, v.getUint32(40, little)),
      frames: Math.max(1, v.getUint32(48, little)) * Math.max(1, v.getUint32(52, little)),
    };
  },
  DDS: (_, v) => ({ height: v.getUint32(12, true), width: v.getUint32(16, true) }),
  TGA: (b, v) => ({
    width: v.getUint16(12, true),
    height: v.getUint16(14, true),
    bits: 8,
    channels: b[2]! % 8 === 3 ? 1 : b[16] === 32 ? 4 : 3,
  }),
};

/** The first part's header: attributes as name, type, size, value, until an empty name. */
function exr(b: Uint8Array, v: DataView): Partial<LeafFacts> {
  const facts: Partial<LeafFacts> = {};
  let i = 8;
  const name = (): string => {
    const end = b.indexOf(0, i);
    if (end < 0 || end - i > 255) throw new RangeError('no name');
    const text = latin1(b.subarray(i, end));
    i = end + 1;
    return text;
  };
  for (;;) {
    const key = name();
    if (key === '') return facts;
    name(); // its type
    const size = v.getInt32(i, true);
    i += 4;
    const next = i + size;
    if (key === 'dataWindow')
      Object.assign(facts, {
        width: v.getInt32(i + 8, true) - v.getInt32(i, true) + 1,
        height: v.getInt32(i + 12, true) - v.getInt32(i + 4, true) + 1,
      });
    if (key === 'channels') {
      const names: string[] = [];
      let bits = 0;
      while (b[i] !== 0 && i < next) {
        names.push(name());
        const type = v.getInt32(i, true); // 0 whole numbers of 32 bits, 1 half, 2 float
        bits = Math.max(bits, type === 1 ? 16 : 32);
        facts.float = type !== 0;
        i += 16;
      }
      Object.assign(facts, { channelNames: names, channels: names.length, bits });
    }
    i = next;
  }
}

/** Facts in words: 'PNG · 2048 × 2048 · 3 channels of 8 bits'. */
export function factsText(f: LeafFacts): string {
  const time = (s: number) =>
    s < 60
      ? `${Number(s.toFixed(2))} s`
      : `${Math.floor(s / 60)}:${String(Math.round(s % 60)).padStart(2, '0')} min`;
  const depth = f.bits === undefined ? '' : `${f.bits}-bit${f.float ? ' float' : ''}`;
  const many = (n: number, one: string) => `${n} ${one}${n === 1 ? '' : 's'}`;
  return [
    f.format,
    f.name ?? '',
    f.width !== undefined && f.height !== undefined ? `${f.width} × ${f.height}` : '',
    f.channels !== undefined ? `${many(f.channels, 'channel')}${depth ? `, ${depth}` : ''}` : depth,
    f.frames !== undefined && f.frames > 1 ? many(f.frames, 'frame') : '',
    f.duration !== undefined ? time(f.duration) : '',
    f.sampleRate !== undefined ? `${Number((f.sampleRate / 1000).toFixed(2))} kHz` : '',
  ]
    .filter(Boolean)
    .join(' · ');
}
