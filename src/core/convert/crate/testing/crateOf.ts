// Writes small USD crate files (0.8) for tests: what the reference program writes only when it has flattened a stage (variants, arcs, lists of changes) cannot
// be had from it. That it reads what is made here is part of the test.

import { packLiteral } from '../../../formats/crate';
import { utf8 } from '../../../text/bytes';

type Items = readonly string[];
export interface Op {
  explicit?: Items;
  added?: Items;
  prepended?: Items;
  appended?: Items;
  deleted?: Items;
  ordered?: Items;
}
export interface Arc {
  file?: string;
  prim?: string;
  offset?: number;
  scale?: number;
  data?: Record<string, CrateValue>;
}
export interface ArcOp {
  explicit?: readonly Arc[];
  prepended?: readonly Arc[];
  appended?: readonly Arc[];
  deleted?: readonly Arc[];
}
export type CrateValue =
  | { token: string }
  | { string: string | Uint8Array }
  | { asset: string }
  | { bool: boolean }
  | { enum: number; kind: 42 | 43 | 44 }
  | { double: number }
  | { doubles: readonly number[] }
  | { tokens: Items }
  | { strings: Items }
  | { tokenOp: Op }
  | { stringOp: Op }
  | { pathOp: Op }
  | { intOp: { explicit?: readonly number[]; prepended?: readonly number[] } }
  | { references: ArcOp }
  | { payloads: ArcOp }
  | { payload: Arc }
  | { dictionary: Record<string, CrateValue> }
  | { variants: Record<string, string> }
  | { offsets: readonly [number, number][] }
  | { unregistered: CrateValue }
  | { value: CrateValue }
  | { kind: number };
export interface CrateSpecOf {
  path: string;
  type: number;
  fields: Record<string, CrateValue>;
}

class Bytes {
  readonly out: number[] = [];
  u8 = (n: number) => void this.out.push(n & 255);
  u32 = (n: number) => {
    for (let k = 0; k < 4; k++) this.out.push((n >>> (8 * k)) & 255);
  };
  u64 = (n: bigint | number) => {
    for (let k = 0n; k < 8n; k++) this.out.push(Number((BigInt(n) >> (8n * k)) & 255n));
  };
  f64 = (n: number) => this.all(new Uint8Array(new Float64Array([n]).buffer));
  all = (b: Iterable<number>) => {
    for (const x of b) this.out.push(x);
  };
}

/** Integers as differences, each with four bytes. */
function packIntegers(numbers: readonly number[]): Uint8Array {
  const b = new Bytes();
  b.u32(0);
  for (let n = 0; n < numbers.length; n += 4) b.u8(255);
  numbers.forEach((x, n) => b.u32(x - (numbers[n - 1] ?? 0)));
  return packLiteral(Uint8Array.from(b.out));
}

const opBits = [
  ['explicit', 3],
  ['added', 4],
  ['prepended', 32],
  ['appended', 64],
  ['deleted', 8],
  ['ordered', 16],
] as const;

/** The last part of a path, as the paths section has it, and the rest. */
function split(path: string): [above: string, element: string, isProperty: boolean] {
  const variant = /^(.*)(\{[^{}]*\})$/.exec(path);
  if (variant) return [variant[1]!, variant[2]!, false];
  const property = /^(.*)\.([^./{}]+)$/.exec(path);
  if (property) return [property[1]!, property[2]!, true];
  const child = /^(.*?)\/?([^/{}]+)$/.exec(path)!;
  return [child[1] === '' ? '/' : child[1]!, child[2]!, false];
}

