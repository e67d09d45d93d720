// BLAKE3 by native code, fed in parts; the same ids as the core's own (core/files/digest.ts).

import { createRequire } from 'node:module';
import type { Digest, Hashing } from '@/core/files/digest';

// Loaded at the first hash: finding out which build of it fits this machine takes longer than most calls that need none.
let native: typeof import('@napi-rs/blake-hash') | null = null;
const load = () =>
  (native ??= createRequire(import.meta.url)('@napi-rs/blake-hash') as typeof import('@napi-rs/blake-hash'));

export function startHash(): Hashing {
  const hasher = new (load().Blake3Hasher)();
  return {
    update(part) {
      hasher.update(Buffer.from(part.buffer, part.byteOffset, part.byteLength));
    },
    digest: () => hasher.digest('hex') as Digest,
  };
}
