// What becomes of each file that is carried into another workspace: copied, found there already, or held back by another file of its name.

import type { FileState } from '../changes/plan';
import { absoluteTarget, type Closure, type NeededFile, type Source } from '../collect/closure';
import { homesFor } from '../collect/rules';
import { neededIn } from '../collect/reach';
import { place, type Placement } from '../collect/placement';
import type { CancelSignal } from '../files/fileTree';
import { folderOf, insideOf, isWithin, join, nameOf, rootPath, type TreePath } from '../files/treePath';
import type { Homes } from '../layouts/homes';
import { foldName, freeName } from '../names/portable';
import { setName } from '../names/sequences';
import type { JudgedReference } from '../references/scan';
import { contentAt, type ContentAt } from './contentAt';
import { stateOf, type Workspace } from './workspace';
import { bytesOfText } from '../text/bytes';

/** What to do where another file has the name: keep both (the carried one under a new name), put it in the place of that one, or use that one. */
export type ClashWay = 'both' | 'replace' | 'target';

export interface CarryRequest {
  /** Into the homes of the target, without folders below them; else as it lies in the source. */
  flat: boolean;
  /** For every clash, and for single ones, by what they come from (a set by its path with marks). */
  clash: ClashWay;
  clashes?: ReadonlyMap<string, ClashWay> | undefined;
  /** Where each kind goes; absent: the target's homes, and usual ones for kinds it has none for. */
  homes?: Homes | undefined;
  /** Names that something in the target misses: no stranger takes them. */
  awaits?: ((path: TreePath) => boolean) | undefined;
  /** The same content in the target, where that is known better than by looking at all of it. */
  reuse?: ((file: NeededFile) => Promise<TreePath | null>) | undefined;
  /** What was asked for itself comes, also out of a library that is known here. */
  takesChosen?: boolean | undefined;
  signal?: CancelSignal | undefined;
  onFile?: ((done: number, of: number, path: string) => void) | undefined;
}

/** One file. `there`: the target has the same content, and that is used; `target`: it has other content, and that is used all the same. */
export interface CarriedFile {
  from: string;
  to: TreePath;
  how: 'copy' | 'there' | 'replace' | 'target';
  /** What lies at `to` now. */
  before: FileState | null;
  content: ContentAt;
}

export interface CarryClash {
  /** What it comes from; a set by its path with marks. */
  from: string;
  /** What lies there. */
  there: TreePath;
  /** Under which name it comes where both are kept. */
  both: TreePath;
  way: ClashWay;
  /** There is no other way. */
  isForced: boolean;
}

export interface Carrying {
  files: ReadonlyMap<string, CarriedFile>;
  sets: ReadonlyMap<string, TreePath>;
  clashes: readonly CarryClash[];
  /** In a library that the target knows as well: not copied, referred to there. */
  inLibraries: readonly string[];
}

/** Works it out. Every source is read for its content where a file of the same size lies in the target. */
export function carry(
  target: Workspace,
  source: Source,
  closure: Closure,
  request: CarryRequest,
): Promise<Carrying> {
  return new Carrier(target, source, closure, request).run();
}

class Carrier {
  private readonly files = new Map<string, CarriedFile>();
  private readonly sets = new Map<string, TreePath>();
  private readonly clashes: CarryClash[] = [];
  private readonly taken = new Set<string>();
  private readonly names = new Map<string, Promise<ReadonlyMap<string, string>>>();
  private sizes: Promise<ReadonlyMap<number, TreePath[]>> | null = null;
  private wanted!: Placement;
  private wantedPaths: ReadonlySet<string> = new Set();
  private readonly inLibraries = new Set<string>();

  constructor(
    private readonly target: Workspace,
    private readonly source: Source,
    private readonly closure: Closure,
    private readonly request: CarryRequest,
  ) {}

  async run(): Promise<Carrying> {
    const { libraries, homes } = this.target.file;
    for (const { from, chosen } of this.closure.files.values())
      if (!(this.request.takesChosen && chosen) && libraries.some((l) => isWithin(from, l.path)))
        this.inLibraries.add(from);
    const own = new Map([...this.closure.files].filter(([from]) => !this.inLibraries.has(from)));
    const kinds = this.request.homes ?? homesFor(homes);
    this.wanted = place(
      { files: own, sets: this.closure.sets },
      {
        root: this.source.root,
        libraries: this.source.setting.libraries,
        rule: this.request.flat ? { by: 'kind', homes: kinds, flat: true } : { by: 'kept', homes: kinds },
      },
    );
    this.wantedPaths = new Set([...this.wanted.files.values()].map((f) => foldName(f.to)));
    let done = 0;
    for (const file of leavesFirst(own)) {
      this.request.signal?.throwIfAborted();
      this.request.onFile?.(++done, own.size, file.from);
      if (this.files.has(file.from)) continue;
      if (file.set !== null) await this.wholeSet(file.set, own);
      else await this.single(file);
    }
    await this.settleScenes(own);
    return {
      files: this.files,
      sets: this.sets,
      clashes: this.clashes,
      inLibraries: [...this.inLibraries],
    };
  }