/** The file. Paths that values name are added to its table. */
export function crateOf(specs: readonly CrateSpecOf[]): Uint8Array {
  const tokens: (string | Uint8Array)[] = [';-)'];
  const strings: number[] = [];
  const paths: string[] = ['/'];
  const token = (t: string | Uint8Array) => {
    const at = tokens.findIndex((x) => x === t);
    return at >= 0 ? at : tokens.push(t) - 1;
  };
  const string = (s: string | Uint8Array) => strings.push(token(s)) - 1;
  // The empty path has a number, and no place in the table.
  const noPath = 1_000_000;
  const path = (p: string): number => {
    if (p === '') return noPath;
    const at = paths.indexOf(p);
    if (at >= 0) return at;
    path(split(p)[0]);
    return paths.push(p) - 1;
  };
  specs.forEach((s) => path(s.path));
  const body = new Bytes();
  const start = 88;
  const rep = (kind: number, low: number | bigint, inlined: boolean, array = false) =>
    (BigInt(array ? 1 : 0) << 63n) | (BigInt(inlined ? 1 : 0) << 62n) | (BigInt(kind) << 48n) | BigInt(low);
  const here = () => start + body.out.length;
  const at = (kind: number, write: (b: Bytes) => void, array = false) => {
    const b = new Bytes();
    write(b);
    const from = here();
    body.all(b.out);
    return rep(kind, from, false, array);
  };
  const arc = (b: Bytes, a: Arc, isReference: boolean) => {
    b.u32(string(a.file ?? ''));
    b.u32(path(a.prim ?? ''));
    b.f64(a.offset ?? 0);
    b.f64(a.scale ?? 1);
    // Its dictionary follows at once: with offsets from each entry, so it is written as a whole.
    if (isReference) dictionaryInto(b, a.data ?? {});
  };
  const dictionaryInto = (b: Bytes, d: Record<string, CrateValue>) => {
    const entries = Object.entries(d).map(([k, v]) => [string(k), repFor(v)] as const);
    b.u64(entries.length);
    for (const [k, r] of entries) {
      b.u32(k);
      b.u64(8);
      b.u64(r);
    }
  };
  const op = <T>(
    kind: number,
    o: Partial<Record<(typeof opBits)[number][0], readonly T[]>>,
    one: (b: Bytes, t: T) => void,
  ) => {
    // What an item refers to must stand before the list begins.
    const parts = opBits.flatMap(([name, bit]) => {
      if (!o[name]) return [];
      const b = new Bytes();
      o[name].forEach((x) => one(b, x));
      return [{ bit, count: o[name].length, bytes: b.out }];
    });
    return at(kind, (b) => {
      b.u8(parts.reduce((s, p) => s | p.bit, 0));
      for (const p of parts) {
        b.u64(p.count);
        b.all(p.bytes);
      }
    });
  };
  const repFor = (v: CrateValue): bigint => {
    if ('token' in v) return rep(11, token(v.token), true);
    if ('string' in v) return rep(10, string(v.string), true);
    if ('asset' in v) return rep(12, token(v.asset), true);
    if ('bool' in v) return rep(1, v.bool ? 1 : 0, true);
    if ('enum' in v) return rep(v.kind, v.enum, true);
    if ('double' in v) return at(9, (b) => b.f64(v.double));
    if ('doubles' in v)
      return at(
        9,
        (b) => {
          b.u64(v.doubles.length);
          v.doubles.forEach((n) => b.f64(n));
        },
        true,
      );
    if ('tokens' in v)
      return at(41, (b) => {
        b.u64(v.tokens.length);
        v.tokens.forEach((t) => b.u32(token(t)));
      });
    if ('strings' in v)
      return at(50, (b) => {
        b.u64(v.strings.length);
        v.strings.forEach((t) => b.u32(string(t)));
      });
    if ('tokenOp' in v) return op(32, v.tokenOp, (b, t: string) => b.u32(token(t)));
    if ('stringOp' in v) return op(33, v.stringOp, (b, t: string) => b.u32(string(t)));
    if ('pathOp' in v) return op(34, v.pathOp, (b, t: string) => b.u32(path(t)));
    if ('intOp' in v) return op(36, v.intOp, (b, n: number) => b.u32(n));
    if ('references' in v) return op(35, v.references, (b, a: Arc) => arc(b, a, true));
    if ('payloads' in v) return op(55, v.payloads, (b, a: Arc) => arc(b, a, false));
    if ('payload' in v) return at(47, (b) => arc(b, v.payload, false));
    if ('dictionary' in v) {
      const b = new Bytes();
      dictionaryInto(b, v.dictionary);
      return at(31, (o) => o.all(b.out));
    }
    if ('variants' in v)
      return at(45, (b) => {
        const all = Object.entries(v.variants);
        b.u64(all.length);
        for (const [k, x] of all) {
          b.u32(string(k));
          b.u32(string(x));
        }
      });
    if ('offsets' in v)
      return at(49, (b) => {
        b.u64(v.offsets.length);
        v.offsets.flat().forEach((n) => b.f64(n));
      });
    if ('unregistered' in v) {
      const inner = repFor(v.unregistered);
      return at(53, (b) => [8, inner].forEach(b.u64));
    }
    if ('value' in v) {
      const inner = repFor(v.value);
      return at(52, (b) => [8, inner].forEach(b.u64));
    }
    return rep(v.kind, 0, true);
  };
  const fieldNames: number[] = [];
  const reps: bigint[] = [];
  const sets: number[] = [];
  const setAt = specs.map((s) => {
    const from = sets.length;
    for (const [key, value] of Object.entries(s.fields)) {
      reps.push(repFor(value));
      sets.push(fieldNames.push(token(key)) - 1);
    }
    sets.push(-1);
    return from;
  });
  const [order, elements, jumps]: number[][] = [[], [], []];
  const walk = (p: string, isLast: boolean) => {
    const cell = order!.push(paths.indexOf(p)) - 1;
    const [, element, isProperty] = p === '/' ? ['', '', false] : split(p);
    elements!.push(p === '/' ? 0 : isProperty ? -token(element) : token(element));
    jumps!.push(0);
    const below = paths.filter((x) => x !== '/' && split(x)[0] === p);
    below.forEach((x, n) => walk(x, n === below.length - 1));
    jumps![cell] = below.length === 0 ? (isLast ? -2 : 0) : isLast ? -1 : order!.length - cell;
  };
  walk('/', true);
  const sections: [string, number, number][] = [];
  const section = (name: string, write: (b: Bytes) => void) => {
    const b = new Bytes();
    write(b);
    sections.push([name, here(), b.out.length]);
    body.all(b.out);
  };
  const packed = (b: Bytes, block: Uint8Array) => {
    b.u64(block.length);
    b.all(block);
  };
  const raw = new Bytes();
  for (const t of tokens) raw.all([...(typeof t === 'string' ? utf8(t) : t), 0]);
  section('TOKENS', (b) => {
    b.u64(tokens.length);
    b.u64(raw.out.length);
    packed(b, packLiteral(Uint8Array.from(raw.out)));
  });
  section('STRINGS', (b) => {
    b.u64(strings.length);
    strings.forEach(b.u32);
  });
  section('FIELDS', (b) => {
    b.u64(fieldNames.length);
    packed(b, packIntegers(fieldNames));
    const all = new Bytes();
    reps.forEach(all.u64);
    packed(b, packLiteral(Uint8Array.from(all.out)));
  });
  section('FIELDSETS', (b) => {
    b.u64(sets.length);
    packed(b, packIntegers(sets));
  });
  section('PATHS', (b) => {
    b.u64(paths.length);
    b.u64(paths.length);
    for (const numbers of [order!, elements!, jumps!]) packed(b, packIntegers(numbers));
  });
  section('SPECS', (b) => {
    b.u64(specs.length);
    packed(b, packIntegers(specs.map((s) => paths.indexOf(s.path))));
    packed(b, packIntegers(setAt));
    packed(b, packIntegers(specs.map((s) => s.type)));
  });
  const toc = here();
  const tail = new Bytes();
  tail.u64(sections.length);
  for (const [name, from, size] of sections) {
    const label = new Uint8Array(16);
    label.set(utf8(name));
    tail.all(label);
    tail.u64(from);
    tail.u64(size);
  }
  const head = new Bytes();
  head.all([...utf8('PXR-USDC'), 0, 8, 0, 0, 0, 0, 0, 0]);
  head.u64(toc);
  head.all(new Uint8Array(start - head.out.length));
  return Uint8Array.from([...head.out, ...body.out, ...tail.out]);
}
