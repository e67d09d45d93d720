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
import type { GltfText, Json } from '../documents/gltfText';
import { asBytes, changedText, withItems, type Added, type PlacedChange } from '../documents/jsonEdits';
import { placeOf, placesIn } from '../documents/jsonPlaces';
import type { Span } from '../problem';
import type { Edit } from '../text/edits';
import type { NodeClash } from './clashes';
import { GltfBytes, type Carried, type GrowingBuffer, type Holding } from './gltfBytes';
import { childrenEdit, dropped, droppedWhole, withoutInner } from './gltfChanges';
import { localChanges, placings, type Parted, type Placing } from './gltfPlacing';
import { keyOf, type GltfNeeds } from './gltfNeeds';
import { above, childrenOf, nameOrNumber, parentsOf } from './gltfTree';
import { bytesOfText } from '../text/bytes';

export interface MergeRequest {
  needs: GltfNeeds;
  clashes: readonly (NodeClash & { list: ListName; index: number; there: number })[];
  /** The node they are put under; null: they stand at the top of the scene. */
  under: number | null;
  /** Where they stand: where they stood in the world, or as they stood below what was above the first of them. */
  place: 'world' | 'parent';
  /** Of things that hold a file, by key. */
  holdings: ReadonlyMap<string, Holding>;
  buffer: GrowingBuffer;
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
  private readonly left: { name: string; why: string }[] = [];
  private readonly extensions = new Set<string>();
  private readonly parents: Map<number, number>;
  private readonly sourceNodes: readonly Json[];
  private readonly spans = new Map<ListName, readonly Span[]>();
  private readonly inside: GltfBytes;

  constructor(
    private readonly source: GltfText,
    private readonly target: GltfText,
    private readonly request: MergeRequest,
  ) {
    this.sourceNodes = thingsIn(source.json, 'nodes');
    this.parents = parentsOf(this.sourceNodes);
    this.inside = new GltfBytes(
      source.json,
      target.json,
      request.needs.runs,
      request.buffer,
      (view, changes) => this.textOf('bufferViews', view, changes),
      (text) => this.append('bufferViews', text),
    );
    for (const clash of request.clashes) this.ways.set(clash.key, clash);
  }

  run(): Merged | { refused: string } {
    const { needs } = this.request;
    const placed = placings(this.source.json, this.target.json, needs, this.hangingNodes(), this.request);
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
      bytes: this.inside.bytes,
      length: this.inside.length,
      unpacked: this.inside.unpackedText(),
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

  /** Puts a thing behind those of the target; returns its number. */
  private append(list: ListName, text: string): number {
    const held = this.texts.get(list) ?? [];
    this.texts.set(list, held);
    return thingsIn(this.target.json, list).length + held.push(text) - 1;
  }

  private writeThing(list: ListName, index: number): void {
    const key = keyOf(list, index);
    const goes = this.goesIn(key);
    if (list === 'bufferViews' || list === 'buffers' || goes === 'target' || !this.numbers.has(key)) return;
    const thing = thingsIn(this.source.json, list)[index]!;
    const changes = this.pointed(list, index);
    if (list === 'animations') changes.push(...this.cutChannels(index, changes));
    else if (holdingLists.has(list))
      changes.push(...this.inside.held(key, thing, this.request.holdings.get(key)));
    else changes.push(...this.inside.seen(list, thing));
    this.put(list, index, this.textOf(list, index, withoutInner(changes)));
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
    const name = `${nameOrNumber(this.sourceNodes[n], n, 'node')}_place`;
    return this.append(
      'nodes',
      asBytes(JSON.stringify({ name, translation: p.t, rotation: p.turn, scale: p.s, children: [own] })),
    );
  }

  // ---- what the document says of itself

  private extensionLists(): Added[] {
    const strings = (json: Json, key: string) =>
      Array.isArray(json[key]) ? json[key].filter((x): x is string => typeof x === 'string') : [];
    // It has no words of its own but in numbers' types.
    const types = strings(this.source.json, 'extensionsUsed').filter((e) => e === 'KHR_mesh_quantization');
    for (const e of [...this.inside.extensions, ...(this.texts.has('meshes') ? types : [])])
      this.extensions.add(e);
    return (['extensionsUsed', 'extensionsRequired'] as const).map((key) => {
      const there = strings(this.target.json, key);
      const said = strings(this.source.json, key);
      const wanted = said.filter((e) => this.extensions.has(e) && !there.includes(e));
      return { way: [key], texts: wanted.map((e) => JSON.stringify(e)) };
    });
  }

  private replacements(): Edit[] {
    return this.replaced.map(({ list, index, text }) => ({
      span: placeOf(this.target.text, [...wayOfList(list), index])!,
      bytes: bytesOfText(text),
    }));
  }
}
