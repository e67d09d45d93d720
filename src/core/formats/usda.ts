// USD, text form (.usda, and .usd that begins #usda). References are asset paths, found by their marks and not by names:
//
//     asset inputs:file = @../textures/hull.<UDIM>.exr@        @@@a path with @ in it@@@
//                          ^ span ------------------^
//
// Comments and strings are passed over: documentation is full of @. One reference is a string: a value clip's templateAssetPath.
// Rules after OpenUSD's file format guide and text grammar, tried with OpenUSD 22: no escapes inside @…@; in @@@…@@@ only \@@@, and up
// to two further @ at the end belong to the path; a path in backquotes is an expression, told and left alone.

import type { Span } from '../problem';
import { decodeText, utf8, latin1 } from '../text/bytes';
import type { Format, Reading, ReferenceKind } from './format';
import { kindOfPath } from './kinds';
import { numbering } from './markup';

const at = 0x40,
  backslash = 0x5c,
  hash = 0x23,
  slash = 0x2f,
  star = 0x2a,
  newline = 0x0a,
  carriage = 0x0d;
const openings: Record<number, number> = { 0x7b: 0x7d, 0x28: 0x29, 0x5b: 0x5d };

const wordBytes = new Uint8Array(256);
for (let c = 0; c < 256; c++)
  if (
    (c >= 0x30 && c <= 0x39) ||
    (c >= 0x41 && c <= 0x5a) ||
    (c >= 0x61 && c <= 0x7a) ||
    c === 0x5f ||
    c === 0x3a ||
    c === 0x2e ||
    c >= 0x80
  )
    wordBytes[c] = 1;

const arcs = new Set(['references', 'payload', 'subLayers']);
const specifiers = new Set(['def', 'over', 'class']);
const variantSets = new Set(['variantSet']);
const templates = new Set(['templateAssetPath'.length, 'clipTemplateAssetPath'.length]);
const listOps = new Set(['prepend', 'append', 'add', 'delete', 'reorder']);

/** A name in the file, [from, to); made into text only where it is needed. */
type Word = readonly [from: number, to: number];

/** One open bracket: what closes it, what it adds to the place of a reference, whether variants stand in it. */
interface Level {
  close: number;
  name: string;
  variants: boolean;
  /** The statement it interrupts, which goes on behind parentheses. */
  words: Word[];
  assigned: Word | null;
  pending: string;
}

interface State {
  levels: Level[];
  /** Words of the statement under way, eight at most. */
  words: Word[];
  /** The word before the last '='. */
  assigned: Word | null;
  /** What the next brace belongs to: '/Prim' or '{variant}'. */
  pending: string;
}

