// Makes references travel: outsiders are copied into their homes, and every path becomes relative, in the letters the disk has.
// What cannot be made to travel (missing, offline, remote) is named and left as it is.

import type { Note, PathChange, Plan, Step } from '../changes/plan';
import type { CancelSignal } from '../files/fileTree';
import { folderOf, nameOf, type TreePath } from '../files/treePath';
import { fullPath } from '../formats/format';
import type { FileReading } from '../formats/formats';
import { findByTail, isReady, type Setting } from '../references/resolve';
import { type JudgedReference } from '../references/scan';
import { keyOf } from '../references/key';
import { Gathering } from './gather';
import { isGuess, writtenRelative, type Rewriting } from './rewrite';
import { SceneSet } from './sceneSet';
import type { Workspace } from './workspace';
import { titleOfPaths } from './titles';

export interface TravelRequest {
  /** Only these references, as `scene` and `at`; null: all of the workspace. */
  only: readonly { scene: string; at: string }[] | null;
  signal?: CancelSignal | undefined;
  onScene?: ((done: number, path: string) => void) | undefined;
}

/** The plan that makes references travel. Readiness counts all references of the workspace. */
export async function planTravel(workspace: Workspace, request: TravelRequest): Promise<Plan> {
  const only = request.only && new Set(request.only.map((o) => keyOf(o.scene, o.at)));
  const notes: Note[] = [];
  const scenes = await SceneSet.of(workspace, {
    signal: request.signal,
    onScene: (done, _, path) => request.onScene?.(done, path),
  });
  // Read once before anything is gathered: what is missing anywhere counts.
  for await (const scene of scenes.each()) void scene;
  const gathering = new Gathering(workspace, scenes);
  let of = 0;
  let ready = 0;
  let repaired = 0;
  const kept: { path: TreePath; targets: { reference: JudgedReference; target: Target }[] }[] = [];
  for await (const scene of scenes.each()) {
    const targets: { reference: JudgedReference; target: Target }[] = [];
    for (const reference of scene.references) {
      of++;
      if (isReady(reference)) ready++;
      else if (only ? only.has(keyOf(scene.path, reference.at)) : !isGuess(reference, scene.path, notes)) {
        const target = await newTarget(
          reference,
          scene.path,
          scene.reading,
          scenes.setting,
          gathering,
          notes,
        );
        if (target !== null) targets.push({ reference, target });
      }
    }
    if (targets.length > 0) kept.push({ path: scene.path, targets });
  }
  await gathering.settle();
  const gathered = await gathering.steps();
  const steps: Step[] = [...gathered.steps];
  const paths: PathChange[] = [...gathered.paths];
  for (const { path, targets } of kept) {
    const again = await scenes.read(path);
    if (!again) continue;
    const rewritings = targets.flatMap(({ reference, target }): Rewriting[] => {
      const to = 'inside' in target ? target.inside : gathering.placeOf(target.gathered);
      return to === null ? [] : [{ reference, written: writtenRelative(again.reading, path, to, reference) }];
    });
    if (rewritings.length === 0) continue;
    const done = await scenes.rewriteStep(again, rewritings);
    notes.push(...done.notes);
    if (!done.step) continue;
    repaired += done.paths.length;
    paths.push(...done.paths);
    steps.push(done.step);
  }
  return {
    kind: 'travel',
    title:
      repaired === 1
        ? `Make ${nameOf(paths.at(-1)!.after)} travel`
        : repaired === paths.length
          ? titleOfPaths('Make', paths, 'reference', 'travel')
          : `Make ${repaired} references travel`,
    steps,
    paths,
    notes: [
      ...notes,
      ...scenes.notes('warning', 'Its references are not among those counted.'),
      ...gathering.notes,
    ],
    readiness: { before: ready, after: ready + repaired, of },
    basis: gathering.basis(),
  };
}

/** Where a reference shall point: inside the root, or to where something from outside will lie. */
type Target = { inside: string } | { gathered: string };

/** Where a reference shall point; null when it is left as it is, with a note that says why. */
async function newTarget(
  r: JudgedReference,
  scene: TreePath,
  reading: FileReading,
  setting: Setting,
  gathering: Gathering,
  notes: Note[],
): Promise<Target | null> {
  const leave = (code: string, message: string, level: Note['level'] = 'warning') => {
    notes.push({ level, code, message, path: scene });
    return null;
  };
  if (reading.format.sealed && r.state !== 'travels' && r.state !== 'case')
    return leave(
      'sealed',
      `${r.written} stands inside the package ${nameOf(scene)}, from which no path leads to a file outside: put the file into the package with the program that made it.`,
    );
  switch (r.state) {
    case 'travels': // an odd spelling of a good target
    case 'absolute':
    case 'case':
      return r.target === null ? null : { inside: r.target };
    case 'outside':
      gathering.addTarget(r.target!, r.members, { kind: r.kind, beside: folderOf(scene) });
      return { gathered: r.target! };
    case 'missing': {
      const inside = await findByTail(fullPath(r), r.syntax ?? reading.format.syntax, setting);
      return inside === null
        ? leave('missing', `${r.written} is missing. ${nameOf(scene)} will still say so.`)
        : { inside };
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
        'info',
      );
  }
}
