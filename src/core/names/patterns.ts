// Names by pattern, so that they sort by themselves and are legal everywhere:
//
//     {year}-{month} {title}            2026-11 Harbour Lantern
//     {title}_{person}_v{version:3}     quay_ada_v004
//
// Tokens: year, month, day (padded with zeros), date (year-month-day), title, person, category, scene, camera, number and version (`:n` pads to n
// digits, two where nothing is said). A token without a value leaves with the separator before it. What stands in values and is not legal
// becomes '-' or '_'; the result is legal on Windows, macOS, Linux and removable drives (names/portable.ts).

import { checkName, makeLegal } from './portable';

export const tokens = [
  'year',
  'month',
  'day',
  'date',
  'title',
  'person',
  'category',
  'scene',
  'camera',
  'number',
  'version',
] as const;
export type Token = (typeof tokens)[number];

/** What tokens stand for. `date`: as a local calendar day. */
export interface PatternValues {
  date: { year: number; month: number; day: number };
  title?: string | undefined;
  person?: string | undefined;
  category?: string | undefined;
  scene?: string | undefined;
  camera?: string | undefined;
  number?: number | undefined;
  version?: number | undefined;
}

export const usualPatterns = {
  workspace: '{year}-{month} {title}',
  scene: '{title}_v{version:3}',
  output: '{date} {scene} v{version:3} {camera}',
};

type Piece = { text: string } | { token: Token; pad: number };

function piecesOf(pattern: string): Piece[] {
  const pieces: Piece[] = [];
  let at = 0;
  for (const m of pattern.matchAll(/\{(\w+)(?::(\d))?\}/g)) {
    if (!(tokens as readonly string[]).includes(m[1]!)) continue;
    if (m.index > at) pieces.push({ text: pattern.slice(at, m.index) });
    pieces.push({ token: m[1] as Token, pad: m[2] === undefined ? 2 : Number(m[2]) });
    at = m.index + m[0].length;
  }
  if (at < pattern.length) pieces.push({ text: pattern.slice(at) });
  return pieces;
}

/** The tokens of a pattern, each once. */
export function tokensIn(pattern: string): Set<Token> {
  return new Set(piecesOf(pattern).flatMap((p) => ('token' in p ? [p.token] : [])));
}

/** The number that comes after those of names a pattern gave; 1 where none is of it. */
export function nextNumber(pattern: string, names: readonly string[]): number {
  const read = namePatternReader(pattern, {});
  return 1 + Math.max(0, ...names.map((n) => read(n)?.number ?? 0));
}

