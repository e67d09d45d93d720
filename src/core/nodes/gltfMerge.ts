// Chosen nodes of one glTF put into another: what comes is taken in the words it stands in, with the numbers that point to other things written for their new
// places; the target's own text stays, but for the lists that grow. Sources: glTF 2.0 Specification, §3.5 to §3.12 and §5.

import {
  holdingLists,
  pointersOf,
  thingsIn,
  wayOfList,
  writtenPointer,
  type ListName,
  type Way,
} from '../documents/gltfPointers';
import { isObject, type GltfText, type Json } from '../documents/gltfText';
import { asBytes, changedText, withItems, type Added, type PlacedChange } from '../documents/jsonEdits';
import { placeOf, placesIn, withMember, withoutMember } from '../documents/jsonPlaces';
import type { Span } from '../problem';
import type { Edit } from '../text/edits';
import { identity, inverse, isSameMatrix, parted, times } from '../units/matrix';
import type { NodeClash } from './clashes';
import { keyOf, type GltfNeeds, type Run } from './gltfNeeds';
import { above, childrenOf, localOf, nameOrNumber, parentsOf, worldAbove, worldOf } from './gltfTree';

/** Bytes that come along: of buffer view `view` of the source, or given ones. */
export interface Carried {
  /** How long the buffer in the target is before it; a multiple of four. */
  at: number;
  length: number;
  from: { view: number; run: Run } | { blob: string };
}

/** How a picture, or a sound, is held in the target: by a path, or as bytes in its buffer. */
export type Holding = { uri: string } | { length: number; mimeType: string | null };

export interface MergeRequest {
  needs: GltfNeeds;
  clashes: readonly (NodeClash & { list: ListName; index: number; there: number })[];
  /** The node they are put under; null: they stand at the top of the scene. */
  under: number | null;
  /** Where they stand: where they stood in the world, or as they stood below what was above the first of them. */
  place: 'world' | 'parent';
  /** Of things that hold a file, by key. */
  holdings: ReadonlyMap<string, Holding>;
  /** The target's buffer that takes the bytes, and how many it has; a new one where `isNew`. */
  buffer: { index: number; length: number; isNew: boolean };
}

export interface Merged {
  /** On the target's text, without what the buffer says of its length. */
  edits: Edit[];
  bytes: Carried[];
  /** How long the buffer is then. */
  length: number;
  /** The text of a buffer that compressed views unpack to, behind the others; null: there is none. */
  unpacked: string | null;
  /** What could not come along as it was. */
  left: { name: string; why: string }[];
  /** How many things each list of the target gets, for a check afterwards. */
  added: ReadonlyMap<ListName, number>;
}

/** Puts it together. `refused`: it cannot stand where it is wanted. */
export function gltfMerge(
  source: GltfText,
  target: GltfText,
  request: MergeRequest,
): Merged | { refused: string } {
  return new Merger(source, target, request).run();
}

type Clash = MergeRequest['clashes'][number];

class Merger {
  private readonly ways = new Map<string, Clash>();
  /** New numbers by key; what has none does not come along. */
  private readonly numbers = new Map<string, number>();
  private readonly texts = new Map<ListName, string[]>();
  private readonly replaced: { list: ListName; index: number; text: string }[] = [];
  private readonly bytes: Carried[] = [];
  private readonly left: { name: string; why: string }[] = [];
  private readonly extensions = new Set<string>();
  /** New views by (old view, run), and where the run begins. */
  private readonly views = new Map<number, { index: number; start: number; end: number }[]>();
  private readonly parents: Map<number, number>;
  private readonly sourceNodes: readonly Json[];
  private readonly moved: ReadonlySet<number>;
  private readonly spans = new Map<ListName, readonly Span[]>();
  private length: number;

