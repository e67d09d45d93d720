// What a machine would say, in a few words, and how bad it is.

import { bytes, count, figure } from '@/core/text/figures';
import { nameOf } from '@/core/files/treePath';
import type { RehearsalView } from '@/wire/views';

export interface Outcome {
  tone: 'green' | 'amber' | 'brick';
  says: string;
}

const isOf = (code: string) => (f: RehearsalView['failures'][number]) => f.kind === 'file' && f.code === code;

/** The weightiest first; what is left in the drawer. */
export function outcomeOf(r: RehearsalView): Outcome {
  const names = r.failures.filter(isOf('name')).length + r.failures.filter(isOf('case-collision')).length;
  const long = r.failures.filter(isOf('path-too-long')).length;
  const large = r.failures.filter(isOf('file-too-large'));
  const lost = r.references - r.open;
  if (r.failures.length === 0)
    return r.leansOn.length === 0
      ? { tone: 'green', says: 'opens complete' }
      : { tone: 'green', says: `opens complete with ${r.leansOn[0]!.head}` };
  if (r.failures.some(isOf('no-room'))) return { tone: 'brick', says: `too little room: ${bytes(r.bytes)}` };
  if (large.length > 0)
    return {
      tone: 'brick',
      says:
        large.length === 1
          ? `${nameOf(large[0]!.path)} is too large`
          : `${count(large.length, 'file')} too large`,
    };
  if (names > 0) return { tone: 'amber', says: `${count(names, 'name')} refused` };
  if (long > 0) return { tone: 'amber', says: `${count(long, 'path')} too long` };
  if (lost > 0) return { tone: 'brick', says: `${figure(lost)} of ${figure(r.references)} would not open` };
  return {
    tone: 'amber',
    says: `${count(r.failures.length, 'file')} ${r.failures.length === 1 ? 'needs' : 'need'} attention`,
  };
}
