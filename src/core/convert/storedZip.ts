// A ZIP whose files lie in it unpacked, so that it is put together of the files as they are. Sources: PKWARE APPNOTE 6.3.9, §4.3 and §4.4; USDZ File Format
// Specification, "Layout" (nothing packed, each file's bytes begin at a multiple of 64); extended timestamp: Info-ZIP's extra field 0x5455, from memory.

import { latin1, utf8 } from '../text/bytes';

export interface StoredFile {
  /** Its name in the package, '/'-separated. */
  name: string;
  size: number;
  crc: number;
  /** When it was modified, in ms since 1970 UTC: written as the extended timestamp (only where nothing is aligned). */
  modified?: number | undefined;
}

/** Bytes before each file, in order, and those behind the last one; and where each file begins. */
export interface StoredZip {
  before: string[];
  end: string;
  size: number;
}

/** Sizes and places of a ZIP without the 64-bit form. */
export const mostInZip = 2 ** 32 - 1;
const mostFiles = 65_535;

function words(...fields: readonly (readonly [value: number, bytes: 2 | 4])[]): Uint8Array {
  const out = new Uint8Array(fields.reduce((sum, [, size]) => sum + size, 0));
  const view = new DataView(out.buffer);
  let at = 0;
  for (const [value, size] of fields) {
    if (size === 2) view.setUint16(at, value, true);
    else view.setUint32(at, value, true);
    at += size;
  }
  return out;
}

// 1 January 1980: a package made twice of the same files is the same.
const noDate = 0x21;
const unicode = 0x800;

/** A time in whole seconds of UTC, for programs that unpack; null where the field cannot say it. */
function stampOf(modified: number | undefined): Uint8Array | null {
  if (modified === undefined) return null;
  const seconds = Math.floor(modified / 1000);
  if (seconds < 0 || seconds > 0x7fffffff) return null;
  return Uint8Array.of(...words([0x5455, 2], [5, 2]), 1, ...words([seconds, 4]));
}

/** Lays it out; null: it would need the 64-bit form. `align`: each file begins at a multiple of so many bytes. */
export function storedZip(files: readonly StoredFile[], align = 1): StoredZip | null {
  if (files.length > mostFiles) return null;
  const before: string[] = [];
  const directory: Uint8Array[] = [];
  let at = 0;
  for (const { name, size, crc, modified } of files) {
    const stamp = align === 1 ? stampOf(modified) : null;
    const bytes = utf8(name);
    const flags = /^[\x20-\x7e]*$/.test(name) ? 0 : unicode;
    const begin = at + 30 + bytes.length;
    const lacks = (align - (begin % align)) % align;
    // An extra field is at least four bytes: its mark and its length.
    const extra = stamp ? stamp.length : lacks === 0 ? 0 : lacks < 4 ? lacks + align : lacks;
    const common: (readonly [number, 2 | 4])[] = [
      [flags, 2],
      [0, 2],
      [0, 2],
      [noDate, 2],
      [crc, 4],
      [size, 4],
      [size, 4],
      [bytes.length, 2],
    ];
    const head = words([0x04034b50, 4], [20, 2], ...common, [extra, 2]);
    const blank = stamp
      ? latin1(stamp)
      : extra === 0
        ? ''
        : latin1(words([0x1986, 2], [extra - 4, 2])) + '\0'.repeat(extra - 4);
    before.push(latin1(head) + latin1(bytes) + blank);
    directory.push(
      words(
        [0x02014b50, 4],
        [20, 2],
        [20, 2],
        ...common,
        [stamp?.length ?? 0, 2],
        [0, 2],
        [0, 2],
        [0, 2],
        [0, 4],
        [at, 4],
      ),
      bytes,
      stamp ?? new Uint8Array(0),
    );
    at = begin + extra + size;
    if (at > mostInZip) return null;
  }
  const length = directory.reduce((sum, d) => sum + d.length, 0);
  const tail = words(
    [0x06054b50, 4],
    [0, 2],
    [0, 2],
    [files.length, 2],
    [files.length, 2],
    [length, 4],
    [at, 4],
    [0, 2],
  );
  return {
    before,
    end: [...directory, tail].map((d) => latin1(d)).join(''),
    size: at + length + tail.length,
  };
}
