// Where a value stands in JSON text, and edits that take a member out or put one in and touch nothing else: number text, white space and the order of
// members stay as they are.
//
//     {"buffers": [ {"uri": "a.bin", "byteLength": 4} ]}
//                    ^ member -----^^               the comma goes with it

import { stringEnd, unescapeJson } from '../formats/json';
import type { Span } from '../problem';
import { utf8 } from '../text/bytes';
import type { Edit } from '../text/edits';

const quote = 0x22,
  comma = 0x2c,
  colon = 0x3a,
  openBrace = 0x7b,
  closeBrace = 0x7d,
  openBracket = 0x5b,
  closeBracket = 0x5d;

const isBlank = (c: number | undefined) => c === 0x20 || c === 0x0a || c === 0x0d || c === 0x09;

function afterBlanks(b: Uint8Array, from: number): number {
  let i = from;
  while (isBlank(b[i])) i++;
  return i;
}

/** The end of the value that begins at `from`; -1: it does not end, or is none. */
function endOfValue(b: Uint8Array, from: number): number {
  const c = b[from];
  if (c === quote) {
    const end = stringEnd(b, from + 1);
    return end < 0 ? -1 : end + 1;
  }
  if (c === openBrace || c === openBracket) {
    let depth = 0;
    for (let i = from; i < b.length; i++) {
      const at = b[i];
      if (at === quote) {
        i = stringEnd(b, i + 1);
        if (i < 0) return -1;
      } else if (at === openBrace || at === openBracket) depth++;
      else if ((at === closeBrace || at === closeBracket) && --depth === 0) return i + 1;
    }
    return -1;
  }
  let i = from;
  while (i < b.length && b[i] !== comma && b[i] !== closeBrace && b[i] !== closeBracket && !isBlank(b[i]))
    i++;
  return i > from ? i : -1;
}

/** A member of an object as it stands: its key with the quotes, and its value. */
export interface Member {
  key: string;
  keyStart: number;
  value: Span;
}

/** The members of the object that begins at `from`; null: it is none, or the text is broken there. */
export function membersOf(b: Uint8Array, from: number): Member[] | null {
  if (b[from] !== openBrace) return null;
  const members: Member[] = [];
  let i = afterBlanks(b, from + 1);
  if (b[i] === closeBrace) return members;
  for (;;) {
    if (b[i] !== quote) return null;
    const keyEnd = stringEnd(b, i + 1);
    if (keyEnd < 0) return null;
    const key = unescapeJson(b.subarray(i + 1, keyEnd)).text;
    const at = afterBlanks(b, keyEnd + 1);
    if (b[at] !== colon) return null;
    const start = afterBlanks(b, at + 1);
    const end = endOfValue(b, start);
    if (end < 0) return null;
    members.push({ key, keyStart: i, value: [start, end] });
    i = afterBlanks(b, end);
    if (b[i] === closeBrace) return members;
    if (b[i] !== comma) return null;
    i = afterBlanks(b, i + 1);
  }
}

/** The items of the list that begins at `from`; null: it is none, or the text is broken there. */
export function itemsOf(b: Uint8Array, from: number): Span[] | null {
  if (b[from] !== openBracket) return null;
  const items: Span[] = [];
  let i = afterBlanks(b, from + 1);
  if (b[i] === closeBracket) return items;
  for (;;) {
    const end = endOfValue(b, i);
    if (end < 0) return null;
    items.push([i, end]);
    i = afterBlanks(b, end);
    if (b[i] === closeBracket) return items;
    if (b[i] !== comma) return null;
    i = afterBlanks(b, i + 1);
  }
}

/** Where the members of the object, or the items of the list, at a place stand; of a key that stands twice the last. Null: it is neither, or broken. */
export function placesIn(
  b: Uint8Array,
  at: Span,
): { members: ReadonlyMap<string, Span>; items: readonly Span[] } | null {
  if (b[at[0]] === openBrace) {
    const members = membersOf(b, at[0]);
    return members && { members: new Map(members.map((m) => [m.key, m.value])), items: [] };
  }
  const items = b[at[0]] === openBracket ? itemsOf(b, at[0]) : null;
  return items && { members: new Map(), items };
}

