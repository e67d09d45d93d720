// Finds string values in JSON by member name, with their byte spans and JSON pointers, in one pass over the bytes and
// without building the document. Tolerant: it follows structure, not every rule of RFC 8259, and stops at no bad number.
//
//     {"images":[{"uri":"../textures/hull.png"}]}
//                        ^ span -------------^      pointer /images/0/uri
//
// Sound text goes through jsonScan.ts, which looks at many bytes at once; whatever that cannot follow is walked here, byte by byte,
// and this walk says what is wrong. Left out: values that are not strings. Depth is bounded (1,000,000 levels on an explicit stack).

import type { Problem, Span } from '../problem';
import { decodeText } from '../text/bytes';
import { scanStructure } from './jsonScan';

/** A string member that was found: its pointer as unescaped parts, and the span of its raw text, quotes left out. */
export interface FoundString {
  path: readonly (string | number)[];
  span: Span;
  /** Offset of the outermost member's key: tells two members of one name apart. */
  topKey: number;
}

const quote = 0x22,
  backslash = 0x5c,
  openBrace = 0x7b,
  closeBrace = 0x7d,
  openBracket = 0x5b,
  closeBracket = 0x5d,
  comma = 0x2c,
  colon = 0x3a;

// Bytes that mean something outside strings; all others (blanks, digits, letters) are crossed without a look.
const means = new Uint8Array(256);
for (const c of [quote, openBrace, closeBrace, openBracket, closeBracket, comma]) means[c] = 1;

/** End of the string whose first character is at `from` (after the quote): offset of the closing quote, -1 when there is none. */
export function stringEnd(b: Uint8Array, from: number): number {
  let i = from;
  const near = Math.min(b.length, from + 256);
  for (; i < near; i++) {
    const c = b[i];
    if (c === quote) return i;
    if (c === backslash) i++;
  }
  return farEnd(b, i);
}

/** Long strings (embedded data) are crossed by the engine's own search, then the backslashes before the quote are counted. */
function farEnd(b: Uint8Array, from: number): number {
  let i = from;
  for (;;) {
    const at = b.indexOf(quote, i);
    if (at < 0) return -1;
    let slashes = 0;
    while (at - 1 - slashes >= i && b[at - 1 - slashes] === backslash) slashes++;
    if (slashes % 2 === 0) return at;
    i = at + 1;
  }
}

/** Whether a raw key, a span of the text, is one whose string value is asked for. It must end in `i` or hold a backslash. */
export type Wanted = (keyStart: number, keyEnd: number) => boolean;

/**
 * Goes through JSON text in `content` from `start` and calls `found` for each string value that is an object member whose raw
 * key is wanted. Returns problems: 'not-json' when the text is no object, 'truncated' when it ends early, 'bad-json' when brackets
 * do not match.
 */
export function findStrings(
  content: Uint8Array,
  start: number,
  end: number,
  wanted: Wanted,
  found: (value: FoundString) => void,
): Problem[] {
  // A plain view, so that the engine sees one kind of array, whoever read the bytes.
  const b = new Uint8Array(content.buffer, content.byteOffset, content.byteLength);
  const scanned = scanMembers(b, start, end, wanted);
  if (!scanned || trailing(b, scanned.end + 1, end).length > 0)
    return walkStrings(b, start, end, wanted, found);
  scanned.values.forEach(found);
  return [];
}

