// What versions cost: on the drive, in the store, and as copies; how that grew; and what scenes carry inside them again and again.

import { formatOfName } from '@/core/formats/formats';
import { netContents, sceneNets, type KeptState } from '@/core/versions/net';
import type { CancelSignal } from '@/core/files/fileTree';
import { allSeries } from '@/core/plans/planSave';
import { digestOf } from '@/core/plans/planTakeOut';
import { readNote } from '@/core/plans/versionFiles';
import { partsOf } from '@/core/repeats/parts';
import { cutBytes, cutPart, repeatsOf, type CutFile } from '@/core/repeats/repeats';
import { sizesFor } from '@/core/store/chunking';
import { packIndex, type PackIndex } from '@/core/store/packIndex';
import { asItLies } from '@/core/store/store';
import { storeSize } from '@/core/store/sweep';
import type { Digest } from '@/core/files/digest';
import { treePath } from '@/core/files/treePath';
import type { Series } from '@/core/versions/series';
import type { CostView } from '@/wire/views';
import { netLines } from './net';
import type { OpenWorkspace } from './open';

/** The largest file that is looked into. */
const most = 512 * 1024 * 1024;

interface Event {
  at: number;
  copies: number;
  /** Bytes that it takes: of a file its size, of a kept content what the packs did not have yet. */
  size: number | Digest[];
}

/** Works it out. Reads the last two versions of each scene. */
export async function costOf(
  workspace: OpenWorkspace,
  options: {
    signal?: CancelSignal | undefined;
    onScene?: ((done: number, of: number, scene: string) => void) | undefined;
  } = {},
): Promise<CostView> {
  const { tree } = workspace;
  const index = await packIndex(tree);
  const lines = await netLines(tree);
  const nets = sceneNets(lines);
  const kept = new Set(netContents(lines));
  const all = await allSeries(workspace);
  const events: Event[] = [];
  const scenes: CostView['scenes'] = [];
  const cut: CutFile[] = [];
  for (const [n, series] of all.entries()) {
    options.signal?.throwIfAborted();
    options.onScene?.(n + 1, all.length, series.scene);
    const own = [...(await versionEvents(workspace, series)), ...netEvents(series, nets, kept)];
    events.push(...own.map((e) => e.event));
    const looked = await lookInto(workspace, series);
    cut.push(...looked.files);
    const onDisk = own.reduce((sum, { event }) => sum + (typeof event.size === 'number' ? event.size : 0), 0);
    const ids = own.flatMap(({ event }) => (typeof event.size === 'number' ? [] : event.size));
    scenes.push({
      scene: series.scene,
      states: own.length,
      onDisk,
      inStore: new Covered(index).add(ids),
      copies: own.reduce((sum, { event }) => sum + event.copies, 0),
      save: looked.save,
      changed: looked.changed,
      older: olderOf(own, looked.changed),
    });
  }
  scenes.sort((a, b) => b.onDisk + b.inStore - a.onDisk - a.inStore);
  const present = new Set<string>(all.map((s) => s.scene));
  return {
    onDisk: scenes.reduce((sum, s) => sum + s.onDisk, 0),
    inStore: new Covered(index).add(events.flatMap((e) => (typeof e.size === 'number' ? [] : e.size))),
    copies: scenes.reduce((sum, s) => sum + s.copies, 0),
    store: await storeSize(tree),
    scenes,
    grew: grownBy(events, index),
    repeats: repeatsOf(cut)
      .slice(0, 50)
      .map((r) => ({ ...r, files: [...r.files], present: r.files.filter((f) => present.has(f)) })),
  };
}

type Owned = { event: Event };

/** What each version takes. */
async function versionEvents(workspace: OpenWorkspace, series: Series): Promise<Owned[]> {
  const found: Owned[] = [];
  for (const version of series.versions) {
    const note = await readNote(workspace, version.path);
    const files = version.compact ? note?.compact : undefined;
    const parts = version.compact
      ? []
      : [version.path, ...(note?.parts ?? []).map((part) => treePath(part.to))];
    const stats = await Promise.all(parts.map((p) => workspace.tree.stat(p).catch(() => null)));
    const there = stats.filter((s) => s !== null);
    const at = (note && Date.parse(note.saved)) || (files?.at(-1) ?? there[0])?.modified;
    if (at === undefined) continue;
    const size = files ? files.reduce((s, f) => s + f.size, 0) : there.reduce((s, f) => s + f.size, 0);
    found.push({ event: { at, copies: size, size: files ? files.map((f) => f.digest) : size } });
  }
  return found;
}

