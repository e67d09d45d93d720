// Where outputs lie.

import { isTreePath, isWithin, type TreePath } from '../files/treePath';
import { eachFolder, flowOf, readLayoutText } from '../layouts/layout';
import type { WorkspaceFile } from '../layouts/workspace';

/** The folders of a workspace for what comes out of it, none within another: homes of renders and exports, and what its layout calls output. Backups are copies, no outputs. */
export function foldersForOutputs({ homes, layoutText }: WorkspaceFile): TreePath[] {
  const found = new Set<string>();
  for (const home of [homes.render, homes.export]) if (home) found.add(home);
  const tree = layoutText === undefined ? null : readLayoutText(layoutText).tree;
  for (const { path, folder } of tree ? eachFolder(tree) : [])
    if (flowOf(folder) === 'output' && !folder.kinds.includes('backup')) found.add(path);
  const folders = [...found].filter((f): f is TreePath => isTreePath(f) && f !== '');
  return folders.filter((f) => !folders.some((other) => other !== f && isWithin(f, other))).sort();
}
