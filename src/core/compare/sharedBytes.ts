// How much of two files is the same, wherever in them it stands.

import { cutAt, sizesAround, type ChunkSizes } from '../store/chunking';
import type { Hasher } from './hasher';

/** Pieces of 64 bytes for small files, of 8 kB for large ones. */
const sizesFor = (size: number) => sizesAround(size < 256 * 1024 ? 6 : size < 4 * 1024 * 1024 ? 10 : 13);

/** A change so small beside what stayed is looked for only where `before` differs, too. */
const smallPart = 1 / 64;

/** Bytes of `after` that stand in `before`, too. */
export function sharedBytes(before: Uint8Array, after: Uint8Array, start: Hasher): number {
  const head = sameAtStart(before, after);
  const tail = sameAtEnd(before.subarray(head), after.subarray(head));
  const middle = after.subarray(head, after.length - tail);
  if (middle.length === 0) return after.length;
  const isSmall = middle.length < after.length * smallPart;
  const among = isSmall ? before.subarray(head, before.length - tail) : before;
  const sizes = sizesFor(Math.max(among.length, middle.length));
  const known = new Set<string>();
  for (const chunk of chunksOf(among, sizes)) known.add(mark(chunk, start));
  let shared = head + tail;
  for (const chunk of chunksOf(middle, sizes)) if (known.has(mark(chunk, start))) shared += chunk.length;
  return shared;
}

// Where the platform compares by itself (Node.js), that is some twenty times faster than a loop here.
const native = (globalThis as { Buffer?: { compare(a: Uint8Array, b: Uint8Array): number } }).Buffer;
const step = 64 * 1024;

/** So many bytes are the same from the start on. */
function sameAtStart(a: Uint8Array, b: Uint8Array): number {
  const least = Math.min(a.length, b.length);
  let n = 0;
  while (
    native &&
    n + step <= least &&
    native.compare(a.subarray(n, n + step), b.subarray(n, n + step)) === 0
  )
    n += step;
  while (n < least && a[n] === b[n]) n++;
  return n;
}

/** So many are the same up to the end. */
function sameAtEnd(a: Uint8Array, b: Uint8Array): number {
  const least = Math.min(a.length, b.length);
  const part = (of: Uint8Array, n: number) => of.subarray(of.length - n - step, of.length - n);
  let n = 0;
  while (native && n + step <= least && native.compare(part(a, n), part(b, n)) === 0) n += step;
  while (n < least && a[a.length - 1 - n] === b[b.length - 1 - n]) n++;
  return n;
}

function mark(bytes: Uint8Array, start: Hasher): string {
  const hash = start();
  hash.update(bytes);
  return hash.digest();
}

function* chunksOf(bytes: Uint8Array, sizes: ChunkSizes): Iterable<Uint8Array> {
  for (let at = 0; at < bytes.length;) {
    const end = cutAt(bytes, at, bytes.length, sizes);
    yield bytes.subarray(at, end);
    at = end;
  }
}
