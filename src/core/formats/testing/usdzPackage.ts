// USD packages for tests, written byte by byte.

import { crc32 } from '../../text/crc32';

/** A package of stored entries; with `align`, each begins at a multiple of 64 by a padded extra field, as the specification has it. */
export function packageOf(files: [string, string][], align = true): Uint8Array {
  const parts: Uint8Array[] = [];
  const directory: Uint8Array[] = [];
  const bytes = (n: number, ...values: [at: number, size: 2 | 4, value: number][]) => {
    const out = new Uint8Array(n);
    const v = new DataView(out.buffer);
    for (const [at, size, value] of values) {
      if (size === 2) v.setUint16(at, value, true);
      else v.setUint32(at, value, true);
    }
    return out;
  };
  let at = 0;
  for (const [name, content] of files) {
    const [n, c] = [new TextEncoder().encode(name), new TextEncoder().encode(content)];
    const over = (at + 30 + n.length) % 64;
    const extra = !align || over === 0 ? 0 : 64 - over < 4 ? 128 - over : 64 - over;
    const head = bytes(
      30,
      [0, 4, 0x04034b50],
      [4, 2, 10],
      [14, 4, crc32(c)],
      [18, 4, c.length],
      [22, 4, c.length],
      [26, 2, n.length],
      [28, 2, extra],
    );
    directory.push(
      bytes(
        46,
        [0, 4, 0x02014b50],
        [16, 4, crc32(c)],
        [20, 4, c.length],
        [24, 4, c.length],
        [28, 2, n.length],
        [42, 4, at],
      ),
      n,
    );
    const pad = extra ? bytes(extra, [0, 2, 0x1986], [2, 2, extra - 4]) : new Uint8Array();
    parts.push(head, n, pad, c);
    at += head.length + n.length + pad.length + c.length;
  }
  const length = directory.reduce((s, d) => s + d.length, 0);
  parts.push(
    ...directory,
    bytes(22, [0, 4, 0x06054b50], [8, 2, files.length], [10, 2, files.length], [12, 4, length], [16, 4, at]),
  );
  return Buffer.concat(parts);
}