  constructor(
    private readonly source: GltfText,
    private readonly target: GltfText,
    private readonly request: MergeRequest,
  ) {
    this.sourceNodes = thingsIn(source.json, 'nodes');
    this.parents = parentsOf(this.sourceNodes);
    this.length = request.buffer.length;
    for (const clash of request.clashes) this.ways.set(clash.key, clash);
    this.moved = new Set(
      [...request.needs.channels].flatMap(([n, channels]) =>
        channels.flatMap((c) => {
          const channel = (thingsIn(source.json, 'animations')[n]?.channels as Json[])[c];
          const node = isObject(channel?.target) ? channel.target.node : undefined;
          return typeof node === 'number' ? [node] : [];
        }),
      ),
    );
  }

  run(): Merged | { refused: string } {
    const { needs } = this.request;
    const placed = this.placements();
    if ('refused' in placed) return placed;
    this.number();
    const leaves = this.leavesWith();
    if (leaves !== null)
      return {
        refused: `${leaves} would be replaced, and what comes is to stand under it. Choose another place.`,
      };
    for (const [n, how] of needs.nodes) this.writeNode(n, how, placed);
    for (const { list, index } of needs.things.values()) this.writeThing(list, index);
    const edits = this.hangIn(placed);
    const added: Added[] = [...this.texts].map(([list, texts]) => ({ way: wayOfList(list), texts }));
    added.push(...this.extensionLists());
    return {
      edits: [...withItems(this.target.text, added), ...edits, ...this.replacements()],
      bytes: this.bytes,
      length: this.length,
      unpacked: this.unpackedText(),
      left: this.left,
      added: new Map([...this.texts].map(([list, texts]) => [list, texts.length])),
    };
  }

  private goesIn(key: string): 'new' | 'replace' | 'target' | 'skip' {
    const way = this.ways.get(key)?.way;
    return way === undefined || way === 'rename' ? 'new' : way;
  }

  /** Each thing's number in the target. */
  private number(): void {
    const { needs } = this.request;
    const next = new Map<ListName, number>();
    const give = (list: ListName, key: string) => {
      const goes = this.goesIn(key);
      if (goes === 'skip') return;
      if (goes !== 'new') {
        this.numbers.set(key, this.ways.get(key)!.there);
        return;
      }
      const n = next.get(list) ?? thingsIn(this.target.json, list).length;
      this.numbers.set(key, n);
      next.set(list, n + 1);
    };
    for (const n of needs.nodes.keys()) give('nodes', keyOf('nodes', n));
    for (const [key, { list }] of needs.things)
      if (list !== 'bufferViews' && list !== 'buffers') give(list, key);
    // A skin without one of its joints is none.
    for (const [key, { list, index, name }] of needs.things) {
      if (list !== 'skins' || !this.numbers.has(key)) continue;
      const joints = thingsIn(this.source.json, 'skins')[index]?.joints as number[];
      if (joints.every((j) => this.numbers.has(keyOf('nodes', j)))) continue;
      this.numbers.delete(key);
      this.left.push({ name, why: 'one of its joints is left out' });
    }
    // Numbers have to be without holes.
    const skins = [...this.numbers].filter(([key]) => key.startsWith('skins ') && this.goesIn(key) === 'new');
    for (const [i, [key]] of skins.entries())
      this.numbers.set(key, thingsIn(this.target.json, 'skins').length + i);
  }

  /** The node under which all is to stand, or one above it, that is to be replaced; null: none is. */
  private leavesWith(): string | null {
    const { under, needs } = this.request;
    if (under === null) return null;
    const nodes = thingsIn(this.target.json, 'nodes');
    const leaving = [...needs.nodes.keys()].flatMap((n) => {
      const clash = this.ways.get(keyOf('nodes', n));
      return clash?.way === 'replace' ? [clash.there] : [];
    });
    const found = [under, ...above(parentsOf(nodes), under)].find((n) => leaving.includes(n));
    return found === undefined ? null : nameOrNumber(nodes[found], found, 'node');
  }

