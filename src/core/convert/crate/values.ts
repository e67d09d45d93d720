// The values of a USD crate file, each as the text that says it. Kinds of values and their layout after OpenUSD's crate format, tried with files that OpenUSD 22 wrote
// (shared by all: eight bytes that hold the kind and, where it fits, the value itself; else where it lies).

import { BadCrate } from '../../formats/crate';
import {
  repOf,
  stringBytes,
  stringOf,
  tokenBytes,
  tokenOf,
  type Blocks,
  type Rep,
  type Specs,
  type Tables,
} from '../../formats/crateTables';
import { arrayHead, bytesOf, halfOf, numberAt, numbersOf, textOf, type Scalar } from './numbers';
import { dictionary, nothing, type ListOp, type Value } from './value';
import { asset, name, quoted, Unsayable } from './words';

/** Kinds that are numbers, alone or several: [name in text, of what, how many, rows of a matrix]. */
const numeric: Record<number, readonly [type: string, of: Scalar, count: number, rows?: number]> = {
  1: ['bool', 'bool', 1],
  2: ['uchar', 'uchar', 1],
  3: ['int', 'int', 1],
  4: ['uint', 'uint', 1],
  5: ['int64', 'int64', 1],
  6: ['uint64', 'uint64', 1],
  7: ['half', 'half', 1],
  8: ['float', 'float', 1],
  9: ['double', 'double', 1],
  13: ['matrix2d', 'double', 4, 2],
  14: ['matrix3d', 'double', 9, 3],
  15: ['matrix4d', 'double', 16, 4],
  16: ['quatd', 'double', 4],
  17: ['quatf', 'float', 4],
  18: ['quath', 'half', 4],
  19: ['double2', 'double', 2],
  20: ['float2', 'float', 2],
  21: ['half2', 'half', 2],
  22: ['int2', 'int', 2],
  23: ['double3', 'double', 3],
  24: ['float3', 'float', 3],
  25: ['half3', 'half', 3],
  26: ['int3', 'int', 3],
  27: ['double4', 'double', 4],
  28: ['float4', 'float', 4],
  29: ['half4', 'half', 4],
  30: ['int4', 'int', 4],
  56: ['timecode', 'double', 1],
};
const kinds = {
  string: 10,
  token: 11,
  asset: 12,
  dictionary: 31,
  pathVector: 40,
  tokenVector: 41,
  specifier: 42,
  permission: 43,
  variability: 44,
  variants: 45,
  samples: 46,
  payload: 47,
  doubleVector: 48,
  offsets: 49,
  stringVector: 50,
  block: 51,
  value: 52,
  unregistered: 53,
  relocates: 58,
};
/** Lists of changes: what their items are. */
const lists: Record<number, ItemKind> = {
  32: 'token',
  33: 'string',
  34: 'path',
  35: 'reference',
  36: 'int',
  37: 'int64',
  38: 'uint',
  39: 'uint64',
  55: 'payload',
};
type ItemKind = 'token' | 'string' | 'path' | 'reference' | 'payload' | 'int' | 'int64' | 'uint' | 'uint64';
/** Kinds of newer files that have no reader here. */
const unread: Record<number, string> = {
  54: 'a list of values that no schema knows',
  57: 'a path expression',
  59: 'a spline',
  60: 'a blocked animation',
};
const mostDeep = 64;

export class Values {
  constructor(
    private readonly b: Blocks,
    private readonly t: Tables,
    private readonly paths: Specs['paths'],
    private readonly minor: number,
  ) {}