/** What is wrong with a pattern, as sentences. Empty: it can be used. */
export function checkPattern(pattern: string): string[] {
  const wrong: string[] = [];
  const pieces = piecesOf(pattern);
  const used = tokensIn(pattern);
  const text = pieces.map((p) => ('text' in p ? p.text : '')).join('');
  for (const m of text.matchAll(/\{[^{}]*\}?|\}/g))
    wrong.push(`“${m[0]}” is no token; known are ${tokens.map((t) => `{${t}}`).join(' ')}.`);
  for (const c of new Set(text.match(/[<>:"/\\|?*\u0000-\u001f]/g) ?? []))
    wrong.push(
      `“${c}” is not allowed in names on Windows${c === '/' ? ', and means a folder everywhere' : ''}.`,
    );
  if (used.size === 0) wrong.push('Without a token every name would be the same.');
  if (used.has('month') && !used.has('year'))
    wrong.push('A month without its year does not sort: put {year} before it.');
  if (used.has('day') && !used.has('month'))
    wrong.push('A day without its month does not sort: put {month} before it.');
  const order = pieces.flatMap((p) => ('token' in p && /^(year|month|day)$/.test(p.token) ? [p.token] : []));
  const rank = order.map((t) => ['year', 'month', 'day'].indexOf(t));
  if (rank.some((r, i) => i > 0 && r < rank[i - 1]!))
    wrong.push('Dates sort by themselves only as year, month, day.');
  return wrong;
}

const pad = (n: number, width: number) => String(Math.max(0, Math.trunc(n))).padStart(width, '0');

function valueOf(token: Token, width: number, values: PatternValues): string {
  const { year, month, day } = values.date;
  switch (token) {
    case 'year':
      return pad(year, 4);
    case 'month':
      return pad(month, 2);
    case 'day':
      return pad(day, 2);
    case 'date':
      return `${pad(year, 4)}-${pad(month, 2)}-${pad(day, 2)}`;
    case 'number':
      return values.number === undefined ? '' : pad(values.number, width);
    case 'version':
      return values.version === undefined ? '' : pad(values.version, width);
    default:
      return clean(values[token] ?? '');
  }
}

/** A value without what no name may hold; slashes, colons and bars part words, so they become '-'. */
function clean(text: string): string {
  return text
    .normalize('NFC')
    .replace(/\s*[/\\:|]\s*/g, '-')
    .replace(/[<>"?*\u0000-\u001f]/g, '')
    .replace(/\s+/g, ' ')
    .trim();
}

/** The name a pattern gives: never empty, always legal, at most 255 bytes. */
export function nameOfPattern(pattern: string, values: PatternValues): string {
  let name = '';
  let dropped = false;
  let waiting = ''; // a separator, until something follows it
  for (const piece of piecesOf(pattern)) {
    if ('text' in piece) {
      waiting += name === '' && dropped ? piece.text.replace(/^[\s._-]+/, '') : piece.text;
      continue;
    }
    const value = valueOf(piece.token, piece.pad, values);
    if (value === '') {
      dropped = true;
      waiting = name === '' ? '' : waiting.replace(/[\s._-]*[A-Za-z]?$/, '');
    } else {
      name += waiting + value;
      waiting = '';
    }
  }
  name += waiting;
  let legal = makeLegal(name.trim() === '' ? 'untitled' : name.trim());
  while (checkName(legal).some((p) => p.code === 'too-long'))
    legal = makeLegal([...legal].slice(0, -1).join(''));
  return legal;
}

/**
 * Reads names that a pattern gave: what stood for its tokens, with numbers as numbers; null for a name that is not of it. `known`: values that are looked
 * for as they are. What a token without a value took with it may be missing.
 */
export function namePatternReader(
  pattern: string,
  known: Partial<Record<Token, string>>,
): (name: string) => { camera: string | null; version: number | null; number: number | null } | null {
  let source = '';
  let waiting = '';
  const seen = new Set<Token>();
  for (const piece of piecesOf(pattern)) {
    if ('text' in piece) {
      waiting += piece.text;
      continue;
    }
    const value = known[piece.token];
    const repeated = seen.has(piece.token);
    const inner = repeated
      ? `\\k<${piece.token}>`
      : `(?<${piece.token}>${value === undefined ? shapeOf(piece.token) : escaped(clean(value))})`;
    const part = escaped(waiting) + inner;
    // A day always has a value.
    const mayLack = value === undefined && !repeated && !/^(?:year|month|day|date)$/.test(piece.token);
    source += mayLack ? `(?:${part})?` : part;
    seen.add(piece.token);
    waiting = '';
  }
  const all = new RegExp(`^${source}${escaped(waiting)}$`, 'isu');
  return (name) => {
    const found = all.exec(name.normalize('NFC'))?.groups;
    if (!found) return null;
    const numberOf = (text: string | undefined) => (text === undefined ? null : Number(text));
    return {
      camera: found.camera ?? null,
      version: numberOf(found.version),
      number: numberOf(found.number),
    };
  };
}

function shapeOf(token: Token): string {
  if (token === 'year') return '\\d{4}';
  if (token === 'month' || token === 'day') return '\\d{2}';
  if (token === 'date') return '\\d{4}-\\d{2}-\\d{2}';
  return token === 'number' || token === 'version' ? '\\d+' : '.+?';
}

const escaped = (text: string) => text.replace(/[\\^$.*+?()[\]{}|/]/g, '\\$&');

/** Examples over some months and numbers, in the order of time, and whether sorting by name gives the same order. */
export function examplesOf(pattern: string, values: PatternValues): { names: string[]; sorts: boolean } {
  const { date } = values;
  const names = [0, 1, 2].map((i) => {
    const month = date.month - 1 + i * 4;
    return nameOfPattern(pattern, {
      ...values,
      date: {
        year: date.year + Math.floor(month / 12),
        month: (month % 12) + 1,
        day: Math.min(28, date.day + i),
      },
      number: values.number === undefined ? undefined : values.number + i * 5,
      version: values.version === undefined ? undefined : values.version + i * 5,
    });
  });
  return {
    names,
    sorts:
      names.every((n, i) => i === 0 || n > names[i - 1]! || n === names[i - 1]) && new Set(names).size > 1,
  };
}