  /** The text of a thing of the source. */
  private textOf(list: ListName, index: number, changes: readonly PlacedChange[]): string {
    let spans = this.spans.get(list);
    if (!spans) {
      const at = placeOf(this.source.text, wayOfList(list));
      spans = (at && placesIn(this.source.text, at)?.items) ?? [];
      this.spans.set(list, spans);
    }
    return changedText(this.source.text, spans[index]!, changes);
  }

  /** Changes that write pointers for the target, and take out what does not come along. */
  private pointed(list: ListName, index: number): PlacedChange[] {
    const thing = thingsIn(this.source.json, list)[index]!;
    const changes: PlacedChange[] = [];
    const drops: Way[] = (this.request.needs.strange.get(keyOf(list, index)) ?? []).map(({ way }) => way);
    const { pointers } = pointersOf(list, thing);
    for (const { to, index: old, way, tail } of pointers) {
      if (to === 'bufferViews' || to === 'buffers') continue;
      const now = this.numbers.get(keyOf(to, old));
      if (now === undefined) drops.push(dropped(way));
      else if (tail !== undefined)
        changes.push({ way, to: asBytes(JSON.stringify(writtenPointer(to, now, tail))) });
      else if (now !== old) changes.push({ way, to: String(now) });
    }
    changes.push(...droppedWhole(thing, drops));
    const name = this.ways.get(keyOf(list, index));
    if (name?.way === 'rename' && typeof thing.name === 'string')
      changes.push({ way: ['name'], to: asBytes(JSON.stringify(name.renamed)) });
    return changes;
  }

  private put(list: ListName, index: number, text: string): void {
    const key = keyOf(list, index);
    const goes = this.goesIn(key);
    if (goes === 'replace') this.replaced.push({ list, index: this.numbers.get(key)!, text });
    else this.append(list, text);
    for (const [, name] of text.matchAll(/"([A-Z][A-Z0-9]*_[A-Za-z0-9_]+)"\s*:/g)) this.extensions.add(name!);
  }

  private append(list: ListName, text: string): void {
    const held = this.texts.get(list);
    if (held) held.push(text);
    else this.texts.set(list, [text]);
  }

  private writeThing(list: ListName, index: number): void {
    const key = keyOf(list, index);
    const goes = this.goesIn(key);
    if (list === 'bufferViews' || list === 'buffers' || goes === 'target' || !this.numbers.has(key)) return;
    const changes = this.pointed(list, index);
    if (list === 'animations') changes.push(...this.cutChannels(index, changes));
    else if (holdingLists.has(list)) changes.push(...this.held(list, index));
    else changes.push(...this.seen(list, index));
    this.put(list, index, this.textOf(list, index, withoutInner(changes)));
  }

  /** Changes of what reads views: accessors, and what is compressed. */
  private seen(list: ListName, index: number): PlacedChange[] {
    const thing = thingsIn(this.source.json, list)[index]!;
    const changes: PlacedChange[] = [];
    for (const { to, index: view, way } of pointersOf(list, thing).pointers) {
      if (to !== 'bufferViews') continue;
      const holder = way.slice(0, -1);
      const said = holder.reduce<unknown>((at, key) => (at as Json)[key], thing) as Json;
      const at = Number(said.byteOffset ?? 0);
      const { index: now, start } = this.viewFor(view, at);
      changes.push({ way, to: String(now) });
      if (at - start !== at) changes.push({ way: [...holder, 'byteOffset'], to: String(at - start) });
    }
    return changes;
  }

  /** The new view that holds what lies at a place of an old one. */
  private viewFor(view: number, at: number): { index: number; start: number } {
    let made = this.views.get(view);
    if (!made) {
      const said = thingsIn(this.source.json, 'bufferViews')[view]!;
      const runs = this.request.needs.runs.get(view);
      made = (runs ?? [[0, Number(said.byteLength)] as const]).map((run) => ({
        index: this.makeView(view, said, run, runs !== undefined),
        start: run[0],
        end: run[1],
      }));
      this.views.set(view, made);
    }
    return made.find((v) => at >= v.start && at < v.end) ?? made[0]!;
  }

