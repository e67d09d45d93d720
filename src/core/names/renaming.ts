// Many files renamed by one pattern, in an order that is chosen:
//
//     {name}_{number:3}      hull.png, deck.png → hull_001.png, deck_002.png
//     {date} {name}          the day each was last changed: 2026-11-20 hull.png
//
// Tokens: name (the old one without its extension), number (counts up in the order), date, year, month, day. Extensions stay.

import { extensionOf, stemOf } from '../files/treePath';
import { checkNewName, foldName } from './portable';

export interface ToRename {
  name: string;
  /** ms since 1970 UTC. */
  modified: number;
}

export const orders = ['name', 'length', 'date'] as const;
export type Order = (typeof orders)[number];

export interface Renamed {
  from: string;
  to: string;
  /** Why it cannot be; null: it can. */
  wrong: string | null;
}

/** Files in the order asked for: by name (numbers in it count as numbers), by its length, by the time they were changed. */
export function inOrder<T extends ToRename>(files: readonly T[], order: Order): T[] {
  const byName = new Intl.Collator('en', { numeric: true, sensitivity: 'base' });
  return [...files].sort(
    (a, b) =>
      (order === 'date' ? a.modified - b.modified : order === 'length' ? a.name.length - b.name.length : 0) ||
      byName.compare(a.name, b.name) ||
      (a.name < b.name ? -1 : 1),
  );
}

const token = /\{(name|number|date|year|month|day)(?::(\d))?\}/g;

/** What is wrong with a pattern; null: nothing. */
export function wrongPattern(pattern: string): string | null {
  const left = pattern.replace(token, '');
  const odd = /\{[^{}]*\}?|\}/.exec(left);
  if (odd) return `“${odd[0]}” is no token; known are {name}, {number:3}, {date}, {year}, {month}, {day}.`;
  if (pattern.trim() === '') return 'Without a name there is nothing to rename to.';
  return checkNewName(left === '' ? 'x' : `x${left.replaceAll(' ', '')}x`)[0]?.message ?? null;
}

/** New names for files of one folder, in their order. `others`: names in the folder that stay. Clashes are named on both sides. */
export function renameAll(
  files: readonly ToRename[],
  others: readonly string[],
  pattern: string,
  order: Order,
  first: number,
): Renamed[] {
  const pad = (n: number, width: number) => String(n).padStart(width, '0');
  const made = inOrder(files, order).map((f, i) => {
    const day = new Date(f.modified);
    const [year, month, date] = [
      pad(day.getFullYear(), 4),
      pad(day.getMonth() + 1, 2),
      pad(day.getDate(), 2),
    ];
    const extension = f.name.slice(f.name.length - extensionOf(f.name).length);
    const stem = pattern.replace(
      token,
      (_, t: string, width: string | undefined) =>
        ({
          name: stemOf(f.name),
          number: pad(first + i, Number(width ?? 1)),
          date: `${year}-${month}-${date}`,
          year,
          month,
          day: date,
        })[t]!,
    );
    return { from: f.name, to: stem + extension };
  });
  const counts = new Map<string, number>();
  for (const name of [...others, ...made.map((m) => m.to)])
    counts.set(foldName(name), (counts.get(foldName(name)) ?? 0) + 1);
  return made.map((m) => ({
    ...m,
    wrong:
      checkNewName(m.to)[0]?.message ??
      (counts.get(foldName(m.to))! > 1 ? 'Another file would have this name too.' : null),
  }));
}