  /** Scenes that lead to each other: where each lies is known only once all were placed. */
  private async settleScenes(own: ReadonlyMap<string, NeededFile>): Promise<void> {
    const scenes = [...this.files.values()].filter((c) => own.get(c.from)!.references?.length);
    for (const carried of scenes) {
      if (carried.how !== 'there' || (await this.isSame(own.get(carried.from)!, carried.to))) continue;
      carried.to = await this.freeIn(folderOf(carried.to), nameOf(carried.to));
      this.taken.add(foldName(carried.to));
      carried.how = 'copy';
      carried.before = null;
    }
    for (const carried of scenes)
      if (carried.how === 'copy' || carried.how === 'replace')
        carried.content = await this.contentOf(own.get(carried.from)!, carried.to);
  }

  private async single(file: NeededFile): Promise<void> {
    const wanted = this.wanted.files.get(file.from)!.to;
    const folder = await this.asSpelled(folderOf(wanted));
    const name = nameOf(wanted);
    const put = async (to: TreePath, how: CarriedFile['how']) => {
      this.taken.add(foldName(to));
      const before = how === 'copy' ? null : await stateOf(this.target.tree, to);
      this.files.set(file.from, { from: file.from, to, how, before, content: asItIs(file) });
    };
    const there = (await this.namesIn(folder)).get(foldName(name));
    if (there !== undefined && (await this.isSame(file, join(folder, there))))
      return put(join(folder, there), 'there');
    const elsewhere = await this.sameElsewhere(file);
    if (elsewhere !== null) return put(elsewhere, 'there');
    const free = await this.freeIn(folder, name);
    if (there === undefined || (await this.target.tree.kind(join(folder, there))) === 'folder')
      return put(free, 'copy');
    const way = this.wayOf({ from: file.from, there: join(folder, there), both: free });
    if (way === 'both') return put(free, 'copy');
    return put(join(folder, there), way);
  }

  /** Frames and tiles keep their names: all in one folder, or all in a folder of their own. */
  private async wholeSet(set: string, own: ReadonlyMap<string, NeededFile>): Promise<void> {
    const members = this.closure.sets.get(set)!.flatMap((m) => own.get(m) ?? []);
    const wanted = this.wanted.sets.get(set)!;
    const folder = await this.asSpelled(folderOf(wanted));
    const state = await this.stateOfSet(members, folder);
    const put = async (into: TreePath, how: CarriedFile['how']) => {
      this.sets.set(set, join(into, nameOf(wanted)));
      for (const m of members) {
        const to = join(into, nameOf(m.from));
        this.taken.add(foldName(to));
        const before = await stateOf(this.target.tree, to);
        const isThere = before !== null && (await this.isSame(m, to));
        this.files.set(m.from, {
          from: m.from,
          to,
          // Frames of two sequences are not mixed: where the target's are used, none comes beside them.
          how: how === 'target' ? how : isThere ? 'there' : before === null ? 'copy' : how,
          before,
          content: asItIs(m),
        });
      }
    };
    if (state === 'free' || state === 'same') return put(folder, 'copy');
    const bare = setName(nameOf(set));
    let apart = join(folder, bare);
    for (let n = 2; (await this.stateOfSet(members, apart)) !== 'free'; n++)
      apart = join(folder, `${bare}_${n}`);
    const clash = {
      from: set,
      there: join(folder, nameOf(wanted)),
      both: join(apart, nameOf(wanted)),
    };
    if (state === 'twin') {
      // In another spelling they are no frames of this set: neither can stand for the other.
      this.clashes.push({ ...clash, way: 'both', isForced: true });
      return put(apart, 'copy');
    }
    const way = this.wayOf(clash);
    return way === 'both' ? put(apart, 'copy') : put(folder, way);
  }

  /**
   * Whether a set may lie in a folder. free: its names are; same: those that are there have its content; other: one has
   * other content; twin: one is there in another spelling, or is the name of something else that comes in.
   */
  private async stateOfSet(
    members: readonly NeededFile[],
    folder: TreePath,
  ): Promise<'free' | 'same' | 'other' | 'twin'> {
    const names = await this.namesIn(folder);
    let state: 'free' | 'same' | 'other' = 'free';
    for (const m of members) {
      const name = nameOf(m.from);
      const there = names.get(foldName(name));
      if (this.request.awaits?.(join(folder, name))) return 'twin';
      if (this.taken.has(foldName(join(folder, name))) || (there !== undefined && there !== name))
        return 'twin';
      if (there === undefined || state === 'other') continue;
      state = (await this.isSame(m, join(folder, there))) ? 'same' : 'other';
    }
    return state;
  }

  private wayOf(clash: Omit<CarryClash, 'way' | 'isForced'>): ClashWay {
    const way = this.request.clashes?.get(clash.from) ?? this.request.clash;
    this.clashes.push({ ...clash, way, isForced: false });
    return way;
  }

