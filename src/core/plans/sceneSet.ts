// The one way plans see scenes: found, read, judged, rewritten. A scene or a folder that cannot be read is `unread`, never "without
// references"; nor is a file of a format that is not known. What is judged and what is rewritten are the same bytes: a scene that is saved in
// between makes the plan stale, and one saved before it is applied does too (`basis`).

import type { Basis, FileState, Note, PathChange, Step } from '../changes/plan';
import { AppError } from '../errors';
import { digestOf } from '../files/digest';
import type { CancelSignal, FileStat } from '../files/fileTree';
import { isOwnAnywhere } from '../files/records';
import { folderOf, nameOf, rootPath, type TreePath } from '../files/treePath';
import { fullPath } from '../formats/format';
import { formatOfName, type FileReading } from '../formats/formats';
import { leafOf } from '../formats/leaves';
import { gunzip, isGzip } from '../formats/packed';
import { kindOfName, needsLook } from '../layouts/homes';
import type { Problem } from '../problem';
import { foldName } from '../names/portable';
import { sequencePattern } from '../names/sequences';
import { placesLookedAt } from '../references/meant';
import { namesIn } from '../references/opaque';
import { judge, readScene, scenePaths, type JudgedReference } from '../references/scan';
import type { Setting } from '../references/resolve';
import { rewrite, type Rewriting } from './rewrite';
import { settingOf, type Workspace } from './workspace';

/** A scene as it was read. */
export interface Scene {
  path: TreePath;
  stat: FileStat;
  reading: FileReading;
  references: JudgedReference[];
  /** Not needed, as another of the same choice is found. */
  alternatives: JudgedReference[];
}

/** A scene's rewriting: the step, and the paths it changes. `failed`: a path cannot be said by its format. */
export interface Rewritten {
  step: (Step & { do: 'put' }) | null;
  paths: PathChange[];
  notes: Note[];
  failed: boolean;
}

/** A file that names others in a way that cannot be read or changed. */
export interface NamingFile {
  path: TreePath;
  /** Names of files, as they are on disk. */
  names: ReadonlySet<string>;
  why: string;
}

interface Watched {
  signal?: CancelSignal | undefined;
  onScene?: ((done: number, of: number, path: string) => void) | undefined;
}

// What a reader says when there may be more in a file than it saw.
const partly: ReadonlySet<string> = new Set([
  'unreadable',
  'not-found',
  'not-json',
  'bad-json',
  'too-deep',
  'trailing-data',
  'truncated',
  'compressed',
  'not-xml',
  'bad-xml',
  'bad-structure',
  'not-usdc',
  'unknown-version',
  'wrong-format',
  'wrong-chunk',
  'line-too-long',
  'split-text',
  'token',
]);
// Larger ones are not looked through for names.
const mostLooked = 128 * 1024 * 1024;
// Up to this size a content id is taken at planning; beyond, size and time stand for the file until the plan is applied.
const hashAtPlanning = 64 * 1024 * 1024;
const hashInMemory = 1024 * 1024;

function isSame(a: FileStat, b: FileStat | null): boolean {
  return b !== null && a.size === b.size && a.modified === b.modified;
}

const isPattern = (written: string) => sequencePattern(nameOf(written.replaceAll('\\', '/'))) !== null;

const saved = (path: string) =>
  new AppError('stale-plan', `${path} was saved while the plan was being made.`);

/** Scenes of a workspace, or those given. */
export class SceneSet {
  readonly unread = new Map<string, Problem>();
  private readonly stats = new Map<string, FileStat>();
  /** Scene → what its references look for and do not find, and sets of which a file may be missing. */
  private readonly awaited = new Map<string, { exact: string[]; sets: TreePath[] }>();

  private constructor(
    readonly workspace: Workspace,
    readonly paths: readonly TreePath[],
    readonly setting: Setting,
    private readonly watched: Watched,
  ) {}

  /** Finds the scenes; `only`: takes these. */
  static async of(
    workspace: Workspace,
    watched: Watched = {},
    only?: readonly TreePath[],
  ): Promise<SceneSet> {
    const found = only ? { scenes: only, unread: [] } : await scenePaths(workspace.tree);
    const set = new SceneSet(workspace, found.scenes, settingOf(workspace), watched);
    for (const p of found.unread) set.unread.set(p.path!, p);
    return set;
  }