function netEvents(series: Series, nets: ReturnType<typeof sceneNets>, kept: ReadonlySet<Digest>): Owned[] {
  const names = new Set([series.scene, ...series.versions.map((v) => v.path)]);
  const states: KeptState[] = [...names].flatMap((name) => nets.get(name)?.states ?? []);
  return states.map((s) => ({
    event: {
      at: s.at,
      copies: s.files.reduce((sum, f) => sum + f.size, 0),
      size: s.files.map((f) => f.digest).filter((d) => kept.has(d)),
    },
  }));
}

/** What the older versions on the drive take, and about what they would take kept compact: the first one, and of each other what is new. */
function olderOf(own: readonly Owned[], changed: number | null): { now: number; compact: number } | null {
  const sizes = own.flatMap(({ event }) => (typeof event.size === 'number' ? [event.size] : [])).slice(0, -1);
  if (sizes.length === 0 || changed === null) return null;
  const now = sizes.reduce((sum, s) => sum + s, 0);
  return { now, compact: Math.min(now, sizes[0]! + changed * (sizes.length - 1)) };
}

/** Stretches of the packs that have been counted. */
class Covered {
  private readonly packs = new Map<number, [number, number][]>();
  private readonly seen = new Set<Digest>();
  constructor(private readonly index: PackIndex) {}

  /** Bytes of contents that were not counted yet. */
  add(digests: readonly Digest[]): number {
    let fresh = 0;
    for (const digest of digests) {
      if (this.seen.has(digest)) continue;
      this.seen.add(digest);
      const content = this.index.contents.get(digest);
      if (!content) continue;
      for (const { pack, offset, length } of asItLies(this.index, content.extents))
        fresh += this.cover(pack, offset, offset + length);
    }
    return fresh;
  }

  private cover(pack: number, from: number, to: number): number {
    const spans = this.packs.get(pack) ?? [];
    let fresh = to - from;
    const apart: [number, number][] = [];
    let [start, end] = [from, to];
    for (const [a, b] of spans) {
      if (b < from || a > to) {
        apart.push([a, b]);
        continue;
      }
      fresh -= Math.max(0, Math.min(b, to) - Math.max(a, from));
      [start, end] = [Math.min(start, a), Math.max(end, b)];
    }
    this.packs.set(pack, [...apart, [start, end]]);
    return fresh;
  }
}

const points = 200;

/** How it grew: after each of at most so many moments, all there was by then. */
function grownBy(events: readonly Event[], index: PackIndex): CostView['grew'] {
  const covered = new Covered(index);
  const grown: CostView['grew'] = [];
  let [copies, taken] = [0, 0];
  for (const e of [...events].sort((a, b) => a.at - b.at)) {
    copies += e.copies;
    taken += typeof e.size === 'number' ? e.size : covered.add(e.size);
    grown.push({ at: e.at, copies, taken });
  }
  const step = Math.max(1, Math.ceil(grown.length / points));
  return grown.filter((_, n) => n % step === 0 || n === grown.length - 1);
}

/** The present state and the one before it, cut: what a save writes, how much of it is new, and what is inside. */
async function lookInto(
  workspace: OpenWorkspace,
  series: Series,
): Promise<{ files: CutFile[]; save: number; changed: number | null }> {
  const { tree } = workspace;
  const there = series.versions.filter((v) => !v.compact).map((v) => v.path);
  const paths = [...new Set([...there.slice(-2), series.scene])].slice(-2);
  const files: CutFile[] = [];
  let before: ReadonlyMap<string, number> | null = null;
  let [save, changed] = [0, null as number | null];
  for (const path of paths) {
    const stat = await tree.stat(path).catch(() => null);
    if (!stat || stat.size > most) continue;
    const bytes = await tree.read(path).catch(() => null);
    const format = formatOfName(path)?.id;
    if (!bytes || !format) continue;
    const idOf = (pieces: readonly Uint8Array[]) => digestOf(workspace, { bytes: pieces });
    const own = new Map(cutBytes(bytes, sizesFor(bytes.length), idOf));
    let fresh = 0;
    for (const [id, length] of own) if (!before?.has(id)) fresh += length;
    [save, changed] = [stat.size, before ? fresh : null];
    before = own;
    files.push({ path, parts: (await partsOf(format, bytes)).map((part) => cutPart(part, idOf)) });
  }
  return { files, save, changed };
}
