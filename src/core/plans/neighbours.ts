// Other workspaces whose scenes lead into the one that a plan changes. They are not changed with it, each has a ledger of its own; what of
// theirs will not find its file any more is said before.

import type { Note, Plan } from '../changes/plan';
import type { CancelSignal } from '../files/fileTree';
import { folderOf, isWithin, nameOf, type TreePath } from '../files/treePath';
import { sequencePattern } from '../names/sequences';
import { judge, readScene, roomForScenes, scenePaths } from '../references/scan';
import { settingOf, type Workspace } from './workspace';

/** Another workspace that is known. */
export interface Neighbour {
  name: string;
  root: string;
  /** Opens it; null: there is none at its root any more. */
  open(): Promise<Workspace | null>;
  /** Whether an index has all of its scenes; without, it alone is gone by. */
  whole: boolean;
  /** Where its scenes lead out of it (absolute paths), as an index has it; one that is of another size or time now is read. */
  known: ReadonlyMap<string, { size: number; modified: number; leadTo: readonly string[] }>;
}

/** What lies elsewhere, or not at all, after a plan's steps. */
function leaving(steps: Plan['steps'], root: string): (absolute: string) => boolean {
  const files = new Set<string>();
  const folders: string[] = [];
  for (const step of steps) {
    // What is reached through a link goes with it.
    const isLink =
      (step.do === 'move' && step.content.link !== undefined) || (step.do === 'link' && step.after === null);
    if (isLink || step.do === 'move-folder') folders.push(`${root}/${step.path}`);
    else if (step.do === 'move' || step.do === 'remove') files.add(`${root}/${step.path}`);
  }
  return (p) => files.has(p) || folders.some((f) => isWithin(p, f));
}

/** Whether a path stands for a row of files, which only a look at the folder tells. */
const standsForMany = (path: string) => sequencePattern(nameOf(path)) !== null;

/** The files that one scene of a neighbour leads to, as absolute paths. */
async function leadsOf(
  workspace: Workspace,
  index: { size: number; modified: number; leadTo: readonly string[] } | undefined,
  scene: TreePath,
  setting: ReturnType<typeof settingOf>,
  room: Uint8Array,
): Promise<readonly string[]> {
  const stat =
    index && !index.leadTo.some(standsForMany) && (await workspace.tree.stat(scene).catch(() => null));
  if (index && stat && stat.size === index.size && stat.modified === index.modified) return index.leadTo;
  const reading = await readScene(workspace.tree, scene, room);
  if (!reading || !('format' in reading)) return [];
  const { references } = await judge(scene, reading, setting);
  return references.flatMap((r) => {
    if (r.target === null) return [];
    const target = r.real ?? r.target;
    const absolute = r.inside ? `${workspace.root}/${target}` : target;
    return r.members ? r.members.map((m) => `${folderOf(absolute)}/${m}`) : [absolute];
  });
}

/** Scenes of a neighbour and where each leads: as they lie there now, and from when `isLate` on as the index has them. */
async function* waysOut(
  neighbour: Neighbour,
  isLate: () => boolean,
): AsyncGenerator<{ scene: string; leads: readonly string[]; isRead: boolean }> {
  const { known } = neighbour;
  const workspace = neighbour.whole && !isLate() ? await neighbour.open() : null;
  if (neighbour.whole && !isLate() && workspace === null) return;
  if (workspace === null) {
    for (const [scene, { leadTo }] of known) yield { scene, leads: leadTo, isRead: false };
    return;
  }
  const setting = settingOf(workspace);
  const room = roomForScenes();
  for (const scene of (await scenePaths(workspace.tree)).scenes) {
    const index = known.get(scene);
    if (isLate()) yield { scene, leads: index?.leadTo ?? [], isRead: false };
    else yield { scene, leads: await leadsOf(workspace, index, scene, setting, room), isRead: true };
  }
}

/**
 * Warnings about references from `neighbours` to what a plan on `root` moves or clears. `realOf`: a path with its links followed. Scenes that
 * cannot be read are passed over here: their own workspace names them. Once `isLate` says so no more is read, and what the index has counts;
 * that is said.
 */
export async function brokenElsewhere(
  plan: Pick<Plan, 'steps'>,
  root: string,
  neighbours: readonly Neighbour[],
  realOf: (absolute: string) => string,
  { signal, isLate = () => false }: { signal?: CancelSignal; isLate?: () => boolean } = {},
): Promise<Note[]> {
  const leaves = leaving(plan.steps, root);
  const isMoving = plan.steps.some(
    (s) => s.do !== 'put' && s.do !== 'make-folder' && s.do !== 'remove-folder',
  );
  if (!isMoving) return [];
  const notes: Note[] = [];
  const unread: string[] = [];
  // Those that are known to lead here before all others.
  const leadsHere = ({ known }: Neighbour) =>
    [...known.values()].some(({ leadTo }) => leadTo.some((p) => isWithin(p, root)));
  const [first, then] = [neighbours.filter(leadsHere), neighbours.filter((n) => !leadsHere(n))];
  for (const neighbour of [...first, ...then]) {
    const broken: { scene: string; target: string }[] = [];
    let isRead = neighbour.whole && !isLate();
    for await (const found of waysOut(neighbour, isLate)) {
      signal?.throwIfAborted();
      isRead &&= found.isRead;
      // What lies in the root that is changed is changed with it.
      if (isWithin(`${neighbour.root}/${found.scene}`, root)) continue;
      const target = found.leads.find((p) => leaves(p) || leaves(realOf(p)));
      if (target !== undefined) broken.push({ scene: found.scene, target });
    }
    if (!isRead) unread.push(neighbour.name);
    const [one] = broken;
    if (!one) continue;
    const more = broken.length > 1 ? `, and ${broken.length - 1} more of its scenes to others` : '';
    notes.push({
      level: 'warning',
      code: 'other-workspace',
      message: `In the workspace ${neighbour.name}, ${one.scene} leads to ${nameOf(one.target)}, which does not stay where it is${more}. They are not changed with this: relink them there afterwards.`,
      path: `${neighbour.root}/${one.scene}`,
    });
  }
  const [some] = unread;
  if (some !== undefined)
    notes.push({
      level: 'info',
      code: 'others-not-read',
      message: `Whether scenes of ${unread.length === 1 ? `the workspace ${some}` : `${unread.length} other workspaces, ${some} among them,`} lead to what this moves is judged by what was last read of ${unread.length === 1 ? 'it' : 'them'}: reading all of their scenes anew would take too long.`,
    });
  return notes;
}
