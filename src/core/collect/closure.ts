// Everything that scenes need, through all chains and formats, wherever it lies: in the root, in libraries, on other drives. What is needed, and nothing of where it will
// lie or what becomes of it.

import type { FileState, Note } from '../changes/plan';
import { outsideTree, type CancelSignal, type FileTree, type OutsideFiles } from '../files/fileTree';
import { folderOf, insideOf, isWithin, nameOf, treePath, type TreePath } from '../files/treePath';
import type { ReferenceKind } from '../formats/format';
import type { FormatId } from '../formats/format';
import { formatOfName, readReferences, type FileReading } from '../formats/formats';
import { kindAtHome, kindOfName, type FileKind, type Homes } from '../layouts/homes';
import { Lookup } from '../references/lookup';
import type { Setting } from '../references/resolve';
import { judge, type JudgedReference } from '../references/scan';
import { saysOf, type Says } from './says';

/** Where scenes are read and judged: a workspace, as far as it matters here. */
export interface Source {
  root: string;
  outside: OutsideFiles;
  setting: Setting;
  homes: Homes;
}

/** Who needs a file: a scene, and where in it that is said. */
export interface Need {
  scene: string;
  at: string;
  written: string;
}

/** Where a file lies. */
export type Lies = { in: 'root' } | { in: 'library'; name: string } | { in: 'outside' };

/** A file that is needed. All paths are absolute. */
export interface NeededFile {
  from: string;
  state: FileState;
  kind: FileKind;
  /** The folder below the home of its kind in which it lies; '' for what lies in no home. */
  below: string;
  lies: Lies;
  /** Whether it was asked for itself. */
  chosen: boolean;
  /** The scene that it belongs to alone and lies beside: its geometry, its materials. */
  owner: string | null;
  /** The folder it has to lie in, where that is settled: beside a scene that is there already. */
  beside?: TreePath;
  neededBy: Need[];
  /** The sequence or set of tiles it is a part of, by its path with marks. */
  set: string | null;
  /** What it refers to; null for a file that is no scene. */
  references: readonly JudgedReference[] | null;
  /** What it says of itself; null where that is not looked into. */
  says: ({ format: FormatId } & Says) | null;
}

export type LeftWhy = 'missing' | 'offline' | 'remote' | 'not-allowed' | 'excluded' | 'unticked' | 'not-used';

/** What is needed and does not come along. `path`: where it lies, of frames and tiles that of their set; null where it is not known. `size`: of all `files`, in bytes. */
export interface LeftOut {
  why: LeftWhy;
  path: string | null;
  files: number;
  size: number;
  /** The library or the place that counts here. */
  via: string | null;
  neededBy: Need[];
}

export interface Closure {
  files: ReadonlyMap<string, NeededFile>;
  /** Members of sequences and sets of tiles, by the path with marks. */
  sets: ReadonlyMap<string, readonly string[]>;
  left: readonly LeftOut[];
  /** What a reader had to say of a scene: it may hold more than was seen. */
  notes: readonly Note[];
}

/** A file that is needed by what is there already, and how. */
export interface Seed {
  /** Absolute. */
  path: string;
  /** What its reference says it is; null: its name tells. */
  kind: ReferenceKind | null;
  /** The sequence or set it is a part of, by its path with marks. */
  set: string | null;
  /** The folder it has to lie in; null: any. */
  beside: TreePath | null;
}

export interface ClosureRequest {
  /** Scenes, or other files, by absolute path. */
  chosen: readonly string[];
  seeds?: readonly Seed[] | undefined;
  /** A folder whose files are there already: what leads into it ends there. */
  there?: string | undefined;
  /** Folders of which nothing comes along. */
  excluded?: readonly string[] | undefined;
  signal?: CancelSignal | undefined;
  onFile?: ((found: number, path: string) => void) | undefined;
}

const fileKindOf: Partial<Record<ReferenceKind, FileKind>> = {
  texture: 'texture',
  cache: 'cache',
  material: 'material',
  audio: 'audio',
  video: 'video',
  font: 'font',
};

