// What chosen nodes of a glTF stand on: all below them, meshes, materials, textures, skins with their joints, animations on them, and which bytes of which
// buffers. Nothing is read but the JSON. Source: glTF 2.0 Specification, §3.5 to §3.11.

import { pointersOf, thingsIn, type ListName, type Pointer } from '../documents/gltfPointers';
import { isObject, listIn, type Json } from '../documents/gltfText';
import { above, childrenOf, nameOrNumber, parentsOf } from './gltfTree';

/** A stretch of a buffer view, in bytes from its begin. */
export type Run = readonly [start: number, end: number];

export interface GltfThing {
  list: ListName;
  index: number;
  name: string;
  /** How many steps it is away from what was chosen. */
  level: number;
  /** Keys of the things that point to it. */
  neededBy: string[];
}

export interface GltfNeeds {
  /** Nodes that come along; `bare`: a joint, or what stands between joints, without what hangs on it. */
  nodes: ReadonlyMap<number, 'whole' | 'bare'>;
  /** Of these the ones with none of them above. */
  tops: readonly number[];
  /** All things but nodes, by key, in the order they were met. */
  things: ReadonlyMap<string, GltfThing>;
  /** Of each animation that comes along: the channels that move what comes along. */
  channels: ReadonlyMap<number, readonly number[]>;
  /** Of each view that accessors read: what of it they read. Views that are not here are needed whole. */
  runs: ReadonlyMap<number, readonly Run[]>;
  /** Animations that move more than what comes along: so many channels of them stay. */
  cutAnimations: { name: string; left: number }[];
  /** Nodes above the chosen ones that are animated. */
  movedAbove: string[];
  /** Extensions of things that come along whose numbers are not known; by thing. */
  strange: ReadonlyMap<string, { name: string; way: readonly (string | number)[] }[]>;
}

export const keyOf = (list: ListName, index: number): string => `${list} ${index}`;

/** What people are shown: of the rest only the bytes count. */
export const shownLists: ReadonlySet<ListName> = new Set<ListName>([
  'meshes',
  'materials',
  'textures',
  'images',
  'samplers',
  'skins',
  'animations',
  'cameras',
  'KHR_lights_punctual.lights',
  'EXT_lights_ies.lights',
  'KHR_audio_emitter.emitters',
  'KHR_audio_emitter.audio',
  'MSFT_audio_emitter.emitters',
  'MSFT_audio_emitter.clips',
]);

const words: Partial<Record<ListName, string>> = {
  nodes: 'node',
  meshes: 'mesh',
  materials: 'material',
  textures: 'texture',
  images: 'picture',
  samplers: 'sampler',
  skins: 'skin',
  animations: 'animation',
  cameras: 'camera',
  'KHR_lights_punctual.lights': 'light',
  'EXT_lights_ies.lights': 'light profile',
  'KHR_audio_emitter.audio': 'sound',
  'MSFT_audio_emitter.clips': 'sound',
};

/** A kind of thing in a word. */
export const wordOf = (list: ListName): string => words[list] ?? list.replace(/^.*\./, '').replace(/s$/, '');

/** Things at which the walk ends, by key: what they point to is not needed for them. `skip`: of a node nothing below comes along either. */
export type Stops = ReadonlyMap<string, 'target' | 'skip'>;

/** Follows everything from the chosen nodes. */
export function gltfNeeds(json: Json, chosen: readonly number[], stops: Stops = new Map()): GltfNeeds {
  return new Walk(json, stops).run(chosen);
}

class Walk {
  private readonly nodeList: Json[];
  private readonly parents: Map<number, number>;
  private readonly nodes = new Map<number, 'whole' | 'bare'>();
  private readonly levels = new Map<string, number>();
  private readonly things = new Map<string, GltfThing>();
  private readonly strange = new Map<string, { name: string; way: readonly (string | number)[] }[]>();
  private readonly channels = new Map<number, number[]>();
  private readonly cutAnimations: { name: string; left: number }[] = [];
  private readonly waiting: { list: ListName; index: number }[] = [];
  private followed = 0;

  constructor(
    private readonly json: Json,
    private readonly stops: Stops,
  ) {
    this.nodeList = listIn(json, 'nodes');
    this.parents = parentsOf(this.nodeList);
  }

  run(chosen: readonly number[]): GltfNeeds {
    for (const n of chosen) this.wholeBelow(n);
    this.follow();
    this.animations();
    this.follow();
    const tops = [...this.nodes.keys()].filter((n) => !this.nodes.has(this.parents.get(n) ?? -1));
    return {
      nodes: this.nodes,
      tops: tops.sort((a, b) => a - b),
      things: this.things,
      channels: this.channels,
      runs: runsOf(this.json, this.things),
      cutAnimations: this.cutAnimations,
      movedAbove: this.movedAbove(tops),
      strange: this.strange,
    };
  }

