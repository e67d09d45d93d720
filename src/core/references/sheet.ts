// All references of a workspace as a table in memory: filtered, grouped, put in order, and chosen by likeness. A search over a hundred thousand
// rows takes a few milliseconds this way, where a database needs some hundred.

import { folderOf, nameOf } from '../files/treePath';
import { states } from './states';

/** One line. `target` null: not found; `size` in bytes, null when not known; `uses`: where the scene uses it, in words. */
export interface SheetRow {
  scene: string;
  format: string;
  ord: number;
  at: string;
  kind: string;
  written: string;
  state: string;
  target: string | null;
  ready: boolean;
  oddities: readonly string[];
  uses: readonly string[];
  size: number | null;
  /** Numbers of frames or tiles that are not there. */
  gaps: readonly number[];
}

/** What rows are wanted. Of the values of one field any will do; all fields, and all words, have to fit. */
export interface SheetFilter {
  words: readonly string[];
  without: readonly string[];
  states: readonly string[];
  kinds: readonly string[];
  scenes: readonly string[];
  folders: readonly string[];
  fields: readonly string[];
}

export const groupings = ['scene', 'state', 'kind', 'folder', 'target', 'none'] as const;
export type Grouping = (typeof groupings)[number];
export const sortings = ['need', 'name', 'state', 'kind', 'scene', 'use', 'size'] as const;
export type Sorting = (typeof sortings)[number];
export const likenesses = ['folder', 'kind', 'field', 'problem', 'target', 'scene'] as const;
export type Likeness = (typeof likenesses)[number];

/** States from the one that needs a hand most to the one that needs none. */
const urgency: readonly string[] = states;
const filterFields = {
  state: 'states',
  kind: 'kinds',
  scene: 'scenes',
  in: 'folders',
  field: 'fields',
} as const;

/** What is typed into the search: `state:missing kind:texture scene:boat in:"old textures" field:normal -draft words`. */
export function parseFilter(text: string): SheetFilter {
  const filter = {
    words: [] as string[],
    without: [] as string[],
    states: [] as string[],
    kinds: [] as string[],
    scenes: [] as string[],
    folders: [] as string[],
    fields: [] as string[],
  };
  for (const [, minus, field, quoted, plain] of text.matchAll(
    /(-?)(?:(state|kind|scene|in|field):)?(?:"([^"]*)"?|(\S+))/g,
  )) {
    const value = (quoted ?? plain ?? '').toLowerCase();
    if (value === '') continue;
    if (field)
      filter[filterFields[field as keyof typeof filterFields]].push(...value.split(',').filter(Boolean));
    else (minus ? filter.without : filter.words).push(value);
  }
  return filter;
}

/** The folder of what is meant: of the target where it is found, else of the path as it is written. */
export function folderMeant(r: Pick<SheetRow, 'target' | 'written'>): string {
  return folderOf(r.target ?? r.written.replaceAll('\\', '/'));
}

/** What a reference is to its scene: the slot of a material (base colour), the field of the format (map_Kd, init_from). */
export function fieldOf(r: Pick<SheetRow, 'at' | 'uses'>): string {
  const slot = r.uses[0]?.split(' · ')[1];
  if (slot) return slot;
  const at = r.at.replace(/ \(\d+\)$/, '');
  const parts = at.split(' / ');
  if (parts.length > 1) return parts.at(-1)!;
  const pointer = /^\/(image|buffer)s\/\d+\/uri$/.exec(at);
  if (pointer) return pointer[1]!;
  const last =
    at
      .split('/')
      .filter((part) => !/^\d*$/.test(part))
      .at(-1) ?? '';
  return last.slice(last.indexOf('.') + 1);
}

/** What is wrong with it: its state, or how it is spelt; '' where nothing is. */
export function problemOf(r: Pick<SheetRow, 'state' | 'oddities'>): string {
  return r.state === 'travels' || r.state === 'library' ? (r.oddities[0] ?? '') : r.state;
}

function groupKey(r: SheetRow, by: Grouping): string {
  switch (by) {
    case 'scene':
      return r.scene;
    case 'state':
      return r.state;
    case 'kind':
      return r.kind;
    case 'folder':
      return folderMeant(r);
    case 'target':
      return r.target ?? r.written;
    case 'none':
      return '';
  }
}

export interface SheetGroup {
  key: string;
  rows: number;
  /** How many of them would not open on another machine. */
  attention: number;
  format: string;
}

/** Rows in the order asked for, as numbers of the sheet's rows, and the groups they fall into. */
export interface Arranged {
  order: Int32Array;
  groups: SheetGroup[];
}

const compareText = (a: string, b: string) => (a < b ? -1 : a > b ? 1 : 0);

/** All rows, with what is looked for in them kept ready. Rows stand in scene order, within a scene in file order. */
export class Sheet<R extends SheetRow = SheetRow> {
  private readonly text: string[];
  private readonly kept = new Map<string, Arranged>();
  private counted: Sheet['totals'] | null = null;

