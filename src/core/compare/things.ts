// What is in a scene, as things with a name and facts, so that two versions can be laid side by side: what came, what went, what is called otherwise,
// what changed. How a format's things are found stands in a file for each; what is compared is the same for all.

export const thingKinds = [
  'scene',
  'node',
  'mesh',
  'material',
  'texture',
  'animation',
  'camera',
  'light',
  'reference',
] as const;
export type ThingKind = (typeof thingKinds)[number];

/** One thing: `key` tells it from all others of its kind in the file; `name` is what people call it. Facts by what they are called, as text. */
export interface Thing {
  kind: ThingKind;
  key: string;
  name: string;
  /** All that is said of it, in its file's own words: two things with the same are the same, and their facts are not asked for. Absent: the facts tell. */
  raw?: string;
  readonly facts: ReadonlyMap<string, string>;
}

/** A thing whose facts are worked out when they are asked for: of a large scene most things are the same. */
export function lazily(thing: Omit<Thing, 'facts'>, facts: () => ReadonlyMap<string, string>): Thing {
  let known: ReadonlyMap<string, string> | null = null;
  return Object.defineProperty(thing, 'facts', { get: () => (known ??= facts()), enumerable: true }) as Thing;
}

/** A fact before and after; null: it was not said. */
export interface FactChange {
  fact: string;
  before: string | null;
  after: string | null;
}

export interface Difference {
  kind: ThingKind;
  what: 'added' | 'removed' | 'renamed' | 'changed';
  name: string;
  /** What it was called before, where it was renamed. */
  was?: string;
  changes: FactChange[];
}

const order = { added: 0, removed: 1, renamed: 2, changed: 3 } as const;

/** What differs between two lists of things, by kind, then by what happened, then by name. */
export function differences(before: readonly Thing[], after: readonly Thing[]): Difference[] {
  const old = byKey(before);
  const now = byKey(after);
  const found: Difference[] = [];
  const gone: Thing[] = [];
  for (const [key, thing] of old) {
    const other = now.get(key);
    if (!other) gone.push(thing);
    else if (thing.raw === undefined || thing.raw !== other.raw) {
      const changes = factChanges(thing.facts, other.facts);
      if (changes.length > 0) found.push({ kind: thing.kind, what: 'changed', name: other.name, changes });
    }
  }
  const come = [...now].filter(([key]) => !old.has(key)).map(([, thing]) => thing);
  const renamed = pairs(gone, come);
  for (const [a, b] of renamed)
    found.push({ kind: b.kind, what: 'renamed', name: b.name, was: a.name, changes: [] });
  const taken = new Set(renamed.flat());
  for (const t of gone)
    if (!taken.has(t)) found.push({ kind: t.kind, what: 'removed', name: t.name, changes: [] });
  for (const t of come)
    if (!taken.has(t)) found.push({ kind: t.kind, what: 'added', name: t.name, changes: [] });
  return found.sort(
    (a, b) =>
      thingKinds.indexOf(a.kind) - thingKinds.indexOf(b.kind) ||
      order[a.what] - order[b.what] ||
      (a.name < b.name ? -1 : a.name > b.name ? 1 : 0),
  );
}

function byKey(things: readonly Thing[]): Map<string, Thing> {
  const found = new Map<string, Thing>();
  for (const t of things) {
    let key = `${t.kind} ${t.key}`;
    for (let n = 2; found.has(key); n++) key = `${t.kind} ${t.key} (${n})`;
    found.set(key, t);
  }
  return found;
}

function factChanges(before: Thing['facts'], after: Thing['facts']): FactChange[] {
  const changes: FactChange[] = [];
  for (const [fact, value] of before)
    if (after.get(fact) !== value) changes.push({ fact, before: value, after: after.get(fact) ?? null });
  for (const [fact, value] of after)
    if (!before.has(fact)) changes.push({ fact, before: null, after: value });
  return changes;
}

/** Things that went and came with the same facts: each with the only one it can be. Without facts nothing tells. */
function pairs(gone: readonly Thing[], come: readonly Thing[]): [Thing, Thing][] {
  const said = (t: Thing) => `${t.kind}\n${JSON.stringify([...t.facts].sort())}`;
  const groups = new Map<string, { gone: Thing[]; come: Thing[] }>();
  for (const [list, side] of [
    [gone, 'gone'],
    [come, 'come'],
  ] as const)
    for (const t of list) {
      if (t.facts.size === 0) continue;
      const group = groups.get(said(t)) ?? { gone: [], come: [] };
      group[side].push(t);
      groups.set(said(t), group);
    }
  return [...groups.values()].flatMap((g): [Thing, Thing][] =>
    g.gone.length === 1 && g.come.length === 1 ? [[g.gone[0]!, g.come[0]!]] : [],
  );
}

/** A number for people: six digits that count. */
export function figure(n: number): string {
  return Number.isInteger(n) ? String(n) : String(Number(n.toPrecision(6)));
}

/** A value for people: numbers short, lists in parentheses, long text cut off; what is cut is told apart by `mark`. */
export function shown(value: unknown, mark: (text: string) => string): string {
  if (typeof value === 'number') return figure(value);
  if (typeof value === 'string') return value.length > 80 ? `${value.slice(0, 60)}… ${mark(value)}` : value;
  if (Array.isArray(value) && value.length <= 16 && value.every((v) => typeof v === 'number')) {
    const short = `(${value.map(figure).join(', ')})`;
    return short;
  }
  const text = JSON.stringify(value) ?? '';
  return text.length > 80 ? `${text.length} characters, ${mark(text)}` : text;
}