/** The same by the structure that jsonScan.ts gives; null when the text is not sound JSON, as far as that can tell, or too deep. */
function scanMembers(
  b: Uint8Array,
  start: number,
  end: number,
  wanted: Wanted,
): { values: FoundString[]; end: number } | null {
  if (b[afterBlanks(b, start)] !== openBrace) return null;
  const values: FoundString[] = [];
  const closedAt = scanStructure(b, start, end, (close, levels) => {
    let i = afterBlanks(b, close + 1);
    if (b[i] !== colon) return true; // a value, not a key
    i = afterBlanks(b, i + 1);
    if (b[i] !== quote) return true;
    const valueEnd = stringEnd(b, i + 1);
    if (valueEnd < 0 || valueEnd >= end) return false;
    const keyStart = stringStart(b, close, start);
    if (levels.isList(levels.depth - 1) || !beginsMember(b, keyStart)) return false;
    if (!wanted(keyStart, close)) return true;
    const path: (string | number)[] = [];
    let topKey = keyStart;
    for (let d = 0; d < levels.depth - 1; d++) {
      if (levels.isList(d)) path.push(levels.commas(d));
      else {
        // The key of a bracket inside an object stands before it.
        const at = beforeBlanks(b, levels.offset(d + 1) - 1);
        const keyEnd = beforeBlanks(b, at - 1);
        if (b[at] !== colon || b[keyEnd] !== quote) return false;
        const from = stringStart(b, keyEnd, start);
        if (!beginsMember(b, from)) return false;
        if (d === 0) topKey = from;
        path.push(unescapeJson(b.subarray(from, keyEnd)).text);
      }
    }
    path.push(unescapeJson(b.subarray(keyStart, close)).text);
    values.push({ path, span: [i + 1, valueEnd], topKey });
    return true;
  });
  return closedAt === null ? null : { values, end: closedAt };
}

function afterBlanks(b: Uint8Array, from: number): number {
  let i = from;
  while (b[i] === 0x20 || b[i] === 0x0a || b[i] === 0x0d || b[i] === 0x09) i++;
  return i;
}

function beforeBlanks(b: Uint8Array, from: number): number {
  let i = from;
  while (b[i] === 0x20 || b[i] === 0x0a || b[i] === 0x0d || b[i] === 0x09) i--;
  return i;
}

/** Whether what stands before a string, whose text begins at `from`, lets it be a key. */
function beginsMember(b: Uint8Array, from: number): boolean {
  const before = b[beforeBlanks(b, from - 2)];
  return before === comma || before === openBrace;
}

/** Offset after the quote that opens the string whose closing quote is at `close`: the nearest one that nothing escapes. */
function stringStart(b: Uint8Array, close: number, least: number): number {
  for (let i = close - 1; i >= least; i--) {
    if (b[i] !== quote) continue;
    let slashes = 0;
    while (b[i - 1 - slashes] === backslash) slashes++;
    if (slashes % 2 === 0) return i + 1;
  }
  return least;
}

/** The plain walk, which says what is wrong with a text; see `findStrings`. */
export function walkStrings(
  b: Uint8Array,
  start: number,
  end: number,
  wanted: Wanted,
  found: (value: FoundString) => void,
): Problem[] {
  let i = start;
  while (i < end && (b[i] === 0x20 || b[i] === 0x0a || b[i] === 0x0d || b[i] === 0x09)) i++;
  if (b[i] !== openBrace) {
    return [
      {
        code: i >= end ? 'empty-file' : 'not-json',
        message: i >= end ? 'The file is empty.' : 'This is not JSON: it does not begin with {.',
        span: [i, Math.min(i + 1, end)],
      },
    ];
  }
  const stack = new Stack();
  let depth = -1;
  let inArray = false;
  let expectKey = false;
  let colonAt = -1; // directly after the key
  let keyFrom = 0;
  let keyTo = 0;
  for (; i < end; i++) {
    const c = b[i]!;
    if (means[c] === 0) continue;
    if (c === quote) {
      const close = stringEnd(b, i + 1);
      if (close < 0 || close >= end)
        return [{ code: 'truncated', message: 'The file ends inside a string.', span: [i, end] }];
      if (expectKey) {
        keyFrom = i + 1;
        keyTo = close;
        expectKey = false;
        colonAt = afterBlanks(b, close + 1);
        if (b[colonAt] !== colon) colonAt = -1;
      } else if (!inArray && colonAt >= 0 && afterBlanks(b, colonAt + 1) === i) {
        colonAt = -1;
        if (wanted(keyFrom, keyTo)) {
          stack.setKey(depth, keyFrom, keyTo);
          found({ path: stack.path(b, depth), span: [i + 1, close], topKey: stack.keyFrom(0) });
        }
      }
      i = close;
    } else if (c === comma) {
      if (inArray) stack.next(depth);
      else expectKey = true;
    } else if (c === openBrace || c === openBracket) {
      if (depth >= 0 && !inArray) stack.setKey(depth, keyFrom, keyTo);
      depth++;
      if (depth > 1_000_000)
        return [
          { code: 'too-deep', message: 'The JSON is nested too deeply to be a scene.', span: [i, i + 1] },
        ];
      inArray = c === openBracket;
      stack.open(depth, inArray);
      expectKey = !inArray;
    } else if (c === closeBrace || c === closeBracket) {
      if (inArray !== (c === closeBracket))
        return [
          {
            code: 'bad-json',
            message: 'A bracket closes what another kind of bracket opened.',
            span: [i, i + 1],
          },
        ];
      depth--;
      expectKey = false;
      if (depth < 0) return trailing(b, i + 1, end);
      inArray = stack.isArray(depth);
    }
  }
  return [
    {
      code: 'truncated',
      message: 'The JSON ends before its last bracket is closed.',
      span: [Math.max(start, end - 1), end],
    },
  ];
}

