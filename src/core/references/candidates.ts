// Files that a written path could mean when nothing lies where it points: by name, by name in other letters, by a near spelling; ranked by
// how many folders above agree. A near spelling is only ever a suggestion.

import { comparePaths, extensionOf, nameOf, stemOf } from '../files/treePath';
import { foldName } from '../names/portable';

/** A file that could be meant. `path` is a tree path inside the root, absolute outside. */
export interface Candidate {
  path: string;
  inside: boolean;
  /** Why: letter for letter the same name, the same but for case or Unicode form, or a near spelling. */
  reason: 'same name' | 'same name in other letters' | 'near spelling';
  /** How many folders above the file agree with the written path. */
  folders: number;
}

interface Known {
  path: string;
  inside: boolean;
}

/** Files by their folded name, to look candidates up in. */
export class NameIndex {
  private readonly byName = new Map<string, Known[]>();

  add(path: string, inside: boolean): void {
    const key = foldName(nameOf(path));
    const held = this.byName.get(key);
    if (held) held.push({ path, inside });
    else this.byName.set(key, [{ path, inside }]);
  }

  /** What could be meant by a path, '/'-separated, best first. */
  candidatesFor(path: string): Candidate[] {
    return candidatesFor(path, this.byName);
  }
}

/** How many single letters must be put, taken or changed to make one text of the other; more than `most`: most + 1. */
export function editDistance(a: string, b: string, most: number): number {
  if (Math.abs(a.length - b.length) > most) return most + 1;
  let row = Array.from({ length: b.length + 1 }, (_, i) => i);
  for (let i = 1; i <= a.length; i++) {
    const next = [i];
    for (let j = 1; j <= b.length; j++) next[j] = Math.min(row[j]! + 1, next[j - 1]! + 1, row[j - 1]! + (a[i - 1] === b[j - 1] ? 0 : 1));
    if (Math.min(...next) > most) return most + 1;
    row = next;
  }
  return row[b.length]!;
}

function foldersAlike(written: readonly string[], path: string): number {
  const parts = path.split('/').slice(0, -1).map(foldName);
  let n = 0;
  while (n < parts.length && n < written.length && parts[parts.length - 1 - n] === written[written.length - 1 - n]) n++;
  return n;
}

/** What could be meant by a written path, best first. */
function candidatesFor(path: string, known: ReadonlyMap<string, readonly Known[]>): Candidate[] {
  const parts = path.split('/').filter((p) => p !== '' && p !== '.' && p !== '..');
  const name = parts.pop() ?? '';
  const folders = parts.map(foldName);
  const make = (k: Known, reason: Candidate['reason']): Candidate => ({ ...k, reason, folders: foldersAlike(folders, k.path) });
  const same = (known.get(foldName(name)) ?? []).map((k) => make(k, nameOf(k.path) === name ? 'same name' : 'same name in other letters'));
  const near: Candidate[] = [];
  if (same.length === 0 && name.length >= 5) {
    const most = name.length >= 10 ? 2 : 1;
    for (const [folded, files] of known) {
      if (extensionOf(folded) !== extensionOf(foldName(name)) || editDistance(stemOf(folded), stemOf(foldName(name)), most) > most) continue;
      near.push(...files.map((k) => make(k, 'near spelling')));
    }
  }
  const order = ['same name', 'same name in other letters', 'near spelling'];
  return [...same, ...near].sort((a, b) => order.indexOf(a.reason) - order.indexOf(b.reason) || b.folders - a.folders || Number(b.inside) - Number(a.inside) || comparePaths(a.path, b.path));
}

/** The one that is sure; null where none is: near spellings never are, nor are two that fit alike. */
export function sureOne(candidates: readonly Candidate[]): Candidate | null {
  const [first, second] = candidates;
  if (!first || first.reason === 'near spelling') return null;
  if (second && second.reason === first.reason && second.folders === first.folders && second.inside === first.inside) return null;
  return first;
}

