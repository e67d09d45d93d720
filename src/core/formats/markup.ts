// Tags, attributes and text of XML with their places in the file, for rewriting; not a document, and no judge of well-formedness:
// real scene files break its rules (bare `&&` in attributes occurs in published libraries) and are still read. Entities other than
// XML's own five and numbers are left as they stand and never expanded, so no entity can grow.
//
//     <image id="hull"><init_from>./hull%20base.png</init_from></image>
//            name ^--^ value      ^ text ---------^
//
// Files in UTF-16 are read unit by unit: offsets here count units, `spanOf` turns them into bytes. Source: XML 1.0 (W3C), §2.

import type { Problem, Span } from '../problem';
import {
  decodeText,
  decodeWide,
  encodeText,
  latin1,
  narrowUnits,
  wideEncoding,
  type TextEncoding,
} from '../text/bytes';
import type { Reference, ReferenceKind } from './format';

/** A file as units: one per byte, or one per 16-bit unit with everything beyond ASCII as 0x1a. */
export interface Markup {
  units: Uint8Array;
  bytes: Uint8Array;
  width: 1 | 2;
  /** What the byte order mark or the declaration says. */
  encoding: TextEncoding;
}

/** An attribute's value as units [from, to), quotes left out. */
export interface Attribute {
  name: string;
  from: number;
  to: number;
  quote: '"' | "'";
}

export interface MarkupHandler {
  /** A start tag; `close` follows for it, also where it closes itself. */
  open(name: string, attributes: readonly Attribute[], from: number): void;
  /** [from, to): the end tag, or the tag that closes itself. */
  close(name: string, from: number, to: number): void;
  text?(from: number, to: number, cdata: boolean): void;
  comment?(from: number, to: number): void;
}

const lt = 0x3c,
  gt = 0x3e,
  slash = 0x2f,
  equals = 0x3d,
  doubleQuote = 0x22,
  singleQuote = 0x27;

const isBlank = (c: number | undefined) => c === 0x20 || c === 0x0a || c === 0x0d || c === 0x09;

