// Writes the list of passes that a complete folder shows, as a file in the root that a team shares.

import { putBytes, type Plan } from '../changes/plan';
import { AppError } from '../errors';
import { comparePaths, treePath } from '../files/treePath';
import { checkFilePattern, listOfFolder, type PassList } from '../outputs/passes';
import { utf8 } from '../text/bytes';
import { count } from '../text/figures';
import { stateOf, type Workspace } from './workspace';

export const passListPath = treePath('passes.json');

/** The list that a workspace shows. Throws AppError where the pattern cannot be used, or nothing is called so. */
export async function passListOf({ root, tree }: Workspace, file: string): Promise<PassList> {
  const [wrong] = checkFilePattern(file);
  if (wrong) throw new AppError('bad-request', wrong);
  const paths: string[] = [];
  for await (const f of tree.list(undefined, () => undefined)) paths.push(f.path);
  const list = listOfFolder(file, paths.sort(comparePaths));
  if (!list) throw new AppError('not-found', `No file below ${root} is called like ${file}.`);
  return list;
}

/** The list as it is written. */
export const passListText = (list: PassList): string => `${JSON.stringify(list, null, 2)}\n`;

/** The plan that writes `passes.json` from what lies in the workspace now. `file`: how outputs are called, see outputs/passes.ts. */
export async function planPasses(workspace: Workspace, file: string): Promise<Plan> {
  const list = await passListOf(workspace, file);
  return {
    kind: 'passes',
    title: `Expect ${count(list.scenes.length, 'scene')} in ${passListPath}`,
    steps: [putBytes(passListPath, utf8(passListText(list)), await stateOf(workspace.tree, passListPath))],
    notes: [],
    paths: [],
    readiness: null,
  };
}
