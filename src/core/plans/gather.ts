// Gathers files from outside into a workspace: each to the home of its kind, scenes with all they reference, through chains. Bringing in and making travel are two
// policies on what carrying over stands on (closure, placement, carrying): nothing is ever replaced, names that a scene here misses stay free, and what lies here
// already is looked for at its home and by the end of its path.

import { type Basis, type Note, type PathChange, type Step } from '../changes/plan';
import { closureOf, type Closure, type NeededFile, type Seed } from '../collect/closure';
import { folderOf, insideOf, join, nameOf, treePath, type TreePath } from '../files/treePath';
import type { ReferenceKind } from '../formats/format';
import { findByTail, type Setting } from '../references/resolve';
import { carry, type Carrying } from './carrying';
import { carriedSteps, carriedBasis } from './planCarry';
import { leftNotes } from './planCollect';
import type { SceneSet } from './sceneSet';
import { settingOf, stateOf, type Workspace } from './workspace';

/** What a file is wanted for: the kind its reference tells, and the folder of the scene that needs it. */
interface Use {
  kind: ReferenceKind;
  beside: TreePath;
}

export class Gathering {
  readonly notes: Note[] = [];
  private readonly chosen: string[] = [];
  private readonly seeds: Seed[] = [];
  private readonly setting: Setting;
  private settled: { closure: Closure; carrying: Carrying } | null = null;

  /** `scenes`: those of the workspace, read: a name that one of them misses is no name for a stranger. */
  constructor(
    private readonly workspace: Workspace,
    private readonly scenes: SceneSet,
  ) {
    this.setting = settingOf(workspace);
  }

  /** Notes a file that is to come in, absolute. */
  add(from: string): void {
    this.chosen.push(from);
  }

  /** Notes what a reference of a scene here leads to, one file or all of a sequence. */
  addTarget(from: string, members: readonly string[] | undefined, { kind, beside }: Use): void {
    const seed = { kind, beside: kind === 'buffer' || kind === 'material' ? beside : null };
    if (!members) this.seeds.push({ ...seed, path: from, set: null });
    else for (const m of members) this.seeds.push({ ...seed, path: `${folderOf(from)}/${m}`, set: from });
  }

  /** Works out where everything that was noted will lie. */
  async settle(): Promise<void> {
    const { workspace, setting } = this;
    const { root, outside, file } = workspace;
    const source = { root, outside, setting, homes: {} };
    const closure = await closureOf(source, { chosen: this.chosen, seeds: this.seeds, there: root });
    const carrying = await carry(workspace, source, closure, {
      flat: true,
      clash: 'both',
      homes: file.homes,
      awaits: (path) => this.scenes.awaits(path) !== null,
      reuse: (needed) => this.byTail(needed),
      takesChosen: true,
    });
    this.settled = { closure, carrying };
    this.notes.push(...closure.notes.map((n): Note => ({ ...n, level: 'info' })), ...this.leftOut(closure));
  }

  private get done() {
    if (!this.settled) throw new Error('nothing was settled');
    return this.settled;
  }

  private leftOut(closure: Closure): Note[] {
    return leftNotes(closure.left).map((n) =>
      n.code === 'not-allowed' && n.path !== undefined
        ? {
            ...n,
            message: `${n.path} lies in a folder you have not allowed. Allow ${folderOf(n.path)} under Workspaces, then plan again.`,
          }
        : n,
    );
  }

  /** Files that will be copied, for showing. */
  copies(): { from: string; to: TreePath; size: number }[] {
    return [...this.done.carrying.files.values()]
      .filter((c) => c.how === 'copy')
      .map((c) => ({ from: c.from, to: c.to, size: c.content.size }));
  }

  /** Where what a reference leads to will lie inside, of a sequence its path with marks; null where it does not come in. */
  placeOf(from: string): string | null {
    const { files, sets } = this.done.carrying;
    return insideOf(this.workspace.root, from) ?? sets.get(from) ?? files.get(from)?.to ?? null;
  }

  /** A file inside with the same content, where the outside path's end points. */
  private async byTail({ from, state }: NeededFile): Promise<TreePath | null> {
    const { tree, outside } = this.workspace;
    const path = await findByTail(from, 'native', this.setting);
    if (path === null || (await tree.stat(treePath(path)))?.size !== state.size) return null;
    return (await tree.digest(treePath(path))) === (await outside.digest(from)) ? treePath(path) : null;
  }

  /** What is used as it lies in the workspace already: the plan rests on it. */
  basis(): Basis {
    return carriedBasis(this.done.carrying);
  }

  /** Steps that copy everything gathered, scenes with their paths rewritten, and the path changes for showing. */
  async steps(): Promise<{ steps: Step[]; paths: PathChange[] }> {
    const { closure, carrying } = this.done;
    const { steps, paths, notes } = await carriedSteps(this.workspace, closure, carrying);
    for (const { from, to, how } of carrying.files.values()) {
      if (how === 'there')
        this.notes.push({
          level: 'info',
          code: 'reused',
          message: `${nameOf(from)} is already in the workspace with the same content; ${to} is used.`,
          path: to,
        });
      else if (nameOf(to) !== nameOf(from))
        this.notes.push({
          level: 'info',
          code: 'renamed',
          message: `${nameOf(from)} comes in as ${nameOf(to)}: ${(await this.isTaken(to, from)) ? 'another file of that name is already there' : 'its name is not legal on every system'}.`,
          path: to,
        });
    }
    this.notes.push(...notes);
    return { steps, paths };
  }

  private async isTaken(to: TreePath, from: string): Promise<boolean> {
    const wanted = join(folderOf(to), nameOf(from));
    return (await stateOf(this.workspace.tree, wanted)) !== null || this.scenes.awaits(wanted) !== null;
  }
}
