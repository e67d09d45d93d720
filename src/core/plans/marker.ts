// The marker of a workspace as plans change it: what it says once folders have moved, and the step that writes it.

import { markerPath } from '../files/records';
import { putBytes, type Step } from '../changes/plan';
import { isWithin } from '../files/treePath';
import type { Homes } from '../layouts/homes';
import { writeWorkspaceFile, type WorkspaceFile } from '../layouts/workspace';
import { latin1, utf8 } from '../text/bytes';
import { stateOf, type Workspace } from './workspace';

/** A workspace with all its marker says. */
export type MarkedWorkspace = Workspace & { file: WorkspaceFile };

/** The step that writes a new marker; null where it says the same. */
export async function markerStep(workspace: Workspace, file: WorkspaceFile): Promise<Step | null> {
  const step = newMarkerStep(file);
  const before = await stateOf(workspace.tree, markerPath);
  if (before !== null && latin1(await workspace.tree.read(markerPath)) === step.from.latin1) return null;
  return { ...step, before };
}

/** The step that writes the marker where there is none. */
export const newMarkerStep = (file: WorkspaceFile) => putBytes(markerPath, utf8(writeWorkspaceFile(file)));

/** What a marker says once folders have moved. */
export function markerAfter(
  file: WorkspaceFile,
  folders: readonly { path: string; to: string }[],
): WorkspaceFile {
  const place = (path: string) => {
    const m = folders.find((f) => isWithin(path, f.path));
    return m ? m.to + path.slice(m.path.length) : path;
  };
  const homes = Object.fromEntries(
    Object.entries(file.homes).map(([kind, home]) => [kind, place(home)]),
  ) as Homes;
  const parents = folders.flatMap((m) =>
    m.to.split('/').map((_, i, parts) => parts.slice(0, i + 1).join('/')),
  );
  return {
    ...file,
    homes,
    folders: [
      ...new Set([
        ...file.folders.map(place),
        ...(file.folders.some((f) => folders.some((m) => isWithin(f, m.path))) ? parents : []),
      ]),
    ].sort(),
    ...(file.search ? { search: file.search.map(place) } : {}),
  };
}
