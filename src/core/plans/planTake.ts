// Takes what is needed out of the holding area with its parts, each to the home of its kind.

import type { Note, Plan } from '../changes/plan';
import { isWithin, nameOf, treePath } from '../files/treePath';
import { formatOfName } from '../formats/formats';
import { homeOf } from '../layouts/homes';
import { filesOf, followChain } from '../references/scan';
import { intakeOf } from './planIntake';
import { kindOfFile, tidying, type TidyRequest } from './planTidy';
import { settingOf, type Workspace } from './workspace';

/** Takes files out of the holding area with all they need there, each to the home of its kind, references kept. */
export async function planTake(
  workspace: Workspace,
  request: { paths: readonly string[] } & Pick<TidyRequest, 'signal' | 'onScene'>,
): Promise<Plan> {
  const home = intakeOf(workspace);
  const chosen = request.paths.map(treePath);
  const notes: Note[] = [];
  const only = new Set<string>();
  for (const report of await followChain(
    workspace.tree,
    null,
    settingOf(workspace),
    chosen.filter((p) => formatOfName(p)),
    { signal: request.signal },
  )) {
    if (isWithin(report.path, home)) only.add(report.path);
    for (const r of report.references) {
      for (const file of filesOf(r)) if (isWithin(file, home)) only.add(file);
      if (r.target === null && r.state === 'missing')
        notes.push({
          level: 'warning',
          code: 'missing',
          message: `${nameOf(report.path)} needs ${r.written}, which is not in the pack. It will still say so.`,
          path: report.path,
        });
    }
  }
  for (const path of chosen) {
    if (homeOf(await kindOfFile(workspace, path), workspace.file.homes) === home)
      notes.push({
        level: 'info',
        code: 'no-kind',
        message: `${nameOf(path)} is of no kind that has a home; it stays in ${home}.`,
        path,
      });
    else only.add(path);
  }
  const moved = await tidying(workspace, workspace.file.homes, {
    only: [...only],
    ofKit: true,
    signal: request.signal,
    onScene: request.onScene,
  });
  const extra = moved.files.size - chosen.length;
  const title = `Take ${chosen.length === 1 ? nameOf(chosen[0]!) : `${chosen.length} files`} out of ${home}${extra > 0 ? ` with ${extra} ${extra === 1 ? 'file' : 'files'} needed` : ''}`;
  return {
    kind: 'take',
    title,
    steps: moved.steps,
    notes: [...notes, ...moved.notes],
    paths: moved.paths,
    readiness: null,
    basis: moved.basis,
  };
}
