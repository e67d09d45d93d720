// Clears files to the workspace's bin, where they keep their paths. What anything that stays still uses is left: a scene by its references, a file
// of an unknown format by the names in its bytes.

import type { Note, Plan } from '../changes/plan';
import { binAt } from '../files/records';
import { nameOf, type TreePath } from '../files/treePath';
import { filesOf } from '../references/scan';
import { plainMoves } from './moveSteps';
import { linksOf, LinkWorld } from './placing';
import { SceneSet } from './sceneSet';
import type { Workspace } from './workspace';

/** What every scene uses, files themselves. */
async function usesOf(scenes: SceneSet): Promise<Map<TreePath, Set<string>>> {
  const uses = new Map<TreePath, Set<string>>();
  for await (const { path, references } of scenes.each())
    uses.set(path, new Set(references.flatMap(filesOf)));
  return uses;
}

/** `now`: ISO time, which names the folder in the bin. */
export async function planBin(workspace: Workspace, paths: readonly TreePath[], now: string): Promise<Plan> {
  const bin = binAt(now);
  const notes: Note[] = [];
  const going = new Set<string>();
  // What has gone meanwhile need not go.
  for (const p of paths) if ((await workspace.tree.kind(p)) === 'file') going.add(p);
  const scenes = await SceneSet.of(workspace);
  const uses = await usesOf(scenes);
  const stay = (file: string, because: string) => {
    if (!going.delete(file)) return false;
    notes.push({ level: 'warning', code: 'in-use', message: `${file} stays: ${because}.`, path: file });
    return true;
  };
  for (const naming of await scenes.namingFiles(new Set([...going].map(nameOf)), notes))
    if (!going.has(naming.path))
      for (const file of going) if (naming.names.has(nameOf(file))) stay(file, `${naming.path} names it`);
  const links = await linksOf(workspace.tree);
  const world = new LinkWorld(links, workspace.root, (p) => p as TreePath);
  for (const link of links.keys()) stay(world.real(link), `the link ${link} leads to it`);
  // A scene that stays keeps what it uses, and what that uses in turn.
  for (let again = true; again;) {
    again = false;
    for (const [scene, files] of uses) {
      if (going.has(scene)) continue;
      for (const file of files) again = stay(file, `${scene} uses it`) || again;
    }
  }
  const moved = await plainMoves(
    workspace,
    new Map([...going].map((p) => [p, `${bin}/${p}`])),
    Object.values(workspace.file.homes),
  );
  if (going.size === 0) notes.push({ level: 'info', code: 'nothing', message: 'There is nothing to clear.' });
  else
    notes.push(
      ...scenes.notes('blocker', 'It may use what would go; nothing is cleared before it can be read.'),
    );
  return {
    kind: 'bin',
    title: `Clear ${going.size === 1 ? nameOf([...going][0]!) : `${going.size} files`} to the bin`,
    steps: moved.steps,
    notes: [...notes, ...moved.notes],
    paths: [],
    readiness: null,
    basis: scenes.basis(),
  };
}
