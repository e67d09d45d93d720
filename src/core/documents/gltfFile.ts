// A glTF file taken apart for reading: its JSON, and its buffers. Source: glTF 2.0 Specification, §3.6 and §4.4.

import { decodeText } from '../text/bytes';

type Beside = (uri: string) => Promise<Uint8Array | null>;

export interface GltfFile {
  json: unknown;
  /** Reads the buffers; gives a way to each. */
  buffers: (beside: Beside) => Promise<(index: number) => Uint8Array | null>;
}

const jsonChunk = 0x4e4f534a;
const binaryChunk = 0x004e4942;

/** Chunks of a GLB; null: it is none, or cut off before its JSON ends. */
export function readGlb(bytes: Uint8Array): GltfFile | null {
  if (bytes.length < 20) return null;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  let json: Uint8Array | null = null;
  let binary: Uint8Array | null = null;
  for (let at = 12; at + 8 <= bytes.length;) {
    const length = view.getUint32(at, true);
    const type = view.getUint32(at + 4, true);
    const data = bytes.subarray(at + 8, at + 8 + length);
    if (type === jsonChunk) json ??= data;
    else if (type === binaryChunk) binary ??= data;
    at += 8 + length;
  }
  return json && parsed(json, binary);
}

/** A glTF in JSON; null: it is none. */
export function readJson(bytes: Uint8Array): GltfFile | null {
  return parsed(bytes, null);
}

function parsed(text: Uint8Array, binary: Uint8Array | null): GltfFile | null {
  let json: unknown;
  try {
    json = JSON.parse(decodeText(text).text.replace(/^\ufeff/, ''));
  } catch {
    return null;
  }
  const listed = (json as { buffers?: unknown } | null)?.buffers;
  const uris = Array.isArray(listed) ? listed.map((b) => (b as { uri?: unknown } | null)?.uri) : [];
  return {
    json,
    async buffers(beside) {
      const held: (Uint8Array | null)[] = [];
      for (const uri of uris)
        if (typeof uri !== 'string') held.push(binary);
        else held.push(uri.startsWith('data:') ? fromDataUri(uri) : await beside(uri));
      return (index) => held[index] ?? null;
    },
  };
}

/** Bytes of a data URI in base64 (RFC 2397); null for others. */
export function fromDataUri(uri: string): Uint8Array | null {
  const comma = uri.indexOf(',');
  if (comma < 0 || !/;base64$/i.test(uri.slice(0, comma))) return null;
  return fromBase64(uri.slice(comma + 1));
}

const letters = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';
const values = new Int8Array(128).fill(-1);
for (let i = 0; i < letters.length; i++) values[letters.charCodeAt(i)] = i;

// Where the platform decodes by itself (Node.js), that is some ten times faster than a loop here.
const native = (globalThis as { Buffer?: { from(text: string, encoding: 'base64'): Uint8Array } }).Buffer;

/** RFC 4648 §4; null where another letter stands in it. */
export function fromBase64(text: string): Uint8Array | null {
  if (native && text.length > 1024) return native.from(text, 'base64');
  const bare = text.replace(/=+$/, '');
  const out = new Uint8Array(Math.floor((bare.length * 3) / 4));
  let [bits, held, at] = [0, 0, 0];
  for (let i = 0; i < bare.length; i++) {
    const value = values[bare.charCodeAt(i) & 127]!;
    if (value < 0) return null;
    held = (held << 6) | value;
    bits += 6;
    if (bits < 8) continue;
    bits -= 8;
    out[at++] = (held >> bits) & 255;
  }
  return out;
}

/** RFC 4648 §4, of so many bytes as a text can hold. */
export function toBase64(bytes: Uint8Array): string {
  let text = '';
  for (let at = 0; at < bytes.length; at += 3) {
    const word = (bytes[at]! << 16) | ((bytes[at + 1] ?? 0) << 8) | (bytes[at + 2] ?? 0);
    for (let k = 0; k < 4; k++) text += at + k > bytes.length ? '=' : letters[(word >> (18 - 6 * k)) & 63]!;
  }
  return text;
}
