// What is in a USD text layer: prims with their properties, and what the layer says of itself. Not a composition: what stands in this file. Source:
// OpenUSD's file format guide and text grammar.

import { decodeText, latin1, toLatin1 } from '../text/bytes';
import { hashText, type Hasher } from './hasher';
import type { Thing, ThingKind } from './things';

const kindOf: [RegExp, ThingKind][] = [
  [
    /^(Mesh|Points|BasisCurves|NurbsCurves|NurbsPatch|TetMesh|Cube|Sphere|Cylinder|Cone|Capsule|Plane|GeomSubset)$/,
    'mesh',
  ],
  [/^(Material|Shader|NodeGraph)$/, 'material'],
  [/^Camera$/, 'camera'],
  [/Light$/, 'light'],
  [/^(SkelAnimation|BlendShape)$/, 'animation'],
];

const longest = 72;

/** The things of a layer. */
export function usdThings(bytes: Uint8Array, start: Hasher): Thing[] {
  return new Layer(latin1(bytes), start).read();
}

/** The text of a layer, gone through once. */
class Layer {
  private i = 0;
  private readonly things: Thing[] = [];

  constructor(
    private readonly text: string,
    private readonly start: Hasher,
  ) {}

  read(): Thing[] {
    const facts = new Map<string, string>();
    this.things.push({ kind: 'scene', key: 'layer', name: 'layer', facts });
    this.skip();
    if (this.text[this.i] === '(') this.statements(facts, ')', '');
    this.prims('', facts, null);
    return this.things;
  }

  /** Passes over blanks and comments. */
  private skip(): void {
    const { text } = this;
    for (;;) {
      while (/[\s;,]/.test(text[this.i] ?? 'x')) this.i++;
      if (text[this.i] === '#') this.i = ends(text.indexOf('\n', this.i), text);
      else if (text.startsWith('/*', this.i)) this.i = ends(text.indexOf('*/', this.i), text) + 2;
      else return;
    }
  }

  /** Statements of a body up to `close`; null: up to the end of the file. */
  private prims(path: string, facts: Map<string, string>, close: string | null): void {
    const { text } = this;
    if (close !== null) this.i++;
    for (;;) {
      this.skip();
      const c = text[this.i];
      if (c === undefined) return;
      if (c === close) {
        this.i++;
        return;
      }
      const word = this.word();
      if (word === 'def' || word === 'over' || word === 'class') this.prim(path, word);
      else if (word === 'variantSet') this.variants(path);
      else if (word === '') this.i++;
      else this.property(word, facts, '');
    }
  }

  private word(): string {
    const m = /[\w:.\u0080-\uffff]+/y;
    m.lastIndex = this.i;
    const found = m.exec(this.text)?.[0] ?? '';
    this.i += found.length;
    return found;
  }

  private prim(path: string, specifier: string): void {
    this.skip();
    const type = this.text[this.i] === '"' ? '' : this.word();
    this.skip();
    const name = this.quoted();
    const here = `${path}/${name}`;
    const facts = new Map<string, string>();
    if (type) facts.set('type', type);
    if (specifier !== 'def') facts.set('as', specifier);
    const kind = kindOf.find(([is]) => is.test(type))?.[1] ?? 'node';
    this.things.push({ kind, key: here, name: here, facts });
    this.skip();
    if (this.text[this.i] === '(') this.statements(facts, ')', '');
    this.skip();
    if (this.text[this.i] === '{') this.prims(here, facts, '}');
  }

  private variants(path: string): void {
    this.skip();
    const set = this.quoted();
    this.skip();
    if (this.text[this.i] === '=') this.i++;
    this.skip();
    if (this.text[this.i] !== '{') return;
    this.i++;
    for (;;) {
      this.skip();
      if (this.text[this.i] !== '"') {
        if (this.text[this.i] === '}') this.i++;
        return;
      }
      const here = `${path}{${set}=${this.quoted()}}`;
      const facts = new Map<string, string>([['type', 'variant']]);
      this.things.push({ kind: 'node', key: here, name: here, facts });
      this.skip();
      if (this.text[this.i] === '(') this.statements(facts, ')', '');
      this.skip();
      if (this.text[this.i] === '{') this.prims(here, facts, '}');
    }
  }

  private quoted(): string {
    const from = this.i;
    this.i = this.afterString(from);
    return this.i > from ? decodeText(toLatin1(this.text.slice(from + 1, this.i - 1))!).text : '';
  }

