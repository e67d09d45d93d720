// BLAKE3 by native code, fed in parts; the same ids as the core's own (core/files/digest.ts).

import { Blake3Hasher } from '@napi-rs/blake-hash';
import type { Digest } from '@/core/files/digest';

/** A hash under way. */
export interface Hashing {
  update(part: Uint8Array): void;
  digest(): Digest;
}

export function startHash(): Hashing {
  const hasher = new Blake3Hasher();
  return {
    update(part) {
      hasher.update(Buffer.from(part.buffer, part.byteOffset, part.byteLength));
    },
    digest: () => hasher.digest('hex') as Digest,
  };
}
