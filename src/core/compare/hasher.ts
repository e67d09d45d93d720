// Short marks by which content is told apart where it is too long to be shown.

import type { Hashing } from '../files/digest';
import { utf8 } from '../text/bytes';

/** Begins a hash. */
export type Hasher = () => Hashing;

/** Eight digits that tell a text from another. */
export function hashText(start: Hasher, text: string): string {
  return hashBytes(start, utf8(text));
}

/** The same for bytes. */
export function hashBytes(start: Hasher, bytes: Uint8Array): string {
  const hash = start();
  hash.update(bytes);
  return hash.digest().slice(0, 8);
}