  private makeView(view: number, said: Json, run: Run, isPart: boolean): number {
    const index =
      thingsIn(this.target.json, 'bufferViews').length + (this.texts.get('bufferViews')?.length ?? 0);
    const { buffer } = this.request;
    const packed = isObject(said.extensions)
      ? Object.entries(said.extensions).find(([name, e]) => /_meshopt_compression$/.test(name) && isObject(e))
      : undefined;
    const changes: PlacedChange[] = [];
    if (packed) {
      // Its bytes are where the extension says; what it unpacks to has a buffer without any.
      const [name, e] = packed as [string, Json];
      const at = this.carry({ view, run: [0, Number(e.byteLength)] }, Number(e.byteLength));
      changes.push(
        { way: ['extensions', name, 'buffer'], to: String(buffer.index) },
        { way: ['extensions', name, 'byteOffset'], to: String(at) },
        { way: ['buffer'], to: String(this.unpackedBuffer(name)) },
        { way: ['byteOffset'], to: String(this.unpacked) },
      );
      this.unpacked += (run[1] + 3) & ~3;
    } else {
      // It keeps its place within a word: what lies in it is read by words.
      const within = (Number(said.byteOffset ?? 0) + run[0]) % 4;
      const at = this.carry({ view, run }, run[1] - run[0], within);
      changes.push({ way: ['buffer'], to: String(buffer.index) });
      if (at !== 0 || said.byteOffset !== undefined) changes.push({ way: ['byteOffset'], to: String(at) });
      if (isPart) changes.push({ way: ['byteLength'], to: String(run[1] - run[0]) });
    }
    const text = this.textOf('bufferViews', view, changes);
    this.append('bufferViews', text);
    if (packed) this.extensions.add(packed[0]);
    return index;
  }

  private unpacked = 0;
  private unpackedAt: { index: number; name: string } | null = null;

  private unpackedBuffer(name: string): number {
    const { buffer } = this.request;
    this.unpackedAt ??= {
      index: thingsIn(this.target.json, 'buffers').length + (buffer.isNew ? 1 : 0),
      name,
    };
    return this.unpackedAt.index;
  }

  /** Bytes into the target's buffer; returns where they begin. */
  private carry(from: Carried['from'], length: number, within = 0): number {
    const at = ((this.length + 3) & ~3) + within;
    this.bytes.push({ at, length, from });
    this.length = at + length;
    return at;
  }

  /** Changes of a picture, a sound or a light profile: as the target holds it. */
  private held(list: ListName, index: number): PlacedChange[] {
    const key = keyOf(list, index);
    const holding = this.request.holdings.get(key);
    if (!holding) return [];
    const thing = thingsIn(this.source.json, list)[index]!;
    if ('uri' in holding)
      return [
        { way: ['bufferView'], to: null },
        { way: ['uri'], to: asBytes(JSON.stringify(holding.uri)) },
      ];
    const at = this.carry({ blob: key }, holding.length);
    const view =
      thingsIn(this.target.json, 'bufferViews').length + (this.texts.get('bufferViews')?.length ?? 0);
    this.append(
      'bufferViews',
      JSON.stringify({ buffer: this.request.buffer.index, byteOffset: at, byteLength: holding.length }),
    );
    return [
      { way: ['uri'], to: null },
      { way: ['bufferView'], to: String(view) },
      ...(holding.mimeType !== null && thing.mimeType === undefined
        ? [{ way: ['mimeType'], to: JSON.stringify(holding.mimeType) }]
        : []),
    ];
  }