  constructor(readonly rows: readonly R[]) {
    this.text = rows.map((r) =>
      `${r.written}\n${r.scene}\n${r.target ?? ''}\n${r.uses.join('\n')}`.toLowerCase(),
    );
  }

  /** Counts over all rows. */
  get totals(): {
    references: number;
    ready: number;
    odd: number;
    gapped: number;
    byState: Record<string, number>;
  } {
    if (this.counted) return this.counted;
    const totals = {
      references: this.rows.length,
      ready: 0,
      odd: 0,
      gapped: 0,
      byState: {} as Record<string, number>,
    };
    for (const r of this.rows) {
      totals.byState[r.state] = (totals.byState[r.state] ?? 0) + 1;
      if (r.ready) totals.ready++;
      if (r.oddities.length > 0) totals.odd++;
      if (r.gaps.length > 0) totals.gapped++;
    }
    return (this.counted = totals);
  }

  private fits(i: number, f: SheetFilter): boolean {
    const r = this.rows[i]!;
    if (
      f.states.length > 0 &&
      !f.states.includes(r.state) &&
      !(r.oddities.length > 0 && f.states.includes('odd'))
    )
      return false;
    if (f.kinds.length > 0 && !f.kinds.includes(r.kind)) return false;
    const text = this.text[i]!;
    for (const w of f.words) if (!text.includes(w)) return false;
    for (const w of f.without) if (text.includes(w)) return false;
    if (f.scenes.length > 0 && !f.scenes.some((s) => r.scene.toLowerCase().includes(s))) return false;
    if (f.folders.length > 0 && !f.folders.some((s) => folderMeant(r).toLowerCase().includes(s)))
      return false;
    return f.fields.length === 0 || f.fields.some((s) => fieldOf(r).toLowerCase().includes(s));
  }

  /** The rows that fit, in groups (those that need a hand first) and within them in order. `down`: the order turned round. */
  arrange(filter: SheetFilter, by: Grouping, sort: Sorting, down = false): Arranged {
    const key = JSON.stringify([filter, by, sort, down]);
    const held = this.kept.get(key);
    if (held) return held;
    const groups = new Map<string, SheetGroup & { at: number[] }>();
    for (let i = 0; i < this.rows.length; i++) {
      if (!this.fits(i, filter)) continue;
      const r = this.rows[i]!;
      const name = groupKey(r, by);
      let group = groups.get(name);
      if (!group) groups.set(name, (group = { key: name, rows: 0, attention: 0, format: r.format, at: [] }));
      group.at.push(i);
      group.rows++;
      if (!r.ready) group.attention++;
    }
    const urgent = (g: SheetGroup) => (by === 'state' ? urgency.indexOf(g.key) : g.attention === 0 ? 1 : 0);
    const sorted = [...groups.values()].sort((a, b) => urgent(a) - urgent(b) || compareText(a.key, b.key));
    const order = new Int32Array(sorted.reduce((n, g) => n + g.rows, 0));
    let n = 0;
    for (const g of sorted) {
      for (const i of this.sorted(g.at, sort, down)) order[n++] = i;
    }
    const arranged = { order, groups: sorted.map(({ at: _, ...g }) => g) };
    this.kept.set(key, arranged);
    if (this.kept.size > 8) this.kept.delete(this.kept.keys().next().value!);
    return arranged;
  }

  private sorted(at: number[], sort: Sorting, down: boolean): number[] {
    const { rows } = this;
    const turn = down ? -1 : 1;
    const by = <K extends string | number>(value: (r: SheetRow) => K): number[] => {
      const values = new Map(at.map((i) => [i, value(rows[i]!)]));
      return at.sort((a, b) => {
        const [x, y] = [values.get(a)!, values.get(b)!];
        return (x < y ? -turn : x > y ? turn : 0) || a - b;
      });
    };
    switch (sort) {
      case 'need':
        return by((r) => (r.ready ? 1 : 0));
      case 'name':
        return by((r) => nameOf(r.written.replaceAll('\\', '/')).toLowerCase());
      case 'state':
        return by((r) => urgency.indexOf(r.state));
      case 'kind':
        return by((r) => r.kind);
      case 'scene':
        return by((r) => r.scene.toLowerCase());
      case 'use':
        return by((r) => (r.uses[0] ?? '').toLowerCase());
      case 'size':
        return by((r) => r.size ?? -1);
    }
  }

  /** Rows that fit the filter and share something with one of them; null where that one is not there. */
  like(filter: SheetFilter, of: { scene: string; at: string }, how: Likeness): R[] | null {
    const one = this.rows.find((r) => r.scene === of.scene && r.at === of.at);
    if (!one) return null;
    const value: Record<Likeness, (r: SheetRow) => string> = {
      folder: folderMeant,
      kind: (r) => r.kind,
      field: fieldOf,
      problem: problemOf,
      target: (r) => r.target ?? r.written,
      scene: (r) => r.scene,
    };
    const wanted = value[how](one);
    return this.rows.filter((r, i) => value[how](r) === wanted && this.fits(i, filter));
  }
}
