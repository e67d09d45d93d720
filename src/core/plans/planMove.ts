// Renames and moves with references kept; homes in moved folders move along.

import { isOwn } from '../files/records';
import type { Note, Plan } from '../changes/plan';
import { nameOf, treePath } from '../files/treePath';
import { checkNewName } from '../names/portable';
import { markerAfter, markerStep, type MarkedWorkspace } from './marker';
import { moving, type MoveRequest } from './moving';

type Watched = Pick<MoveRequest, 'signal' | 'onScene'>;

/** Renames or moves files and folders; homes in moved folders move along. */
export async function planMove(
  workspace: MarkedWorkspace,
  moves: readonly { path: string; to: string }[],
  watched: Watched = {},
): Promise<Plan> {
  const notes: Note[] = [];
  const files = new Map<string, string>();
  const folders: { path: string; to: string }[] = [];
  for (const { path, to } of moves) {
    const wrong = to.split('/').flatMap((part) => checkNewName(part));
    if (wrong.length > 0)
      notes.push({ level: 'blocker', code: 'bad-name', message: `${to}: ${wrong[0]!.message}`, path });
    const kind = isOwn(path) || isOwn(to) ? null : await workspace.tree.kind(treePath(path));
    if (kind === 'folder') folders.push({ path, to });
    else if (kind === 'file' || kind === 'link') files.set(path, to);
    else
      notes.push({
        level: 'blocker',
        code: 'not-found',
        message: `${path} is nothing that can be moved.`,
        path,
      });
  }
  const moved = await moving(workspace, { files, folders, clearEmptied: false, ...watched });
  const marker =
    folders.length > 0 && workspace.file.created !== ''
      ? await markerStep(workspace, markerAfter(workspace.file, folders))
      : null;
  const one = moves[0];
  const title =
    moves.length === 1 && one
      ? nameOf(one.path) === nameOf(one.to)
        ? `Move ${nameOf(one.path)}`
        : `Rename ${nameOf(one.path)} to ${nameOf(one.to)}`
      : `Move ${moves.length} files and folders`;
  return {
    kind: 'move',
    title,
    steps: [...moved.steps, ...(marker ? [marker] : [])],
    notes: [...notes, ...moved.notes],
    paths: moved.paths,
    readiness: null,
    basis: moved.basis,
  };
}