/** The edit that puts an item behind the others of the list at a place. */
export function withItem(b: Uint8Array, list: Span, value: unknown): Edit {
  const last = itemsOf(b, list[0])?.at(-1);
  const text = JSON.stringify(value);
  const at = last ? last[1] : list[0] + 1;
  return { span: [at, at], bytes: utf8(last ? `,${text}` : text) };
}

/** Where the value at a way of keys and numbers stands; of a key that stands twice the last, as JSON.parse has it. Null: it is not there. */
export function placeOf(b: Uint8Array, way: readonly (string | number)[], from = 0): Span | null {
  const start = afterBlanks(b, from);
  const [first, ...rest] = way;
  if (first === undefined) {
    const end = endOfValue(b, start);
    return end < 0 ? null : [start, end];
  }
  const next =
    typeof first === 'number'
      ? b[start] === openBracket
        ? itemsOf(b, start)?.[first]
        : undefined
      : b[start] === openBrace
        ? membersOf(b, start)?.findLast((m) => m.key === first)?.value
        : undefined;
  return next ? placeOf(b, rest, next[0]) : null;
}

/** The edit that takes a member out of the object at `object`, with its comma; null: it is not there. */
export function withoutMember(b: Uint8Array, object: Span, key: string): Edit | null {
  const members = membersOf(b, object[0]);
  const n = members?.findLastIndex((m) => m.key === key) ?? -1;
  if (!members || n < 0) return null;
  const member = members[n]!;
  const next = members[n + 1];
  if (next) return { span: [member.keyStart, next.keyStart], bytes: new Uint8Array() };
  const before = members[n - 1];
  return { span: [before ? before.value[1] : object[0] + 1, member.value[1]], bytes: new Uint8Array() };
}

/** The edit that puts a member in front of the others of the object at `object`, in its way of setting them apart. */
export function withMember(b: Uint8Array, object: Span, key: string, value: unknown): Edit {
  const inside = afterBlanks(b, object[0] + 1);
  const isEmpty = b[inside] === closeBrace;
  const blanks = b.subarray(object[0] + 1, inside);
  const hasColonBlank = /:\s/.test(
    String.fromCharCode(...b.subarray(inside, Math.min(inside + 60, object[1]))),
  );
  const text = `${JSON.stringify(key)}:${hasColonBlank ? ' ' : ''}${JSON.stringify(value)}`;
  const bytes = isEmpty ? utf8(text) : new Uint8Array([...utf8(`${text},`), ...blanks]);
  return { span: [inside, inside], bytes };
}

/** The edits that take several members out of an object, each with a comma. Keys that are not there are passed over. */
export function withoutMembers(b: Uint8Array, object: Span, keys: readonly string[]): Edit[] {
  const members = membersOf(b, object[0]) ?? [];
  return withoutThese(
    members.map((m): Span => [m.keyStart, m.value[1]]),
    new Set(keys.map((key) => members.findLastIndex((m) => m.key === key)).filter((n) => n >= 0)),
  );
}

/** The edits that take items out of a list, each with a comma. */
export function withoutItems(b: Uint8Array, list: Span, gone: ReadonlySet<number>): Edit[] {
  return withoutThese(itemsOf(b, list[0]) ?? [], gone);
}

function withoutThese(parts: readonly Span[], gone: ReadonlySet<number>): Edit[] {
  const firstKept = parts.findIndex((_, n) => !gone.has(n));
  return [...gone].map((n) => {
    // With the comma before it; behind it where nothing that stays stands before it.
    const isFirst = firstKept < 0 || n < firstKept;
    const span: Span = isFirst
      ? [parts[n]![0], parts[n + 1]?.[0] ?? parts[n]![1]]
      : [parts[n - 1]![1], parts[n]![1]];
    return { span, bytes: new Uint8Array() };
  });
}