  /** Only the channels that move what comes along, and their samplers. */
  private cutChannels(index: number, changes: readonly PlacedChange[]): PlacedChange[] {
    const animation = thingsIn(this.source.json, 'animations')[index]!;
    const wanted = this.request.needs.channels.get(index)!;
    const channels = animation.channels as Json[];
    const comes = wanted.filter(
      (c) => !changes.some((x) => x.to === null && x.way[0] === 'channels' && x.way[1] === c),
    );
    const samplers = [...new Set(comes.map((c) => Number(channels[c]!.sampler)))].sort((a, b) => a - b);
    const kept = (of: 'channels' | 'samplers', n: number) =>
      of === 'channels' ? comes.includes(n) : samplers.includes(n);
    return [
      ...(['channels', 'samplers'] as const).flatMap((of) =>
        (animation[of] as unknown[]).flatMap((_, n) => (kept(of, n) ? [] : [{ way: [of, n], to: null }])),
      ),
      ...comes.map((c) => ({
        way: ['channels', c, 'sampler'],
        to: String(samplers.indexOf(Number(channels[c]!.sampler))),
      })),
    ];
  }

  // ---- nodes

  private writeNode(n: number, how: 'whole' | 'bare', placed: ReadonlyMap<number, Placing>): void {
    const key = keyOf('nodes', n);
    const goes = this.goesIn(key);
    if (goes === 'target' || goes === 'skip') return;
    const node = this.sourceNodes[n]!;
    let changes = this.pointed('nodes', n).filter((c) => c.way[0] !== 'children');
    if (how === 'bare') {
      const isKept = (c: PlacedChange) => c.way[0] === 'name';
      changes = [
        ...changes.filter(isKept),
        ...['mesh', 'skin', 'camera', 'weights', 'extensions'].map((k) => ({ way: [k], to: null })),
      ];
    }
    const children = childrenOf(node).flatMap((c) => {
      const child = keyOf('nodes', c);
      const own = this.goesIn(child);
      const now = this.numbers.get(child);
      return this.request.needs.nodes.has(c) && now !== undefined && own !== 'target' ? [now] : [];
    });
    if (node.children !== undefined || children.length > 0)
      changes.push({ way: ['children'], to: children.length > 0 ? JSON.stringify(children) : null });
    const local = placed.get(n)?.local;
    if (local) changes.push(...localChanges(local));
    this.put('nodes', n, this.textOf('nodes', n, withoutInner(changes)));
  }

  /** Where each of the topmost nodes is to stand below its new parent. */
  private placements(): Map<number, Placing> | { refused: string } {
    const { needs, under, place } = this.request;
    const found = new Map<number, Placing>();
    const targetNodes = thingsIn(this.target.json, 'nodes');
    const targetParents = parentsOf(targetNodes);
    const first = needs.tops[0];
    // Below a node that is not carried itself, a node stays as it says.
    const hanging = this.hangingNodes();
    const base =
      place === 'parent'
        ? first === undefined
          ? identity
          : worldAbove(this.sourceNodes, this.parents, first)
        : under === null
          ? identity
          : worldOf(targetNodes, targetParents, under);
    const back = inverse(base);
    if (!back)
      return {
        refused: 'What stands above it is scaled to nothing: no place below it is the same in the world.',
      };
    for (const n of hanging) {
      const above = this.parents.get(n);
      if (above !== undefined && needs.nodes.has(above)) {
        found.set(n, { local: null, wrapper: null });
        continue;
      }
      const between = times(back, worldAbove(this.sourceNodes, this.parents, n));
      const node = this.sourceNodes[n]!;
      if (isSameMatrix(between, identity)) found.set(n, { local: null, wrapper: null });
      else if (this.moved.has(n)) {
        // An animation says anew where it stands below its parent: what lies between goes into a node of its own.
        const p = parted(between);
        if (!p) return { refused: sheared };
        found.set(n, { local: null, wrapper: p });
      } else {
        const p = parted(times(between, localOf(node)));
        if (!p) return { refused: sheared };
        found.set(n, { local: p, wrapper: null });
      }
    }
    return found;
  }

