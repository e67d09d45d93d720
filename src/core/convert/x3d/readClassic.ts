// Reads X3D in its classic encoding. Source: ISO/IEC 19776-2 (X3D classic VRML encoding), annex A grammar.

import { decodeText } from '../../text/bytes';
import {
  NotConvertible,
  Scope,
  valueOf,
  type Comment3d,
  type Declared,
  type Item,
  type Node3d,
  type Part,
  type SceneOf3d,
  type Value,
} from './model';
import { isFieldType, nodeType, scripts, wordsOf, type FieldType } from '../../formats/x3dTypes';

type Token =
  | { is: 'word' | 'string' | 'comment'; text: string; from: number; to: number }
  | { is: '{' | '}' | '[' | ']' | 'end'; text: string; from: number; to: number };

/** The scene. Throws NotConvertible. */
export function readClassic(bytes: Uint8Array): SceneOf3d {
  return new Reader(decodeText(bytes).text.replace(/^\ufeff/, ''), false).scene();
}

/**
 * The scene, to be looked at: VRML97 as well, and with nodes and fields that are not known here, whose values are told by how they look. Throws
 * NotConvertible where it cannot be followed.
 */
export function readClassicToSee(bytes: Uint8Array): SceneOf3d {
  return new Reader(decodeText(bytes).text.replace(/^\ufeff/, ''), true).scene();
}

const accesses = new Set(['initializeOnly', 'inputOnly', 'outputOnly', 'inputOutput']);
// The same in VRML97 (ISO/IEC 14772-1, 4.7).
const accessesOfVrml: Record<string, string> = {
  field: 'initializeOnly',
  eventIn: 'inputOnly',
  eventOut: 'outputOnly',
  exposedField: 'inputOutput',
};
const isNumber = (word: string) => /^[-+.\d]/.test(word);

class Reader {
  private at = 0;
  private ahead: Token | null = null;
  /** Comments that stand before the next token. */
  private comments: string[] = [];

  constructor(
    private readonly text: string,
    private readonly isTolerant: boolean,
  ) {}

  private wrong(message: string): NotConvertible {
    const line = this.text.slice(0, this.at).split(/\r\n|\r|\n/).length;
    return new NotConvertible(`${message} (line ${line})`);
  }

  /** The next token; comments before it are kept aside. */
  private peek(): Token {
    while (!this.ahead) {
      const token = this.lex();
      if (token.is === 'comment') this.comments.push(token.text);
      else this.ahead = token;
    }
    return this.ahead;
  }

  private next(): Token {
    const token = this.peek();
    this.ahead = null;
    return token;
  }

