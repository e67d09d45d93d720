// Files that a written path could mean when nothing lies where it points, ranked, each with its reason. What speaks for a file: that it has
// the content that used to lie there, its name, the folders above it, the files it lies among, its size. Only a name or a content that no
// other file shares makes one sure; what is alike in any other way is a suggestion, and stays one.

import { comparePaths, extensionOf, nameOf, stemOf } from '../files/treePath';
import { kindOfExtension } from '../formats/kinds';
import { foldName } from '../names/portable';
import { sampleOf, sequencePattern, type SequencePattern } from '../names/sequences';

export const reasons = [
  'same content',
  'same name',
  'same name in other letters',
  'same name in another format',
  'another number',
  'near spelling',
  'same size and kind',
] as const;
export type Reason = (typeof reasons)[number];

/** A file that could be meant. `path` is a tree path inside the root, absolute outside. */
export interface Candidate {
  path: string;
  inside: boolean;
  reason: Reason;
  /** How many folders above the file agree with the written path, from the file upwards. */
  folders: number;
  /** How many of the files that used to lie beside it lie beside this one. */
  neighbours: number;
  /** Bytes; null where that is not known. */
  size: number | null;
  /** True where its size is not the one that was last seen: it may be another file, or a newer one. */
  isOtherSize: boolean;
  /** Higher is likelier; for ranking only. */
  score: number;
}

/** What is known of the file that is missing, beside the path. */
export interface Evidence {
  /** Bytes it had when it was last seen. */
  size?: number | undefined;
  /** Content it had. */
  digest?: string | undefined;
  /** Names of other files referenced in the folder the path points to. */
  neighbours?: readonly string[] | undefined;
}

interface Known {
  path: string;
  inside: boolean;
  name: string;
  size: number | null;
  digest: string | null;
}

/** Files to look candidates up in. */
export class NameIndex {
  private readonly byName = new Map<string, Known[]>();
  private readonly bySize = new Map<number, Known[]>();
  private readonly byDigest = new Map<string, Known[]>();
  private readonly namesIn = new Map<string, Set<string>>();
  /** Folded names by stem, by what is left when numbers are taken out, and by extension and length. */
  private groups: {
    stem: Map<string, string[]>;
    bare: Map<string, string[]>;
    near: Map<string, string[]>;
  } | null = null;

  add(path: string, inside: boolean, facts: { size?: number | null; digest?: string | null } = {}): void {
    const known: Known = {
      path,
      inside,
      name: foldName(nameOf(path)),
      size: facts.size ?? null,
      digest: facts.digest ?? null,
    };
    put(this.byName, known.name, known);
    if (known.size !== null && known.size > 0) put(this.bySize, known.size, known);
    if (known.digest !== null) put(this.byDigest, known.digest, known);
    const folder = path.slice(0, Math.max(0, path.lastIndexOf('/')));
    const names = this.namesIn.get(folder);
    if (names) names.add(known.name);
    else this.namesIn.set(folder, new Set([known.name]));
    this.groups = null;
  }

