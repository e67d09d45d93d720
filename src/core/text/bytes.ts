// Bytes as text, without losing count: text formats are scanned as Latin-1 (one character per byte, so that offsets are
// file offsets); only found values are decoded as UTF-8.

declare const TextDecoder: new (label?: string, options?: { fatal?: boolean; ignoreBOM?: boolean }) => { decode(b: Uint8Array): string };
declare const TextEncoder: new () => { encode(s: string): Uint8Array };

const strict = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });
const encoder = new TextEncoder();

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
  for (let i = 0; i < bytes.length; i += 8192) out += String.fromCharCode.apply(null, bytes.subarray(i, i + 8192) as unknown as number[]);
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
