// Files that a part of a scene needs, brought along into the target's workspace with all that they need themselves: as carrying over does it.

import type { Note, Step } from '../changes/plan';
import { closureOf } from '../collect/closure';
import { folderOf, insideOf, isAbsolutePath, relativePath, type TreePath } from '../files/treePath';
import type { Syntax } from '../formats/format';
import { spell } from '../references/written';
import { carry } from './carrying';
import type { Both } from './carryNodes';
import { planCarry } from './planCarry';

/** What a reference leads to: a file, or a set by its path with marks. Absolute. */
export interface Wanted {
  target: string;
  members: readonly string[] | null;
}

export class FilesAlong {
  readonly steps: Step[] = [];
  readonly notes: Note[] = [];

  constructor(
    private readonly both: Both,
    private readonly into: TreePath,
  ) {}

  /** Brings them, all at once; gives where each is afterwards: a tree path, an absolute one, or null where it is not there. */
  async bring(wanted: readonly Wanted[]): Promise<(target: string) => string | null> {
    const { source, target } = this.both;
    const outside = wanted.filter((w) => insideOf(target.root, w.target) === null);
    const chosen = outside.flatMap((w) =>
      w.members ? w.members.map((m) => `${folderOf(w.target)}/${m}`) : [w.target],
    );
    const closure = await closureOf(source, { chosen: [...new Set(chosen)] });
    const sets = new Map(
      outside.flatMap((w) =>
        w.members ? [[w.target, w.members.map((m) => `${folderOf(w.target)}/${m}`)] as const] : [],
      ),
    );
    for (const [set, members] of sets)
      for (const member of members) {
        const file = closure.files.get(member);
        if (file) file.set ??= set;
      }
    const all = { ...closure, sets: new Map([...closure.sets, ...sets]) };
    const carrying = await carry(target, source, all, { flat: true, clash: 'both' });
    if (chosen.length > 0) {
      const plan = await planCarry(target, all, carrying, '');
      this.steps.push(...plan.steps);
      this.notes.push(...plan.notes.filter((n) => n.code !== 'nothing'));
    }
    return (path) => {
      const inside = insideOf(target.root, path);
      if (inside !== null) return inside;
      if (carrying.inLibraries.includes(path)) return path;
      return carrying.sets.get(path) ?? carrying.files.get(path)?.to ?? null;
    };
  }

  /** How the scene names a file of the tree, or one elsewhere by its whole path. */
  written(path: string, syntax: Syntax): string {
    if (isAbsolutePath(path)) return spell(path, syntax, '');
    const relative = relativePath(folderOf(this.into), path);
    // Without ./ a USD path is looked for elsewhere, too.
    return spell(syntax === 'usd' && !relative.startsWith('.') ? `./${relative}` : relative, syntax, '');
  }
}
