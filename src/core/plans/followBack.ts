// An undo takes what moved back to where it was. What came to name it since, a version that was saved, a scene from elsewhere, is no part of what is undone: its paths
// follow, as they do in any move.

import type { Note, Plan } from '../changes/plan';
import type { CancelSignal } from '../files/fileTree';
import { isOwn } from '../files/records';
import { isWithin } from '../files/treePath';
import { moving } from './moving';
import type { Workspace } from './workspace';

interface Watched {
  signal?: CancelSignal | undefined;
  onScene?: ((done: number, of: number, path: string) => void) | undefined;
}

/** Where files lie that a plan moves, and where they will: past what steps in between are called. */
function movedFiles(plan: Plan): Map<string, string> {
  const from = new Map<string, string>();
  for (const s of plan.steps) {
    if (s.do !== 'move' || isOwn(s.path) || isOwn(s.to)) continue;
    const first = from.get(s.path) ?? s.path;
    from.delete(s.path);
    from.set(s.to, first);
  }
  return new Map([...from].map(([to, path]) => [path, to]));
}

/** The paths that a plan's steps write to, as they are called in the end. */
function writtenBy({ steps }: Plan): Set<string> {
  let written = new Set<string>();
  for (const s of steps) {
    if (s.do === 'move-folder')
      written = new Set([...written].map((p) => (isWithin(p, s.path) ? s.to + p.slice(s.path.length) : p)));
    else if (s.do === 'move' && written.delete(s.path)) written.add(s.to);
    else written.add(s.path);
  }
  return written;
}

/** The undo, with the paths of what came later. A plan that moves nothing, or cannot be made, stays as it is. */
export async function followBack(workspace: Workspace, undo: Plan, watched: Watched = {}): Promise<Plan> {
  const files = movedFiles(undo);
  const folders = undo.steps.flatMap((s) => (s.do === 'move-folder' ? [{ path: s.path, to: s.to }] : []));
  if (files.size + folders.length === 0 || undo.notes.some((n) => n.level === 'blocker')) return undo;
  const moved = await moving(workspace, { files, folders, clearEmptied: false, ...watched });
  if (moved.notes.some((n) => n.level === 'blocker')) return undo;
  const own = writtenBy(undo);
  const later = moved.steps.filter((s) => s.do === 'put' && !own.has(s.path));
  const changed = new Set(later.map((s) => s.path as string));
  const held = [...files.keys()].filter((path) => !moved.files.has(path));
  const notes = [
    ...held.map((path): Note => ({
      level: 'warning',
      code: 'names-it',
      message: `What was made since names ${path} in a way that cannot be changed here; it will not find it any more.`,
      path,
    })),
    ...moved.notes.filter((n) => n.code === 'names-it'),
    ...[...changed].map((path): Note => ({
      level: 'info',
      code: 'follows',
      message: `${path} came later and names what moves back; its paths follow.`,
      path,
    })),
  ];
  return {
    ...undo,
    steps: [...undo.steps, ...later],
    paths: [...undo.paths, ...moved.paths.filter((p) => changed.has(p.scene))],
    notes: [...undo.notes, ...notes],
    ...(moved.basis ? { basis: moved.basis } : {}),
  };
}