  /** Nodes that come along and whose parent does not hold them: it stays behind, or the target's stands in its place. */
  private hangingNodes(): number[] {
    const { needs } = this.request;
    return [...needs.nodes.keys()].filter((n) => {
      const own = this.goesIn(keyOf('nodes', n));
      if (own === 'target' || own === 'skip') return false;
      const parent = this.parents.get(n);
      if (parent === undefined || !needs.nodes.has(parent)) return true;
      return this.goesIn(keyOf('nodes', parent)) === 'target';
    });
  }

  /** The target's nodes and scene take the new ones in; replaced ones leave their old parents. */
  private hangIn(placed: ReadonlyMap<number, Placing>): Edit[] {
    const { json, text } = this.target;
    const { needs, under } = this.request;
    const nodes = thingsIn(json, 'nodes');
    const parents = parentsOf(nodes);
    const children = new Map<number, number[]>();
    const childrenNow = (n: number) => {
      const held = children.get(n);
      if (held) return held;
      const fresh = childrenOf(nodes[n]);
      children.set(n, fresh);
      return fresh;
    };
    const scenes = thingsIn(json, 'scenes');
    const first = typeof json.scene === 'number' && scenes[json.scene] ? json.scene : 0;
    const tops: number[] = [];
    const leaving = new Set(this.replaced.filter((r) => r.list === 'nodes').map((r) => r.index));
    for (const n of leaving) {
      const parent = parents.get(n);
      if (parent !== undefined && !leaving.has(parent))
        children.set(
          parent,
          childrenNow(parent).filter((c) => c !== n),
        );
    }
    for (const n of this.hangingNodes()) {
      const key = keyOf('nodes', n);
      const parent = this.parents.get(n);
      const isBelowTarget = parent !== undefined && needs.nodes.has(parent);
      const holder = isBelowTarget ? this.numbers.get(keyOf('nodes', parent))! : under;
      const own = this.numbers.get(key)!;
      const hung = this.wrapped(n, own, placed.get(n)?.wrapper ?? null);
      if (holder === null) tops.push(hung);
      else children.set(holder, [...childrenNow(holder).filter((c) => c !== hung), hung]);
    }
    const edits: Edit[] = [];
    for (const [n, list] of children) {
      if (leaving.has(n)) continue;
      edits.push(...childrenEdit(text, placeOf(text, ['nodes', n])!, list));
    }
    return [...edits, ...this.sceneEdits(first, tops, leaving)];
  }

  private sceneEdits(first: number, tops: readonly number[], leaving: ReadonlySet<number>): Edit[] {
    const { json, text } = this.target;
    const scenes = thingsIn(json, 'scenes');
    if (scenes.length === 0)
      return tops.length === 0
        ? []
        : withItems(text, [{ way: ['scenes'], texts: [JSON.stringify({ nodes: tops })] }]);
    return scenes.flatMap((scene, n) => {
      const now = Array.isArray(scene.nodes) ? (scene.nodes as number[]) : [];
      const next = [...now.filter((c) => !leaving.has(c)), ...(n === first ? tops : [])];
      if (next.length === now.length && next.every((c, i) => c === now[i])) return [];
      return childrenEdit(text, placeOf(text, ['scenes', n])!, next, 'nodes');
    });
  }

  private wrapped(n: number, own: number, p: Parted | null): number {
    if (!p) return own;
    const made = thingsIn(this.target.json, 'nodes').length + (this.texts.get('nodes')?.length ?? 0);
    const name = `${nameOrNumber(this.sourceNodes[n], n, 'node')}_place`;
    this.append(
      'nodes',
      asBytes(JSON.stringify({ name, translation: p.t, rotation: p.turn, scale: p.s, children: [own] })),
    );
    return made;
  }

  // ---- what the document says of itself

  private extensionLists(): Added[] {
    const strings = (json: Json, key: string) =>
      Array.isArray(json[key]) ? json[key].filter((x): x is string => typeof x === 'string') : [];
    // It has no words of its own but in numbers' types.
    const types = strings(this.source.json, 'extensionsUsed').filter((e) => e === 'KHR_mesh_quantization');
    if (this.texts.has('meshes')) for (const e of types) this.extensions.add(e);
    return (['extensionsUsed', 'extensionsRequired'] as const).map((key) => {
      const there = strings(this.target.json, key);
      const said = strings(this.source.json, key);
      const wanted = said.filter((e) => this.extensions.has(e) && !there.includes(e));
      return { way: [key], texts: wanted.map((e) => JSON.stringify(e)) };
    });
  }

