// Brings an old version of a scene back as a new one.

import type { Plan } from '../changes/plan';
import { AppError } from '../errors';
import { nameOf, type TreePath } from '../files/treePath';
import { nextVersion } from '../versions/series';
import { readSeries, versionCopy } from './versionCopy';
import type { Workspace } from './workspace';

/** The plan that brings version `number` back as a new version. */
export async function planRestore(
  workspace: Workspace,
  request: { scene: TreePath; number: number; note: string; now: string },
): Promise<Plan> {
  const series = await readSeries(workspace, request.scene);
  const old = series.versions.find((v) => v.number === request.number);
  if (!old)
    throw new AppError(
      'not-found',
      `${nameOf(request.scene)} has no version ${request.number}. There are: ${series.versions.map((v) => v.number ?? 'the unnumbered one').join(', ')}.`,
    );
  const next = nextVersion(series);
  const note = request.note || `${nameOf(old.path)} brought back`;
  const plan = await versionCopy(workspace, old.path, next.path, { note, now: request.now });
  return { ...plan, kind: 'restore', title: `Bring ${nameOf(old.path)} back as ${nameOf(next.path)}` };
}