  private wholeBelow(top: number): void {
    const waiting: [number, number][] = [[top, 0]];
    for (let at = waiting.pop(); at; at = waiting.pop()) {
      const [n, level] = at;
      if (!this.nodeList[n] || this.nodes.get(n) === 'whole') continue;
      if (this.stops.get(keyOf('nodes', n)) === 'skip') continue;
      this.nodes.set(n, 'whole');
      this.levels.set(keyOf('nodes', n), Math.min(level, this.levels.get(keyOf('nodes', n)) ?? level));
      this.waiting.push({ list: 'nodes', index: n });
      // What was picked, with all below it, is one level.
      for (const child of childrenOf(this.nodeList[n])) waiting.push([child, level]);
    }
  }

  private follow(): void {
    for (; this.followed < this.waiting.length; this.followed++) {
      const { list, index } = this.waiting[this.followed]!;
      const key = keyOf(list, index);
      const thing = thingsIn(this.json, list)[index];
      if (!thing || this.stops.has(key)) continue;
      const { pointers, strange } = pointersOf(list, thing);
      if (strange.length > 0) this.strange.set(key, strange);
      for (const p of list === 'animations' ? [] : pointers) this.need(p, key);
      if (list === 'skins') this.joints(index, key);
    }
  }

  private need({ to, index }: Pick<Pointer, 'to' | 'index'>, by: string): void {
    if (!thingsIn(this.json, to)[index]) return;
    // Below what was chosen all comes along already; joints are looked at with their skin.
    if (to === 'nodes') {
      if (!by.startsWith('nodes ') && !by.startsWith('skins ') && !this.nodes.has(index))
        this.bare(index, by);
      return;
    }
    const key = keyOf(to, index);
    const known = this.things.get(key);
    if (known) {
      // Each thing is followed once: all its pointers come one after the other.
      if (known.neededBy.at(-1) !== by) known.neededBy.push(by);
      return;
    }
    const level = (this.levels.get(by) ?? 0) + 1;
    this.levels.set(key, level);
    const name = nameOrNumber(thingsIn(this.json, to)[index], index, wordOf(to));
    this.things.set(key, { list: to, index, name, level, neededBy: [by] });
    this.waiting.push({ list: to, index });
  }

  /** The joints of a skin, and what stands between them up to the nearest node above them all: they need one root (glTF 2.0, §3.7.3.1). */
  private joints(skin: number, by: string): void {
    const said = listIn(this.json, 'skins')[skin]?.joints;
    const joints = (Array.isArray(said) ? said : []).filter(
      (j): j is number => this.nodeList[j as number] !== undefined,
    );
    const ways = joints.map((j) => [j, ...above(this.parents, j)]);
    const common = ways[0]?.find((n) => ways.every((way) => way.includes(n)));
    for (const way of ways)
      for (const n of common === undefined ? way.slice(0, 1) : way.slice(0, way.indexOf(common) + 1))
        this.bare(n, by);
  }

  private bare(n: number, by: string): void {
    if (this.nodes.has(n) || this.stops.get(keyOf('nodes', n)) === 'skip') return;
    this.nodes.set(n, 'bare');
    this.levels.set(keyOf('nodes', n), (this.levels.get(by) ?? 0) + 1);
  }

  /** Animations move what comes along: a pointer the other way. */
  private animations(): void {
    for (const [n, animation] of listIn(this.json, 'animations').entries()) {
      const all = listIn(animation, 'channels');
      const pointers = pointersOf('animations', animation).pointers;
      const mine = all.flatMap((_, i) => {
        const target = pointers.find((p) => p.way[0] === 'channels' && p.way[1] === i);
        if (!target) return [];
        const comes =
          target.to === 'nodes'
            ? this.nodes.has(target.index)
            : this.things.has(keyOf(target.to, target.index));
        return comes ? [i] : [];
      });
      if (mine.length === 0) continue;
      const key = keyOf('animations', n);
      const name = nameOrNumber(animation, n, 'animation');
      const moved = pointers.find((p) => p.way[0] === 'channels' && p.way[1] === mine[0])!;
      this.levels.set(key, 1);
      this.things.set(key, {
        list: 'animations',
        index: n,
        name,
        level: 1,
        neededBy: [keyOf(moved.to, moved.index)],
      });
      this.channels.set(n, mine);
      if (mine.length < all.length) this.cutAnimations.push({ name, left: all.length - mine.length });
      const samplers = new Set(mine.map((i) => all[i]!.sampler));
      for (const p of pointers) if (p.way[0] === 'samplers' && samplers.has(p.way[1])) this.need(p, key);
    }
  }