  /** Reads one. Throws BadCrate for what is damaged, Unsayable for what text cannot hold. */
  async read(rep: Rep, depth = 0): Promise<Value> {
    if (depth > mostDeep) throw new BadCrate('Values are nested too deeply.', 0);
    const { t, b } = this;
    const number = numeric[rep.type];
    if (number) return this.number(rep, number);
    const list = lists[rep.type];
    if (list) return { is: 'list', of: list, op: await this.listOp(rep.payload, list) };
    switch (rep.type) {
      case kinds.string:
        return this.words('string', rep, (n) => quoted(stringBytes(t, n)));
      case kinds.token:
        return this.words('token', rep, (n) => quoted(tokenBytes(t, n)));
      case kinds.asset:
        return this.words('asset', rep, (n) => asset(rep.array ? stringBytes(t, n) : tokenBytes(t, n)));
      case kinds.dictionary:
        return { is: 'dictionary', entries: rep.inlined ? [] : (await this.entries(rep.payload, depth))[0] };
      case kinds.pathVector:
        return {
          is: 'list',
          of: 'path',
          op: { ...nothing(), explicit: await this.vector(rep.payload, 'path') },
        };
      case kinds.tokenVector:
        return { is: 'tokens', names: (await this.numbers(rep.payload)).map((n) => tokenOf(t, n)) };
      case kinds.stringVector:
        return { is: 'strings', bytes: (await this.numbers(rep.payload)).map((n) => stringBytes(t, n)) };
      case kinds.specifier:
      case kinds.permission:
      case kinds.variability:
        return { is: 'enum', number: rep.payload };
      case kinds.variants: {
        const view = await this.counted(rep.payload, 8);
        return {
          is: 'variants',
          chosen: Array.from({ length: view.byteLength / 8 }, (_, n) => [
            stringOf(t, view.getUint32(8 * n, true)),
            stringBytes(t, view.getUint32(8 * n + 4, true)),
          ]),
        };
      }
      case kinds.samples:
        return { is: 'samples', samples: await this.samples(rep.payload, depth) };
      case kinds.payload:
        return {
          is: 'list',
          of: 'payload',
          op: { ...nothing(), explicit: [(await this.arc(rep.payload, 'payload'))[0]] },
        };
      case kinds.offsets: {
        const view = await this.counted(rep.payload, 16);
        return {
          is: 'offsets',
          offsets: Array.from({ length: view.byteLength / 16 }, (_, n) => [
            textOf('double', view.getFloat64(16 * n, true)),
            textOf('double', view.getFloat64(16 * n + 8, true)),
          ]),
        };
      }
      case kinds.relocates: {
        const view = await this.counted(rep.payload, 8);
        return {
          is: 'relocates',
          from: Array.from({ length: view.byteLength / 8 }, (_, n) => [
            this.path(view.getUint32(8 * n, true)),
            this.path(view.getUint32(8 * n + 4, true)),
          ]),
        };
      }
      case kinds.block:
        return { is: 'block' };
      case kinds.value:
        return this.read(await b.repFrom(rep.payload), depth + 1);
      case kinds.unregistered: {
        const inner = await b.repFrom(rep.payload);
        // What no schema knows is kept as it stood in text, or as a dictionary.
        return inner.type === kinds.string
          ? { is: 'unregistered', text: name(stringBytes(t, inner.payload)) }
          : this.read(inner, depth + 1);
      }
      default:
        throw new Unsayable(
          unread[rep.type] ? `It holds ${unread[rep.type]}.` : `It holds a value of kind ${rep.type}.`,
        );
    }
  }

  /** Numbers, alone, as tuples, as matrices, and lists of them. */
  private async number(rep: Rep, [type, of, count, rows]: (typeof numeric)[number]): Promise<Value> {
    const one = (words: readonly string[]): string => {
      if (rows)
        return `( ${Array.from({ length: rows }, (_, r) => `(${words.slice(r * rows, r * rows + rows).join(', ')})`).join(', ')} )`;
      if (type.startsWith('quat')) return `(${[words[3], words[0], words[1], words[2]].join(', ')})`;
      return count === 1 ? words[0]! : `(${words.join(', ')})`;
    };
    if (!rep.array) return { is: 'text', type, text: one(await this.alone(rep, type, of, count, rows)) };
    if (count === 1)
      return {
        is: 'text',
        type: `${type}[]`,
        text: `[${(await numbersOf(this.b, this.minor, of, rep)).join(', ')}]`,
      };
    if (rep.payload === 0) return { is: 'text', type: `${type}[]`, text: '[]' };
    const [length, first] = await arrayHead(this.b, this.minor, rep.payload);
    const each = bytesOf[of];
    this.check(length, each * count, first);
    const view = await this.b.view(first, length * count * each);
    const items = Array.from({ length }, (_, n) =>
      one(Array.from({ length: count }, (_, k) => numberAt(view, of, (n * count + k) * each))),
    );
    return { is: 'text', type: `${type}[]`, text: `[${items.join(', ')}]` };
  }