  /** Reads and judges one; null where it cannot be read, which is then remembered. Throws AppError('stale-plan') when it was saved since it was read before. */
  async read(path: TreePath): Promise<Scene | null> {
    const { tree } = this.workspace;
    for (let n = 0; n < 3; n++) {
      const stat = await this.statOf(path);
      if (!stat) return null;
      const reading = await readScene(tree, path);
      if (!reading || !('format' in reading)) {
        this.markUnread(path, reading?.problems[0]);
        return null;
      }
      const { references, alternatives } = await judge(path, reading, this.setting);
      if (!isSame(stat, await tree.stat(path).catch(() => null))) continue;
      const before = this.stats.get(path);
      if (before && !isSame(before, stat)) throw saved(path);
      this.stats.set(path, stat);
      await this.noteAwaited(path, reading, references);
      const isWrapped = (p: Problem) => p.code === 'compressed' && references.length > 0;
      const odd = reading.problems.find((p) => partly.has(p.code) && !isWrapped(p));
      if (odd && stat.size > 0) this.markUnread(path, odd);
      return { path, stat, reading, references, alternatives };
    }
    throw saved(path);
  }

  private async noteAwaited(
    path: TreePath,
    reading: FileReading,
    references: readonly JudgedReference[],
  ): Promise<void> {
    const exact: string[] = [];
    const sets: TreePath[] = [];
    for (const r of references) {
      const isSet = r.members !== undefined || (r.target === null && isPattern(fullPath(r)));
      if (r.target !== null && !isSet) continue;
      const looked =
        r.target === null || !r.inside
          ? await this.placesFor(path, r, reading.format)
          : [(r.real ?? r.target) as TreePath];
      if (isSet) sets.push(...looked);
      exact.push(...looked.map(foldName));
    }
    if (exact.length + sets.length > 0) this.awaited.set(path, { exact, sets });
  }

  /** Every path at which a reference would find a file, were it in the scene at `path`; links as they are now are followed. */
  async placesFor(path: TreePath, r: JudgedReference, format: FileReading['format']): Promise<TreePath[]> {
    const { lookup } = this.setting;
    const places = new Set<TreePath>();
    for (const place of placesLookedAt(this.workspace.root, path, r, format)) {
      places.add(place);
      if (lookup.hasLinks) places.add(await lookup.real(await lookup.spelled(place)));
    }
    return [...places];
  }

  /** A scene one of whose missing references would find a file that came to lie at `path`, or whose set it would join; null: nobody waits for it. Scenes must have been read. */
  awaits(path: string): string | null {
    const folded = foldName(path);
    for (const [scene, { exact, sets }] of this.awaited) {
      if (exact.includes(folded)) return scene;
      for (const set of sets)
        if (folderOf(set) === folderOf(path) && sequencePattern(nameOf(set))?.numberOf(nameOf(path)) != null)
          return scene;
    }
    return null;
  }

  private async statOf(path: TreePath): Promise<FileStat | null> {
    try {
      const stat = await this.workspace.tree.stat(path);
      if (!stat) this.markUnread(path, undefined);
      return stat;
    } catch (cause) {
      if (!(cause instanceof AppError)) throw cause;
      this.markUnread(path, { code: 'unreadable', message: cause.message, path });
      return null;
    }
  }

  private markUnread(path: TreePath, problem: Problem | undefined): void {
    const why = problem?.message ?? `${path} is not there any more.`;
    this.unread.set(path, { code: problem?.code ?? 'not-found', message: why, path });
  }

  /** Each scene that can be read, in path order, one at a time. */
  async *each(): AsyncIterable<Scene> {
    for (const [i, path] of this.paths.entries()) {
      this.watched.signal?.throwIfAborted();
      this.watched.onScene?.(i + 1, this.paths.length, path);
      const scene = await this.read(path);
      if (scene) yield scene;
    }
  }