  private movedAbove(tops: readonly number[]): string[] {
    const moved = new Set(
      listIn(this.json, 'animations').flatMap((a) =>
        listIn(a, 'channels').map((c) => (isObject(c.target) ? c.target.node : undefined)),
      ),
    );
    const found = new Set(tops.flatMap((n) => above(this.parents, n)).filter((n) => moved.has(n)));
    return [...found].map((n) => nameOrNumber(this.nodeList[n], n, 'node'));
  }
}

// Bytes of a component (glTF 2.0, §3.6.2.2), and components of a type.
const componentBytes: Readonly<Record<number, number>> = {
  5120: 1,
  5121: 1,
  5122: 2,
  5123: 2,
  5125: 4,
  5126: 4,
};
const components: Readonly<Record<string, readonly [rows: number, columns: number]>> = {
  SCALAR: [1, 1],
  VEC2: [2, 1],
  VEC3: [3, 1],
  VEC4: [4, 1],
  MAT2: [2, 2],
  MAT3: [3, 3],
  MAT4: [4, 4],
};

const whole = (x: unknown, otherwise: number): number =>
  typeof x === 'number' && Number.isInteger(x) && x >= 0 ? x : otherwise;

/** Bytes of one element; columns of matrices begin at multiples of four (§3.6.2.4). Null: not known. */
export function elementBytes(accessor: Json): number | null {
  const size = componentBytes[Number(accessor.componentType)];
  const [rows, columns] = components[String(accessor.type)] ?? [0, 0];
  if (size === undefined || rows === 0) return null;
  const column = rows * size;
  return columns === 1 ? column : columns * ((column + 3) & ~3);
}

/** What accessors read of their views; a view that anything else points to, or that is compressed, is needed whole. */
function runsOf(json: Json, things: ReadonlyMap<string, GltfThing>): Map<number, Run[]> {
  const views = listIn(json, 'bufferViews');
  const wholes = new Set<number>();
  const read = new Map<number, Run[]>();
  for (const { list, index } of things.values()) {
    if (list === 'bufferViews' && isObject(views[index]?.extensions)) wholes.add(index);
    const thing = thingsIn(json, list)[index]!;
    for (const { to, index: view, way } of pointersOf(list, thing).pointers) {
      if (to !== 'bufferViews') continue;
      const run =
        list === 'accessors' ? runOf(thing, way[0] === 'sparse' ? String(way[1]) : null, views[view]) : null;
      if (run === null) wholes.add(view);
      else {
        const runs = read.get(view);
        if (runs) runs.push(run);
        else read.set(view, [run]);
      }
    }
  }
  for (const view of wholes) read.delete(view);
  return new Map([...read].map(([view, runs]) => [view, joined(runs)]));
}

/** What an accessor reads: of each view it reads, a stretch; null where that cannot be told. */
export function readBy(json: Json, accessor: Json): { view: number; run: Run }[] | null {
  const views = listIn(json, 'bufferViews');
  const found = pointersOf('accessors', accessor).pointers.map(({ index: view, way }) => {
    const part = way[0] === 'sparse' ? String(way[1]) : null;
    const packed = isObject(views[view]?.extensions);
    const run = packed ? ([0, Infinity] as const) : runOf(accessor, part, views[view]);
    return run && { view, run };
  });
  return found.every((f) => f !== null) ? found : null;
}

/** `part` of a sparse accessor: its indices or values; null: the accessor itself. Null: that cannot be told. */
function runOf(accessor: Json, part: string | null, view: Json | undefined): Run | null {
  const size = elementBytes(accessor);
  if (size === null || !view) return null;
  const sparse = isObject(accessor.sparse) ? accessor.sparse : {};
  if (part !== null) {
    const said = isObject(sparse[part]) ? sparse[part] : {};
    const each = part === 'indices' ? componentBytes[Number(said.componentType)] : size;
    return each === undefined ? null : runAt(whole(said.byteOffset, 0), each * whole(sparse.count, 0), view);
  }
  const stride = whole(view.byteStride, size);
  const count = whole(accessor.count, 0);
  return runAt(whole(accessor.byteOffset, 0), count === 0 ? 0 : stride * (count - 1) + size, view);
}

/** Begins at a multiple of four, so that what lies in it keeps its place within a word. */
function runAt(at: number, length: number, view: Json): Run | null {
  const end = at + length;
  return end <= whole(view.byteLength, 0) && length > 0 ? [at & ~3, end] : null;
}

/** Runs that touch or lie over each other become one. */
function joined(runs: readonly Run[]): Run[] {
  const found: [number, number][] = [];
  for (const [from, to] of [...runs].sort((a, b) => a[0] - b[0])) {
    const last = found.at(-1);
    if (last && from <= last[1] + 3) last[1] = Math.max(last[1], to);
    else found.push([from, to]);
  }
  return found;
}
