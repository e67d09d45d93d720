// USD, binary form ("crate"; .usdc, and .usd that begins PXR-USDC). Paths are kept once, as tokens; values point to them by number:
//
//     header (88 bytes, where the table of contents is at byte 16) … values … TOKENS STRINGS FIELDS FIELDSETS PATHS SPECS, contents
//
// Only the tables and the values that can hold a path are read, wherever they lie. A rewrite changes no token, since a token serves many
// values: it numbers new ones after the old, changes the cells that are to point to them, appends new tables behind everything and points
// the header there. Layout as found in files that OpenUSD 22 wrote, versions 0.4 to 0.8; others are read, not rewritten.

import type { ByteRange } from '../files/fileTree';
import type { Edit } from '../text/edits';
import { decodeText, utf8 } from '../text/bytes';
import { BadCrate, packLiteral, unpackFast, unpackIntegers } from './crate';
import type { Format, Reading, Reference, ReferenceKind } from './format';
import { kindOfPath } from './kinds';
import { numbering } from './markup';

const types = { string: 10, asset: 12, dictionary: 31, references: 35, timeSamples: 46, payload: 47, stringVector: 50, value: 52, payloads: 55 };
const headerSize = 88;
const blockSize = 64 * 1024;

/** Where the number of a path's token or string stands. */
type Cell = { in: 'field'; index: number; string: boolean } | { in: 'rep'; at: number; string: boolean } | { in: 'cell'; at: number };

/** A value as 64 bits: its kind, and the number or offset it holds. */
interface Rep {
  type: number;
  array: boolean;
  inlined: boolean;
  payload: number;
}

function repOf(view: DataView, at: number): Rep {
  const low = view.getUint32(at, true);
  const high = view.getUint32(at + 4, true);
  return { type: (high >>> 16) & 0xff, array: high >>> 31 === 1, inlined: ((high >>> 30) & 1) === 1, payload: low + (high & 0xffff) * 2 ** 32 };
}

/** Bytes of a file by offset, fetched in blocks as they are asked for. */
class Blocks {
  private readonly held = new Map<number, Uint8Array>();

  constructor(private readonly read: (range: ByteRange) => Promise<Uint8Array>, readonly size: number) {}

