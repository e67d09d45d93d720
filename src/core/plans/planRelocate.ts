// Whole workspaces renamed or moved, on the folder that holds them: the references kept that lead out of them, and those that lead into them from
// other workspaces that are known.

import { markerPath, isOwnAnywhere } from '../files/records';
import type { Note, Plan, Step } from '../changes/plan';
import { folderOf, isWithin, join, nameOf, type TreePath } from '../files/treePath';
import type { WorkspaceFile } from '../layouts/workspace';
import { checkNewName } from '../names/portable';
import { scenePaths } from '../references/scan';
import { newMarkerStep } from './marker';
import { moving, type MoveRequest } from './moving';
import { stateOf, type Workspace } from './workspace';

/** A workspace on the shelf: its root as a path of the shelf's tree, and what its marker says. */
export interface Shelved {
  root: TreePath;
  file: WorkspaceFile;
}

export interface RelocateRequest extends Pick<MoveRequest, 'signal' | 'onScene'> {
  moves: readonly { path: TreePath; to: TreePath }[];
  /** Workspaces that are known and lie on the shelf, those that move among them. */
  known: readonly Shelved[];
}

/** Moves or renames whole workspaces. The tree is that of a folder around all of them. */
export async function planRelocate(shelf: Workspace, request: RelocateRequest): Promise<Plan> {
  const notes = await whyNot(shelf, request);
  const roots = request.known.map((k) => k.root);
  const concerned = [...new Set([...request.moves.map((m) => m.path), ...roots])];
  const found = await Promise.all(concerned.map((r) => scenePaths(shelf.tree, r)));
  for (const p of found.flatMap((f) => f.unread))
    notes.push({ level: 'warning', code: 'unread', message: p.message, ...(p.path ? { path: p.path } : {}) });
  const moved = notes.some((n) => n.level === 'blocker')
    ? { steps: [], notes: [], paths: [] }
    : await moving(shelf, {
        folders: request.moves,
        below: concerned,
        scenes: [...new Set(found.flatMap((f) => f.scenes))].filter((s) => !isOwnAnywhere(s)).sort(),
        signal: request.signal,
        onScene: request.onScene,
      });
  const markers = await movedMarkers(shelf, request);
  return {
    kind: 'relocate',
    title: titleOf(shelf, request.moves),
    steps: [...moved.steps, ...markers],
    notes: [...notes, ...followNotes(moved.paths, request), ...moved.notes],
    paths: moved.paths,
    readiness: null,
  };
}

/** What stands in the way of the moves. */
async function whyNot(shelf: Workspace, { moves, known }: RelocateRequest): Promise<Note[]> {
  const notes: Note[] = [];
  const block = (code: string, message: string, path: string) =>
    notes.push({ level: 'blocker', code, message, path });
  for (const { path, to } of moves) {
    const [wrong] = checkNewName(nameOf(to));
    if (wrong) block('bad-name', `“${nameOf(to)}”: ${wrong.message}`, to);
    const holder = known.find(
      ({ root }) => root !== path && isWithin(to, root) && !moves.some((m) => m.path === root),
    );
    if (holder !== undefined)
      block(
        'inside-workspace',
        `${to} would lie inside the workspace ${holder.root}: a workspace inside a workspace has two roots.`,
        to,
      );
    if ((await shelf.tree.kind(to)) !== null) block('exists', `${to} is there already.`, to);
  }
  return notes;
}

/** Markers in which paths to what moves, or the name, become others. */
async function movedMarkers(shelf: Workspace, { moves, known }: RelocateRequest): Promise<Step[]> {
  const place = (absolute: string) => {
    const m = moves.find((x) => isWithin(absolute, `${shelf.root}/${x.path}`));
    return m ? `${shelf.root}/${m.to}${absolute.slice(shelf.root.length + 1 + m.path.length)}` : absolute;
  };
  const steps: Step[] = [];
  for (const { root, file } of known) {
    const move = moves.find((m) => m.path === root);
    // The name follows the folder where it was the folder's.
    const renamed = move && file.name === nameOf(root) ? { ...file, name: nameOf(move.to) } : file;
    const after: WorkspaceFile = {
      ...renamed,
      libraries: file.libraries.map((l) => ({ ...l, path: place(l.path) })),
      places: file.places.map((p) => ({ ...p, heads: p.heads.map(place) })),
      ...(file.search ? { search: file.search.map(place) } : {}),
    };
    if (JSON.stringify(after) === JSON.stringify(file)) continue;
    const before = (await stateOf(shelf.tree, join(root, markerPath)))!;
    steps.push({ ...newMarkerStep(after), path: join(move ? move.to : root, markerPath), before });
  }
  return steps;
}

function titleOf(shelf: Workspace, moves: RelocateRequest['moves']): string {
  const { path, to } = moves[0]!;
  if (moves.length === 1 && folderOf(path) === folderOf(to)) return `Rename ${nameOf(path)} to ${nameOf(to)}`;
  const what = moves.length === 1 ? nameOf(path) : `${moves.length} workspaces`;
  return `Move ${what} to ${folderOf(to) === '' ? nameOf(shelf.root) : folderOf(to)}`;
}

/** Workspaces that stay and whose scenes are changed. */
function followNotes(paths: Plan['paths'], { moves, known }: RelocateRequest): Note[] {
  const others = new Set<TreePath>();
  for (const { scene } of paths) {
    const owner = known.find(({ root }) => isWithin(scene, root) && !moves.some((m) => m.path === root));
    if (owner) others.add(owner.root);
  }
  return [...others].map((other) => ({
    level: 'info',
    code: 'other-workspace',
    message: `Scenes of ${other} point into it; they are changed with it.`,
    path: other,
  }));
}