  /** The numbers of one value. Where it stands in the eight bytes themselves, small ones stand for large ones: whole numbers of 32 bits, a float, bytes. */
  private async alone(
    rep: Rep,
    type: string,
    of: Scalar,
    count: number,
    rows: number | undefined,
  ): Promise<string[]> {
    const each = bytesOf[of];
    if (!rep.inlined) {
      const view = await this.b.view(rep.payload, each * count);
      return Array.from({ length: count }, (_, n) => numberAt(view, of, n * each));
    }
    const view = new DataView(new ArrayBuffer(8));
    view.setUint32(0, rep.payload % 2 ** 32, true);
    if (rows)
      return Array.from({ length: count }, (_, n) =>
        n % (rows + 1) === 0 ? String(view.getInt8(n / (rows + 1))) : '0',
      );
    if (count > 1 && each * count <= 4)
      return Array.from({ length: count }, (_, n) => numberAt(view, of, n * each));
    if (count > 1) return Array.from({ length: count }, (_, n) => String(view.getInt8(n)));
    if (of === 'int64') return [String(view.getInt32(0, true))];
    if (of === 'uint64') return [String(view.getUint32(0, true))];
    if (of === 'double') return [textOf('double', view.getFloat32(0, true))];
    if (of === 'half') return [textOf('half', halfOf(view.getUint16(0, true)))];
    return [numberAt(view, of, 0)];
  }

  private async words(type: string, rep: Rep, say: (n: number) => string): Promise<Value> {
    if (!rep.array) return { is: 'text', type, text: say(rep.payload) };
    const all = rep.payload === 0 ? [] : await this.array(rep.payload);
    return { is: 'text', type: `${type}[]`, text: `[${all.map(say).join(', ')}]` };
  }

  private async array(at: number): Promise<number[]> {
    const [count, first] = await arrayHead(this.b, this.minor, at);
    this.check(count, 4, first);
    const view = await this.b.view(first, count * 4);
    return Array.from({ length: count }, (_, n) => view.getUint32(4 * n, true));
  }

  private check(count: number, each: number, at: number): void {
    if (count * each > this.b.size) throw new BadCrate('A list is longer than the file.', at);
  }

  /** The bytes behind a count. */
  private async counted(at: number, each: number): Promise<DataView> {
    const count = await this.b.u64(at);
    this.check(count, each, at);
    return this.b.view(at + 8, count * each);
  }

  private async numbers(at: number): Promise<number[]> {
    const view = await this.counted(at, 4);
    return Array.from({ length: view.byteLength / 4 }, (_, n) => view.getUint32(4 * n, true));
  }

  private path(index: number): string {
    const path = this.paths.get(index);
    if (!path) throw new BadCrate('A path number is too large.', 0);
    return `<${path.path}>`;
  }

  private async vector(at: number, kind: ItemKind): Promise<string[]> {
    return (await this.items(at, kind))[0];
  }

  /** Items behind a count, and where they end. */
  private async items(at: number, kind: ItemKind): Promise<[string[], end: number]> {
    const count = await this.b.u64(at);
    this.check(count, 4, at);
    const from = at + 8;
    if (kind === 'reference' || kind === 'payload') {
      const arcs: string[] = [];
      let end = from;
      for (let n = 0; n < count; n++) {
        const [text, next] = await this.arc(end, kind);
        arcs.push(text);
        end = next;
      }
      return [arcs, end];
    }
    const each = kind === 'int64' || kind === 'uint64' ? 8 : 4;
    const view = await this.b.view(from, count * each);
    const say = (n: number): string => {
      if (kind === 'token') return quoted(tokenBytes(this.t, view.getUint32(n, true)));
      if (kind === 'string') return quoted(stringBytes(this.t, view.getUint32(n, true)));
      if (kind === 'path') return this.path(view.getUint32(n, true));
      return numberAt(view, kind, n);
    };
    return [Array.from({ length: count }, (_, n) => say(n * each)), from + count * each];
  }