  private lex(): Token {
    const { text } = this;
    while (this.at < text.length && /[\s,]/.test(text[this.at]!)) this.at++;
    const from = this.at;
    if (from >= text.length) return { is: 'end', text: '', from, to: from };
    const c = text[from]!;
    if (c === '#') {
      const end = text.slice(from).search(/[\r\n]/);
      this.at = end < 0 ? text.length : from + end;
      return { is: 'comment', text: text.slice(from + 1, this.at), from, to: this.at };
    }
    if (c === '{' || c === '}' || c === '[' || c === ']') {
      this.at++;
      return { is: c, text: c, from, to: this.at };
    }
    if (c === '"') {
      let i = from + 1;
      while (i < text.length && text[i] !== '"') i += text[i] === '\\' ? 2 : 1;
      if (i >= text.length) throw this.wrong('The file ends inside a string.');
      this.at = i + 1;
      return { is: 'string', text: text.slice(from + 1, i).replace(/\\(["\\])/g, '$1'), from, to: this.at };
    }
    let i = from;
    while (i < text.length && !/[\s,#"{}[\]]/.test(text[i]!)) i++;
    this.at = i;
    return { is: 'word', text: text.slice(from, i), from, to: i };
  }

  private word(what: string): string {
    const token = this.next();
    if (token.is !== 'word') throw this.wrong(`Here ${what} should stand`);
    return token.text;
  }

  private expect(is: Token['is']): void {
    if (this.next().is !== is) throw this.wrong(`Here ${is} should stand`);
  }

  private taken(): Comment3d[] {
    const all = this.comments.map((text) => ({ is: 'comment' as const, text }));
    this.comments = [];
    return all;
  }

  scene(): SceneOf3d {
    const head =
      /^#X3D V([\d.]+) utf8[^\r\n]*/.exec(this.text) ??
      (this.isTolerant ? /^#VRML V(2\.0) utf8[^\r\n]*/.exec(this.text) : null);
    if (!head) throw new NotConvertible('It does not begin as X3D in its classic form does: #X3D V… utf8.');
    this.at = head[0].length;
    const scene: SceneOf3d = {
      version: head[1]!,
      profile: 'Full',
      components: [],
      units: [],
      metas: [],
      body: [],
    };
    const scope = new Scope();
    for (;;) {
      const token = this.peek();
      const comments = this.taken();
      if (token.is === 'word' && token.text === 'PROFILE') {
        this.next();
        scene.profile = this.word('a profile');
      } else if (token.is === 'word' && token.text === 'COMPONENT') {
        this.next();
        // Blanks may stand around the colon.
        let said = this.word('a component');
        while (!/:\d+$/.test(said)) said += this.word('a level');
        const [name, level] = said.split(':');
        scene.components.push({ name: name!, level: level! });
      } else if (token.is === 'word' && token.text === 'UNIT') {
        this.next();
        scene.units.push({
          category: this.word('a category'),
          name: this.word('a name'),
          factor: this.word('a factor'),
        });
      } else if (token.is === 'word' && token.text === 'META') {
        this.next();
        const [name, content] = [this.next(), this.next()];
        scene.metas.push({ name: name.text, content: content.text });
      } else {
        scene.body.push(...comments);
        if (token.is === 'end') return scene;
        scene.body.push(this.statement(scope) ?? this.node(scope));
        continue;
      }
      scene.body.push(...comments);
    }
  }

  /** Anything but a node; null where a node stands. */
  private statement(scope: Scope): Exclude<Item, Node3d> | null {
    const token = this.peek();
    if (token.is !== 'word') return null;
    switch (token.text) {
      case 'ROUTE': {
        this.next();
        const [from, fromField] = this.pair();
        if (this.word('TO') !== 'TO') throw this.wrong('A ROUTE has no TO');
        const [to, toField] = this.pair();
        return { is: 'route', from, fromField, to, toField };
      }
      case 'IMPORT': {
        this.next();
        const [inline, name] = this.pair();
        return { is: 'import', inline, name, as: this.as(name) };
      }
      case 'EXPORT': {
        this.next();
        const name = this.word('a name');
        return { is: 'export', name, as: this.as(name) };
      }
      case 'PROTO': {
        this.next();
        const name = this.word('a name');
        const inner = new Scope(scope);
        const fields = this.interface(inner, true);
        this.expect('{');
        const body: Item[] = [];
        for (;;) {
          const end = this.peek().is;
          body.push(...this.taken());
          if (end === '}') break;
          body.push(this.statement(inner) ?? this.node(inner));
        }
        this.next();
        scope.declare(name, fields);
        return { is: 'proto', name, interface: fields, body };
      }
      case 'EXTERNPROTO': {
        this.next();
        const name = this.word('a name');
        const fields = this.interface(scope, false);
        scope.declare(name, fields);
        return { is: 'extern', name, interface: fields, url: this.strings() };
      }
      default:
        return null;
    }
  }

  private pair(): [string, string] {
    const said = this.word('a field of a node');
    const dot = said.indexOf('.');
    if (dot < 1) throw this.wrong(`${said} is no field of a node`);
    return [said.slice(0, dot), said.slice(dot + 1)];
  }

  private as(name: string): string {
    if (this.peek().text !== 'AS' || this.peek().is !== 'word') return name;
    this.next();
    return this.word('a name');
  }

  private interface(scope: Scope, values: boolean): (Declared | Comment3d)[] {
    this.expect('[');
    const fields: (Declared | Comment3d)[] = [];
    for (;;) {
      const token = this.peek();
      fields.push(...this.taken());
      if (token.is === ']') break;
      fields.push(this.declared(scope, values));
    }
    this.next();
    return fields;
  }

  private declared(scope: Scope, values: boolean): Declared {
    const said = this.word('an access');
    const access = (this.isTolerant ? accessesOfVrml[said] : undefined) ?? said;
    const type = this.word('a type');
    const name = this.word('a name');
    if (!accesses.has(access) || !isFieldType(type)) throw this.wrong(`${access} ${type} is not known`);
    const field: Declared = { is: 'declared', access, type, name, value: null, connect: null };
    if (this.isWord('IS')) {
      this.next();
      field.connect = this.word('a field');
    } else if (values && (access === 'initializeOnly' || access === 'inputOutput'))
      field.value = this.value(type, scope);
    return field;
  }

  private isWord(text: string): boolean {
    const token = this.peek();
    return token.is === 'word' && token.text === text;
  }

  private node(scope: Scope): Node3d {
    let type = this.word('a node');
    if (type === 'USE') {
      const use = this.word('a name');
      const named = scope.named.get(use);
      if (!named && this.isTolerant)
        return { is: 'node', type: '', ofProto: false, def: null, use, parts: [] };
      if (!named) throw this.wrong(`USE ${use} stands before what is named so`);
      return { is: 'node', type: named.type, ofProto: named.ofProto, def: null, use, parts: [] };
    }
    let def: string | null = null;
    if (type === 'DEF') {
      def = this.word('a name');
      type = this.word('a node');
    }
    // What the scene declares goes before what the standard has.
    const proto = scope.protoOf(type);
    const fields = proto ?? nodeType(type)?.fields ?? (this.isTolerant ? new Map<string, FieldType>() : null);
    if (!fields) throw this.wrong(`${type} is no node of X3D that is known here`);
    const node: Node3d = { is: 'node', type, ofProto: proto !== undefined, def, use: null, parts: [] };
    if (def !== null) scope.named.set(def, { type, ofProto: node.ofProto });
    this.expect('{');
    for (;;) {
      const token = this.peek();
      node.parts.push(...this.taken());
      if (token.is === '}') break;
      if (token.is === 'end') throw this.wrong(`The file ends before ${type} { is closed`);
      node.parts.push(this.part(node, fields, scope));
    }
    this.next();
    return node;
  }

  private part(node: Node3d, fields: ReadonlyMap<string, FieldType>, scope: Scope): Part {
    const statement = this.statement(scope);
    if (statement) return statement;
    const isAccess =
      accesses.has(this.peek().text) || (this.isTolerant && this.peek().text in accessesOfVrml);
    if (isAccess && (this.isTolerant || scripts.has(node.type))) return this.declared(scope, true);
    const name = this.word('a field');
    if (this.isWord('IS')) {
      this.next();
      return { is: 'connect', name, proto: this.word('a field') };
    }
    const type = fields.get(name);
    if (!type && !this.isTolerant) throw this.wrong(`${node.type} has no field ${name}`);
    return { is: 'field', name, value: type ? this.value(type, scope) : this.guessed(scope) };
  }

  /** The value of a field that is not known, by how it looks. */
  private guessed(scope: Scope): Value {
    const token = this.peek();
    if (token.is === 'string') return this.value('MFString', scope);
    if (token.is === '[') {
      // What stands in it is seen without going into it.
      const inner = /^(?:[\s,]|#[^\r\n]*)*/.exec(this.text.slice(token.to, token.to + 4096))![0].length;
      const first = this.text[token.to + inner] ?? '';
      return this.value(first === '"' ? 'MFString' : isNumber(first) ? 'MFFloat' : 'MFNode', scope);
    }
    if (token.text === 'TRUE' || token.text === 'FALSE') return this.value('SFBool', scope);
    if (!isNumber(token.text)) return this.value('SFNode', scope);
    const words: string[] = [];
    while (this.peek().is === 'word' && isNumber(this.peek().text)) words.push(this.next().text);
    return valueOf('MFFloat', { words: words.join(' ') });
  }

  private value(type: FieldType, scope: Scope): Value {
    const kind = type.slice(2);
    const many = type.startsWith('MF');
    if (kind === 'Node') return this.nodes(type, many, scope);
    if (kind === 'String') {
      if (many) return valueOf(type, { strings: this.strings() });
      const token = this.next();
      if (token.is !== 'string') throw this.wrong('Here a string should stand');
      return valueOf(type, { strings: [token.text] });
    }
    return valueOf(type, { words: many && this.peek().is === '[' ? this.list() : this.single(kind) });
  }

  /** The words of one value. */
  private single(kind: string): string {
    const words: string[] = [];
    const take = (n: number) => {
      for (; n > 0; n--) words.push(this.word('a number'));
    };
    if (kind === 'Image') {
      take(3);
      take(Number(words[0]) * Number(words[1]));
    } else take(wordsOf[kind] ?? 1);
    return words.join(' ');
  }

  /** The words of a list, as they are set out; comments between them are left out of it. */
  private list(): string {
    this.next();
    const start = this.at;
    let hasComment = false;
    const words: string[] = [];
    for (;;) {
      const token = this.lex();
      if (token.is === ']') break;
      if (token.is === 'comment') {
        hasComment = true;
        this.comments.push(token.text);
      } else if (token.is === 'word') words.push(token.text);
      else throw this.wrong('In a list of numbers stands something else');
    }
    return hasComment ? words.join(' ') : this.text.slice(start, this.at - 1).trim();
  }

  private strings(): string[] {
    const first = this.next();
    if (first.is === 'string') return [first.text];
    if (first.is !== '[') throw this.wrong('Here strings should stand');
    const all: string[] = [];
    for (;;) {
      const token = this.next();
      if (token.is === ']') return all;
      if (token.is !== 'string') throw this.wrong('Here a string should stand');
      all.push(token.text);
    }
  }

  private nodes(type: FieldType, many: boolean, scope: Scope): Value {
    const nodes: Value['nodes'] = [];
    if (many && this.peek().is === '[') {
      this.next();
      for (;;) {
        const token = this.peek();
        nodes.push(...this.taken());
        if (token.is === ']') break;
        nodes.push(this.node(scope));
      }
      this.next();
    } else if (this.isWord('NULL')) {
      this.next();
      if (!many) nodes.push(null);
    } else nodes.push(this.node(scope));
    return valueOf(type, { nodes });
  }
}