  /** The buffer that compressed views unpack to. */
  private unpackedText(): string | null {
    return this.unpackedAt
      ? JSON.stringify({
          byteLength: this.unpacked,
          extensions: { [this.unpackedAt.name]: { fallback: true } },
        })
      : null;
  }

  private replacements(): Edit[] {
    return this.replaced.map(({ list, index, text }) => ({
      span: placeOf(this.target.text, [...wayOfList(list), index])!,
      bytes: Uint8Array.from(text, (c) => c.charCodeAt(0)),
    }));
  }
}

type Parted = NonNullable<ReturnType<typeof parted>>;

interface Placing {
  local: Parted | null;
  wrapper: Parted | null;
}

const sheared =
  'What stands above it in the two scenes is scaled unevenly and turned: no node can say the same place in the world. Put it under another node, or at the parent’s place.';

const localChanges = (p: Parted): PlacedChange[] => [
  { way: ['matrix'], to: null },
  { way: ['translation'], to: JSON.stringify(p.t) },
  { way: ['rotation'], to: JSON.stringify(p.turn) },
  { way: ['scale'], to: JSON.stringify(p.s) },
];

/** What goes where a pointer goes: a texture with its place, an extension whole. */
function dropped(way: Way): Way {
  const extension = way.lastIndexOf('extensions');
  if (extension >= 0) return way.slice(0, extension + 2);
  if (way[0] === 'channels') return way.slice(0, 2);
  return way.at(-1) === 'index' ? way.slice(0, -1) : way;
}

/** Drops as changes; an object of extensions that would be left empty goes whole (an empty one is not allowed, §5). */
function droppedWhole(thing: Json, drops: readonly Way[]): PlacedChange[] {
  const inside = (way: Way) =>
    way.reduce<unknown>(
      (at, key) => (isObject(at) || Array.isArray(at) ? (at as Json)[key] : undefined),
      thing,
    );
  const holders = new Map<string, { way: Way; names: Set<unknown> }>();
  for (const way of drops) {
    if (way.at(-2) !== 'extensions') continue;
    const key = JSON.stringify(way.slice(0, -1));
    const held = holders.get(key) ?? { way: way.slice(0, -1), names: new Set() };
    held.names.add(way.at(-1));
    holders.set(key, held);
  }
  const wholes = [...holders.values()].filter(({ way, names }) => {
    const there = inside(way);
    return isObject(there) && Object.keys(there).every((k) => names.has(k));
  });
  return [...drops, ...wholes.map((w) => w.way)].map((way) => ({ way, to: null }));
}

/** Of changes at one place and below it only the outer one counts, if it takes the place away; of two at one place the last. */
function withoutInner(changes: readonly PlacedChange[]): PlacedChange[] {
  const gone = new Set(changes.filter((c) => c.to === null).map((c) => JSON.stringify(c.way)));
  const last = new Map(changes.map((c) => [JSON.stringify(c.way), c]));
  return [...last.values()].filter(
    ({ way }) => !way.some((_, n) => n > 0 && gone.has(JSON.stringify(way.slice(0, n)))),
  );
}

function childrenEdit(text: Uint8Array, object: Span, list: readonly number[], key = 'children'): Edit[] {
  const there = placesIn(text, object)?.members.get(key);
  const bytes = Uint8Array.from(JSON.stringify(list), (c) => c.charCodeAt(0));
  if (list.length === 0) {
    const gone = there && withoutMember(text, object, key);
    return gone ? [gone] : [];
  }
  return [there ? { span: there, bytes } : withMember(text, object, key, list)];
}