  /** Whether a file of the target says the same as the carried one would there. */
  private async isSame(file: NeededFile, there: TreePath): Promise<boolean> {
    const stat = await this.target.tree.stat(there);
    if (!stat) return false;
    const content = await this.contentOf(file, there);
    if (content.size !== stat.size) return false;
    const digest =
      content.pieces === null
        ? await this.source.outside.digest(file.from)
        : await this.digestOf(file.from, content);
    return digest === (await this.target.tree.digest(there));
  }

  private async digestOf(from: string, { pieces }: ContentAt): Promise<string> {
    const hash = this.target.tree.startHash();
    for (const p of pieces!)
      hash.update('copy' in p ? await this.source.outside.read(from, p.copy) : bytesOfText(p.latin1));
    return hash.digest();
  }

  /** The same content under any name; not for scenes, nor for what has to lie beside one. */
  private async sameElsewhere(file: NeededFile): Promise<TreePath | null> {
    if (file.references?.length || file.owner !== null) return null;
    if (this.request.reuse) return this.request.reuse(file);
    this.sizes ??= this.sizesThere();
    for (const path of (await this.sizes).get(file.state.size) ?? [])
      // What lies where another is to go may be replaced by that.
      if (
        !this.wantedPaths.has(foldName(path)) &&
        (await this.target.tree.digest(path)) === (await this.source.outside.digest(file.from))
      )
        return path;
    return null;
  }

  private async sizesThere(): Promise<ReadonlyMap<number, TreePath[]>> {
    const sizes = new Map<number, TreePath[]>();
    for await (const { path, size } of this.target.tree.list()) {
      // A file without content is the same as any other, and no one's.
      if (size === 0 || path.split('/').some((part) => part.startsWith('.'))) continue;
      const known = sizes.get(size);
      if (known) known.push(path);
      else sizes.set(size, [path]);
    }
    return sizes;
  }

  private contentOf(file: NeededFile, to: TreePath): Promise<ContentAt> {
    return contentAt(this.source, file, to, (r) => this.targetOf(file.from, r));
  }

  private targetOf(scene: string, r: JudgedReference): string | null {
    const target = absoluteTarget(this.source.root, scene, r);
    if (target === null) return null;
    const inside = insideOf(this.target.root, target);
    if (inside !== null) return inside;
    if (r.members) return this.sets.get(target) ?? this.wanted.sets.get(target) ?? null;
    // A library is said as it was, if that says where it lies.
    if (this.inLibraries.has(target)) return /^(?:[/\\]|[A-Za-z]:|\{)/.test(r.written) ? null : target;
    return this.files.get(target)?.to ?? this.wanted.files.get(target)?.to ?? null;
  }

  /** A folder as the target spells it: a twin by case or Unicode form is that folder. */
  private async asSpelled(folder: TreePath): Promise<TreePath> {
    let at: TreePath = rootPath;
    for (const part of folder === '' ? [] : folder.split('/')) {
      const there = (await this.namesIn(at)).get(foldName(part));
      const path = join(at, there ?? part);
      const isFile =
        there === undefined
          ? this.taken.has(foldName(path))
          : (await this.target.tree.kind(path)) !== 'folder';
      at = isFile ? await this.freeIn(at, part) : path;
    }
    return at;
  }

  private async freeIn(folder: TreePath, name: string): Promise<TreePath> {
    const names = await this.namesIn(folder);
    return join(
      folder,
      freeName(
        name,
        (n) =>
          names.has(foldName(n)) ||
          this.taken.has(foldName(join(folder, n))) ||
          this.request.awaits?.(join(folder, n)) === true,
      ),
    );
  }

  /** Names in a folder of the target, by their folded form. */
  private namesIn(folder: TreePath): Promise<ReadonlyMap<string, string>> {
    let names = this.names.get(folder);
    if (!names)
      this.names.set(
        folder,
        (names = this.target.tree
          .entries(folder)
          .then((entries) => new Map((entries ?? []).map((e) => [foldName(e.name), e.name])))),
      );
    return names;
  }
}

const asItIs = ({ state }: NeededFile): ContentAt => ({
  size: state.size,
  pieces: null,
  paths: [],
  notes: [],
});

/** Files before the scenes that lead to them; in rings any order. */
function leavesFirst(files: ReadonlyMap<string, NeededFile>): NeededFile[] {
  const needs = neededIn(files.values());
  const order: NeededFile[] = [];
  const state = new Map<string, 'open' | 'done'>();
  for (const first of files.values()) {
    const stack: [NeededFile, number][] = [[first, 0]];
    while (stack.length > 0) {
      const top = stack.at(-1)!;
      const [file, n] = top;
      if (n === 0) {
        if (state.has(file.from)) {
          stack.pop();
          continue;
        }
        state.set(file.from, 'open');
      }
      const next = (needs.get(file.from) ?? [])[n];
      if (next) {
        top[1]++;
        if (!state.has(next.from)) stack.push([next, 0]);
      } else {
        state.set(file.from, 'done');
        order.push(file);
        stack.pop();
      }
    }
  }
  return order;
}
