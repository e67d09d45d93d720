// Names that differ by a letter or two, found among many without comparing all.

import { extensionOf, stemOf } from '../files/treePath';

/** So many edits still make a near spelling. */
export const mostEdits = (stem: string) => (stem.length >= 8 ? 2 : 1);

/**
 * Names by which those within one or two edits are found without comparing all: each is cut into more pieces than so many edits can touch (a
 * swap may touch two), so that one piece stands in the other unchanged, shifted by as many letters at most (the pigeonhole filter; Navarro, “A
 * guided tour to approximate string matching”, ACM Computing Surveys 33, 2001, §8).
 */
export class NearNames {
  private readonly byPiece = new Map<string, string[]>();

  add(name: string): void {
    const stem = stemOf(name);
    for (const most of [1, 2])
      for (const [i, [from, to]] of pieces(stem.length, most).entries())
        this.put(pieceKey(most, stem.length, i, stem.slice(from, to), extensionOf(name)), name);
  }

  private put(key: string, name: string): void {
    const held = this.byPiece.get(key);
    if (held) held.push(name);
    else this.byPiece.set(key, [name]);
  }

  /** Names, but for the name itself, whose stems are within the edits that its length allows; of the same extension. */
  alike(name: string): Set<string> {
    const [stem, extension] = [stemOf(name), extensionOf(name)];
    const most = mostEdits(stem);
    const found = new Set<string>();
    for (let length = Math.max(1, stem.length - most); length <= stem.length + most; length++)
      for (const [i, [from, to]] of pieces(length, most).entries())
        for (let shift = -most; shift <= most; shift++) {
          if (from + shift < 0) continue;
          const piece = stem.slice(from + shift, to + shift);
          for (const other of this.byPiece.get(pieceKey(most, length, i, piece, extension)) ?? [])
            if (other !== name && !found.has(other) && editDistance(stemOf(other), stem, most) <= most)
              found.add(other);
        }
    return found;
  }
}

/** A length cut into pieces, each with its ends; none is empty but where the length is short of their number. */
function pieces(length: number, most: number): [from: number, to: number][] {
  const count = 2 * most + 1;
  return Array.from({ length: count }, (_, i) => [
    Math.floor((length * i) / count),
    Math.floor((length * (i + 1)) / count),
  ]);
}

const pieceKey = (most: number, length: number, i: number, piece: string, extension: string) =>
  `${most} ${length} ${i} ${piece}${extension}`;

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
