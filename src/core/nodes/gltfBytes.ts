// Which bytes come along with things of a glTF, and the views of the target's buffer that hold them. Sources: glTF 2.0 Specification, §3.6.2 (views, alignment);
// EXT_meshopt_compression (from memory of the extension's text).

import { pointersOf, thingsIn, type ListName } from '../documents/gltfPointers';
import { packedIn, type Json } from '../documents/gltfText';
import { asBytes, type PlacedChange } from '../documents/jsonEdits';
import type { Run } from './gltfNeeds';

/** Bytes that come along: of buffer view `view` of the source, or given ones. */
export interface Carried {
  /** How long the buffer in the target is before it; a multiple of four. */
  at: number;
  length: number;
  from: { view: number; run: Run } | { blob: string };
}

/** How a picture, or a sound, is held in the target: by a path, or as bytes in its buffer. */
export type Holding = { uri: string } | { length: number; mimeType: string | null };

/** The target's buffer that takes the bytes, and how many it has; a new one where `isNew`. */
export interface GrowingBuffer {
  index: number;
  length: number;
  isNew: boolean;
}

export class GltfBytes {
  readonly bytes: Carried[] = [];
  /** How long the buffer is by now. */
  length: number;
  /** Extensions that views need. */
  readonly extensions = new Set<string>();
  /** New views by old ones: what of them each holds. */
  private readonly views = new Map<number, { index: number; start: number; end: number }[]>();

  /** `textOf`: a view of the source with changes. `add`: puts a view behind the target's, and tells its number. */
  constructor(
    private readonly source: Json,
    private readonly target: Json,
    private readonly runs: ReadonlyMap<number, readonly Run[]>,
    private readonly buffer: GrowingBuffer,
    private readonly textOf: (view: number, changes: readonly PlacedChange[]) => string,
    private readonly add: (text: string) => number,
  ) {
    this.length = buffer.length;
  }

  /** Changes of what reads views: accessors, and what is compressed. */
  seen(list: ListName, thing: Json): PlacedChange[] {
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
      const said = thingsIn(this.source, 'bufferViews')[view]!;
      const runs = this.runs.get(view);
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
    const { buffer } = this;
    const packed = packedIn(said);
    const changes: PlacedChange[] = [];
    if (packed) {
      // Its bytes are where the extension says; what it unpacks to has a buffer without any.
      const [name, e] = packed;
      const at = this.carry({ view, run: [0, Number(e.byteLength)] }, Number(e.byteLength));
      changes.push(
        { way: ['extensions', name, 'buffer'], to: String(buffer.index) },
        { way: ['extensions', name, 'byteOffset'], to: String(at) },
        { way: ['buffer'], to: String(this.unpackedBuffer(name)) },
        { way: ['byteOffset'], to: String(this.unpacked) },
      );
      this.unpacked += (run[1] + 3) & ~3;
      this.extensions.add(name);
    } else {
      // It keeps its place within a word: what lies in it is read by words.
      const within = (Number(said.byteOffset ?? 0) + run[0]) % 4;
      const at = this.carry({ view, run }, run[1] - run[0], within);
      changes.push({ way: ['buffer'], to: String(buffer.index) });
      if (at !== 0 || said.byteOffset !== undefined) changes.push({ way: ['byteOffset'], to: String(at) });
      if (isPart) changes.push({ way: ['byteLength'], to: String(run[1] - run[0]) });
    }
    return this.add(this.textOf(view, changes));
  }

  private unpacked = 0;
  private unpackedAt: { index: number; name: string } | null = null;

  private unpackedBuffer(name: string): number {
    const there = thingsIn(this.target, 'buffers').length;
    this.unpackedAt ??= { index: there + (this.buffer.isNew ? 1 : 0), name };
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
  held(key: string, thing: Json, holding: Holding | undefined): PlacedChange[] {
    // What is not there points to nothing, rather than to a view of the target.
    if (!holding) return thing.bufferView === undefined ? [] : [{ way: ['bufferView'], to: null }];
    if ('uri' in holding)
      return [
        { way: ['bufferView'], to: null },
        { way: ['uri'], to: asBytes(JSON.stringify(holding.uri)) },
      ];
    const at = this.carry({ blob: key }, holding.length);
    const view = this.add(
      JSON.stringify({ buffer: this.buffer.index, byteOffset: at, byteLength: holding.length }),
    );
    return [
      { way: ['uri'], to: null },
      { way: ['bufferView'], to: String(view) },
      ...(holding.mimeType !== null && thing.mimeType === undefined
        ? [{ way: ['mimeType'], to: JSON.stringify(holding.mimeType) }]
        : []),
    ];
  }

  /** The buffer that compressed views unpack to. */
  unpackedText(): string | null {
    return this.unpackedAt
      ? JSON.stringify({
          byteLength: this.unpacked,
          extensions: { [this.unpackedAt.name]: { fallback: true } },
        })
      : null;
  }
}
