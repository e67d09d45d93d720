// The tables of a USD crate file: tokens, strings, fields, and which prim or property has which field. Layout as in usdc.ts.

import type { ByteRange } from '../files/fileTree';
import { decodeText } from '../text/bytes';
import { BadCrate, unpackFast, unpackIntegers } from './crate';

const blockSize = 64 * 1024;

/** A value as 64 bits: its kind, and the number or offset it holds. */
export interface Rep {
  type: number;
  array: boolean;
  inlined: boolean;
  packed: boolean;
  payload: number;
}

/** The value that stands at an offset of a view. */
export function repOf(view: DataView, at: number): Rep {
  const low = view.getUint32(at, true);
  const high = view.getUint32(at + 4, true);
  return {
    type: (high >>> 16) & 0xff,
    array: high >>> 31 === 1,
    inlined: ((high >>> 30) & 1) === 1,
    packed: ((high >>> 29) & 1) === 1,
    payload: low + (high & 0xffff) * 2 ** 32,
  };
}

/** Bytes of a file by offset, fetched in blocks as they are asked for. */
export class Blocks {
  private readonly held = new Map<number, Uint8Array>();

  constructor(
    private readonly read: (range: ByteRange) => Promise<Uint8Array>,
    readonly size: number,
  ) {}

  async view(at: number, length: number): Promise<DataView> {
    if (!(at >= 0 && length >= 0 && at + length <= this.size))
      throw new BadCrate('A value lies outside the file.', Math.min(this.size, Math.max(0, at)));
    const first = Math.floor(at / blockSize);
    if (at + length > (first + 1) * blockSize) {
      const bytes = await this.read([at, at + length]);
      if (bytes.length < length) throw new BadCrate('The file ends before a value does.', at);
      return new DataView(bytes.buffer, bytes.byteOffset, length);
    }
    let block = this.held.get(first);
    if (!block) {
      // A copy: the reader may use the same room again.
      block = new Uint8Array(
        await this.read([first * blockSize, Math.min(this.size, (first + 1) * blockSize)]),
      );
      this.held.set(first, block);
    }
    return new DataView(block.buffer, block.byteOffset + (at - first * blockSize), length);
  }

  async bytes(at: number, length: number): Promise<Uint8Array> {
    const v = await this.view(at, length);
    return new Uint8Array(v.buffer, v.byteOffset, length);
  }

  async u64(at: number): Promise<number> {
    return Number((await this.view(at, 8)).getBigUint64(0, true));
  }

  /** The value that lies where the eight bytes at `at` tell, counted from `at`: so values of any kind are kept in others. */
  async repFrom(at: number): Promise<Rep> {
    return repOf(await this.view(at + (await this.i64(at)), 8), 0);
  }

  async i64(at: number): Promise<number> {
    return Number((await this.view(at, 8)).getBigInt64(0, true));
  }
}

interface Section {
  at: number;
  size: number;
}

/** The tables of a crate file, unpacked. */
export interface Tables {
  sections: Map<string, Section>;
  tokens: Uint8Array;
  tokenAt: number[]; // where each token's text begins in `tokens`, one more for the end
  strings: Uint32Array;
  fieldNames: Int32Array;
  fieldNameBlock: Uint8Array; // as it stands, for copying
  reps: Uint8Array;
}

/** Reads tokens, strings and fields. Throws BadCrate. */
export async function readTables(b: Blocks): Promise<Tables> {
  const toc = await b.i64(16);
  const count = await b.u64(toc);
  if (count > 64) throw new BadCrate('The table of contents is no such.', toc);
  const sections = new Map<string, Section>();
  for (let n = 0; n < count; n++) {
    const entry = await b.bytes(toc + 8 + 32 * n, 32);
    const view = new DataView(entry.buffer, entry.byteOffset, 32);
    sections.set(decodeText(entry.subarray(0, entry.subarray(0, 16).indexOf(0))).text, {
      at: Number(view.getBigInt64(16, true)),
      size: Number(view.getBigInt64(24, true)),
    });
  }
  const at = (name: string): Section => {
    const s = sections.get(name);
    if (!s) throw new BadCrate(`The section ${name} is missing.`, toc);
    return s;
  };
  const t = at('TOKENS').at;
  const [tokenCount, rawSize, packedSize] = [await b.u64(t), await b.u64(t + 8), await b.u64(t + 16)];
  const tokens = unpackFast(await b.bytes(t + 24, packedSize), rawSize);
  const tokenAt = [0];
  for (let i = tokens.indexOf(0); i >= 0; i = tokens.indexOf(0, i + 1)) tokenAt.push(i + 1);
  if (tokenAt.length - 1 < tokenCount) throw new BadCrate('There are fewer tokens than the file says.', t);
  const s = at('STRINGS').at;
  const stringCount = await b.u64(s);
  const stringView = await b.view(s + 8, stringCount * 4);
  const strings = Uint32Array.from({ length: stringCount }, (_, i) => stringView.getUint32(4 * i, true));
  const f = at('FIELDS').at;
  const fieldCount = await b.u64(f);
  const nameSize = await b.u64(f + 8);
  const fieldNameBlock = new Uint8Array(await b.bytes(f + 16, nameSize));
  const repSize = await b.u64(f + 16 + nameSize);
  const reps = unpackFast(await b.bytes(f + 24 + nameSize, repSize), fieldCount * 8);
  return {
    sections,
    tokens,
    tokenAt,
    strings,
    fieldNames: unpackIntegers(fieldNameBlock, fieldCount),
    fieldNameBlock,
    reps,
  };
}

