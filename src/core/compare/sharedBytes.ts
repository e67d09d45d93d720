// How much of two files is the same, wherever in them it stands.

import { cutAt, sizesAround, type ChunkSizes } from '../store/chunking';
import type { Hasher } from './hasher';

/** Pieces of 64 bytes for small files, of 8 kB for large ones. */
const sizesFor = (size: number) => sizesAround(size < 256 * 1024 ? 6 : size < 4 * 1024 * 1024 ? 10 : 13);

/** Bytes of `after` that stand in `before`, too. */
export function sharedBytes(before: Uint8Array, after: Uint8Array, start: Hasher): number {
  const known = new Set<string>();
  const sizes = sizesFor(Math.max(before.length, after.length));
  for (const chunk of chunksOf(before, sizes)) known.add(mark(chunk, start));
  let shared = 0;
  for (const chunk of chunksOf(after, sizes)) if (known.has(mark(chunk, start))) shared += chunk.length;
  return shared;
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
