// Content ids. BLAKE3 with 256 bits (published: the BLAKE3 specification, 2020), written as 64 lower-case hex digits.
// The pure implementation here serves small inputs (journal lines, scene text); trees hash whole files by faster means.

import { blake3 } from '@noble/hashes/blake3.js';

declare const brand: unique symbol;

/** A BLAKE3-256 content id, 64 lower-case hex digits. */
export type Digest = string & { readonly [brand]: 'Digest' };

/** A content id under way, fed in parts. */
export interface Hashing {
  update(part: Uint8Array): void;
  digest(): Digest;
}

const hexPairs = Array.from({ length: 256 }, (_, i) => i.toString(16).padStart(2, '0'));

/** Bytes as lower-case hex. */
export function hex(bytes: Uint8Array): string {
  let out = '';
  for (const b of bytes) out += hexPairs[b];
  return out;
}

/** The content id of bytes held in memory. */
export function digestOf(bytes: Uint8Array): Digest {
  return hex(blake3(bytes)) as Digest;
}

/** The same for bytes that come in parts. */
export function startDigest(): Hashing {
  const hash = blake3.create();
  return { update: (part) => void hash.update(part), digest: () => hex(hash.digest()) as Digest };
}
