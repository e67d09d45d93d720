// Statements of line-based formats (OBJ, MTL), as Latin-1 so that offsets are file offsets. A backslash right before the line
// end continues the line; it and the line end become blanks here, so that nothing shifts.

import type { Problem, Span } from '../problem';
import {
  decodeText,
  decodeWide,
  encodeText,
  latin1,
  narrowUnits,
  toLatin1,
  type WideEncoding,
} from '../text/bytes';
import type { Reading, Reference, ReferenceKind } from './format';

/** One statement: the logical line, its offset in the file, keyword, and where the rest begins in the line. */
export interface Statement {
  line: string;
  offset: number;
  keyword: string;
  rest: number;
}

const mostLine = 256 * 1024;

const newline = 0x0a,
  backslash = 0x5c,
  carriage = 0x0d;

/**
 * Calls `each` for every statement whose first letter (lower case, as a char code) is in `firsts`. Lines that begin otherwise
 * are crossed without being copied, and so are those that `wanted`, given where the keyword begins, does not want. Ends of line: LF, CRLF, and CR alone.
 * Returns a problem for each line that would be read and is longer than any that names files.
 */
export function eachStatement(
  b: Uint8Array,
  firsts: ReadonlySet<number>,
  each: (s: Statement) => void,
  wanted: (b: Uint8Array, at: number) => boolean = () => true,
): Problem[] {
  const problems: Problem[] = [];
  const crOnly = b.indexOf(newline) < 0 && b.indexOf(carriage) >= 0;
  const eol = crOnly ? carriage : newline;
  let at = 0;
  while (at < b.length) {
    let i = at;
    while (b[i] === 0x20 || b[i] === 0x09) i++;
    let end = b.indexOf(eol, i);
    if (end < 0) end = b.length;
    const first = (b[i] ?? 0) | 0x20;
    const interesting = i < end && firsts.has(first) && wanted(b, i);
    let continued = false;
    while (end < b.length && isContinued(b, i, end)) {
      continued = true;
      const next = b.indexOf(eol, end + 1);
      end = next < 0 ? b.length : next;
    }
    if (interesting && end - at > mostLine) {
      problems.push({
        code: 'line-too-long',
        message: `A line of ${end - at} bytes is no statement that names a file; it is not read.`,
        span: [at, end],
      });
    } else if (interesting) {
      let line = latin1(b.subarray(at, end));
      if (continued) line = line.replace(/\\(\r?\n|\r)/g, (m) => ' '.repeat(m.length));
      const match = /^[ \t]*([^ \t\r]+)[ \t]*/.exec(line);
      if (match) each({ line, offset: at, keyword: match[1]!, rest: match[0].length });
    }
    at = end + 1;
  }
  return problems;
}

function isContinued(b: Uint8Array, from: number, eol: number): boolean {
  let last = eol - 1;
  if (b[last] === carriage) last--;
  return last >= from && b[last] === backslash;
}

/** A reference that stands at [from, to) of a statement's line; a pair of double quotes around it is left out. */
export function referenceIn(
  s: Statement,
  from: number,
  to: number,
  at: string,
  kind: ReferenceKind,
): Reference {
  if (to - from > 2 && s.line[from] === '"' && s.line[to - 1] === '"') {
    from++;
    to--;
  }
  const { text, encoding } = decodeText(toLatin1(s.line.slice(from, to))!);
  return { at, kind, written: text, span: [s.offset + from, s.offset + to], encoding };
}

/** A name as these formats write it: no escapes; null for what a line cannot hold. A leading '-' would read as an option. */
export function encodeName(value: string, at: Reference): Uint8Array | null {
  if (value === '' || /[\r\n\0]/.test(value) || value.trim() !== value || value.endsWith('\\')) return null;
  const name = value.startsWith('-') ? `./${value}` : value;
  return encodeText(name, at.encoding, () => null);
}

/** Where the line's content ends: trailing blanks and the carriage return left out. */
export function contentEnd(line: string): number {
  let end = line.length;
  while (end > 0 && (line[end - 1] === ' ' || line[end - 1] === '\t' || line[end - 1] === '\r')) end--;
  return end;
}

/**
 * Reads 16-bit text with a reader of 8-bit text: offsets and values are those of the file. In the names of places letters beyond
 * ASCII are lost.
 */
export function readWide(
  b: Uint8Array,
  encoding: WideEncoding,
  read: (narrow: Uint8Array) => Reading,
): Reading {
  const reading = read(narrowUnits(b.subarray(2), encoding, 0x3f));
  const wide = (span: Span): Span => [2 + 2 * span[0], 2 + 2 * span[1]];
  const widened = (r: Reference): Reference => {
    const span = wide(r.span!);
    const text = decodeWide(b.subarray(...span), encoding);
    // Shorter than what stands there: read with its escaped blanks undone.
    return {
      ...r,
      span,
      encoding,
      written: r.written.length === text.length ? text : text.replaceAll('\\ ', ' '),
    };
  };
  return {
    references: reading.references.map(widened),
    problems: reading.problems.map((p) => ({ ...p, ...(p.span ? { span: wide(p.span) } : {}) })),
    otherReadings: (reading.otherReadings ?? []).map((o) => ({ ...o, reference: widened(o.reference) })),
  };
}