  /** What could be meant by a path, '/'-separated, best first. */
  candidatesFor(path: string, evidence: Evidence = {}): Candidate[] {
    const parts = path.split('/').filter((p) => p !== '' && p !== '.' && p !== '..');
    const written = parts.pop() ?? '';
    const name = foldName(written);
    const folders = parts.map(foldName);
    const found = new Map<string, Candidate>();
    const neighbours = [...new Set((evidence.neighbours ?? []).map(foldName))].filter((n) => n !== name);
    const set = sequencePattern(written);
    // All worths and weights here: common practice, no source; tried on the breakages of candidates.test.ts.
    // A size that one file alone has is nearly proof; one that many have says little.
    const alone = evidence.size !== undefined && this.bySize.get(evidence.size)?.length === 1;
    const take = (k: Pick<Known, 'path' | 'inside' | 'size'>, reason: Reason, worth: number) => {
      if (found.has(k.path)) return;
      const beside = this.namesIn.get(k.path.slice(0, Math.max(0, k.path.lastIndexOf('/'))))!;
      const together = neighbours.filter((n) => beside.has(n)).length;
      const sized =
        evidence.size !== undefined && k.size !== null
          ? evidence.size === k.size
            ? alone
              ? 35
              : 12
            : -20
          : 0;
      const score =
        worth +
        20 * likeness(folders, k.path) +
        (neighbours.length > 0 ? (12 * together) / neighbours.length : 0) +
        sized +
        (k.inside ? 3 : 0);
      found.set(k.path, {
        path: k.path,
        inside: k.inside,
        reason,
        folders: foldersAlike(folders, k.path),
        neighbours: together,
        size: k.size,
        isOtherSize: sized < 0,
        score,
      });
    };
    if (set) {
      for (const k of this.foldersOfSet(written, set)) take(k, 'same name', 60);
      return ranked(found.values());
    }
    if (evidence.digest !== undefined)
      for (const k of this.byDigest.get(evidence.digest) ?? []) take(k, 'same content', 100);
    for (const k of this.byName.get(name) ?? [])
      take(
        k,
        nameOf(k.path) === written ? 'same name' : 'same name in other letters',
        nameOf(k.path) === written ? 60 : 57,
      );
    const groups = (this.groups ??= this.makeGroups());
    const kind = kindOfExtension(extensionOf(name));
    const each = (
      names: readonly string[] | undefined,
      reason: Reason,
      worth: (other: string) => number | null,
    ) => {
      for (const other of names ?? []) {
        if (other === name || kindOfExtension(extensionOf(other)) !== kind) continue;
        const w = worth(other);
        if (w !== null) for (const k of this.byName.get(other)!) take(k, reason, w);
      }
    };
    each(groups.stem.get(stemOf(name)), 'same name in another format', () => 40);
    if (/\d/.test(stemOf(name))) each(groups.bare.get(bareOf(name)), 'another number', () => 37);
    const stem = stemOf(name);
    if (stem.length >= 3) {
      const most = stem.length >= 8 ? 2 : 1;
      for (let length = stem.length - most; length <= stem.length + most; length++) {
        each(groups.near.get(`${length}${extensionOf(name)}`), 'near spelling', (other) => {
          const d = editDistance(stemOf(other), stem, most);
          return d <= most ? 47 - 6 * d : null;
        });
      }
    }
    if (evidence.size !== undefined && evidence.size > 64)
      for (const k of this.bySize.get(evidence.size) ?? [])
        if (kindOfExtension(extensionOf(k.name)) === kind) take(k, 'same size and kind', 18);
    return ranked(found.values());
  }

  /** Folders in which files of a set lie, each as the path by which the set is written there. */
  private foldersOfSet(written: string, set: SequencePattern): Pick<Known, 'path' | 'inside' | 'size'>[] {
    const folders = new Map<string, Pick<Known, 'path' | 'inside' | 'size'>>();
    for (const { path, inside } of this.membersOf(written, set)) {
      const at = path.slice(0, path.length - nameOf(path).length) + written;
      folders.set(at, { path: at, inside, size: null });
    }
    return [...folders.values()];
  }

  /** Every file whose name belongs to a set, wherever it lies. */
  membersOf(written: string, set: SequencePattern): { path: string; inside: boolean; number: number }[] {
    const groups = (this.groups ??= this.makeGroups());
    return (groups.bare.get(bareOf(foldName(sampleOf(written)!))) ?? []).flatMap((name) =>
      this.byName.get(name)!.flatMap(({ path, inside }) => {
        const number = set.numberOf(nameOf(path));
        return number === null ? [] : [{ path, inside, number }];
      }),
    );
  }

  private makeGroups(): NonNullable<NameIndex['groups']> {
    const groups = {
      stem: new Map<string, string[]>(),
      bare: new Map<string, string[]>(),
      near: new Map<string, string[]>(),
    };
    for (const name of this.byName.keys()) {
      const stem = stemOf(name);
      put(groups.stem, stem, name);
      if (/\d/.test(stem)) put(groups.bare, bareOf(name), name);
      put(groups.near, `${stem.length}${extensionOf(name)}`, name);
    }
    return groups;
  }
}

function ranked(found: Iterable<Candidate>): Candidate[] {
  return [...found].sort(
    (a, b) =>
      b.score - a.score ||
      reasons.indexOf(a.reason) - reasons.indexOf(b.reason) ||
      comparePaths(a.path, b.path),
  );
}

function put<K, V>(map: Map<K, V[]>, key: K, value: V): void {
  const held = map.get(key);
  if (held) held.push(value);
  else map.set(key, [value]);
}

/** A name with every run of digits as one mark. */
function bareOf(name: string): string {
  return stemOf(name).replace(/\d+/g, '#') + extensionOf(name);
}