/** Looks at the byte order mark and the declaration. */
export function openMarkup(bytes: Uint8Array): Markup {
  const wide =
    wideEncoding(bytes) ??
    (bytes[0] === lt && bytes[1] === 0 ? 'utf-16le' : bytes[0] === 0 && bytes[1] === lt ? 'utf-16be' : null);
  if (wide) return { units: narrowUnits(bytes, wide, 0x1a), bytes, width: 2, encoding: wide };
  const declared = /^(?:\xef\xbb\xbf)?<\?xml[^>]*?encoding\s*=\s*["']([\w.:-]+)["']/
    .exec(latin1(bytes.subarray(0, 200)))?.[1]
    ?.toLowerCase();
  return {
    units: bytes,
    bytes,
    width: 1,
    encoding:
      declared !== undefined && /^(iso-8859|latin|windows-125|us-ascii|ascii)/.test(declared)
        ? 'latin-1'
        : 'utf-8',
  };
}

/** The bytes that units [from, to) stand for. */
export function spanOf(m: Markup, from: number, to: number): Span {
  return [from * m.width, to * m.width];
}

function indexOf(m: Markup, text: string, from: number): number {
  const first = text.charCodeAt(0);
  for (let i = m.units.indexOf(first, from); i >= 0; i = m.units.indexOf(first, i + 1)) {
    let n = 1;
    while (n < text.length && m.units[i + n] === text.charCodeAt(n)) n++;
    if (n === text.length) return i;
  }
  return -1;
}

function startsWith(m: Markup, text: string, at: number): boolean {
  for (let n = 0; n < text.length; n++) if (m.units[at + n] !== text.charCodeAt(n)) return false;
  return true;
}

/** Goes through a file. Returns problems: 'empty-file', 'not-xml', 'truncated', 'bad-xml' (a tag that closes nothing open). */
export function eachMarkup(m: Markup, handler: MarkupHandler): Problem[] {
  const u = m.units;
  const problem = (code: string, message: string, from: number, to = u.length): Problem => ({
    code,
    message,
    span: spanOf(m, from, to),
  });
  let i = startsWith(m, '\xef\xbb\xbf', 0) ? 3 : m.width === 2 && u[0] === 0x1a ? 1 : 0;
  while (isBlank(u[i])) i++;
  if (i >= u.length) return [problem('empty-file', 'The file is empty.', 0)];
  if (u[i] === 0x1f && u[i + 1] === 0x8b)
    return [problem('compressed', 'This file is gzip-compressed; unpack it before it is used here.', 0, 2)];
  if (u[i] !== lt) return [problem('not-xml', 'This is not XML: it does not begin with <.', i, i + 1)];
  const open: string[] = [];
  while (i < u.length) {
    const at = u.indexOf(lt, i);
    if (at !== i) handler.text?.(i, at < 0 ? u.length : at, false);
    if (at < 0) break;
    if (startsWith(m, '<!--', at)) {
      const end = indexOf(m, '-->', at + 4);
      if (end < 0) return [problem('truncated', 'The file ends inside a comment.', at)];
      handler.comment?.(at + 4, end);
      i = end + 3;
    } else if (startsWith(m, '<![CDATA[', at)) {
      const end = indexOf(m, ']]>', at + 9);
      if (end < 0) return [problem('truncated', 'The file ends inside a CDATA section.', at)];
      handler.text?.(at + 9, end, true);
      i = end + 3;
    } else if (startsWith(m, '<?', at)) {
      const end = indexOf(m, '?>', at + 2);
      if (end < 0) return [problem('truncated', 'The file ends inside an instruction.', at)];
      i = end + 2;
    } else if (startsWith(m, '<!', at)) {
      i = afterDoctype(m, at);
      if (i < 0) return [problem('truncated', 'The file ends inside its document type.', at)];
    } else if (u[at + 1] === slash) {
      const end = u.indexOf(gt, at);
      if (end < 0) return [problem('truncated', 'The file ends inside a tag.', at)];
      const [from, to] = trimmed(m, at + 2, end);
      const name = nameAt(u, from, to);
      if (open.length === 0 || open.at(-1) !== name)
        return [problem('bad-xml', `</${name.slice(0, 80)}> closes nothing that is open.`, at, end + 1)];
      open.pop();
      handler.close(name, at, end + 1);
      i = end + 1;
    } else {
      const tag = readTag(m, at);
      if (!tag) return [problem('truncated', 'The file ends inside a tag.', at)];
      handler.open(tag.name, tag.attributes, at);
      if (tag.closed) handler.close(tag.name, at, tag.end);
      else open.push(tag.name);
      i = tag.end;
    }
  }
  return open.length > 0
    ? [
        problem(
          'truncated',
          `The file ends before <${open.at(-1)!.slice(0, 80)}> is closed.`,
          Math.max(0, u.length - 1),
        ),
      ]
    : [];
}

// Tags have few names: each is made once, and found again by its bytes.
const names = new Map<number, string[]>();

function nameAt(u: Uint8Array, from: number, to: number): string {
  let hash = to - from;
  for (let i = from; i < to; i++) hash = (Math.imul(hash, 31) + u[i]!) | 0;
  const held = names.get(hash);
  if (held) for (const name of held) if (isNameAt(u, from, to, name)) return name;
  const name = latin1(u.subarray(from, to));
  // A hostile file may have millions of names: those are not kept.
  if (names.size < 4096 && name.length < 80) names.set(hash, [...(held ?? []), name]);
  return name;
}

function isNameAt(u: Uint8Array, from: number, to: number, name: string): boolean {
  if (name.length !== to - from) return false;
  for (let i = 0; i < name.length; i++) if (u[from + i] !== name.charCodeAt(i)) return false;
  return true;
}

function readTag(
  m: Markup,
  at: number,
): { name: string; attributes: Attribute[]; end: number; closed: boolean } | null {
  const u = m.units;
  let i = at + 1;
  while (i < u.length && !isBlank(u[i]) && u[i] !== gt && u[i] !== slash) i++;
  const name = nameAt(u, at + 1, i);
  const attributes: Attribute[] = [];
  for (;;) {
    while (isBlank(u[i])) i++;
    if (i >= u.length) return null;
    if (u[i] === gt) return { name, attributes, end: i + 1, closed: false };
    if (u[i] === slash) {
      if (u[i + 1] === gt) return { name, attributes, end: i + 2, closed: true };
      i++;
      continue;
    }
    const from = i;
    while (i < u.length && !isBlank(u[i]) && u[i] !== equals && u[i] !== gt && u[i] !== slash) i++;
    const key = nameAt(u, from, i);
    while (isBlank(u[i])) i++;
    if (u[i] !== equals) {
      if (i === from) i++; // a stray character
      continue;
    }
    i++;
    while (isBlank(u[i])) i++;
    const quote = u[i];
    if (quote !== doubleQuote && quote !== singleQuote) continue;
    const end = u.indexOf(quote, i + 1);
    if (end < 0) return null;
    attributes.push({ name: key, from: i + 1, to: end, quote: quote === doubleQuote ? '"' : "'" });
    i = end + 1;
  }
}

function afterDoctype(m: Markup, at: number): number {
  let depth = 0;
  for (let i = at + 2; i < m.units.length; i++) {
    const c = m.units[i]!;
    if (c === doubleQuote || c === singleQuote) {
      i = m.units.indexOf(c, i + 1);
      if (i < 0) return -1;
    } else if (c === 0x5b) depth++;
    else if (c === 0x5d) depth--;
    else if (c === gt && depth <= 0) return i + 1;
  }
  return -1;
}

/** A name without its namespace prefix. */
export function localName(name: string): string {
  const at = name.indexOf(':');
  return at < 0 ? name : name.slice(at + 1);
}

const entities: Record<string, string> = { amp: '&', lt: '<', gt: '>', quot: '"', apos: "'" };

/** Text of units [from, to) with XML's entities undone, but for CDATA; and how it is encoded. */
export function decodeMarkup(
  m: Markup,
  from: number,
  to: number,
  cdata = false,
): { text: string; encoding: TextEncoding } {
  const raw = m.bytes.subarray(from * m.width, to * m.width);
  let text: string;
  let encoding = m.encoding;
  if (m.encoding === 'utf-16le' || m.encoding === 'utf-16be') text = decodeWide(raw, m.encoding);
  else if (encoding === 'latin-1') text = latin1(raw);
  else ({ text, encoding } = decodeText(raw));
  return { text: cdata ? text : undoEntities(text), encoding };
}

export function undoEntities(text: string): string {
  if (!text.includes('&')) return text;
  return text.replace(
    /&(?:#x([0-9a-fA-F]{1,6})|#(\d{1,7})|(amp|lt|gt|quot|apos));/g,
    (whole, hex: string | undefined, dec: string | undefined, name: string | undefined) => {
      if (name !== undefined) return entities[name]!;
      const code = hex !== undefined ? parseInt(hex, 16) : parseInt(dec!, 10);
      return code > 0 && code <= 0x10ffff ? String.fromCodePoint(code) : whole;
    },
  );
}

/** Units [from, to) without white space around them. */
export function trimmed(m: Markup, from: number, to: number): [number, number] {
  while (from < to && isBlank(m.units[from])) from++;
  while (to > from && isBlank(m.units[to - 1])) to--;
  return [from, to];
}

/** A reference whose value is units [from, to). `quoting`: the attribute's quote, 'text' or 'cdata'. */
export function markupReference(
  m: Markup,
  from: number,
  to: number,
  quoting: string,
  at: string,
  kind: ReferenceKind,
): Reference {
  const { text, encoding } = decodeMarkup(m, from, to, quoting === 'cdata');
  return { at, kind, written: text, span: spanOf(m, from, to), encoding, quoting };
}

/** Bytes of a value where a reference of `markupReference` stands; null where it cannot be said there (CDATA, control characters). */
export function encodeMarkup(value: string, at: Reference): Uint8Array | null {
  // XML 1.0 §2.2: of the control characters only tab, line feed and carriage return are characters at all.
  if (/[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/.test(value)) return null;
  if (at.quoting === 'cdata')
    return value.includes(']]>') ? null : encodeText(value, at.encoding, () => null);
  const quote = at.quoting?.[0];
  const escaped = value.replace(/[&<>"'\t\n\r]/g, (c) => {
    if (c === '&') return '&amp;';
    if (c === '<') return '&lt;';
    if (c === '>') return quote === '"' || quote === "'" ? c : '&gt;';
    if (c === '"' || c === "'") return c === quote ? (c === '"' ? '&quot;' : '&apos;') : c;
    return `&#${c.charCodeAt(0)};`;
  });
  return encodeText(escaped, at.encoding, (c) => `&#x${c.codePointAt(0)!.toString(16).toUpperCase()};`);
}

/** Names for places that occur more than once: the second gets ' (2)'. */
export function numbering(): (place: string) => string {
  const seen = new Map<string, number>();
  return (place) => {
    const n = (seen.get(place) ?? 0) + 1;
    seen.set(place, n);
    return n === 1 ? place : `${place} (${n})`;
  };
}
