// Files that a written path could mean when nothing lies where it points, ranked, each with its reason. What speaks for a file: that it has
// the content that used to lie there, its name, the folders above it, the files it lies among, its size. Only a name or a content that no
// other file shares makes one sure; what is alike in any other way is a suggestion, and stays one.

import { comparePaths, extensionOf, nameOf, stemOf } from '../files/treePath';
import { kindOfExtension } from '../formats/kinds';
import { foldName } from '../names/portable';
import { sampleOf, sequencePattern, type SequencePattern } from '../names/sequences';
import { editDistance, mostEdits, NearNames } from './nearNames';

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

type Found = Pick<Known, 'path' | 'inside' | 'size'>;

/** A path that is looked for. */
interface Asked {
  written: string;
  /** Folded. */
  name: string;
  folders: string[];
  neighbours: string[];
  size: number | undefined;
  alone: boolean;
  kind: ReturnType<typeof kindOfExtension>;
  found: Map<string, Candidate>;
}

/** Folded names, sorted, by stem and by what is left when numbers are taken out; and those forms, to be found by a near spelling. */
interface Groups {
  stem: Map<string, string[]>;
  bare: Map<string, string[]>;
  near: NearNames;
}

// All worths and weights here: common practice, no source; tried on the breakages of candidates.test.ts.
const worth = { content: 100, name: 60, letters: 57, near: 47, format: 40, number: 37, size: 18 };
// Of names that are alike, so many are looked at: thousands may differ in their number only.
const mostAlike = 64;

/** Those of sorted names that stand nearest to one. */
function nearest(names: readonly string[] | undefined, name: string): readonly string[] {
  if (!names || names.length <= mostAlike) return names ?? [];
  let [from, to] = [0, names.length];
  while (from < to) {
    const middle = (from + to) >> 1;
    if (names[middle]! < name) from = middle + 1;
    else to = middle;
  }
  const start = Math.max(0, Math.min(from - mostAlike / 2, names.length - mostAlike));
  return names.slice(start, start + mostAlike);
}

/** Files to look candidates up in. */
export class NameIndex {
  private readonly byName = new Map<string, Known[]>();
  private readonly bySize = new Map<number, Known[]>();
  private readonly byDigest = new Map<string, Known[]>();
  private readonly namesIn = new Map<string, Set<string>>();
  private groups: Groups | null = null;

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

  /**
   * What could be meant by a path, '/'-separated, best first. `all` false: what is only alike (another number, a near spelling, an equal size)
   * is looked for only where nothing has the name.
   */
  candidatesFor(path: string, evidence: Evidence = {}, all = true): Candidate[] {
    const asked = this.ask(path, evidence);
    const set = sequencePattern(asked.written);
    if (set) {
      for (const k of this.foldersOfSet(asked.written, set)) this.take(asked, k, 'same name', worth.name);
      return ranked(asked.found.values());
    }
    if (evidence.digest !== undefined)
      for (const k of this.byDigest.get(evidence.digest) ?? [])
        this.take(asked, k, 'same content', worth.content);
    for (const k of this.byName.get(asked.name) ?? []) {
      const isExact = nameOf(k.path) === asked.written;
      if (isExact) this.take(asked, k, 'same name', worth.name);
      else this.take(asked, k, 'same name in other letters', worth.letters);
    }
    const hasName = asked.found.size > 0;
    const groups = (this.groups ??= this.makeGroups());
    for (const other of groups.stem.get(stemOf(asked.name)) ?? [])
      this.takeAll(asked, other, 'same name in another format', worth.format);
    if (all || !hasName) this.takeAlike(asked, groups);
    return ranked(asked.found.values());
  }

  private ask(path: string, evidence: Evidence): Asked {
    const parts = path.split('/').filter((p) => p !== '' && p !== '.' && p !== '..');
    const written = parts.pop() ?? '';
    const name = foldName(written);
    return {
      written,
      name,
      folders: parts.map(foldName),
      neighbours: [...new Set((evidence.neighbours ?? []).map(foldName))].filter((n) => n !== name),
      size: evidence.size,
      // A size that one file alone has is nearly proof; one that many have says little.
      alone: evidence.size !== undefined && this.bySize.get(evidence.size)?.length === 1,
      kind: kindOfExtension(extensionOf(name)),
      found: new Map(),
    };
  }

  private take(asked: Asked, k: Found, reason: Reason, points: number): void {
    const { found, neighbours, size } = asked;
    if (found.has(k.path)) return;
    const beside = this.namesIn.get(k.path.slice(0, Math.max(0, k.path.lastIndexOf('/'))))!;
    const together = neighbours.filter((n) => beside.has(n)).length;
    const isSame = size !== undefined && k.size !== null ? size === k.size : null;
    const sized = isSame === null ? 0 : isSame ? (asked.alone ? 35 : 12) : -20;
    const score =
      points +
      20 * likeness(asked.folders, k.path) +
      (neighbours.length > 0 ? (12 * together) / neighbours.length : 0) +
      sized +
      (k.inside ? 3 : 0);
    found.set(k.path, {
      path: k.path,
      inside: k.inside,
      reason,
      folders: foldersAlike(asked.folders, k.path),
      neighbours: together,
      size: k.size,
      isOtherSize: isSame === false,
      score,
    });
  }

  /** Every file of another name, where it is of the kind that is looked for. */
  private takeAll(asked: Asked, other: string, reason: Reason, points: number): void {
    if (other === asked.name || kindOfExtension(extensionOf(other)) !== asked.kind) return;
    for (const k of this.byName.get(other)!) this.take(asked, k, reason, points);
  }

  private takeAlike(asked: Asked, groups: Groups): void {
    const { name, size, kind } = asked;
    const stem = stemOf(name);
    if (/\d/.test(stem))
      for (const other of nearest(groups.bare.get(bareOf(name)), name))
        this.takeAll(asked, other, 'another number', worth.number);
    if (stem.length >= 3) {
      const most = mostEdits(stem);
      for (const bare of groups.near.alike(bareOf(name)))
        for (const other of nearest(groups.bare.get(bare), name)) {
          const d = extensionOf(other) === extensionOf(name) ? editDistance(stemOf(other), stem, most) : 99;
          if (d <= most) this.takeAll(asked, other, 'near spelling', worth.near - 6 * d);
        }
    }
    if (size !== undefined && size > 64)
      for (const k of (this.bySize.get(size) ?? []).slice(0, mostAlike))
        if (kindOfExtension(extensionOf(k.name)) === kind)
          this.take(asked, k, 'same size and kind', worth.size);
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

  private makeGroups(): Groups {
    const groups: Groups = { stem: new Map(), bare: new Map(), near: new NearNames() };
    for (const name of [...this.byName.keys()].sort()) {
      put(groups.stem, stemOf(name), name);
      put(groups.bare, bareOf(name), name);
    }
    for (const bare of groups.bare.keys()) groups.near.add(bare);
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