/** How many single letters must be put, taken, changed or swapped with the next to make one text of the other; more than `most`: most + 1. */
export function editDistance(a: string, b: string, most: number): number {
  if (Math.abs(a.length - b.length) > most) return most + 1;
  let above: number[] = [];
  let row = Array.from({ length: b.length + 1 }, (_, i) => i);
  for (let i = 1; i <= a.length; i++) {
    const next = [i];
    for (let j = 1; j <= b.length; j++) {
      const same = a[i - 1] === b[j - 1];
      next[j] = Math.min(row[j]! + 1, next[j - 1]! + 1, row[j - 1]! + (same ? 0 : 1));
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1])
        next[j] = Math.min(next[j]!, above[j - 2]! + 1);
    }
    if (Math.min(...next) > most) return most + 1;
    above = row;
    row = next;
  }
  return row[b.length]!;
}

function foldersOf(path: string): string[] {
  return path.split('/').slice(0, -1).map(foldName);
}

function foldersAlike(written: readonly string[], path: string): number {
  const parts = foldersOf(path);
  let n = 0;
  while (
    n < parts.length &&
    n < written.length &&
    parts[parts.length - 1 - n] === written[written.length - 1 - n]
  )
    n++;
  return n;
}

/** A folder in a near spelling, or with something put to its name: not less than its first four letters must stay. */
function nearFolder(have: string, want: string): number {
  const most = want.length >= 8 ? 2 : want.length >= 4 ? 1 : 0;
  if (most > 0 && editDistance(have, want, most) <= most) return 0.75;
  const [short, long] = have.length < want.length ? [have, want] : [want, have];
  return short.length >= 4 && (long.startsWith(short) || long.endsWith(short)) ? 0.6 : 0;
}

/** How well the folders above agree, 0 to 1: those nearest the file count most, a near spelling counts for most of one, a folder more or less is passed over. */
function likeness(written: readonly string[], path: string): number {
  const parts = foldersOf(path);
  const counted = Math.min(3, written.length);
  if (counted === 0) return 0;
  // The nearest folder says most (common practice, no source).
  const weights = [0.6, 0.25, 0.15];
  let sum = 0;
  let whole = 0;
  let from = parts.length - 1;
  for (let n = 0; n < counted; n++) {
    const want = written[written.length - 1 - n]!;
    whole += weights[n]!;
    for (let i = from; i >= Math.max(0, from - 1); i--) {
      const have = parts[i]!;
      const part = have === want ? 1 : nearFolder(have, want);
      if (part === 0) continue;
      sum += weights[n]! * part;
      from = i - 1;
      break;
    }
  }
  return sum / whole;
}

// By so much the first must lead to be sure of it: less than the weight of one folder.
const lead = 2.5;

/** The one that is sure; null where none is: near spellings and sizes never are, nor is one of two that fit nearly alike. */
export function sureOne(candidates: readonly Candidate[]): Candidate | null {
  const [first, second] = candidates;
  if (
    !first ||
    !(
      first.reason === 'same content' ||
      first.reason === 'same name' ||
      first.reason === 'same name in other letters'
    )
  )
    return null;
  if (first.isOtherSize && first.reason !== 'same content') return null;
  const isRival =
    second &&
    (second.reason === first.reason ||
      second.reason === 'same name' ||
      second.reason === 'same name in other letters');
  return isRival && first.score - second.score < lead ? null : first;
}

/** Whether the folder that a file is looked for in, and the one it was found in, are of one name, or nearly: the least that speaks for a file beside its name. */
export function isFolderAlike(meant: string, path: string): boolean {
  const [want, have] = [foldersOf(meant).at(-1), foldersOf(path).at(-1)];
  if (want === undefined || want === '.' || want === '..') return true;
  return have !== undefined && (have === want || nearFolder(have, want) > 0);
}

/** Why a candidate is offered, in words: 'same name, 2 folders agree, lies among 3 of its old neighbours'. */
export function reasonText(c: Candidate): string {
  return [
    c.reason,
    c.folders > 0 ? `${c.folders} ${c.folders === 1 ? 'folder agrees' : 'folders agree'}` : '',
    c.neighbours > 0 ? `beside ${c.neighbours} of its neighbours` : '',
    c.isOtherSize ? 'another size than before' : '',
    c.inside ? '' : 'outside the root',
  ]
    .filter(Boolean)
    .join(', ');
}
