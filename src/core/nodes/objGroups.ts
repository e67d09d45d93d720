// Objects and groups of an OBJ, and what their elements use. Source: Wavefront OBJ, o, g, f, l, p, usemtl, s (from memory of the published description):
// numbers count vertices from 1 over the whole file, negative ones back from where they stand.

import type { SceneNode } from './sceneNodes';

export interface ObjLine {
  /** Bytes of the line, its end left out; continued lines are one. */
  span: readonly [number, number];
  word: string;
  rest: string;
}

export interface ObjGroup extends SceneNode {
  /** Numbers of its lines. */
  lines: number[];
}

export interface ObjText {
  /** One character a byte. */
  text: string;
  lines: readonly ObjLine[];
  groups: readonly ObjGroup[];
}

/** Takes an OBJ apart. */
export function readObj(text: string): ObjText {
  const lines: ObjLine[] = [];
  const statement = /[^\r\n\\]*(?:\\(?:\r\n|\r|\n|[^\r\n])[^\r\n\\]*)*/y;
  for (let at = 0; at < text.length;) {
    statement.lastIndex = at;
    const body = statement.exec(text)![0];
    const end = at + body.length;
    const plain = body.replace(/\\(?:\r\n|\r|\n)/g, ' ');
    const m = /^\s*(\S+)\s*([\s\S]*?)\s*$/.exec(plain);
    if (m && !m[1]!.startsWith('#')) lines.push({ span: [at, end], word: m[1]!, rest: m[2]! });
    at = end + (text.startsWith('\r\n', end) ? 2 : 1);
  }
  return { text, lines, groups: groupsOf(lines) };
}

function groupsOf(lines: readonly ObjLine[]): ObjGroup[] {
  const found = new Map<string, ObjGroup>();
  let object: ObjGroup | null = null;
  let now: ObjGroup | null = null;
  const group = (name: string, parent: ObjGroup | null, kind: string): ObjGroup => {
    const id = `${parent ? `${parent.id}/` : ''}${kind} ${name}`;
    const known = found.get(id);
    if (known) return known;
    const path = parent ? `${parent.path}/${name}` : name;
    const made: ObjGroup = { id, name, path, parent: parent?.id ?? null, kind, lines: [] };
    found.set(id, made);
    return made;
  };
  for (const [n, { word, rest }] of lines.entries()) {
    if (word === 'o') now = object = group(rest || 'object', null, 'object');
    else if (word === 'g') now = group(rest || 'default', object, 'group');
    else if (elements.has(word)) (now ??= group('default', null, 'group')).lines.push(n);
  }
  return [...found.values()];
}

const elements = new Set(['f', 'l', 'p', 'fo']);
/** Free-form geometry, which is not taken apart here. */
export const freeForm = new Set(['curv', 'curv2', 'surf', 'cstype', 'deg', 'parm', 'trim', 'hole', 'con']);
type List = 'v' | 'vt' | 'vn';
const order: readonly List[] = ['v', 'vt', 'vn'];

/** Elements that come along, written for a file that has so many vertices already. */
export interface ObjPart {
  /** By group: elements with the materials and smoothing that hold for them. */
  parts: { group: ObjGroup; lines: string[] }[];
  vertices: string[];
  materials: string[];
  /** Elements that name vertices which are not there; they stay behind. */
  broken: number;
}

/** A place in a list: which vertex, texture coordinate or normal of the file. */
type Place = readonly [list: List, index: number];

interface Element {
  word: string;
  /** Of each corner what it names, and between which slashes. */
  corners: { places: readonly Place[]; text: string }[];
}

/** Lines of the chosen groups and those below them, in the order of the file. */
export function objPart(
  obj: ObjText,
  chosen: readonly string[],
  counts: Readonly<Record<List, number>>,
): ObjPart {
  const { lines, groups } = obj;
  const mine = groups.filter((g) => chosen.some((id) => g.id === id || g.id.startsWith(`${id}/`)));
  const owner = new Map(mine.flatMap((g) => g.lines.map((n) => [n, g] as const)));
  const at: Record<List, number[]> = { v: [], vt: [], vn: [] };
  const state = { usemtl: '', s: '' };
  const said = new Map(mine.map((g) => [g, { usemtl: '', s: '' }]));
  const taken = new Map(mine.map((g) => [g, [] as (string | Element)[]]));
  const materials = new Set<string>();
  for (const [n, { word, rest }] of lines.entries()) {
    if (isList(word)) at[word].push(n);
    else if (word === 'usemtl' || word === 's') state[word] = rest;
    const group = owner.get(n);
    if (!group) continue;
    const before = said.get(group)!;
    for (const key of ['usemtl', 's'] as const)
      if (state[key] !== before[key]) taken.get(group)!.push(`${key} ${state[key]}`);
    said.set(group, { ...state });
    if (state.usemtl !== '') materials.add(state.usemtl);
    taken.get(group)!.push({ word, corners: rest.split(/\s+/).map((text) => cornerOf(text, at)) });
  }
  // Vertices may stand behind what names them.
  const isThere = ([list, i]: Place) => at[list][i] !== undefined;
  const isWhole = (e: Element) => e.corners.every((c) => c.places.every(isThere));
  const elements = [...taken.values()].flat().filter((x) => typeof x !== 'string');
  const used: Record<List, Set<number>> = { v: new Set(), vt: new Set(), vn: new Set() };
  for (const e of elements.filter(isWhole))
    for (const { places } of e.corners) for (const [list, i] of places) used[list].add(i);
  const numbers = {
    v: new Map<number, number>(),
    vt: new Map<number, number>(),
    vn: new Map<number, number>(),
  };
  const vertices: string[] = [];
  for (const list of order)
    for (const [k, i] of [...used[list]].sort((a, b) => a - b).entries()) {
      numbers[list].set(i, counts[list] + k + 1);
      vertices.push(obj.text.slice(...lines[at[list][i]!]!.span).trim());
    }
  const written = (e: Element) =>
    `${e.word} ${e.corners
      .map(({ places, text }) => {
        let n = 0;
        return text.replace(/[^/]+/g, () => {
          const [list, i] = places[n++]!;
          return String(numbers[list].get(i));
        });
      })
      .join(' ')}`;
  return {
    parts: [...taken].map(([group, items]) => ({
      group,
      lines: items.flatMap((x) => (typeof x === 'string' ? [x] : isWhole(x) ? [written(x)] : [])),
    })),
    vertices,
    materials: [...materials],
    broken: elements.filter((e) => !isWhole(e)).length,
  };
}

const isList = (word: string): word is List => word === 'v' || word === 'vt' || word === 'vn';

/** '3/1/-2': numbers from 1, or back from the last one so far. */
function cornerOf(text: string, at: Readonly<Record<List, number[]>>): Element['corners'][number] {
  const places = text.split('/').flatMap((number, k): Place[] => {
    if (number === '') return [];
    const [list, i] = [order[k] ?? 'v', Number(number)];
    return [[list, i < 0 ? at[list].length + i : i - 1]];
  });
  return { places, text };
}

/** How many vertices, texture coordinates and normals a file has. */
export function objCounts({ lines }: ObjText): Record<List, number> {
  const counts = { v: 0, vt: 0, vn: 0 };
  for (const { word } of lines) if (isList(word)) counts[word]++;
  return counts;
}