/** Follows everything. */
export async function closureOf(source: Source, request: ClosureRequest): Promise<Closure> {
  const walk = new Walk(source, request);
  for (const path of request.chosen) await walk.need(path, null, null);
  for (const seed of request.seeds ?? []) await walk.seed(seed);
  await walk.follow();
  const { files, sets, notes } = walk;
  return { files, sets, left: [...walk.left.values()], notes };
}

class Walk {
  readonly files = new Map<string, NeededFile>();
  readonly sets = new Map<string, string[]>();
  readonly left = new Map<string, LeftOut>();
  readonly notes: Note[] = [];
  private readonly waiting: NeededFile[] = [];
  /** Of folders outside in which scenes lie. */
  private readonly lookups = new Map<string, Lookup>();

  constructor(
    private readonly source: Source,
    private readonly request: ClosureRequest,
  ) {}

  /** Notes that a file is needed; `reference`: by what, in `need.scene`. */
  async need(from: string, need: Need | null, reference: JudgedReference | null, set: string | null = null) {
    const known = this.files.get(from);
    const owned = reference?.kind === 'buffer' || reference?.kind === 'material';
    if (known) {
      if (need) known.neededBy.push(need);
      // What was asked for by itself may turn out to belong to a scene.
      if (owned && need) known.owner ??= need.scene;
      // A tile that was met alone before its set goes with the set.
      known.set ??= set;
      return;
    }
    const { outside } = this.source;
    if (this.request.there !== undefined && insideOf(this.request.there, from) !== null) return;
    if (this.request.excluded?.some((folder) => from === folder || insideOf(folder, from) !== null))
      return this.leave('excluded', from, need, await this.sizeOf(from));
    const stat = await outside.stat(from);
    if (!stat) return this.leave('missing', from, need, 0);
    if (outside.mayRead?.(from) === false) return this.leave('not-allowed', from, need, stat.size);
    const inside = insideOf(this.source.root, from);
    // Where its workspace has filed it says more than its name.
    const filed = inside === null ? null : kindAtHome(inside, this.source.homes);
    const byReference = reference ? fileKindOf[reference.kind] : undefined;
    const file: NeededFile = {
      from,
      state: { ...stat, digest: null },
      kind: filed ?? byReference ?? kindOfName(from),
      below: filed === null ? '' : folderOf(treePath(inside!.slice(this.source.homes[filed]!.length + 1))),
      lies: this.liesAt(from),
      chosen: need === null,
      owner: owned && need ? need.scene : null,
      neededBy: need ? [need] : [],
      set,
      references: null,
      says: null,
    };
    this.files.set(from, file);
    this.request.onFile?.(this.files.size, from);
    if (formatOfName(from)) this.waiting.push(file);
  }

  /** Notes what a scene that is there already needs. */
  async seed({ path, kind, set, beside }: Seed) {
    await this.need(path, null, null, set);
    if (set !== null) {
      const members = this.sets.get(set);
      if (!members) this.sets.set(set, [path]);
      else if (!members.includes(path)) members.push(path);
    }
    const file = this.files.get(path);
    if (!file) return;
    const said = kind === null ? undefined : fileKindOf[kind];
    if (said) file.kind = said;
    if (beside !== null) file.beside ??= beside;
  }

  private async sizeOf(path: string): Promise<number> {
    return (await this.source.outside.stat(path))?.size ?? 0;
  }

  private leave(
    why: LeftWhy,
    path: string | null,
    need: Need | null,
    size: number,
    via: string | null = null,
  ) {
    // What is missing is the same where it is written the same from the same folder.
    const key = path ?? `${why} ${need ? folderOf(need.scene) : ''} ${need?.written}`;
    const known = this.left.get(key);
    if (known && need) known.neededBy.push(need);
    if (!known) this.left.set(key, { why, path, files: 1, size, via, neededBy: need ? [need] : [] });
  }

  private liesAt(from: string): Lies {
    if (insideOf(this.source.root, from) !== null) return { in: 'root' };
    const library = this.source.setting.libraries.find((l) => isWithin(from, l.path));
    return library ? { in: 'library', name: library.name } : { in: 'outside' };
  }

