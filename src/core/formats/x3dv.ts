// X3D classic (.x3dv) and VRML97 (.wrl): nodes in braces, fields by name, lists in brackets, `#` comments to the end of the line.
//
//     ImageTexture { url [ "hull.png", "https://example.org/hull.png" ] }
//                           ^ span ^
//
// Source: VRML97 (ISO/IEC 14772-1) §5 and annex A grammar; X3D classic encoding (ISO/IEC 19776-2). VRML 1.0 (Texture2 filename) too.

import { decodeText, toLatin1, utf8, latin1 } from '../text/bytes';
import type { Format, Reading, Reference, ReferenceKind } from './format';
import { numbering } from './markup';
import { addChoices, isInline, kindOfField } from './x3dNodes';

const hash = 0x23,
  quote = 0x22,
  backslash = 0x5c,
  openBrace = 0x7b,
  closeBrace = 0x7d,
  openBracket = 0x5b,
  closeBracket = 0x5d;
const isWord = (c: number) =>
  c > 0x20 &&
  c !== hash &&
  c !== quote &&
  c !== openBrace &&
  c !== closeBrace &&
  c !== openBracket &&
  c !== closeBracket &&
  c !== 0x2c &&
  c !== 0x27;

/** Fields of VRML 1.0 that name a file. */
function kindInVrml1(node: string, field: string): ReferenceKind | null {
  if (node === 'Texture2' && field === 'filename') return 'texture';
  return node === 'WWWInline' && field === 'name' ? 'scene' : null;
}

/** Reads a file once. Each step returns the offset to go on at; null where the rest cannot be read. */
class Scanner {
  private readonly reading: Reading = { references: [], problems: [] };
  private readonly place = numbering();
  private readonly nodes: { name: string; brackets: number }[] = [];
  /** The last word, and what DEF named. */
  private word = '';
  private label = '';
  private field: { kind: ReferenceKind; name: string } | null = null;
  private list: Reference[] | null = null;
  private lists = 0;
  /** EXTERNPROTO: 1 its name follows, 2 its interface, 3 its url. */
  private proto = 0;
  private brackets = 0;

  constructor(private readonly b: Uint8Array) {}

  private problem(code: string, message: string, from: number): void {
    this.reading.problems.push({ code, message, span: [from, this.b.length] });
  }

  read(): Reading {
    const { b, nodes, reading } = this;
    for (let i: number | null = 0; i !== null && i < b.length;) i = this.next(i);
    this.finish();
    if (nodes.length > 0 && reading.problems.length === 0)
      this.problem(
        'truncated',
        `The file ends before ${nodes.at(-1)!.name} { is closed.`,
        Math.max(0, b.length - 1),
      );
    return reading;
  }

  private next(i: number): number | null {
    switch (this.b[i]) {
      case hash:
        return this.comment(i);
      case quote:
        return this.string(i);
      case openBrace:
        this.finish();
        this.nodes.push({ name: this.word, brackets: this.brackets });
        this.brackets = 0;
        return i + 1;
      case closeBrace:
        return this.endNode(i);
      case openBracket:
        this.brackets++;
        return i + 1;
      case closeBracket:
        this.endList();
        return i + 1;
      default:
        return isWord(this.b[i]!) ? this.wordAt(i) : i + 1;
    }
  }

  /** The value of a field is over. */
  private finish(): void {
    if (this.list) addChoices(this.reading, this.list, this.lists++);
    this.list = null;
    this.field = null;
    if (this.proto === 3) this.proto = 0;
  }

  private comment(from: number): number {
    const { b } = this;
    let i = from;
    while (i < b.length && b[i] !== 0x0a && b[i] !== 0x0d) i++;
    return i;
  }

  private string(i: number): number | null {
    const { b, field } = this;
    let end = i + 1;
    while (end < b.length && b[end] !== quote) end += b[end] === backslash ? 2 : 1;
    if (end >= b.length) {
      this.problem('truncated', 'The file ends inside a string.', i);
      return null;
    }
    if (!field) return end + 1;
    const { text, encoding } = decodeText(b.subarray(i + 1, end));
    const written = text.replace(/\\(["\\])/g, '$1');
    const node = this.proto === 3 ? 'EXTERNPROTO' : (this.nodes.at(-1)?.name ?? '');
    if (!isInline(written))
      (this.list ??= []).push({
        at: this.place([node, this.label, field.name].filter(Boolean).join(' ')),
        kind: field.kind,
        written,
        span: [i + 1, end],
        encoding,
      });
    if (this.brackets === 0) this.finish();
    return end + 1;
  }

  private endNode(i: number): number | null {
    this.finish();
    const node = this.nodes.pop();
    if (node === undefined) {
      this.problem('bad-structure', 'A brace closes what was not opened.', i);
      return null;
    }
    this.brackets = node.brackets;
    this.label = '';
    return i + 1;
  }

  private endList(): void {
    this.brackets = Math.max(0, this.brackets - 1);
    if (this.brackets > 0) return;
    if (this.proto === 2) {
      this.proto = 3;
      this.field = { kind: 'scene', name: 'url' };
    } else if (this.field) this.finish();
  }

  private wordAt(from: number): number {
    const { b, nodes } = this;
    let i = from;
    while (i < b.length && isWord(b[i]!)) i++;
    const c = b[from]!;
    // Numbers make up most of such a file; they are no words.
    if ((c >= 0x30 && c <= 0x39) || c === 0x2d || c === 0x2b || c === 0x2e) return i;
    const previous = this.word;
    const word = String.fromCharCode(...b.subarray(from, Math.min(i, from + 200)));
    this.word = word;
    if (this.brackets === 0 && this.proto !== 1) this.finish();
    if (previous === 'DEF') this.label = word;
    if (word === 'EXTERNPROTO') this.proto = 1;
    else if (this.proto === 1) this.proto = 2;
    else if (this.brackets === 0 && nodes.length > 0) {
      const kind = kindOfField(nodes.at(-1)!.name, word) ?? kindInVrml1(nodes.at(-1)!.name, word);
      if (kind) this.field = { kind, name: word };
    }
    return i;
  }
}

export const x3dv: Format = {
  id: 'x3dv',
  name: 'X3D classic and VRML',
  extensions: ['.x3dv', '.wrl', '.wrz', '.x3dvz'],
  mayBeGzip: true,
  syntax: 'uri',
  sniff(head) {
    return /^(ï»¿)?#(X3D|VRML) V\d/.test(latin1(head.subarray(0, 64)));
  },
  read: (bytes) => new Scanner(bytes).read(),
  encode(value, at) {
    if (/[\r\n\0]/.test(value)) return null;
    const text = value.replace(/["\\]/g, '\\$&');
    return at.encoding === 'latin-1' ? toLatin1(text) : utf8(text);
  },
};
