// USD, binary form ("crate"; .usdc, and .usd that begins PXR-USDC). Paths are kept once, as tokens; values point to them by number:
//
//     header (88 bytes, where the table of contents is at byte 16) … values … TOKENS STRINGS FIELDS FIELDSETS PATHS SPECS, contents
//
// Only the tables and the values that can hold a path are read, wherever they lie. A rewrite changes no token, since a token serves many
// values: it numbers new ones after the old, changes the cells that are to point to them, appends new tables behind everything and points
// the header there. Layout as found in files that OpenUSD 22 wrote, versions 0.4 to 0.8; others are read, not rewritten.

import type { ByteRange } from '../files/fileTree';
import { decodeText } from '../text/bytes';
import { BadCrate } from './crate';
import { rewriteCrate, type Cell } from './crateRewrite';
import {
  Blocks,
  readOwners,
  readTables,
  repOf,
  stringOf,
  tokenOf,
  type Rep,
  type Tables,
} from './crateTables';
import type { Format, Reading, Reference, ReferenceKind } from './format';
import { kindOfPath } from './kinds';
import { numbering } from './markup';

const types = {
  string: 10,
  asset: 12,
  dictionary: 31,
  references: 35,
  timeSamples: 46,
  payload: 47,
  stringVector: 50,
  value: 52,
  payloads: 55,
};
const headerSize = 88;

class CrateReader {
  readonly references: Reference[] = [];
  readonly cells: Cell[] = [];
  private readonly seen = new Set<string>();
  private readonly place = numbering();

  constructor(
    private readonly b: Blocks,
    private readonly t: Tables,
    private readonly minor: number,
  ) {}

  private add(written: string, cell: Cell, at: string, kind: ReferenceKind | null): void {
    const key = cell.in === 'field' ? `field ${cell.index}` : `${cell.at}`;
    // Equal values share one place in the file.
    if (written === '' || this.seen.has(key)) return;
    this.seen.add(key);
    this.cells.push(cell);
    this.references.push({
      at: this.place(at),
      kind: kind ?? kindOfPath(written, 'other'),
      written,
      span: null,
      encoding: 'utf-8',
    });
  }

  private async stringCell(at: number, place: string, kind: ReferenceKind | null): Promise<void> {
    this.add(
      stringOf(this.t, (await this.b.view(at, 4)).getUint32(0, true)),
      { in: 'cell', at },
      place,
      kind,
    );
  }

  /** Follows one value. `cell`: where its rep stands. */
  async value(rep: Rep, cell: Cell, key: string, place: string, depth: number): Promise<void> {
    if (depth > 64) throw new BadCrate('Dictionaries are nested too deeply.', 0);
    const { b } = this;
    if (rep.type === types.asset && !rep.array) this.add(tokenOf(this.t, rep.payload), cell, place, null);
    else if (rep.type === types.asset) {
      const [count, first] =
        this.minor >= 7
          ? [await b.u64(rep.payload), rep.payload + 8]
          : [(await b.view(rep.payload, 4)).getUint32(0, true), rep.payload + 4];
      this.checkCount(count, 4, first);
      for (let n = 0; n < count; n++) await this.stringCell(first + 4 * n, place, null);
    } else if (rep.type === types.stringVector && key === 'subLayers') {
      const count = await b.u64(rep.payload);
      this.checkCount(count, 4, rep.payload);
      for (let n = 0; n < count; n++) await this.stringCell(rep.payload + 8 + 4 * n, place, 'scene');
    } else if (
      rep.type === types.string &&
      /^(templateAssetPath|clipTemplateAssetPath)$/.test(key) &&
      cell.in !== 'cell'
    ) {
      this.add(stringOf(this.t, rep.payload), { ...cell, string: true }, place, 'cache');
    } else if (rep.type === types.dictionary && !rep.inlined)
      await this.dictionary(rep.payload, place, depth);
    else if (rep.type === types.timeSamples && !rep.inlined)
      await this.samples(rep.payload, key, place, depth);
    else if (rep.type === types.references || rep.type === types.payloads) await this.listOp(rep, place);
    else if (rep.type === types.payload && !rep.inlined) await this.stringCell(rep.payload, place, 'scene');
    else if (rep.type === types.value && !rep.inlined) {
      const at = rep.payload + (await b.i64(rep.payload));
      const inner = repOf(await b.view(at, 8), 0);
      await this.value(inner, { in: 'rep', at, string: false }, key, place, depth + 1);
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
      await this.value(
        repOf(await this.b.view(repAt, 8), 0),
        { in: 'rep', at: repAt, string: false },
        key,
        `${place}:${key}`,
        depth + 1,
      );
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
    for (const [bit, word] of [
      [2, ''],
      [4, 'add '],
      [32, 'prepend '],
      [64, 'append '],
      [8, 'delete '],
      [16, 'reorder '],
    ] as const) {
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
  const problem = (code: string, message: string, at: number): Reading => ({
    references: [],
    problems: [{ code, message, span: [Math.min(at, size), Math.min(at + 8, size)] }],
  });
  if (size < headerSize) return problem('truncated', 'The file ends inside the crate header (88 bytes).', 0);
  const b = new Blocks(read, size);
  try {
    const head = await b.bytes(0, headerSize);
    if (!usdc.sniff(head))
      return problem('not-usdc', 'This is no USD crate file: it does not begin with PXR-USDC.', 0);
    const [major, minor] = [head[8]!, head[9]!];
    if (major !== 0 || minor < 4)
      return problem(
        'unsupported-version',
        `USD crate version ${major}.${minor} is not read; 0.4 and later are. Save it again with a newer program.`,
        8,
      );
    const tables = await readTables(b);
    const owners = await readOwners(b, tables);
    const reader = new CrateReader(b, tables, minor);
    const reps = new DataView(tables.reps.buffer, tables.reps.byteOffset, tables.reps.byteLength);
    for (let n = 0; n < tables.fieldNames.length; n++) {
      const key = tokenOf(tables, tables.fieldNames[n]!);
      const owner = owners[n]!;
      const place =
        key === 'default' && owner !== '' ? owner : owner === '' || owner === '/' ? key : `${owner}.${key}`;
      await reader.value(repOf(reps, 8 * n), { in: 'field', index: n, string: false }, key, place, 0);
    }
    const references = reader.references;
    const reading: Reading = { references, problems: [] };
    if (minor > 8)
      reading.problems.push({
        code: 'read-only',
        message: `USD crate version ${major}.${minor} is newer than what was tried here; it is read, and not rewritten.`,
        span: [8, 11],
      });
    else reading.rewrite = (changes) => rewriteCrate(tables, reader.cells, references, changes, size);
    return reading;
  } catch (cause) {
    // Offsets out of range show as RangeError in views of the file's own bytes.
    if (cause instanceof BadCrate) return problem('bad-structure', cause.message, cause.at);
    if (cause instanceof RangeError)
      return problem('bad-structure', 'A part of this crate file is shorter than it says.', 0);
    throw cause;
  }
}

export const usdc: Format = {
  id: 'usdc',
  name: 'USD (binary)',
  extensions: ['.usdc', '.usd'],
  syntax: 'usd',
  searches: 'unanchored',
  sniff(head) {
    return decodeText(head.subarray(0, 8)).text === 'PXR-USDC';
  },
  read() {
    throw new Error('a crate file is read in parts');
  },
  readParts,
  encode: () => null,
};
