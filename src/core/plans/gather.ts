// Gathers files from outside into a workspace: each to the home of its kind, scenes with all they reference, through chains.
// A file that is already there with the same content is used as it is; another of the same name is never overwritten.

import {
  foldersFor,
  type Basis,
  type FileState,
  type Note,
  type PathChange,
  type Step,
} from '../changes/plan';
import { folderOf, nameOf, stemOf, treePath, type TreePath, insideOf } from '../files/treePath';
import { isUsualName } from '../names/usual';
import { outsideTree, type FileTree } from '../files/fileTree';
import { formatOfName, readReferences, type FileReading } from '../formats/formats';
import type { ReferenceKind } from '../formats/format';
import { homeOf, kindOfName, type FileKind } from '../layouts/homes';
import { foldName, freeName, legalName } from '../names/portable';
import { setName } from '../names/sequences';
import type { SceneSet } from './sceneSet';
import { findByTail, type Setting } from '../references/resolve';
import { Lookup } from '../references/lookup';
import { judge, type JudgedReference } from '../references/scan';
import { rewrite, writtenRelative, type Rewriting } from './rewrite';
import { settingOf, stateOf, type Workspace, foldedNamesIn } from './workspace';

/** One file on its way in. `reused`: the workspace has it already, nothing is copied. */
interface Gathered {
  from: string;
  to: TreePath;
  state: FileState;
  reused: boolean;
  /** The file in the workspace that is used instead. */
  there: FileState | null;
  scene: { reading: FileReading; references: JudgedReference[] } | null;
}

const homeKind: Partial<Record<ReferenceKind, FileKind>> = {
  texture: 'texture',
  cache: 'cache',
  audio: 'audio',
  video: 'video',
  font: 'font',
};

/** What a file is wanted for: the kind its reference tells, and the folder of the scene that needs it. */
interface Use {
  kind: ReferenceKind | null;
  beside: TreePath | null;
  /** The scene that needs it, where it will lie, when it comes in with it. */
  scene?: TreePath;
}

export class Gathering {
  readonly notes: Note[] = [];
  private readonly gathered = new Map<string, Gathered>();
  private readonly taken = new Set<string>();
  /** Sequences by their outside path: where they will lie, with their marks. */
  private readonly sets = new Map<string, string>();
  private readonly setting: Setting;
  private readonly names = new Map<string, Promise<Set<string>>>();

  /** `scenes`: those of the workspace, read: a name that one of them misses is no name for a stranger. */
  constructor(
    private readonly workspace: Workspace,
    private readonly scenes: SceneSet,
  ) {
    this.setting = settingOf(workspace);
  }

  /** Files that will be copied, for showing. */
  copies(): { from: string; to: TreePath; size: number }[] {
    return [...this.gathered.values()]
      .filter((g) => !g.reused)
      .map((g) => ({ from: g.from, to: g.to, size: g.state.size }));
  }