  async view(at: number, length: number): Promise<DataView> {
    if (!(at >= 0 && length >= 0 && at + length <= this.size)) throw new BadCrate('A value lies outside the file.', Math.min(this.size, Math.max(0, at)));
    const first = Math.floor(at / blockSize);
    if (at + length > (first + 1) * blockSize) {
      const bytes = await this.read([at, at + length]);
      if (bytes.length < length) throw new BadCrate('The file ends before a value does.', at);
      return new DataView(bytes.buffer, bytes.byteOffset, length);
    }
    let block = this.held.get(first);
    if (!block) {
      // A copy: the reader may use the same room again.
      block = (await this.read([first * blockSize, Math.min(this.size, (first + 1) * blockSize)])).slice();
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

  async i64(at: number): Promise<number> {
    return Number((await this.view(at, 8)).getBigInt64(0, true));
  }
}

interface Section {
  at: number;
  size: number;
}

interface Tables {
  sections: Map<string, Section>;
  tokens: Uint8Array;
  tokenAt: number[]; // where each token's text begins in `tokens`, one more for the end
  strings: Uint32Array;
  fieldNames: Int32Array;
  fieldNameBlock: Uint8Array; // as it stands, for copying
  reps: Uint8Array;
}

async function readTables(b: Blocks): Promise<Tables> {
  const toc = await b.i64(16);
  const count = await b.u64(toc);
  if (count > 64) throw new BadCrate('The table of contents is no such.', toc);
  const sections = new Map<string, Section>();
  for (let n = 0; n < count; n++) {
    const entry = await b.bytes(toc + 8 + 32 * n, 32);
    const view = new DataView(entry.buffer, entry.byteOffset, 32);
    sections.set(decodeText(entry.subarray(0, entry.subarray(0, 16).indexOf(0))).text, { at: Number(view.getBigInt64(16, true)), size: Number(view.getBigInt64(24, true)) });
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
  const fieldNameBlock = (await b.bytes(f + 16, nameSize)).slice();
  const repSize = await b.u64(f + 16 + nameSize);
  const reps = unpackFast(await b.bytes(f + 24 + nameSize, repSize), fieldCount * 8);
  return { sections, tokens, tokenAt, strings, fieldNames: unpackIntegers(fieldNameBlock, fieldCount), fieldNameBlock, reps };
}

function tokenOf(t: Tables, index: number): string {
  if (!(index >= 0 && index < t.tokenAt.length - 1)) throw new BadCrate('A token number is too large.', 0);
  return decodeText(t.tokens.subarray(t.tokenAt[index]!, t.tokenAt[index + 1]! - 1)).text;
}

function stringOf(t: Tables, index: number): string {
  if (!(index >= 0 && index < t.strings.length)) throw new BadCrate('A string number is too large.', 0);
  return tokenOf(t, t.strings[index]!);
}

/** For each field the path of the first prim or property that has it, '' where none is found. */
async function readOwners(b: Blocks, t: Tables): Promise<string[]> {
  const owners: string[] = new Array<string>(t.fieldNames.length).fill('');
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
  const setCount = await b.u64(start('FIELDSETS'));
  const [sets] = await part('FIELDSETS', 8, 1, setCount);
  const pathCount = await b.u64(start('PATHS') + 8);
  const [indexes, elements, jumps] = await part('PATHS', 16, 3, pathCount);
  const specCount = await b.u64(start('SPECS'));
  const [specPaths, specSets] = await part('SPECS', 8, 3, specCount);
  const paths = new Map<number, string>();
  const waiting: [cell: number, parent: string | null][] = pathCount > 0 ? [[0, null]] : [];
  let steps = 0;
  while (waiting.length > 0 && steps++ <= pathCount) {
    const [cell, parent] = waiting.pop()!;
    if (cell < 0 || cell >= pathCount) continue;
    const element = elements![cell]!;
    const name = parent === null ? '' : tokenOf(t, Math.abs(element));
    const path = parent === null ? '/' : element < 0 ? `${parent}.${name}` : name.startsWith('{') || parent.endsWith('/') ? `${parent}${name}` : `${parent}/${name}`;
    paths.set(indexes![cell]!, path);
    const jump = jumps![cell]!;
    if (jump >= 0 && parent !== null) waiting.push([jump === 0 ? cell + 1 : cell + jump, parent]);
    if (jump > 0 || jump === -1) waiting.push([cell + 1, path]);
  }
  for (let n = 0; n < specCount; n++) {
    const path = paths.get(specPaths![n]!) ?? '';
    for (let i = specSets![n]!; i < setCount && sets![i]! >= 0; i++) if (owners[sets![i]!] === '') owners[sets![i]!] = path;
  }
  return owners;
}

class CrateReader {
  readonly references: Reference[] = [];
  readonly cells: Cell[] = [];
  private readonly seen = new Set<string>();
  private readonly place = numbering();

  constructor(private readonly b: Blocks, private readonly t: Tables, private readonly minor: number) {}

  private add(written: string, cell: Cell, at: string, kind: ReferenceKind | null): void {
    const key = cell.in === 'field' ? `field ${cell.index}` : `${cell.at}`;
    // Equal values share one place in the file.
    if (written === '' || this.seen.has(key)) return;
    this.seen.add(key);
    this.cells.push(cell);
    this.references.push({ at: this.place(at), kind: kind ?? kindOfPath(written, 'other'), written, span: null, encoding: 'utf-8' });
  }

  private async stringCell(at: number, place: string, kind: ReferenceKind | null): Promise<void> {
    this.add(stringOf(this.t, (await this.b.view(at, 4)).getUint32(0, true)), { in: 'cell', at }, place, kind);
  }

  /** Follows one value. `cell`: where its rep stands. */
  async value(rep: Rep, cell: Cell, key: string, place: string, depth: number): Promise<void> {
    if (depth > 64) throw new BadCrate('Dictionaries are nested too deeply.', 0);
    const { b } = this;
    if (rep.type === types.asset && !rep.array) this.add(tokenOf(this.t, rep.payload), cell, place, null);
    else if (rep.type === types.asset) {
      const [count, first] = this.minor >= 7 ? [await b.u64(rep.payload), rep.payload + 8] : [(await b.view(rep.payload, 4)).getUint32(0, true), rep.payload + 4];
      this.checkCount(count, 4, first);
      for (let n = 0; n < count; n++) await this.stringCell(first + 4 * n, place, null);
    } else if (rep.type === types.stringVector && key === 'subLayers') {
      const count = await b.u64(rep.payload);
      this.checkCount(count, 4, rep.payload);
      for (let n = 0; n < count; n++) await this.stringCell(rep.payload + 8 + 4 * n, place, 'scene');
    } else if (rep.type === types.string && /^(templateAssetPath|clipTemplateAssetPath)$/.test(key) && cell.in !== 'cell') {
      this.add(stringOf(this.t, rep.payload), { ...cell, string: true }, place, 'cache');
    } else if (rep.type === types.dictionary && !rep.inlined) await this.dictionary(rep.payload, place, depth);
    else if (rep.type === types.timeSamples && !rep.inlined) await this.samples(rep.payload, key, place, depth);
    else if (rep.type === types.references || rep.type === types.payloads) await this.listOp(rep, place);
    else if (rep.type === types.payload && !rep.inlined) await this.stringCell(rep.payload, place, 'scene');
    else if (rep.type === types.value && !rep.inlined) {
      const inner = repOf(await b.view(rep.payload, 8), 0);
      await this.value(inner, { in: 'rep', at: rep.payload, string: false }, key, place, depth + 1);
    }
  }

  private checkCount(count: number, each: number, at: number): void {
    if (count * each > this.b.size) throw new BadCrate('A list is longer than the file.', at);
  }

  /** Entries: u32 string number of the key, i64 from its own place to the value's rep; the next entry follows that rep. */
  private async dictionary(at: number, place: string, depth: number): Promise<void> {
    const count = await this.b.u64(at);
    this.checkCount(count, 20, at);
    let i = at + 8;
    for (let n = 0; n < count; n++) {
      const key = stringOf(this.t, (await this.b.view(i, 4)).getUint32(0, true));
      const repAt = i + 4 + (await this.b.i64(i + 4));
      await this.value(repOf(await this.b.view(repAt, 8), 0), { in: 'rep', at: repAt, string: false }, key, `${place}:${key}`, depth + 1);
      i = repAt + 8;
    }
  }

  /** i64 from its own place to a rep (the times); behind that an i64 to the count and the reps of the values. */
  private async samples(at: number, key: string, place: string, depth: number): Promise<void> {
    const times = at + (await this.b.i64(at));
    const values = times + 8 + (await this.b.i64(times + 8));
    const count = await this.b.u64(values);
    this.checkCount(count, 8, values);
    for (let n = 0; n < count; n++) {
      const repAt = values + 8 + 8 * n;
      const rep = repOf(await this.b.view(repAt, 8), 0);
      if (rep.type !== types.asset) return; // all of one type
      await this.value(rep, { in: 'rep', at: repAt, string: false }, key, `${place}.timeSamples`, depth + 1);
    }
  }

  /** u8 flags; then for each set bit, in the order explicit, added, prepended, appended, deleted, ordered: u64 count and items. */
  private async listOp(rep: Rep, place: string): Promise<void> {
    const flags = (await this.b.view(rep.payload, 1)).getUint8(0);
    let at = rep.payload + 1;
    for (const [bit, word] of [[2, ''], [4, 'add '], [32, 'prepend '], [64, 'append '], [8, 'delete '], [16, 'reorder ']] as const) {
      if ((flags & bit) === 0) continue;
      const count = await this.b.u64(at);
      this.checkCount(count, 8, at);
      at += 8;
      const label = place.replace(/[^./]*$/, (name) => `${word}${name}`);
      for (let n = 0; n < count; n++) {
        await this.stringCell(at, label, 'scene');
        at += 8;
        if (rep.type === types.payloads) at += this.minor >= 8 ? 16 : 0;
        else at = await this.afterDictionary(at + 16, label);
      }
    }
  }

  /** The custom data of a reference; its paths count too. Returns where it ends. */
  private async afterDictionary(at: number, place: string): Promise<number> {
    const count = await this.b.u64(at);
    this.checkCount(count, 20, at);
    let i = at + 8;
    for (let n = 0; n < count; n++) i = i + 4 + (await this.b.i64(i + 4)) + 8;
    if (count > 0) await this.dictionary(at, `${place}:customData`, 0);
    return i;
  }
}

async function readParts(read: (range: ByteRange) => Promise<Uint8Array>, size: number): Promise<Reading> {
  const problem = (code: string, message: string, at: number): Reading => ({ references: [], problems: [{ code, message, span: [Math.min(at, size), Math.min(at + 8, size)] }] });
  if (size < headerSize) return problem('truncated', 'The file ends inside the crate header (88 bytes).', 0);
  const b = new Blocks(read, size);
  try {
    const head = await b.bytes(0, headerSize);
    if (!usdc.sniff(head)) return problem('not-usdc', 'This is no USD crate file: it does not begin with PXR-USDC.', 0);
    const [major, minor] = [head[8]!, head[9]!];
    if (major !== 0 || minor < 4) return problem('unsupported-version', `USD crate version ${major}.${minor} is not read; 0.4 and later are. Save it again with a newer program.`, 8);
    const tables = await readTables(b);
    const owners = await readOwners(b, tables);
    const reader = new CrateReader(b, tables, minor);
    const reps = new DataView(tables.reps.buffer, tables.reps.byteOffset, tables.reps.byteLength);
    for (let n = 0; n < tables.fieldNames.length; n++) {
      const key = tokenOf(tables, tables.fieldNames[n]!);
      const owner = owners[n]!;
      const place = key === 'default' && owner !== '' ? owner : owner === '' || owner === '/' ? key : `${owner}.${key}`;
      await reader.value(repOf(reps, 8 * n), { in: 'field', index: n, string: false }, key, place, 0);
    }
    const references = reader.references;
    const reading: Reading = { references, problems: [] };
    if (minor > 8) reading.problems.push({ code: 'read-only', message: `USD crate version ${major}.${minor} is newer than what was tried here; it is read, and not rewritten.`, span: [8, 11] });
    else reading.rewrite = (changes) => rewriteCrate(tables, reader.cells, references, changes, size);
    return reading;
  } catch (cause) {
    // Offsets out of range show as RangeError in views of the file's own bytes.
    if (cause instanceof BadCrate) return problem('bad-structure', cause.message, cause.at);
    if (cause instanceof RangeError) return problem('bad-structure', 'A part of this crate file is shorter than it says.', 0);
    throw cause;
  }
}

function u32(value: number): Uint8Array {
  return Uint8Array.of(value & 255, (value >>> 8) & 255, (value >>> 16) & 255, (value >>> 24) & 255);
}

function u64(value: number): Uint8Array {
  const out = new Uint8Array(8);
  new DataView(out.buffer).setBigUint64(0, BigInt(value), true);
  return out;
}

/** The low 48 bits of a rep. */
function payload(value: number): Uint8Array {
  return u64(value).subarray(0, 6);
}

function rewriteCrate(t: Tables, cells: readonly Cell[], references: readonly Reference[], changes: readonly { at: string; value: string }[], size: number): Edit[] | null {
  const newTokens: string[] = [];
  const newStrings: number[] = [];
  const tokenFor = (value: string): number => {
    let at = newTokens.indexOf(value);
    if (at < 0) at = newTokens.push(value) - 1;
    return t.tokenAt.length - 1 + at;
  };
  const stringFor = (value: string): number => t.strings.length + newStrings.push(tokenFor(value)) - 1;
  const edits: Edit[] = [];
  let reps: Uint8Array | null = null;
  for (const { at, value } of changes) {
    if (value === '' || /[\u0000-\u001f\u007f]/.test(value)) return null;
    const cell = cells[references.findIndex((r) => r.at === at)];
    if (!cell) return null;
    if (cell.in === 'cell') edits.push({ span: [cell.at, cell.at + 4], bytes: u32(stringFor(value)) });
    else {
      const bytes = payload(cell.string ? stringFor(value) : tokenFor(value));
      if (cell.in === 'rep') edits.push({ span: [cell.at, cell.at + 6], bytes });
      else (reps ??= t.reps.slice()).set(bytes, cell.index * 8);
    }
  }
  if (edits.length === 0 && !reps) return [];
  const parts: Uint8Array[] = [];
  let end = size;
  const put = (...bytes: Uint8Array[]) => {
    for (const part of bytes) {
      parts.push(part);
      end += part.length;
    }
  };
  const sections = new Map(t.sections);
  const section = (name: string, ...bytes: Uint8Array[]) => {
    put(new Uint8Array((8 - (end % 8)) % 8));
    sections.set(name, { at: end, size: bytes.reduce((s, p) => s + p.length, 0) });
    put(...bytes);
  };
  if (reps) {
    const packed = packLiteral(reps);
    section('FIELDS', u64(t.fieldNames.length), u64(t.fieldNameBlock.length), t.fieldNameBlock, u64(packed.length), packed);
  }
  const added = utf8(newTokens.map((x) => `${x}\0`).join(''));
  const tokens = new Uint8Array(t.tokens.length + added.length);
  tokens.set(t.tokens);
  tokens.set(added, t.tokens.length);
  const packed = packLiteral(tokens);
  section('TOKENS', u64(t.tokenAt.length - 1 + newTokens.length), u64(tokens.length), u64(packed.length), packed);
  if (newStrings.length > 0) section('STRINGS', u64(t.strings.length + newStrings.length), ...[...t.strings, ...newStrings].map(u32));
  put(new Uint8Array((8 - (end % 8)) % 8));
  const toc = end;
  put(u64(sections.size));
  for (const [name, s] of sections) {
    const label = new Uint8Array(16);
    label.set(utf8(name));
    put(label, u64(s.at), u64(s.size));
  }
  const tail = new Uint8Array(end - size);
  let at = 0;
  for (const part of parts) {
    tail.set(part, at);
    at += part.length;
  }
  return [{ span: [16, 24], bytes: u64(toc) }, ...edits, { span: [size, size], bytes: tail }];
}

export const usdc: Format = {
  id: 'usdc',
  name: 'USD (binary)',
  extensions: ['.usdc', '.usd'],
  syntax: 'usd',
  sniff(head) {
    return decodeText(head.subarray(0, 8)).text === 'PXR-USDC';
  },
  read() {
    throw new Error('a crate file is read in parts');
  },
  readParts,
  encode: () => null,
};
