// A value of JSON text written anew with a few places changed: all else, white space and number text included, stays as it is written.

import { bytesOfText, latin1, utf8 } from '../text/bytes';
import type { Edit } from '../text/edits';
import type { Span } from '../problem';
import { itemsOf, membersOf, placeOf, placesIn } from './jsonPlaces';

/** What becomes of the value at a place: another text, or null: it goes, with its comma. */
export type Change = string | null;

/** A change of the value at a way of keys and numbers. */
export interface PlacedChange {
  way: readonly (string | number)[];
  to: Change;
}

/** The text of the value at `span`, one character a byte, with changes at places below it. Members that are not there are put behind the others. */
export function changedText(b: Uint8Array, span: Span, changes: readonly PlacedChange[]): string {
  const own = changes.find((c) => c.way.length === 0);
  if (own) return own.to ?? '';
  if (changes.length === 0) return latin1(b.subarray(...span));
  const below = new Map<string | number, PlacedChange[]>();
  for (const { way, to } of changes) {
    const held = below.get(way[0]!);
    if (held) held.push({ way: way.slice(1), to });
    else below.set(way[0]!, [{ way: way.slice(1), to }]);
  }
  const members = membersOf(b, span[0]);
  const parts: { key: string | number; from: number; value: Span }[] = members
    ? // Of a key that stands twice the last one counts.
      members
        .filter((m, i) => members.findLastIndex((o) => o.key === m.key) === i)
        .map((m) => ({ key: m.key, from: m.keyStart, value: m.value }))
    : (itemsOf(b, span[0]) ?? []).map((value, n) => ({ key: n, from: value[0], value }));
  const texts: string[] = [];
  for (const { key, from, value } of parts) {
    const mine = below.get(key);
    below.delete(key);
    const text = mine ? changedText(b, value, mine) : latin1(b.subarray(...value));
    const isGone = mine?.some((c) => c.way.length === 0 && c.to === null) === true;
    if (!isGone) texts.push(latin1(b.subarray(from, value[0])) + text);
  }
  const [open, close] = members ? '{}' : '[]';
  const before = parts[0] ? latin1(b.subarray(span[0] + 1, parts[0].from)) : '';
  const between = parts[1]
    ? latin1(b.subarray(parts[0]!.value[1], parts[1].from))
    : before.trim() === ''
      ? `,${before}`
      : ',';
  const last = parts.at(-1);
  const behind = last ? latin1(b.subarray(last.value[1], span[1] - 1)) : '';
  for (const [key, added] of below) {
    const said = added.find((c) => c.way.length === 0)?.to;
    if (typeof said === 'string' && typeof key === 'string' && members)
      texts.push(`${JSON.stringify(key)}:${said}`);
  }
  return texts.length === 0 ? `${open}${close}` : `${open}${before}${texts.join(between)}${behind}${close}`;
}

/** Items that come behind those of a list, by the way to it. */
export interface Added {
  way: readonly (string | number)[];
  /** One character a byte. */
  texts: readonly string[];
}

interface Branch {
  texts: string[];
  below: Map<string | number, Branch>;
}

/** The edits that put items behind those of lists; lists and objects on the way that are not there are made. */
export function withItems(b: Uint8Array, added: readonly Added[]): Edit[] {
  const tree: Branch = { texts: [], below: new Map() };
  for (const { way, texts } of added) {
    if (texts.length === 0) continue;
    let at = tree;
    for (const key of way) {
      const next = at.below.get(key) ?? { texts: [], below: new Map() };
      at.below.set(key, next);
      at = next;
    }
    at.texts.push(...texts);
  }
  const root = placeOf(b, []);
  return root ? branchEdits(b, root, tree) : [];
}

function branchEdits(b: Uint8Array, at: Span, branch: Branch): Edit[] {
  const edits: Edit[] = [];
  if (branch.texts.length > 0) edits.push(behindLast(b, at, branch.texts));
  const places = branch.below.size > 0 ? placesIn(b, at) : null;
  const missing: [key: string | number, branch: Branch][] = [];
  for (const [key, next] of branch.below) {
    const place = typeof key === 'number' ? places?.items[key] : places?.members.get(key);
    if (place) edits.push(...branchEdits(b, place, next));
    else missing.push([key, next]);
  }
  if (missing.length > 0) {
    const text = missing.map(([key, next]) => `${JSON.stringify(key)}:${branchText(next)}`).join(',');
    const isEmpty = places?.members.size === 0;
    const inside = b.subarray(at[0] + 1, at[1]);
    const blanks = isEmpty ? '' : (/^\s*/.exec(latin1(inside.subarray(0, 200)))?.[0] ?? '');
    edits.push({ span: [at[0] + 1, at[0] + 1], bytes: bytesOfText(`${blanks}${text}${isEmpty ? '' : ','}`) });
  }
  return edits;
}

const branchText = (branch: Branch): string =>
  branch.texts.length > 0
    ? `[${branch.texts.join(',')}]`
    : `{${[...branch.below].map(([key, next]) => `${JSON.stringify(key)}:${branchText(next)}`).join(',')}}`;

function behindLast(b: Uint8Array, list: Span, texts: readonly string[]): Edit {
  const items = itemsOf(b, list[0]) ?? [];
  const [first, second] = items;
  const before = first ? latin1(b.subarray(list[0] + 1, first[0])) : '';
  const between = first && second ? latin1(b.subarray(first[1], second[0])) : `,${before}`;
  const last = items.at(-1);
  const at = last ? last[1] : list[0] + 1;
  return {
    span: [at, at],
    bytes: bytesOfText(last ? texts.map((t) => between + t).join('') : texts.join(between)),
  };
}

/** A text for `changedText` and `withItems`: one character a byte. */
export const asBytes = (text: string): string => latin1(utf8(text));