/** A token's bytes. */
export function tokenBytes(t: Tables, index: number): Uint8Array {
  if (!(index >= 0 && index < t.tokenAt.length - 1)) throw new BadCrate('A token number is too large.', 0);
  return t.tokens.subarray(t.tokenAt[index]!, t.tokenAt[index + 1]! - 1);
}

/** A string's bytes: strings are numbers of tokens. */
export function stringBytes(t: Tables, index: number): Uint8Array {
  if (!(index >= 0 && index < t.strings.length)) throw new BadCrate('A string number is too large.', 0);
  return tokenBytes(t, t.strings[index]!);
}

/** A token's text. */
export const tokenOf = (t: Tables, index: number): string => decodeText(tokenBytes(t, index)).text;

/** A string's text. */
export const stringOf = (t: Tables, index: number): string => decodeText(stringBytes(t, index)).text;

/** Where a prim or property stands, as the paths section tells: its path, and that of what it lies in. */
export interface CratePath {
  path: string;
  /** The index of the path it lies in; -1 for the root. */
  parent: number;
}

/** What stands at a path: its fields are those of `fields` from `set` to the next -1. */
export interface CrateSpec {
  path: number;
  set: number;
  type: number;
}

export interface Specs {
  paths: ReadonlyMap<number, CratePath>;
  specs: readonly CrateSpec[];
  fields: Int32Array;
}

/** Reads field sets, paths and specs. Throws BadCrate. */
export async function readSpecs(b: Blocks, t: Tables): Promise<Specs> {
  const start = (name: string): number => {
    const s = t.sections.get(name);
    if (!s) throw new BadCrate(`The section ${name} is missing.`, 0);
    return s.at;
  };
  const part = async (name: string, skip: number, lists: number, count: number): Promise<Int32Array[]> => {
    let at = start(name) + skip;
    const out: Int32Array[] = [];
    for (let n = 0; n < lists; n++) {
      const size = await b.u64(at);
      out.push(unpackIntegers(await b.bytes(at + 8, size), count));
      at += 8 + size;
    }
    return out;
  };
  const [fields] = await part('FIELDSETS', 8, 1, await b.u64(start('FIELDSETS')));
  const pathCount = await b.u64(start('PATHS') + 8);
  const [indexes, elements, jumps] = await part('PATHS', 16, 3, pathCount);
  const specCount = await b.u64(start('SPECS'));
  const [specPaths, sets, types] = await part('SPECS', 8, 3, specCount);
  const paths = new Map<number, CratePath>();
  const waiting: [cell: number, parent: number][] = pathCount > 0 ? [[0, -1]] : [];
  let steps = 0;
  while (waiting.length > 0 && steps++ <= pathCount) {
    const [cell, parent] = waiting.pop()!;
    if (cell < 0 || cell >= pathCount) continue;
    const index = indexes![cell]!;
    const element = elements![cell]!;
    const above = paths.get(parent)?.path;
    paths.set(index, {
      path: above === undefined ? '/' : pathBelow(above, tokenOf(t, Math.abs(element)), element < 0),
      parent,
    });
    const jump = jumps![cell]!;
    if (jump >= 0 && parent >= 0) waiting.push([jump === 0 ? cell + 1 : cell + jump, parent]);
    if (jump > 0 || jump === -1) waiting.push([cell + 1, index]);
  }
  const specs = Array.from(specPaths!, (path, n) => ({ path, set: sets![n]!, type: types![n]! }));
  return { paths, specs, fields: fields! };
}

/** A path with one more element. What lies in a variant follows it without a slash: /Boat{look=wet}Hull. */
function pathBelow(above: string, name: string, isProperty: boolean): string {
  if (isProperty) return `${above}.${name}`;
  return name.startsWith('{') || name.startsWith('[') || /[/}]$/.test(above)
    ? above + name
    : `${above}/${name}`;
}

/** The numbers of the fields of a spec. */
export function* fieldsOf({ fields }: Specs, { set }: CrateSpec): Iterable<number> {
  for (let i = set; i < fields.length && fields[i]! >= 0; i++) yield fields[i]!;
}

/** For each field the path of the first prim or property that has it, '' where none is found. */
export async function readOwners(b: Blocks, t: Tables): Promise<string[]> {
  const owners: string[] = new Array<string>(t.fieldNames.length).fill('');
  const all = await readSpecs(b, t);
  for (const spec of all.specs)
    for (const field of fieldsOf(all, spec))
      // With a slash behind a variant, as places in text layers are told.
      if (owners[field] === '')
        owners[field] = (all.paths.get(spec.path)?.path ?? '').replace(/\}(?=[^.{[])/g, '}/');
  return owners;
}
