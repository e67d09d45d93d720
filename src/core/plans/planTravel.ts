// Makes references travel: outsiders are copied into their homes, and every path becomes relative, in the letters the disk has.
// What cannot be made to travel (missing, offline, remote) is named and left as it is.

import type { Note, PathChange, Plan, Step } from '../changes/plan';
import type { CancelSignal } from '../files/fileTree';
import { folderOf, nameOf, type TreePath } from '../files/treePath';
import { fullPath } from '../formats/format';
import type { FileReading } from '../formats/formats';
import { findByTail, isReady } from '../references/resolve';
import { judge, readScene, scenePaths, type JudgedReference } from '../references/scan';
import { Gathering } from './gather';
import { isGuess, rewrite, writtenRelative, type Rewriting } from './rewrite';
import { settingOf, stateOf, type Workspace } from './workspace';

export interface TravelRequest {
  /** Only these references, as `scene` and `at`; null: all of the workspace. */
  only: readonly { scene: string; at: string }[] | null;
  signal?: CancelSignal | undefined;
  onScene?: ((done: number, path: string) => void) | undefined;
}

/** The plan that makes references travel. Readiness counts all references of the workspace. */
export async function planTravel(workspace: Workspace, request: TravelRequest): Promise<Plan> {
  const setting = settingOf(workspace);
  const only = request.only && new Set(request.only.map((o) => `${o.scene}\0${o.at}`));
  const gathering = new Gathering(workspace);
  const notes: Note[] = [];
  const wishes: { path: TreePath; reading: FileReading; rewritings: Rewriting[] }[] = [];
  let of = 0;
  let ready = 0;
  let repaired = 0;
  for (const path of await scenePaths(workspace.tree)) {
    request.signal?.throwIfAborted();
    const reading = await readScene(workspace.tree, path);
    request.onScene?.(of, path);
    if (!reading || !('format' in reading)) continue;
    const report = await judge(path, reading, setting);
    const rewritings: Rewriting[] = [];
    for (const reference of report.references) {
      of++;
      if (isReady(reference)) ready++;
      else if (only ? only.has(`${path}\0${reference.at}`) : !isGuess(reference, path, notes)) {
        const target = await newTarget(reference, path, reading, setting, gathering, notes);
        if (target !== null)
          rewritings.push({ reference, written: writtenRelative(reading, path, target, reference) });
      }
    }
    if (rewritings.length > 0) wishes.push({ path, reading, rewritings });
  }
  const gathered = await gathering.steps();
  const steps: Step[] = [...gathered.steps];
  const paths: PathChange[] = [...gathered.paths];
  for (const { path, reading, rewritings } of wishes) {
    const state = (await stateOf(workspace.tree, path))!;
    const done = rewrite(reading, state.size, rewritings, path);
    notes.push(...done.notes);
    if (!done.pieces) continue;
    repaired += done.paths.length;
    paths.push(...done.paths);
    steps.push({
      do: 'put',
      path,
      before: state,
      size: done.size,
      modified: null,
      from: { from: 'tree', path, state, pieces: done.pieces },
    });
  }
  return {
    kind: 'travel',
    title:
      repaired === 1 ? `Make ${nameOf(paths.at(-1)!.after)} travel` : `Make ${repaired} references travel`,
    steps,
    paths,
    notes: [...notes, ...gathering.notes],
    readiness: { before: ready, after: ready + repaired, of },
  };
}

/** Where a reference shall point inside the root; null when it is left as it is, with a note that says why. */
async function newTarget(
  r: JudgedReference,
  scene: TreePath,
  reading: FileReading,
  setting: ReturnType<typeof settingOf>,
  gathering: Gathering,
  notes: Note[],
): Promise<string | null> {
  const leave = (code: string, message: string) => {
    notes.push({ level: 'warning', code, message, path: scene });
    return null;
  };
  switch (r.state) {
    case 'travels': // an odd spelling of a good target
    case 'absolute':
    case 'case':
      return r.target;
    case 'outside':
      return gathering.addTarget(r.target!, r.members, { kind: r.kind, beside: folderOf(scene) });
    case 'missing': {
      const inside = await findByTail(fullPath(r), r.syntax ?? reading.format.syntax, setting);
      return inside ?? leave('missing', `${r.written} is missing. ${nameOf(scene)} will still say so.`);
    }
    case 'offline':
      return leave(
        'offline',
        `${r.written} lies on ${r.via ?? 'a place'}, which is not connected. Connect it and plan again.`,
      );
    case 'remote':
      return leave('remote', `${r.written} is a web address; it stays one.`);
    case 'library':
      return leave(
        'library',
        `${r.written} lies in the library ${r.via ?? ''}; libraries are left where they are.`,
      );
  }
}