  /** Where an outside file will lie inside; null when it cannot be read. `into`: the folder, where that is settled. */
  async add(from: string, use: Use = { kind: null, beside: null }, into?: string): Promise<TreePath | null> {
    const inside = insideOf(this.workspace.root, from);
    if (inside !== null) return inside;
    // A tile may have come in alone before its set: then it lies where the set will lie, or comes in once more.
    const held = this.gathered.get(from);
    if (held && (into === undefined || held.to === at(into, nameOf(from)))) return held.to;
    const stat = await this.workspace.outside.stat(from);
    if (!stat) {
      this.notes.push({
        level: 'warning',
        code: 'not-found',
        message: `${from} is not there any more.`,
        path: from,
      });
      return null;
    }
    if (this.workspace.outside.mayRead?.(from) === false) {
      this.notes.push({
        level: 'warning',
        code: 'not-allowed',
        message: `${from} lies in a folder you have not allowed. Allow ${folderOf(from)} under Workspaces, then plan again.`,
        path: from,
      });
      return null;
    }
    const folder = into ?? this.folderOf(from, use);
    const scene = await this.readScene(from, stat.size);
    const state: FileState = { ...stat, digest: null };
    const same = scene?.references.length ? null : await this.sameInside(from, folder, stat.size);
    const to = same ?? (await this.freePath(folder, nameOf(from)));
    this.taken.add(foldName(to));
    const there = same === null ? null : await stateOf(this.workspace.tree, same);
    const entry: Gathered = { from, to, state, reused: same !== null, there, scene };
    this.gathered.set(held ? `${from}\0${into}` : from, entry);
    for (const r of scene?.references ?? []) {
      if (r.target === null || r.state === 'library') {
        if (r.state === 'missing' || r.state === 'offline')
          this.notes.push({
            level: 'warning',
            code: r.state,
            message: `${nameOf(from)} needs ${r.written}, which is ${r.state}. The scene will still say so.`,
            path: to,
          });
        continue;
      }
      await this.addTarget(this.absoluteTarget(from, r), r.members, {
        kind: r.kind,
        beside: folderOf(to),
        scene: to,
      });
    }
    return to;
  }

  /** The same for what a reference points to, one file or all of a sequence; of a sequence the name with its marks, where it will lie. */
  async addTarget(from: string, members: readonly string[] | undefined, use: Use): Promise<string | null> {
    if (!members) return this.add(from, use);
    const inside = insideOf(this.workspace.root, from);
    if (inside !== null) return inside;
    const held = this.sets.get(from);
    if (held !== undefined) return held;
    // Frames keep their names, else they would be no sequence: where one of them is taken, all go to a folder of their own.
    const home = this.folderOf(from, use);
    const name = setName(nameOf(from));
    let folder = home;
    for (let n = 1; !(await this.allFree(folder, folderOf(from), members)); n++)
      folder = `${home === '' ? '' : `${home}/`}${name}${n === 1 ? '' : `_${n}`}`;
    for (const member of members)
      if ((await this.add(`${folderOf(from)}/${member}`, use, folder)) === null) return null;
    const to = at(folder, nameOf(from));
    this.sets.set(from, to);
    return to;
  }

  private async allFree(folder: string, from: string, members: readonly string[]): Promise<boolean> {
    const names = await this.namesIn(folder);
    for (const member of members) {
      const path = at(folder, member);
      if (this.scenes.awaits(path) !== null) return false;
      if (this.taken.has(foldName(path)) && this.gathered.get(`${from}/${member}`)?.to !== path) return false;
      if (
        names.has(foldName(member)) &&
        (await this.workspace.tree.digest(path)) !==
          (await this.workspace.outside.digest(`${from}/${member}`))
      )
        return false;
    }
    return true;
  }

  private absoluteTarget(from: string, r: JudgedReference): string {
    return r.inside ? `${folderOf(from)}/${r.target}` : r.target!;
  }

  private folderOf(from: string, use: Use): string {
    // What has a usual name tells nobody whose it is: it comes in a folder of its scene.
    const own = use.scene !== undefined && isUsualName(from) ? stemOf(use.scene) : '';
    const within = (folder: string) => (own === '' ? folder : at(folder, own));
    // Geometry buffers and material libraries belong to their scene and stay beside it.
    if (use.beside !== null && (use.kind === 'buffer' || use.kind === 'material')) return within(use.beside);
    const kind = (use.kind !== null ? homeKind[use.kind] : undefined) ?? kindOfName(from);
    return within(homeOf(kind, this.workspace.file.homes));
  }

  private async readScene(from: string, size: number): Promise<Gathered['scene']> {
    if (!formatOfName(from)) return null;
    const root = folderOf(from);
    const name = treePath(nameOf(from));
    const tree = outsideTree(this.workspace.outside, root);
    const reading = await readReferences(name, size, (range) => tree.read(name, range));
    if (!reading) return null;
    for (const p of reading.problems)
      this.notes.push({ level: 'info', code: p.code, message: `${nameOf(from)}: ${p.message}`, path: from });
    const report = await judge(name, reading, {
      ...this.setting,
      root,
      lookup: new Lookup(tree as FileTree),
    });
    return { reading, references: report.references };
  }