/** Prims and variants as a path, then dictionaries and the property: '/Boat/Mat.inputs:file', '/Boat{detail=high}.prepend references'. */
function placeOf(s: State, text: (w: Word | null) => string): string {
  const names = s.levels.map((l) => l.name);
  const prims = names.filter((n) => n.startsWith('/') || n.startsWith('{')).join('');
  const assigned = text(s.assigned);
  const op = s.words.map(text).find((w) => listOps.has(w));
  const inner = [
    ...names.filter((n) => n !== '' && !/^[/{:]/.test(n)),
    op === undefined || op === assigned ? assigned : `${op} ${assigned}`,
  ].filter((n) => n !== '');
  return `${prims}${prims === '' ? '' : '.'}${inner.join(':')}`;
}

// Bytes of lists that hold nothing but numbers and names, which make up most of a large layer: all but quotes, marks, comments, brackets.
const plain = new Uint8Array(256).fill(1);
for (const c of [at, 0x22, 0x27, hash, slash, 0x5b, 0x5d, 0x7b, 0x7d]) plain[c] = 0;

/** The offset behind a list that opens at `open` and holds only numbers and names; -1 where something else stands in it. */
function endOfPlainList(b: Uint8Array, open: number): number {
  let i = open + 1;
  while (plain[b[i]!] === 1) i++;
  return b[i] === 0x5d ? i + 1 : -1;
}

/** Ends of a string that begins with a quote at `i`: its inside, and the offset after it; null when it does not end. */
function stringAt(b: Uint8Array, i: number): { inside: Span; end: number } | null {
  const quote = b[i]!;
  const triple = b[i + 1] === quote && b[i + 2] === quote;
  for (let j = i + (triple ? 3 : 1); j < b.length; j++) {
    if (b[j] === backslash) j++;
    else if (triple) {
      if (b[j] === quote && b[j + 1] === quote && b[j + 2] === quote)
        return { inside: [i + 3, j], end: j + 3 };
    } else if (b[j] === quote) return { inside: [i + 1, j], end: j + 1 };
    else if (b[j] === newline) return null;
  }
  return null;
}

/** An asset path that begins at `i` with @: its inside, whether by three, and the offset after it; null when it does not end. */
function assetAt(b: Uint8Array, i: number): { inside: Span; triple: boolean; end: number } | null {
  if (b[i + 1] === at && b[i + 2] === at) {
    for (let j = i + 3; j < b.length; j++) {
      if (b[j] === backslash && b[j + 1] === at && b[j + 2] === at && b[j + 3] === at) j += 3;
      else if (b[j] === at && b[j + 1] === at && b[j + 2] === at) {
        let end = j + 3;
        while (end < j + 5 && b[end] === at) end++;
        return { inside: [i + 3, end - 3], triple: true, end };
      } else if (b[j] === newline) return null;
    }
    return null;
  }
  const end = b.indexOf(at, i + 1);
  if (end < 0) return null;
  const line = b.indexOf(newline, i + 1);
  return line >= 0 && line < end ? null : { inside: [i + 1, end], triple: false, end: end + 1 };
}

/** Reads a layer once, from its first byte to its last. Each step returns the offset to go on at; null where the rest cannot be read. */
class Scanner {
  readonly reading: Reading = { references: [], problems: [] };
  private readonly place = numbering();
  private readonly s: State = { levels: [], words: [], assigned: null, pending: '' };

  constructor(private readonly b: Uint8Array) {}

  private problem(code: string, message: string, from: number, to = this.b.length): void {
    this.reading.problems.push({ code, message, span: [from, Math.min(to, this.b.length)] });
  }

  private text(w: Word | null): string {
    return w === null ? '' : decodeText(this.b.subarray(w[0], Math.min(w[1], w[0] + 300))).text;
  }

  /** Whether one of the statement's words is in a set of short ones. */
  private has(set: ReadonlySet<string>): boolean {
    return this.s.words.some((w) => w[1] - w[0] <= 10 && set.has(this.text(w)));
  }

  read(): Reading {
    const { b, s } = this;
    if (b.length === 0) this.problem('empty-file', 'The file is empty.', 0);
    else if (!usda.sniff(b))
      this.problem(
        'not-usda',
        'A USD text file begins with “#usda”; this one does not, and USD programs refuse it.',
        0,
        8,
      );
    let i: number | null = b[0] === 0xef && b[1] === 0xbb && b[2] === 0xbf ? 3 : 0;
    while (i !== null && i < b.length) i = wordBytes[b[i]!] === 1 ? this.word(i) : this.mark(i);
    if (s.levels.length > 0 && this.reading.problems.length === 0)
      this.problem(
        'truncated',
        'The file ends before its last bracket is closed.',
        Math.max(0, b.length - 1),
      );
    return this.reading;
  }

  private word(from: number): number {
    const { b, s } = this;
    let i = from;
    while (wordBytes[b[i]!] === 1) i++;
    const c = b[from]!;
    // Numbers make up most of a large layer; they are no names.
    if ((c >= 0x30 && c <= 0x39) || c === 0x2e) return i;
    if (s.words.length < 8) s.words.push([from, i]);
    else s.words[7] = [from, i];
    return i;
  }

  /** Anything but a word. */
  private mark(i: number): number | null {
    const { b, s } = this;
    const c = b[i]!;
    switch (c) {
      case 0x3d:
        s.assigned = s.words.at(-1) ?? null;
        return i + 1;
      case newline:
      case carriage:
      case 0x3b:
        // Inside brackets a statement may go on over lines.
        if (s.levels.at(-1)?.close !== 0x5d) this.endStatement();
        return i + 1;
      case hash:
        return this.endOfLine(i);
      case slash:
        return b[i + 1] === slash ? this.endOfLine(i) : b[i + 1] === star ? this.comment(i) : i + 1;
      case 0x22:
      case 0x27:
        return this.string(i);
      case at:
        return this.asset(i);
      case 0x7d:
      case 0x29:
      case 0x5d:
        return this.closing(i);
      default:
        return openings[c] === undefined ? i + 1 : this.opening(i, openings[c]);
    }
  }

  private endStatement(): void {
    if (this.s.words.length > 0) this.s.words = [];
    this.s.assigned = null;
  }

  private endOfLine(from: number): number {
    const { b } = this;
    let i = from;
    while (i < b.length && b[i] !== newline && b[i] !== carriage) i++;
    return i;
  }

  private comment(i: number): number | null {
    const { b } = this;
    let j = i + 2;
    while (j < b.length && !(b[j] === star && b[j + 1] === slash)) j++;
    if (j < b.length) return j + 2;
    this.problem('truncated', 'The file ends inside a comment.', i);
    return null;
  }

  /** A string is a file's path where it is a template's; else it may name a prim, a variant or a dictionary's key. */
  private string(i: number): number | null {
    const { b, s } = this;
    const string = stringAt(b, i);
    if (!string) {
      this.problem('truncated', 'A string is not closed.', i, i + 80);
      return null;
    }
    const isTemplate =
      s.assigned !== null &&
      templates.has(s.assigned[1] - s.assigned[0]) &&
      /^(templateAssetPath|clipTemplateAssetPath)$/.test(this.text(s.assigned));
    const mayName = s.assigned === null && string.inside[1] - string.inside[0] < 1000;
    if (!isTemplate && !mayName) return string.end;
    const { text, encoding } = decodeText(b.subarray(...string.inside));
    if (isTemplate) this.add(string.inside, 'string', text.replace(/\\(["'\\])/g, '$1'), encoding);
    else if (this.has(specifiers)) s.pending = `/${text}`;
    else if (s.levels.at(-1)?.variants) s.pending = `{${s.levels.at(-1)!.name.slice(1)}${text}}`;
    else if (s.words.length > 0) s.words.push(string.inside); // a variant set's name, or a dictionary's key in quotes
    return string.end;
  }

  private asset(i: number): number {
    const { b } = this;
    const asset = assetAt(b, i);
    if (!asset) {
      this.problem('truncated', 'An asset path is not closed on its line.', i, i + 80);
      const line = b.indexOf(newline, i);
      return line < 0 ? b.length : line;
    }
    const { text, encoding } = decodeText(b.subarray(...asset.inside));
    const written = asset.triple ? text.replaceAll('\\@@@', '@@@') : text;
    this.add(asset.inside, asset.triple ? '@@@' : '@', written, encoding);
    return asset.end;
  }

  private add(inside: Span, quoting: string, written: string, encoding: 'utf-8' | 'latin-1'): void {
    if (written === '') return;
    if (written.startsWith('`')) {
      const message = `${written} is an expression; what it names is known only when it is evaluated.`;
      this.problem('expression', message, ...inside);
      return;
    }
    if (encoding === 'latin-1')
      this.problem('not-utf-8', `${written} is not UTF-8, as USD demands.`, ...inside);
    const kind: ReferenceKind = arcs.has(this.text(this.s.assigned)) ? 'scene' : kindOfPath(written, 'other');
    const where = this.place(placeOf(this.s, (w) => this.text(w)));
    this.reading.references.push({ at: where, kind, written, span: inside, encoding, quoting });
  }

  /** A list goes on with its statement; metadata in parentheses come between a prim's name and its body, which still needs it. */
  private opening(i: number, close: number): number {
    const { b, s } = this;
    const isList = b[i] === 0x5b;
    const end = isList ? endOfPlainList(b, i) : -1;
    if (end > 0) return end;
    const isSet = b[i] === 0x7b && s.pending === '' && this.has(variantSets);
    s.levels.push({
      close,
      name: isList ? '' : isSet ? `:${this.text(s.words.at(-1)!)}=` : s.pending || this.text(s.assigned),
      variants: isSet,
      words: s.words,
      assigned: s.assigned,
      pending: s.pending,
    });
    if (!isList) {
      s.pending = '';
      this.endStatement();
    }
    return i + 1;
  }

  private closing(i: number): number | null {
    const { b, s } = this;
    const level = s.levels.pop();
    if (!level || level.close !== b[i]) {
      this.problem('bad-structure', 'A bracket closes what another kind of bracket opened.', i, i + 1);
      return null;
    }
    if (b[i] === 0x29) ({ words: s.words, assigned: s.assigned, pending: s.pending } = level);
    return i + 1;
  }
}

export const usda: Format = {
  id: 'usda',
  name: 'USD (text)',
  extensions: ['.usda', '.usd'],
  syntax: 'usd',
  searches: 'unanchored',
  sniff(head) {
    const bom = head[0] === 0xef && head[1] === 0xbb ? 3 : 0;
    return latin1(head.subarray(bom, bom + 5)) === '#usda';
  },
  read: (bytes) => new Scanner(bytes).read(),
  encode(value, reference) {
    if (/[\u0000-\u001f\u007f]/.test(value)) return null;
    if (reference.quoting === 'string') return utf8(value.replace(/["'\\]/g, '\\$&'));
    if (reference.quoting === '@@@') return utf8(value.replaceAll('@@@', '\\@@@'));
    // A path with @ in it needs three marks: the two further ones of each side are written with it.
    return value.includes('@') ? utf8(`@@${value.replaceAll('@@@', '\\@@@')}@@`) : utf8(value);
  },
};