  /** Reads every scene that was met, until there is no other. */
  async follow(): Promise<void> {
    for (let file = this.waiting.shift(); file; file = this.waiting.shift()) {
      this.request.signal?.throwIfAborted();
      file.references = await this.read(file);
      for (const r of file.references ?? []) await this.followOne(file, r);
    }
  }

  private async followOne({ from }: NeededFile, r: JudgedReference): Promise<void> {
    const need: Need = { scene: from, at: r.at, written: r.written };
    if (r.target === null) {
      if (r.state === 'missing' || r.state === 'offline' || r.state === 'remote')
        this.leave(r.state, null, need, 0, r.via);
      return;
    }
    const target = this.absolute(from, r);
    if (!r.members) return this.need(target, need, r);
    const folder = folderOf(target);
    const members = r.members.map((name) => `${folder}/${name}`);
    const isNew = !this.sets.has(target);
    if (isNew) this.sets.set(target, members);
    for (const member of members) await this.need(member, need, r, target);
  }

  /** The absolute path of what a reference in a scene leads to. */
  private absolute(scene: string, r: JudgedReference): string {
    return absoluteTarget(this.source.root, scene, r)!;
  }

  private async read(file: NeededFile): Promise<JudgedReference[] | null> {
    const { outside, root } = this.source;
    const reading = await readNeeded(this.source, file);
    if (!reading) return null;
    file.says = await this.saidBy(file, reading);
    for (const p of reading.problems)
      this.notes.push({
        level: 'warning',
        code: p.code,
        message: `${nameOf(file.from)}: ${p.message} What it needs may not all be here.`,
        path: file.from,
      });
    if (insideOf(root, file.from) !== null)
      return (await judge(insideOf(root, file.from)!, reading, this.source.setting)).references;
    // A scene outside is judged as if its folder were a root.
    const folder = folderOf(file.from);
    const lookup = this.lookups.get(folder) ?? new Lookup(outsideTree(outside, folder) as FileTree);
    this.lookups.set(folder, lookup);
    const { references } = await judge(treePath(nameOf(file.from)), reading, {
      ...this.source.setting,
      root: folder,
      lookup,
    });
    return references;
  }

  private async saidBy({ from, state }: NeededFile, reading: FileReading): Promise<NeededFile['says']> {
    if (state.size > mostLookedInto) return null;
    const bytes = reading.bytes ?? (await this.headOf(from, reading.format.id));
    const says = bytes && saysOf(reading.format.id, bytes);
    return says && { format: reading.format.id, ...says };
  }

  /** Of what is read in parts only a GLB says something of itself, in its JSON, which stands first (glTF 2.0, §4.4). */
  private async headOf(from: string, format: FormatId): Promise<Uint8Array | null> {
    if (format !== 'glb') return null;
    const { outside } = this.source;
    const head = await outside.read(from, [0, 20]);
    if (head.length < 20) return null;
    const length = new DataView(head.buffer, head.byteOffset, 20).getUint32(12, true);
    return outside.read(from, [0, 20 + length]);
  }
}

/** Larger ones are not read a second time to be parsed. */
const mostLookedInto = 64 * 1024 * 1024;

/** Reads a scene that is needed; null where it is none after all. */
export function readNeeded(
  { outside, root }: Source,
  { from, state }: Pick<NeededFile, 'from' | 'state'>,
): Promise<FileReading | null> {
  const path = insideOf(root, from) ?? treePath(nameOf(from));
  return readReferences(path, state.size, (range) => outside.read(from, range));
}

/** Where a reference of a scene leads, absolute; null where it leads nowhere. A scene outside the root was judged as if its folder were one. */
export function absoluteTarget(root: string, scene: string, r: JudgedReference): string | null {
  if (r.target === null) return null;
  if (!r.inside) return r.target;
  const base = insideOf(root, scene) === null ? folderOf(scene) : root;
  return `${base}/${r.target}`;
}