/** Where the walk stands: for each open bracket its kind, the index or key reached. Grows as needed. */
class Stack {
  // Three numbers a level: index in an array or -1 in an object, start and end of the key.
  private cells = new Int32Array(3 * 64);

  open(depth: number, isArray: boolean): void {
    const at = depth * 3;
    if (at + 3 > this.cells.length) {
      const grown = new Int32Array(this.cells.length * 2);
      grown.set(this.cells);
      this.cells = grown;
    }
    this.cells[at] = isArray ? 0 : -1;
    this.cells[at + 1] = this.cells[at + 2] = 0;
  }

  isArray(depth: number): boolean {
    return this.cells[depth * 3]! >= 0;
  }

  next(depth: number): void {
    this.cells[depth * 3]!++;
  }

  setKey(depth: number, from: number, to: number): void {
    this.cells[depth * 3 + 1] = from;
    this.cells[depth * 3 + 2] = to;
  }

  keyFrom(depth: number): number {
    return this.cells[depth * 3 + 1]!;
  }

  path(b: Uint8Array, depth: number): (string | number)[] {
    const parts: (string | number)[] = [];
    for (let d = 0; d <= depth; d++) {
      const index = this.cells[d * 3]!;
      parts.push(
        index >= 0 ? index : unescapeJson(b.subarray(this.cells[d * 3 + 1]!, this.cells[d * 3 + 2]!)).text,
      );
    }
    return parts;
  }
}

function trailing(b: Uint8Array, from: number, end: number): Problem[] {
  for (let i = from; i < end; i++) {
    const c = b[i]!;
    if (c !== 0x20 && c !== 0x0a && c !== 0x0d && c !== 0x09 && c !== 0) {
      return [
        { code: 'trailing-data', message: 'Something follows after the end of the JSON.', span: [i, end] },
      ];
    }
  }
  return [];
}

const simple: Record<string, string> = {
  '"': '"',
  '\\': '\\',
  '/': '/',
  b: '\b',
  f: '\f',
  n: '\n',
  r: '\r',
  t: '\t',
};

/** Undoes JSON string escapes (RFC 8259 §7). Bytes that are not UTF-8 are read one character per byte. */
export function unescapeJson(raw: Uint8Array): { text: string; encoding: 'utf-8' | 'latin-1' } {
  const { text, encoding } = decodeText(raw);
  if (!text.includes('\\')) return { text, encoding };
  return {
    encoding,
    text: text.replace(
      /\\(?:u([0-9a-fA-F]{4})|(.))/gs,
      (whole, code: string | undefined, char: string | undefined) =>
        code ? String.fromCharCode(parseInt(code, 16)) : (simple[char!] ?? whole),
    ),
  };
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
  let out = '';
  for (const p of parts)
    out += `/${typeof p === 'string' && /[~/]/.test(p) ? p.replaceAll('~', '~0').replaceAll('/', '~1') : p}`;
  return out;
}