  private async listOp(at: number, kind: ItemKind): Promise<ListOp> {
    const flags = (await this.b.view(at, 1)).getUint8(0);
    const op = nothing();
    let next = at + 1;
    for (const [bit, part] of [
      [2, 'explicit'],
      [4, 'added'],
      [32, 'prepended'],
      [64, 'appended'],
      [8, 'deleted'],
      [16, 'ordered'],
    ] as const) {
      if ((flags & bit) === 0) continue;
      [op[part], next] = await this.items(next, kind);
    }
    if ((flags & 1) !== 0) op.explicit ??= [];
    return op;
  }

  /** One reference or payload, and where it ends. */
  private async arc(at: number, kind: 'reference' | 'payload'): Promise<[string, number]> {
    const view = await this.b.view(at, 8);
    const file = stringBytes(this.t, view.getUint32(0, true));
    const prim = view.getUint32(4, true);
    const path = this.paths.get(prim)?.path ?? '';
    // No prim is the number of the empty path, which no table lists.
    const said = [file.length > 0 ? asset(file) : '', path === '' ? '' : `<${path}>`].join('');
    const inner: string[] = [];
    let end = at + 8;
    if (kind === 'reference' || this.minor >= 8) {
      const layer = await this.b.view(end, 16);
      const [offset, scale] = [layer.getFloat64(0, true), layer.getFloat64(8, true)];
      if (offset !== 0) inner.push(`offset = ${textOf('double', offset)}`);
      if (scale !== 1) inner.push(`scale = ${textOf('double', scale)}`);
      end += 16;
    }
    if (kind === 'reference') {
      const [entries, next] = await this.entries(end, 0);
      if (entries.length > 0) inner.push(`customData = ${dictionary(entries, '')}`);
      end = next;
    }
    return [(said === '' ? '<>' : said) + (inner.length > 0 ? ` (${inner.join('; ')})` : ''), end];
  }

  /** Entries of a dictionary, in the order of the file, and where they end. */
  private async entries(at: number, depth: number): Promise<[[string, Value][], number]> {
    const count = await this.b.u64(at);
    this.check(count, 20, at);
    const entries: [string, Value][] = [];
    let i = at + 8;
    for (let n = 0; n < count; n++) {
      const key = name(stringBytes(this.t, (await this.b.view(i, 4)).getUint32(0, true)));
      const repAt = i + 4 + (await this.b.i64(i + 4));
      entries.push([key, await this.read(await this.b.repFrom(i + 4), depth + 1)]);
      i = repAt + 8;
    }
    return [entries, i];
  }

  private async samples(at: number, depth: number): Promise<[string, Value][]> {
    const timesAt = at + (await this.b.i64(at));
    const rep = repOf(await this.b.view(timesAt, 8), 0);
    const times = await this.times(rep);
    const values = timesAt + 8 + (await this.b.i64(timesAt + 8));
    const count = await this.b.u64(values);
    this.check(count, 8, values);
    if (count !== times.length) throw new BadCrate('There are not as many samples as times.', values);
    const out: [string, Value][] = [];
    for (const [n, time] of times.entries())
      out.push([time, await this.read(repOf(await this.b.view(values + 8 + 8 * n, 8), 0), depth + 1)]);
    return out;
  }

  private async times(rep: Rep): Promise<string[]> {
    if (rep.type === 9 && rep.array) return numbersOf(this.b, this.minor, 'double', rep);
    if (rep.type !== kinds.doubleVector) throw new BadCrate('Times of samples are no numbers.', rep.payload);
    const view = await this.counted(rep.payload, 8);
    return Array.from({ length: view.byteLength / 8 }, (_, n) =>
      textOf('double', view.getFloat64(8 * n, true)),
    );
  }
}
