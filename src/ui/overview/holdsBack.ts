// What keeps references from travelling, in words.

import { inWords } from '@/core/text/figures';

const stateWords: Record<string, (n: number) => string> = {
  missing: (n) => `${inWords(n)} ${n === 1 ? 'is' : 'are'} missing`,
  outside: (n) => `${inWords(n)} ${n === 1 ? 'lies' : 'lie'} outside`,
  case: (n) => `${inWords(n)} ${n === 1 ? 'differs' : 'differ'} in letter case`,
  absolute: (n) => `${inWords(n)} ${n === 1 ? 'is' : 'are'} absolute`,
  offline: (n) => `${inWords(n)} ${n === 1 ? 'is' : 'are'} offline`,
  library: (n) => `${inWords(n)} ${n === 1 ? 'lies' : 'lie'} in a library, which travels apart`,
  remote: (n) => `${inWords(n)} ${n === 1 ? 'needs' : 'need'} the network`,
};

/** What keeps references from travelling, as one sentence. */
export function whatHoldsBack(byState: Record<string, number>, odd: number, gapped: number): string {
  const parts = ['outside', 'missing', 'case', 'absolute', 'offline', 'remote', 'library']
    .filter((s) => byState[s])
    .map((s) => stateWords[s]!(byState[s]!));
  if (gapped > 0) parts.push(`${inWords(gapped)} ${gapped === 1 ? 'has' : 'have'} holes`);
  if (odd > 0) parts.push(`${inWords(odd)} ${odd === 1 ? 'is' : 'are'} oddly spelt`);
  const all = parts.length > 1 ? `${parts.slice(0, -1).join(', ')}, ${parts.at(-1)}` : (parts[0] ?? '');
  return all === '' ? '' : `${all[0]!.toUpperCase()}${all.slice(1)}.`;
}