  /** A file inside with the same content: at the home, or where the outside path's tail points. */
  private async sameInside(from: string, folder: string, size: number): Promise<TreePath | null> {
    const atHome = at(folder, nameOf(from));
    for (const path of [atHome, await findByTail(from, 'native', this.setting)]) {
      if (path === null || (await this.workspace.tree.stat(path))?.size !== size) continue;
      if ((await this.workspace.tree.digest(path)) === (await this.workspace.outside.digest(from)))
        return path;
    }
    return null;
  }

  private async freePath(folder: string, name: string): Promise<TreePath> {
    const legal = legalName(name);
    const names = await this.namesIn(folder);
    const free = freeName(
      legal,
      (n) =>
        names.has(foldName(n)) ||
        this.taken.has(foldName(at(folder, n))) ||
        this.scenes.awaits(at(folder, n)) !== null,
    );
    if (free !== name)
      this.notes.push({
        level: 'info',
        code: 'renamed',
        message: `${name} comes in as ${free}: ${legal === name ? 'another file of that name is already there' : 'its name is not legal on every system'}.`,
        path: at(folder, free),
      });
    return at(folder, free);
  }

  /** What is used as it lies in the workspace already: the plan rests on it. */
  basis(): Basis {
    return {
      files: [...this.gathered.values()]
        .filter((g) => g.reused)
        .map((g) => ({ path: g.to, outside: false, state: g.there! })),
    };
  }

  /** The folded names in a folder of the workspace: asked once, however many files come into it. */
  private namesIn(folder: string): Promise<Set<string>> {
    let names = this.names.get(folder);
    if (!names) this.names.set(folder, (names = foldedNamesIn(this.workspace.tree, folder)));
    return names;
  }

  /** Steps that copy everything gathered, scenes with their paths rewritten, and the path changes for showing. */
  async steps(): Promise<{ steps: Step[]; paths: PathChange[] }> {
    const steps: Step[] = [];
    const paths: PathChange[] = [];
    const folders = new Set<string>();
    for (const g of this.gathered.values()) {
      if (g.reused) {
        this.notes.push({
          level: 'info',
          code: 'reused',
          message: `${nameOf(g.from)} is already in the workspace with the same content; ${g.to} is used.`,
          path: g.to,
        });
        continue;
      }
      for (const step of foldersFor(g.to, (f) => folders.has(f))) {
        folders.add(step.path);
        if ((await this.workspace.tree.kind(step.path)) === null) steps.push(step);
      }
      let size = g.state.size;
      let pieces = null;
      if (g.scene) {
        const done = await rewrite(g.scene.reading, size, this.rewritings(g), g.to, (range) =>
          this.workspace.outside.read(g.from, range),
        );
        ({ size, pieces } = done);
        paths.push(...done.paths);
        this.notes.push(...done.notes);
      }
      steps.push({
        do: 'put',
        path: g.to,
        before: null,
        size,
        modified: g.state.modified,
        from: { from: 'outside', path: g.from, state: g.state, pieces },
      });
    }
    return { steps, paths };
  }

  private rewritings(g: Gathered): Rewriting[] {
    const wishes: Rewriting[] = [];
    for (const reference of g.scene!.references) {
      if (reference.target === null || reference.state === 'library') continue;
      const absolute = this.absoluteTarget(g.from, reference);
      const to =
        insideOf(this.workspace.root, absolute) ?? this.sets.get(absolute) ?? this.gathered.get(absolute)?.to;
      if (to) wishes.push({ reference, written: writtenRelative(g.scene!.reading, g.to, to, reference) });
    }
    return wishes;
  }
}

/** A name in a folder of the tree; '' is the root. */
function at(folder: string, name: string): TreePath {
  return treePath(folder === '' ? name : `${folder}/${name}`);
}
