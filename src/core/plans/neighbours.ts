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
  workspace: Workspace;
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

/** The files that one scene of a neighbour leads to, as absolute paths. */
async function leadsOf(
  neighbour: Neighbour,
  scene: TreePath,
  setting: ReturnType<typeof settingOf>,
  room: Uint8Array,
): Promise<string[]> {
  const { workspace, known } = neighbour;
  const index = known.get(scene);
  const stat = index && (await workspace.tree.stat(scene).catch(() => null));
  if (index && stat && stat.size === index.size && stat.modified === index.modified) return [...index.leadTo];
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

/** Whether a path stands for a row of files, which only a look at the folder tells. */
export const standsForMany = (path: string) => sequencePattern(nameOf(path)) !== null;

/**
 * Warnings about references from `neighbours` to what a plan on `root` moves or clears. `realOf`: a path with its links followed. Scenes that
 * cannot be read are passed over here: their own workspace names them.
 */
export async function brokenElsewhere(
  plan: Pick<Plan, 'steps'>,
  root: string,
  neighbours: readonly Neighbour[],
  realOf: (absolute: string) => string,
  signal?: CancelSignal,
): Promise<Note[]> {
  const leaves = leaving(plan.steps, root);
  const isMoving = plan.steps.some(
    (s) => s.do !== 'put' && s.do !== 'make-folder' && s.do !== 'remove-folder',
  );
  if (!isMoving) return [];
  const notes: Note[] = [];
  for (const neighbour of neighbours) {
    const broken: { scene: TreePath; target: string }[] = [];
    const setting = settingOf(neighbour.workspace);
    const room = roomForScenes();
    for (const scene of (await scenePaths(neighbour.workspace.tree)).scenes) {
      signal?.throwIfAborted();
      // What lies in the root that is changed is changed with it.
      if (isWithin(`${neighbour.workspace.root}/${scene}`, root)) continue;
      const leads = await leadsOf(neighbour, scene, setting, room);
      const target = leads.find((p) => leaves(p) || leaves(realOf(p)));
      if (target !== undefined) broken.push({ scene, target });
    }
    const [one] = broken;
    if (!one) continue;
    const more = broken.length > 1 ? `, and ${broken.length - 1} more of its scenes to others` : '';
    notes.push({
      level: 'warning',
      code: 'other-workspace',
      message: `In the workspace ${neighbour.name}, ${one.scene} leads to ${nameOf(one.target)}, which does not stay where it is${more}. They are not changed with this: relink them there afterwards.`,
      path: `${neighbour.workspace.root}/${one.scene}`,
    });
  }
  return notes;
}
