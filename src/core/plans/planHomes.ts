// Changes of homes: the files of a kind follow, every reference kept, and the marker says where they live.

import type { Note, Plan } from '../changes/plan';
import type { FileKind } from '../layouts/homes';
import type { WorkspaceFile } from '../layouts/workspace';
import { homeMoves, makeSteps } from './homeMoves';
import { markerAfter, markerStep, type MarkedWorkspace } from './marker';
import { moving, type MoveRequest } from './moving';

type Watched = Pick<MoveRequest, 'signal' | 'onScene'>;

/** Gives kinds other homes: their files move there with every reference kept, the marker says so. Null: the kind has no home any more. */
export async function planHomes(
  workspace: MarkedWorkspace,
  changes: Readonly<Partial<Record<FileKind, string | null>>>,
  watched: Watched = {},
): Promise<Plan> {
  const notes: Note[] = [];
  const { files, folders, homes, kinds } = await homeMoves(workspace, changes, notes);
  const moved = await moving(workspace, { files, folders, clearEmptied: true, ...watched });
  const after = markerAfter(workspace.file, folders);
  const wanted = Object.values(homes).filter((f) => f !== '');
  const file: WorkspaceFile = {
    ...after,
    homes,
    folders: [
      ...new Set([...after.folders.filter((f) => !folders.some((m) => f === m.path)), ...wanted]),
    ].sort(),
  };
  const makes = notes.some((n) => n.level === 'blocker')
    ? []
    : await makeSteps(workspace, wanted, moved.steps);
  const marker = await markerStep(workspace, file);
  const [one] = kinds;
  const title =
    kinds.length === 1
      ? homes[one!] === undefined
        ? `Take the home of ${one} files away`
        : `Let ${one} files live in ${homes[one!]}`
      : `Change ${kinds.length} homes`;
  return {
    kind: 'homes',
    title,
    steps: [...moved.steps, ...makes, ...(marker ? [marker] : [])],
    notes: [...notes, ...moved.notes],
    paths: moved.paths,
    readiness: null,
    basis: moved.basis,
  };
}
