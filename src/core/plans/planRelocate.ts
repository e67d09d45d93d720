// Whole workspaces renamed or moved, on the folder that holds them: the references kept that lead out of them, and those that lead into them from
// other workspaces that are known.

import { markerPath, isOwnAnywhere } from '../files/records';
import type { Note, Plan, Step } from '../changes/plan';
import { folderOf, isWithin, join, nameOf, type TreePath } from '../files/treePath';
import { writeWorkspaceFile, type WorkspaceFile } from '../layouts/workspace';
import { checkNewName } from '../names/portable';
import { scenePaths } from '../references/scan';
import { latin1, utf8 } from '../text/bytes';
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
  const notes: Note[] = [];
  const roots = request.known.map((k) => k.root);
  for (const { path, to } of request.moves) {
    const [wrong] = checkNewName(nameOf(to));
    if (wrong)
      notes.push({
        level: 'blocker',
        code: 'bad-name',
        message: `“${nameOf(to)}”: ${wrong.message}`,
        path: to,
      });
    const holder = roots.find(
      (r) => r !== path && isWithin(to, r) && !request.moves.some((m) => m.path === r),
    );
    if (holder !== undefined)
      notes.push({
        level: 'blocker',
        code: 'inside-workspace',
        message: `${to} would lie inside the workspace ${holder}: a workspace inside a workspace has two roots.`,
        path: to,
      });
    if ((await shelf.tree.kind(to)) !== null)
      notes.push({ level: 'blocker', code: 'exists', message: `${to} is there already.`, path: to });
  }
  const found = await Promise.all(
    [...new Set([...request.moves.map((m) => m.path), ...roots])].map((r) => scenePaths(shelf.tree, r)),
  );
  const scenes = found.flatMap((f) => f.scenes);
  for (const p of found.flatMap((f) => f.unread))
    notes.push({ level: 'warning', code: 'unread', message: p.message, ...(p.path ? { path: p.path } : {}) });
  const moved = notes.some((n) => n.level === 'blocker')
    ? { steps: [], notes: [], paths: [] }
    : await moving(shelf, {
        folders: request.moves,
        below: [...new Set([...request.moves.map((m) => m.path), ...roots])],
        scenes: [...new Set(scenes)].filter((s) => !isOwnAnywhere(s)).sort(),
        signal: request.signal,
        onScene: request.onScene,
      });
  const place = (absolute: string) => {
    const m = request.moves.find((x) => isWithin(absolute, `${shelf.root}/${x.path}`));
    return m ? `${shelf.root}/${m.to}${absolute.slice(shelf.root.length + 1 + m.path.length)}` : absolute;
  };
  const markers: Step[] = [];
  for (const { root, file } of request.known) {
    const move = request.moves.find((m) => m.path === root);
    // The name follows the folder where it was the folder's.
    const renamed = move && file.name === nameOf(root) ? { ...file, name: nameOf(move.to) } : file;
    const after: WorkspaceFile = {
      ...renamed,
      libraries: file.libraries.map((l) => ({ ...l, path: place(l.path) })),
      places: file.places.map((p) => ({ ...p, heads: p.heads.map(place) })),
      ...(file.search ? { search: file.search.map(place) } : {}),
    };
    if (JSON.stringify(after) === JSON.stringify(file)) continue;
    const text = utf8(writeWorkspaceFile(after));
    const at = join(move ? move.to : root, markerPath);
    markers.push({
      do: 'put',
      path: at,
      before: (await stateOf(shelf.tree, join(root, markerPath)))!,
      size: text.length,
      modified: null,
      from: { from: 'bytes', latin1: latin1(text) },
    });
  }
  const one = request.moves[0]!;
  const isRename = request.moves.length === 1 && folderOf(one.path) === folderOf(one.to);
  const title = isRename
    ? `Rename ${nameOf(one.path)} to ${nameOf(one.to)}`
    : `Move ${request.moves.length === 1 ? nameOf(one.path) : `${request.moves.length} workspaces`} to ${folderOf(one.to) === '' ? nameOf(shelf.root) : folderOf(one.to)}`;
  const others = new Set(
    moved.paths
      .map((p) => roots.find((r) => isWithin(p.scene, r) && !request.moves.some((m) => m.path === r)))
      .filter((r) => r !== undefined),
  );
  for (const other of others)
    notes.push({
      level: 'info',
      code: 'other-workspace',
      message: `Scenes of ${other} point into it; they are changed with it.`,
      path: other,
    });
  return {
    kind: 'relocate',
    title,
    steps: [...moved.steps, ...markers],
    notes: [...notes, ...moved.notes],
    paths: moved.paths,
    readiness: null,
  };
}