  /** A scene's state, of the very bytes that were read. */
  async stateOf(scene: Scene): Promise<FileState> {
    const { tree } = this.workspace;
    const { size, modified } = scene.stat;
    const { bytes } = scene.reading;
    if (bytes && bytes.length === size && size <= hashInMemory)
      return { size, modified, digest: digestOf(bytes) };
    const digest = size <= hashAtPlanning ? await tree.digest(scene.path) : null;
    if (!isSame(scene.stat, await tree.stat(scene.path))) throw saved(scene.path);
    return { size, modified, digest };
  }

  /** The step that writes a scene with new paths, at `to` where the plan moves it there first; read back before it is given. */
  async rewriteStep(
    scene: Scene,
    wishes: readonly Rewriting[],
    to: TreePath = scene.path,
  ): Promise<Rewritten> {
    const { tree } = this.workspace;
    const read = (range: readonly [number, number]) => tree.read(scene.path, range);
    const done = await rewrite(scene.reading, scene.stat.size, wishes, to, read);
    const failed = done.notes.some((n) => n.code === 'cannot-say');
    if (!done.pieces) return { step: null, paths: done.paths, notes: done.notes, failed };
    const state = await this.stateOf(scene);
    return {
      step: {
        do: 'put',
        path: to,
        before: state,
        size: done.size,
        modified: null,
        from: { from: 'tree', path: to, state, pieces: done.pieces },
      },
      paths: done.paths,
      notes: done.notes,
      failed,
    };
  }

  /** What a plan that had to know every scene rests on. */
  basis(): Basis {
    return {
      scenes: this.paths.flatMap((path): [string, number, number][] => {
        const stat = this.stats.get(path);
        return stat ? [[path, stat.size, stat.modified]] : [];
      }),
      unread: [...this.unread.keys()],
    };
  }

  /** Notes about what could not be read, where a plan may concern it. */
  notes(level: Note['level'], then: string): Note[] {
    return [...this.unread.values()].map((p) => ({
      level,
      code: 'unread',
      message: `${p.message} ${then}`,
      path: p.path,
    }));
  }

  /**
   * Files that cannot be read as scenes, or not whole, but in whose bytes names of the workspace's files stand. `wanted`: the names that are
   * looked for. Files that cannot even be looked through are told in `notes`.
   */
  async namingFiles(wanted: ReadonlySet<string>, notes: Note[]): Promise<NamingFile[]> {
    const found: NamingFile[] = [];
    for await (const stat of this.workspace.tree.list(rootPath, () => undefined)) {
      this.watched.signal?.throwIfAborted();
      if (isOwnAnywhere(stat.path) || !this.mayName(stat.path) || stat.size === 0) continue;
      const names = await this.namesInFile(stat, wanted, notes);
      if (names && names.size > 0)
        found.push({
          path: stat.path,
          names,
          why:
            this.unread.get(stat.path)?.message ??
            `${nameOf(stat.path)} is of a format that is not known here.`,
        });
    }
    return found;
  }

  /** Whether a file may name others in a way that is not read. */
  private mayName(path: TreePath): boolean {
    if (this.unread.has(path)) return true;
    if (formatOfName(path)) return false;
    return needsLook(path) || kindOfName(path) === 'scene';
  }

  private async namesInFile(
    stat: FileStat,
    wanted: ReadonlySet<string>,
    notes: Note[],
  ): Promise<Set<string> | null> {
    const { tree } = this.workspace;
    try {
      if (stat.size > mostLooked) {
        const head = await tree.read(stat.path, [0, 512]);
        if (!leafOf(head))
          notes.push({
            level: 'warning',
            code: 'unread',
            message: `${stat.path} is too large to be looked through for paths; if it names what moves, it will not find it.`,
            path: stat.path,
          });
        return null;
      }
      const bytes = await tree.read(stat.path);
      if (!this.unread.has(stat.path) && leafOf(bytes.subarray(0, 512))) return null;
      return namesIn(isGzip(bytes) ? (gunzip(bytes) ?? bytes) : bytes, wanted);
    } catch (cause) {
      if (!(cause instanceof AppError)) throw cause;
      if (!this.unread.has(stat.path))
        notes.push({ level: 'warning', code: 'unread', message: cause.message, path: stat.path });
      return null;
    }
  }
}
