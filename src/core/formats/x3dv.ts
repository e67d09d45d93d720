// X3D classic (.x3dv) and VRML97 (.wrl): nodes in braces, fields by name, lists in brackets, `#` comments to the end of the line.
//
//     ImageTexture { url [ "hull.png", "https://example.org/hull.png" ] }
//                           ^ span ^
//
// Source: VRML97 (ISO/IEC 14772-1) §5 and annex A grammar; X3D classic encoding (ISO/IEC 19776-2). VRML 1.0 (Texture2 filename) too.

import { decodeText, toLatin1, utf8, latin1 } from '../text/bytes';
import type { Format, Reading, Reference, ReferenceKind } from './format';
import { numbering } from './markup';
import { addChoices, isInline, listed, Protos, type Named } from './x3dNodes';

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

/** A PROTO statement: `interface` while its fields are read, each `access type name value`; then its body. */
interface Declared {
  name: string | null;
  at: 'name' | 'interface' | 'body';
  /** Nodes that are open around it. */
  nodes: number;
  brackets: number;
  words: string[];
}
const accesses = new Set(
  'field eventIn eventOut exposedField initializeOnly inputOnly outputOnly inputOutput'.split(' '),
);

/** Reads a file once. Each step returns the offset to go on at; null where the rest cannot be read. */
class Scanner {
  private readonly reading: Reading = { references: [], problems: [] };
  private readonly place = numbering();
  private readonly nodes: { name: string; brackets: number }[] = [];
  /** The last word, and what DEF named. */
  private word = '';
  private label = '';
  private field: { named: Named; name: string; of?: string } | null = null;
  private list: Reference[] | null = null;
  private readonly protos = new Protos();
  /** The PROTO statements that are open, the innermost last. */
  private readonly declared: Declared[] = [];
  /** Values of fields of prototypes: what they name is told in the body behind them. */
  private readonly waiting: { proto: string; field: string; list: Reference[] }[] = [];
  private lists = 0;
  /** EXTERNPROTO: 1 its name follows, 2 its interface, 3 its url. */
  private proto = 0;
  private brackets = 0;
  /** The field before an IS. */
  private connecting: string | null = null;

  constructor(private readonly b: Uint8Array) {}

  private problem(code: string, message: string, from: number): void {
    this.reading.problems.push({ code, message, span: [from, this.b.length] });
  }

  read(): Reading {
    const { b, nodes, reading } = this;
    for (let i: number | null = 0; i !== null && i < b.length;) i = this.next(i);
    this.finish();
    this.settle();
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
        this.nodes.push({ name: this.isBody() ? 'PROTO' : this.word, brackets: this.brackets });
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

  /** Whether the brace that opens here is the body of a prototype. */
  private isBody(): boolean {
    const proto = this.declared.at(-1);
    return proto?.at === 'body' && proto.nodes === this.nodes.length;
  }

  /** The prototype whose interface is being read, where no node of one of its values is open. */
  private interface(): Declared | undefined {
    const proto = this.declared.at(-1);
    return proto?.at === 'interface' && proto.nodes === this.nodes.length ? proto : undefined;
  }

  /** What fields of prototypes name, now that their bodies have told. */
  private settle(): void {
    for (const { proto, field, list } of this.waiting) {
      const named = this.protos.named(proto, field);
      if (named)
        addChoices(
          this.reading,
          list.map((r) => ({ ...r, ...listed(named, r.written) })),
          this.lists++,
        );
    }
    if (this.waiting.length > 0)
      this.reading.references.sort((a, b) => (a.span?.[0] ?? 0) - (b.span?.[0] ?? 0));
  }

  /** The value of a field is over. */
  private finish(): void {
    if (this.list && this.field?.of !== undefined)
      this.waiting.push({ proto: this.field.of, field: this.field.name, list: this.list });
    else if (this.list) addChoices(this.reading, this.list, this.lists++);
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
    const node = this.proto === 3 ? 'EXTERNPROTO' : (field.of ?? this.nodes.at(-1)?.name ?? '');
    if (!isInline(written))
      (this.list ??= []).push({
        at: this.place([node, this.label, field.name].filter(Boolean).join(' ')),
        ...listed(field.named, written),
        written,
        span: [i + 1, end],
        encoding,
      });
    if (this.brackets === (field.of === undefined ? 0 : 1)) this.finish();
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
    const proto = this.declared.at(-1);
    if (node.name === 'PROTO' && proto?.at === 'body' && proto.nodes === this.nodes.length)
      this.declared.pop();
    return i + 1;
  }

  private endList(): void {
    this.brackets = Math.max(0, this.brackets - 1);
    const proto = this.interface();
    if (proto) {
      if (this.brackets === proto.brackets) proto.at = 'body';
      this.finish();
      return;
    }
    if (this.brackets > 0) return;
    if (this.proto === 2) {
      this.proto = 3;
      this.field = { named: { kind: 'scene', isGuess: false }, name: 'url' };
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
    const proto = this.declared.at(-1);
    if (proto?.at === 'name') {
      proto.name = word;
      proto.at = 'interface';
      this.protos.declare(word);
      return i;
    }
    if (this.interface()) return this.inInterface(proto!, word, i);
    if (this.brackets === 0 && this.proto !== 1) this.finish();
    if (previous === 'DEF') this.label = word;
    if (word === 'PROTO')
      this.declared.push({
        name: null,
        at: 'name',
        nodes: nodes.length,
        brackets: this.brackets,
        words: [],
      });
    else if (word === 'EXTERNPROTO') this.proto = 1;
    else if (this.proto === 1) {
      this.proto = 2;
      this.protos.declareExtern(word);
    } else if (this.connecting !== null && previous === 'IS') {
      const body = this.declared.findLast((p) => p.at === 'body')?.name;
      if (body != null) this.protos.connect(body, word, nodes.at(-1)?.name ?? '', this.connecting);
      this.connecting = null;
    } else if (word === 'IS') this.connecting = previous;
    else if (this.brackets === 0 && nodes.length > 0) {
      const node = nodes.at(-1)!.name;
      const vrml1 = kindInVrml1(node, word);
      const named = vrml1 ? { kind: vrml1, isGuess: false } : this.protos.named(node, word);
      if (named) this.field = { named, name: word };
    }
    return i;
  }

  /** A word in the interface of a prototype. */
  private inInterface(proto: Declared, word: string, end: number): number {
    if (accesses.has(word)) {
      this.finish();
      proto.words = [word];
    } else if (proto.words.length === 1) proto.words.push(word);
    else if (proto.words.length === 2) {
      proto.words.push(word);
      if (/^[SM]FString$/.test(proto.words[1]!))
        this.field = { named: { kind: null, isGuess: false }, name: word, of: proto.name! };
    }
    return end;
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
