// Finds string values in JSON by member name, with their byte spans and JSON pointers, in one pass over the bytes and
// without building the document. Tolerant: it follows structure, not every rule of RFC 8259, and stops at no bad number.
//
//     {"images":[{"uri":"../textures/hull.png"}]}
//                        ^ span -------------^      pointer /images/0/uri
//
// Left out: values that are not strings. Depth is bounded (1,000,000 levels are followed on an explicit stack).

import type { Problem, Span } from '../problem';
import { decodeText, latin1 } from '../text/bytes';

/** A string member that was found: its pointer as unescaped parts, and the span of its raw text, quotes left out. */
export interface FoundString {
  path: readonly (string | number)[];
  span: Span;
  /** Offset of the outermost member's key: tells two members of one name apart. */
  topKey: number;
}

const quote = 0x22, backslash = 0x5c, openBrace = 0x7b, closeBrace = 0x7d, openBracket = 0x5b, closeBracket = 0x5d, comma = 0x2c, colon = 0x3a;

/** End of the string whose first character is at `from` (after the quote): offset of the closing quote, -1 when there is none. */
export function stringEnd(b: Uint8Array, from: number): number {
  let i = from;
  const near = Math.min(b.length, from + 256);
  for (; i < near; i++) {
    const c = b[i];
    if (c === quote) return i;
    if (c === backslash) i++;
  }
  // Long strings (embedded data) are crossed by the engine's own search, then the backslashes before the quote are counted.
  for (;;) {
    const at = b.indexOf(quote, i);
    if (at < 0) return -1;
    let slashes = 0;
    while (at - 1 - slashes >= i && b[at - 1 - slashes] === backslash) slashes++;
    if (slashes % 2 === 0) return at;
    i = at + 1;
  }
}

/**
 * Walks JSON text in `b` from `start` and calls `found` for each string value that is an object member whose raw key
 * `wanted` accepts (key as a span of `b`). Returns problems: 'not-json' when the text is no object, 'truncated' when it
 * ends early, 'bad-json' when brackets do not match.
 */
export function findStrings(
  b: Uint8Array, start: number, end: number, wanted: (keyStart: number, keyEnd: number) => boolean, found: (value: FoundString) => void,
): Problem[] {
  let i = start;
  while (i < end && (b[i] === 0x20 || b[i] === 0x0a || b[i] === 0x0d || b[i] === 0x09)) i++;
  if (b[i] !== openBrace) {
    return [{ code: i >= end ? 'empty-file' : 'not-json', message: i >= end ? 'The file is empty.' : 'This is not JSON: it does not begin with {.', span: [i, Math.min(i + 1, end)] }];
  }
  const isArray: boolean[] = [], index: number[] = [], keyStart: number[] = [], keyEnd: number[] = [];
  let depth = -1;
  let expectKey = false;
  const path = () => {
    const parts: (string | number)[] = [];
    for (let d = 0; d <= depth; d++) parts.push(isArray[d] ? index[d]! : unescapeJson(b.subarray(keyStart[d]!, keyEnd[d]!)).text);
    return parts;
  };
  for (; i < end; i++) {
    switch (b[i]) {
      case quote: {
        const close = stringEnd(b, i + 1);
        if (close < 0 || close >= end) return [{ code: 'truncated', message: 'The file ends inside a string.', span: [i, end] }];
        if (expectKey) {
          keyStart[depth] = i + 1;
          keyEnd[depth] = close;
          expectKey = false;
        } else if (depth >= 0 && !isArray[depth] && wanted(keyStart[depth]!, keyEnd[depth]!)) {
          found({ path: path(), span: [i + 1, close], topKey: keyStart[0]! });
        }
        i = close;
        break;
      }
      case openBrace:
      case openBracket:
        depth++;
        if (depth > 1_000_000) return [{ code: 'too-deep', message: 'The JSON is nested too deeply to be a scene.', span: [i, i + 1] }];
        isArray[depth] = b[i] === openBracket;
        index[depth] = 0;
        keyStart[depth] = keyEnd[depth] = 0;
        expectKey = !isArray[depth];
        break;
      case closeBrace:
      case closeBracket:
        if (isArray[depth] !== (b[i] === closeBracket)) return [{ code: 'bad-json', message: 'A bracket closes what another kind of bracket opened.', span: [i, i + 1] }];
        depth--;
        expectKey = false;
        if (depth < 0) return trailing(b, i + 1, end);
        break;
      case comma:
        if (isArray[depth]) index[depth]!++;
        else expectKey = true;
        break;
      case colon:
        expectKey = false;
        break;
    }
  }
  return [{ code: 'truncated', message: 'The JSON ends before its last bracket is closed.', span: [Math.max(start, end - 1), end] }];
}

function trailing(b: Uint8Array, from: number, end: number): Problem[] {
  for (let i = from; i < end; i++) {
    const c = b[i]!;
    if (c !== 0x20 && c !== 0x0a && c !== 0x0d && c !== 0x09 && c !== 0) {
      return [{ code: 'trailing-data', message: 'Something follows after the end of the JSON.', span: [i, end] }];
    }
  }
  return [];
}

const simple: Record<string, string> = { '"': '"', '\\': '\\', '/': '/', b: '\b', f: '\f', n: '\n', r: '\r', t: '\t' };

/** Undoes JSON string escapes (RFC 8259 §7). Bytes that are not UTF-8 are read one character per byte. */
export function unescapeJson(raw: Uint8Array): { text: string; encoding: 'utf-8' | 'latin-1' } {
  if (raw.length < 64 && isPlainAscii(raw)) return { text: latin1(raw), encoding: 'utf-8' };
  const { text, encoding } = decodeText(raw);
  if (!text.includes('\\')) return { text, encoding };
  return { encoding, text: text.replace(/\\(?:u([0-9a-fA-F]{4})|(.))/gs, (whole, code: string | undefined, char: string | undefined) => (code ? String.fromCharCode(parseInt(code, 16)) : (simple[char!] ?? whole))) };
}

function isPlainAscii(raw: Uint8Array): boolean {
  for (const c of raw) if (c >= 0x80 || c === backslash) return false;
  return true;
}

/** Escapes what JSON strings must escape (RFC 8259 §7: quote, backslash, U+0000 to U+001F), nothing else. */
export function escapeJson(text: string): string {
  return text.replace(/["\\\u0000-\u001f]/g, (c) => {
    const short = { '"': '\\"', '\\': '\\\\', '\n': '\\n', '\r': '\\r', '\t': '\\t' }[c];
    return short ?? `\\u${c.charCodeAt(0).toString(16).padStart(4, '0')}`;
  });
}

/** Parts as a JSON pointer (RFC 6901). */
export function jsonPointer(parts: readonly (string | number)[]): string {
  return parts.map((p) => `/${String(p).replaceAll('~', '~0').replaceAll('/', '~1')}`).join('');
}