  /** Statements in parentheses: what is said of the thing itself. */
  private statements(facts: Map<string, string>, close: string, head: string): void {
    this.i++;
    for (;;) {
      this.skip();
      const c = this.text[this.i];
      if (c === undefined) return;
      if (c === close) {
        this.i++;
        return;
      }
      if (c === '"' || c === "'") {
        const from = this.i;
        this.i = this.afterString(from);
        facts.set('comment', this.short(from, this.i));
        continue;
      }
      const word = this.word();
      if (word === '') this.i++;
      else this.property(word, facts, head);
    }
  }

  /** A statement from its first word on: `uniform token upAxis = "Y"`. What is said of a property in parentheses counts to it. */
  private property(first: string, facts: Map<string, string>, head: string): void {
    const { text } = this;
    const words = [first];
    for (;;) {
      while (text[this.i] === ' ' || text[this.i] === '\t') this.i++;
      if (text.startsWith('[]', this.i)) this.i += 2;
      const word = this.word();
      if (word === '') break;
      words.push(word);
    }
    const said = ['prepend', 'append', 'add', 'delete', 'reorder'].includes(words[0]!) ? `${words[0]} ` : '';
    const name = `${head}${said}${words.at(-1)!}`;
    if (text[this.i] !== '=') {
      if (words.length > 1) facts.set(name, '');
      if (text[this.i] === '(') this.statements(facts, ')', `${name} `);
      return;
    }
    this.i++;
    this.skip();
    const from = this.i;
    this.i = this.afterValue(from);
    facts.set(name, this.short(from, this.i));
    while (text[this.i] === ' ') this.i++;
    if (text[this.i] === '(') this.statements(facts, ')', `${name} `);
  }

  private short(from: number, to: number): string {
    const raw = this.text.slice(from, to);
    const one = raw.replace(/\s+/g, ' ').trim();
    if (one.length <= longest) return decodeText(toLatin1(one)!).text;
    const values = raw.startsWith('[') ? `${(raw.match(/[(,]/g)?.length ?? 0) + 1} values, ` : '';
    return `${values}${hashText(this.start, raw.replace(/\s+/g, ' '))}`;
  }

  private afterValue(from: number): number {
    const { text } = this;
    const c = text[from];
    if (c === '"' || c === "'") return this.afterString(from);
    if (c === '@') return this.afterAsset(from);
    if (c === '[' || c === '{' || c === '(') return this.afterBracket(from);
    if (c === '<') return ends(text.indexOf('>', from), text) + 1;
    let i = from;
    while (i < text.length && !/[\s,;)}\]]/.test(text[i]!)) i++;
    // An asset path may be followed by a prim path.
    return Math.max(i, from + 1);
  }

  private afterString(from: number): number {
    const { text } = this;
    const q = text[from];
    if (q !== '"' && q !== "'") return from;
    const mark = text.startsWith(q.repeat(3), from) ? q.repeat(3) : q;
    for (let i = from + mark.length; i < text.length; i++) {
      if (text[i] === '\\') i++;
      else if (text.startsWith(mark, i)) return i + mark.length;
    }
    return text.length;
  }

  private afterAsset(from: number): number {
    const { text } = this;
    const mark = text.startsWith('@@@', from) ? '@@@' : '@';
    let end = ends(text.indexOf(mark, from + mark.length), text) + mark.length;
    while (text[end] === '@') end++;
    if (text[end] === '<') end = ends(text.indexOf('>', end), text) + 1;
    return end;
  }

  /** Behind what a bracket opens; the fast way over numbers, of which most of a large layer is made. */
  private afterBracket(from: number): number {
    const { text } = this;
    let depth = 0;
    const marks = /["'@#[\](){}]/g;
    marks.lastIndex = from;
    for (let m = marks.exec(text); m; m = marks.exec(text)) {
      const c = m[0];
      if (c === '"' || c === "'") marks.lastIndex = this.afterString(m.index);
      else if (c === '@') marks.lastIndex = this.afterAsset(m.index);
      else if (c === '#') marks.lastIndex = ends(text.indexOf('\n', m.index), text);
      else if ('[({'.includes(c)) depth++;
      else if (--depth === 0) return m.index + 1;
    }
    return text.length;
  }
}

const ends = (at: number, text: string) => (at < 0 ? text.length : at);
