// Bytes as text, without losing count: text formats are scanned as Latin-1 (one character per byte, so that offsets are
// file offsets); only found values are decoded as UTF-8.

declare const TextDecoder: new (
  label?: string,
  options?: { fatal?: boolean; ignoreBOM?: boolean },
) => { decode(b: Uint8Array): string };
declare const TextEncoder: new () => { encode(s: string): Uint8Array };

const strict = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });
const encoder = new TextEncoder();

export type TextEncoding = 'utf-8' | 'latin-1' | 'utf-16le' | 'utf-16be';
export type WideEncoding = 'utf-16le' | 'utf-16be';

/** UTF-8 where the bytes are valid UTF-8, else one character per byte (Latin-1), so that nothing is lost. */
export function decodeText(bytes: Uint8Array): { text: string; encoding: 'utf-8' | 'latin-1' } {
  // Most values are short and plain: for those the engine's decoder costs more than it does.
  if (bytes.length < 128 && isAscii(bytes)) return { text: latin1(bytes), encoding: 'utf-8' };
  try {
    return { text: strict.decode(bytes), encoding: 'utf-8' };
  } catch {
    return { text: latin1(bytes), encoding: 'latin-1' };
  }
}

function isAscii(bytes: Uint8Array): boolean {
  for (let i = 0; i < bytes.length; i++) if (bytes[i]! >= 0x80) return false;
  return true;
}

/** One character per byte. Not TextDecoder('latin1'): that label means windows-1252 (WHATWG Encoding Standard §4.2). */
export function latin1(bytes: Uint8Array): string {
  if (bytes.length <= 8192) return String.fromCharCode.apply(null, bytes as unknown as number[]);
  let out = '';
  for (let i = 0; i < bytes.length; i += 8192)
    out += String.fromCharCode.apply(null, bytes.subarray(i, i + 8192) as unknown as number[]);
  return out;
}

/** UTF-8 bytes of a text. */
export function utf8(text: string): Uint8Array {
  return encoder.encode(text);
}

/** Latin-1 bytes of a text; null when a character does not fit in one byte. */
export function toLatin1(text: string): Uint8Array | null {
  const out = new Uint8Array(text.length);
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    if (code > 255) return null;
    out[i] = code;
  }
  return out;
}

/** Bytes of a text of one character a byte; throws when a character does not fit. */
export function bytesOfText(text: string): Uint8Array {
  const bytes = toLatin1(text);
  if (!bytes) throw new Error('written-down bytes hold a character above 255');
  return bytes;
}

/** How a text with a byte order mark in 16-bit Unicode is encoded (Unicode Standard §23.8); null for others. */
export function wideEncoding(b: Uint8Array): WideEncoding | null {
  return b[0] === 0xff && b[1] === 0xfe ? 'utf-16le' : b[0] === 0xfe && b[1] === 0xff ? 'utf-16be' : null;
}

/** 16-bit units as one byte each: ASCII as it is, all others as `other`. */
export function narrowUnits(bytes: Uint8Array, encoding: WideEncoding, other: number): Uint8Array {
  const units = new Uint8Array(bytes.length >> 1);
  const [low, high] = encoding === 'utf-16le' ? [0, 1] : [1, 0];
  for (let i = 0; i < units.length; i++)
    units[i] = bytes[2 * i + high] === 0 && bytes[2 * i + low]! < 0x80 ? bytes[2 * i + low]! : other;
  return units;
}

/** Text of 16-bit units; unpaired surrogates stay what they are. */
export function decodeWide(bytes: Uint8Array, encoding: WideEncoding): string {
  let text = '';
  const [low, high] = encoding === 'utf-16le' ? [0, 1] : [1, 0];
  for (let i = 0; i + 1 < bytes.length; i += 2)
    text += String.fromCharCode(bytes[i + low]! | (bytes[i + high]! << 8));
  return text;
}

/** Bytes of text in an encoding; `other` says what to write for characters it lacks, null: give up. */
export function encodeText(
  text: string,
  encoding: TextEncoding,
  other: (char: string) => string | null,
): Uint8Array | null {
  if (encoding === 'utf-8') return utf8(text);
  if (encoding === 'latin-1') {
    let out = '';
    for (const c of text) {
      const said = c.codePointAt(0)! > 255 ? other(c) : c;
      if (said === null) return null;
      out += said;
    }
    return toLatin1(out);
  }
  const bytes = new Uint8Array(text.length * 2);
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    bytes[2 * i + (encoding === 'utf-16le' ? 0 : 1)] = code & 255;
    bytes[2 * i + (encoding === 'utf-16le' ? 1 : 0)] = code >> 8;
  }
  return bytes;
}

/** Joins parts into one array. */
export function concat(parts: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(parts.reduce((sum, p) => sum + p.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}

// Where the platform compares bytes by itself (Node.js), that is some ten times faster than a loop here.
const native = (globalThis as { Buffer?: { compare(a: Uint8Array, b: Uint8Array): number } }).Buffer;

/** Whether two stretches of bytes are the same. */
export function sameBytes(a: Uint8Array, b: Uint8Array): boolean {
  if (a.length !== b.length) return false;
  if (native) return native.compare(a, b) === 0;
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false;
  return true;
}

/** A view of the same bytes as numbers. */
export const viewOf = (b: Uint8Array): DataView => new DataView(b.buffer, b.byteOffset, b.byteLength);
