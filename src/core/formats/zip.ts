// The list of what is in a ZIP, by its central directory (PKWARE APPNOTE 6.3, §4.3.12 to §4.3.16); entries of more than 4 GB are not followed.

import type { ByteRange } from '../files/fileTree';
import { decodeText, latin1, viewOf } from '../text/bytes';

/** An entry: offset of its data, bytes as they are packed and as they were, method (0 stored, 8 deflated). */
export interface ZipEntry {
  name: string;
  at: number;
  packed: number;
  size: number;
  method: number;
  /** General purpose flags; bit 3: sizes stand behind the data. */
  flags: number;
  /** Offset of its local header. */
  local: number;
  /** Its entry in the central directory, as it stands. */
  central: Uint8Array;
}

const mostEntries = 100_000;

export type Read = (range: ByteRange) => Promise<Uint8Array>;

/** The entries of a ZIP by its central directory; null where there is none. */
export async function readDirectory(read: Read, size: number): Promise<ZipEntry[] | null> {
  const tailAt = Math.max(0, size - 65_557);
  const tail = new Uint8Array(await read([tailAt, size]));
  let end = -1;
  for (let i = tail.length - 22; i >= 0 && end < 0; i--)
    if (tail[i] === 0x50 && tail[i + 1] === 0x4b && tail[i + 2] === 5 && tail[i + 3] === 6) end = i;
  if (end < 0) return null;
  const record = viewOf(tail.subarray(end));
  let [count, length, at] = [
    record.getUint16(10, true),
    record.getUint32(12, true),
    record.getUint32(16, true),
  ];
  if (at === 0xffffffff || count === 0xffff) {
    const locator = tail.subarray(Math.max(0, end - 20), end);
    if (locator.length < 20 || viewOf(locator).getUint32(0, true) !== 0x07064b50) return null;
    const where = Number(viewOf(locator).getBigUint64(8, true));
    const wide = await read([where, Math.min(size, where + 56)]);
    if (wide.length < 56) return null;
    [count, length, at] = [
      Number(viewOf(wide).getBigUint64(32, true)),
      Number(viewOf(wide).getBigUint64(40, true)),
      Number(viewOf(wide).getBigUint64(48, true)),
    ];
  }
  if (count > mostEntries || at + length > size) return null;
  const directory = new Uint8Array(await read([at, at + length]));
  const entries: ZipEntry[] = [];
  let i = 0;
  for (let n = 0; n < count; n++) {
    if (i + 46 > directory.length) return null;
    const v = viewOf(directory.subarray(i));
    if (v.getUint32(0, true) !== 0x02014b50) return null;
    const [nameLength, extra, comment] = [
      v.getUint16(28, true),
      v.getUint16(30, true),
      v.getUint16(32, true),
    ];
    const raw = directory.subarray(i + 46, i + 46 + nameLength);
    const name = (v.getUint16(8, true) & 0x800) !== 0 ? decodeText(raw).text : latin1(raw);
    const local = v.getUint32(42, true);
    const head = await read([local, Math.min(size, local + 30)]);
    if (head.length < 30) return null;
    const headView = viewOf(head);
    entries.push({
      name,
      at: local + 30 + headView.getUint16(26, true) + headView.getUint16(28, true),
      packed: v.getUint32(20, true),
      size: v.getUint32(24, true),
      method: v.getUint16(10, true),
      flags: v.getUint16(8, true),
      local,
      central: directory.subarray(i, i + 46 + nameLength + extra + comment),
    });
    i += 46 + nameLength + extra + comment;
  }
  return entries;
}

/** An entry whose bytes are another's, too; null: each has its own. Only an archive that is made to grow shares bytes between entries. */
export function sharedEntry(entries: readonly ZipEntry[]): ZipEntry | null {
  let end = 0;
  for (const e of [...entries].sort((a, b) => a.local - b.local)) {
    if (e.local < end) return e;
    end = Math.max(end, e.at + e.packed);
  }
  return null;
}

/** Why a package is not looked into; null: it is. */
export function packageTrouble(
  entries: readonly ZipEntry[] | null,
  size: number,
): { code: string; message: string } | null {
  if (size === 0) return { code: 'empty-file', message: 'The file is empty.' };
  if (!entries) return { code: 'truncated', message: 'This package has no whole list of what is in it.' };
  const shared = sharedEntry(entries);
  if (!shared) return null;
  const message = `${shared.name} shares its bytes with another entry of this package; it is not looked into.`;
  return { code: 'shared-bytes', message };
}
