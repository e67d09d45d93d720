// Saves the next version of a scene.

import type { Plan } from '../changes/plan';
import { nameOf, type TreePath } from '../files/treePath';
import { nextVersion } from '../versions/series';
import { readSeries, versionCopy } from './versionCopy';
import type { Workspace } from './workspace';

/** The plan that saves `scene` as its next version. */
export async function planSave(
  workspace: Workspace,
  request: { scene: TreePath; note: string; now: string },
): Promise<Plan> {
  const next = nextVersion(await readSeries(workspace, request.scene));
  const plan = await versionCopy(workspace, request.scene, next.path, request);
  return { ...plan, kind: 'save', title: `Save ${nameOf(next.path)}` };
}
