// Things of two glTF scenes that are called alike, and whether they say the same: geometry and pictures by their bytes, all else by its words.

import { pointersOf, thingsIn, type ListName } from '../documents/gltfPointers';
import { isObject, type Json } from '../documents/gltfText';
import type { Digest } from '../files/digest';
import { freeName } from '../names/portable';
import { understand } from '../references/written';
import { nameOf } from '../files/treePath';
import { countedName, nodeClashWays, wayOf, type ClashChoice, type NodeClash } from './clashes';
import { keyOf, wordOf, type GltfNeeds } from './gltfNeeds';

/** A document, and the ids of what its accessors and pictures hold. */
export interface GltfSide {
  json: Json;
  /** Of an accessor's bytes, or of a part of a sparse one; null: they cannot be read. */
  contentOf(list: 'accessors' | 'images', index: number): Promise<Digest | string | null>;
}

// What has a name that people see.
const namedLists: ReadonlySet<ListName> = new Set<ListName>([
  'nodes',
  'meshes',
  'materials',
  'textures',
  'images',
  'skins',
  'animations',
  'cameras',
  'KHR_lights_punctual.lights',
]);

/** What a thing is called when names are compared; pictures without a name by that of their file. Null: nothing. */
export function calledAs(list: ListName, thing: Json | undefined): string | null {
  if (typeof thing?.name === 'string' && thing.name !== '') return thing.name;
  if (list !== 'images' || typeof thing?.uri !== 'string' || /^data:/i.test(thing.uri)) return null;
  const uri = understand(thing.uri, 'uri');
  return 'path' in uri ? nameOf(uri.path) : null;
}

/** Every clash, with its way out. */
export async function gltfClashes(
  source: GltfSide,
  target: GltfSide,
  needs: GltfNeeds,
  choice: ClashChoice,
): Promise<(NodeClash & { list: ListName; index: number; there: number })[]> {
  const same = new Sameness(source, target);
  const found: (NodeClash & { list: ListName; index: number; there: number })[] = [];
  const all = [
    ...[...needs.nodes.keys()].map((index) => ({ list: 'nodes' as ListName, index })),
    ...needs.things.values(),
  ];
  const lists = new Map<ListName, { byName: Map<string, number>; names: Set<string> }>();
  for (const { list, index } of all) {
    if (!namedLists.has(list)) continue;
    const name = calledAs(list, thingsIn(source.json, list)[index]);
    if (name === null) continue;
    let held = lists.get(list);
    if (!held) {
      const byName = new Map<string, number>();
      for (const [n, thing] of thingsIn(target.json, list).entries()) {
        const there = calledAs(list, thing);
        if (there !== null && !byName.has(there)) byName.set(there, n);
      }
      const coming = all.flatMap((a) =>
        a.list === list ? [calledAs(list, thingsIn(source.json, list)[a.index])] : [],
      );
      held = { byName, names: new Set([...byName.keys(), ...coming.filter((n) => n !== null)]) };
      lists.set(list, held);
    }
    const there = held.byName.get(name);
    if (there === undefined) continue;
    const key = keyOf(list, index);
    const isEqual = await same.of(list, index, there);
    // A second lamp is a second lamp; a second copy of one material is none.
    const usual = isEqual && !standsAlone.has(list) ? 'target' : 'rename';
    const { names } = held;
    // A picture without a name is called by its file, which gets its new name where it is put.
    const isFile = list === 'images' && thingsIn(source.json, list)[index]?.name === undefined;
    const renamed = isFile ? freeName(name, (n) => names.has(n)) : countedName(name, (n) => names.has(n));
    names.add(renamed);
    const way = wayOf(choice, { key, isEqual, usual, ways: nodeClashWays });
    found.push({
      key,
      kind: wordOf(list),
      name,
      isEqual,
      way,
      renamed,
      ways: nodeClashWays,
      list,
      index,
      there,
    });
  }
  return found;
}

const standsAlone: ReadonlySet<ListName> = new Set<ListName>(['nodes', 'skins', 'animations']);

class Sameness {
  private readonly texts = [new Map<string, Promise<string>>(), new Map<string, Promise<string>>()] as const;

  constructor(
    private readonly source: GltfSide,
    private readonly target: GltfSide,
  ) {}

  async of(list: ListName, a: number, b: number): Promise<boolean> {
    return (await this.text(0, list, a)) === (await this.text(1, list, b));
  }

  /** What a thing says, with what it points to in place of numbers. */
  private text(side: 0 | 1, list: ListName, index: number): Promise<string> {
    const key = keyOf(list, index);
    let known = this.texts[side].get(key);
    // What leads back to itself is told by its number.
    if (!known) {
      this.texts[side].set(key, Promise.resolve(`again ${key}`));
      known = this.work(side, list, index);
      this.texts[side].set(key, known);
    }
    return known;
  }

  private async work(side: 0 | 1, list: ListName, index: number): Promise<string> {
    const { json, contentOf } = side === 0 ? this.source : this.target;
    const thing = thingsIn(json, list)[index];
    if (!thing) return 'none';
    const said = new Map<string, string>();
    if (list === 'accessors' || list === 'images') {
      const content = await contentOf.call(side === 0 ? this.source : this.target, list, index);
      const {
        bufferView: _,
        byteOffset: __,
        uri: ___,
        sparse: ____,
        name: _____,
        mimeType: ______,
        ...rest
      } = thing;
      // What cannot be read is like nothing else.
      return `${JSON.stringify(sorted(rest))} ${content ?? `unread ${side}`}`;
    }
    for (const p of pointersOf(list, thing).pointers) {
      if (list === 'nodes' && p.way[0] === 'children') continue;
      const to = p.to === 'nodes' ? calledAs('nodes', thingsIn(json, 'nodes')[p.index]) : null;
      said.set(JSON.stringify(p.way), to ?? (await this.text(side, p.to, p.index)));
    }
    const walk = (value: unknown, way: (string | number)[]): unknown => {
      const pointed = said.get(JSON.stringify(way));
      if (pointed !== undefined) return { points: pointed };
      if (Array.isArray(value)) return value.map((v, n) => walk(v, [...way, n]));
      if (!isObject(value)) return value;
      return Object.fromEntries(
        Object.entries(value)
          .filter(([key]) => !(list === 'nodes' && way.length === 0 && key === 'children'))
          .sort(([x], [y]) => (x < y ? -1 : 1))
          .map(([key, v]) => [key, walk(v, [...way, key])]),
      );
    };
    return JSON.stringify(walk(thing, []));
  }
}

const sorted = (thing: Json): Json =>
  Object.fromEntries(Object.entries(thing).sort(([x], [y]) => (x < y ? -1 : 1)));
