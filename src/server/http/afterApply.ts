// What the index of known workspaces learns from a plan that was applied.

import { markerPath } from '@/core/files/records';
import type { Plan } from '@/core/changes/plan';
import { isWithin } from '@/core/files/treePath';

import { findWorkspace, forgetWorkspace, listWorkspaces, rememberWorkspace } from '../database/queries';
import { workspaceId, type Hub, type WaitingPlan } from '../hub';
import { startScan } from '../scans';
import { openRoot } from './workspaceView';

/** `gone`: the workspace itself is no more. Answers the id of the workspace to go to, where that is another one. */
export async function afterApply(
  h: Hub,
  waiting: WaitingPlan,
  gone: boolean,
): Promise<{ workspace?: string }> {
  if (waiting.workspace !== null) {
    const row = await findWorkspace(h.db, waiting.workspace);
    if (gone) await forgetWorkspace(h.db, waiting.workspace);
    else if (row) await startScan(h, row.id, row.root, row.name);
    return {};
  }
  if (waiting.records === null || waiting.makes)
    return (await h.ask('hasMarker', waiting.root))
      ? { workspace: (await openRoot(h, waiting.root)).id }
      : {};
  await moveKnown(h, waiting.root, waiting.plan);
  return {};
}

/** Workspaces that were made, moved or taken away on a shelf. */
async function moveKnown(h: Hub, container: string, plan: Plan): Promise<void> {
  const full = (path: string) => `${container === '/' ? '' : container}/${path}`;
  const touched = new Set<string>();
  for (const step of plan.steps) {
    if (step.do === 'move-folder')
      for (const row of await listWorkspaces(h.db)) {
        if (!isWithin(row.root, full(step.path))) continue;
        await forgetWorkspace(h.db, row.id);
        const root = full(step.to) + row.root.slice(full(step.path).length);
        await rememberIfMarked(h, root);
      }
    if (step.do === 'put') {
      if (step.path.endsWith(`/${markerPath}`) && step.before === null) {
        const root = full(step.path.slice(0, -markerPath.length - 1));
        await rememberIfMarked(h, root);
      }
      touched.add(full(step.path));
    }
    if (step.do === 'remove' && step.path.endsWith(`/${markerPath}`))
      await forgetWorkspace(h.db, workspaceId(full(step.path.slice(0, -markerPath.length - 1))));
  }
  for (const row of await listWorkspaces(h.db))
    if (row.scanned !== null && [...touched].some((p) => isWithin(p, row.root)))
      await startScan(h, row.id, row.root, row.name);
}

async function rememberIfMarked(h: Hub, root: string): Promise<void> {
  if (await h.ask('hasMarker', root))
    await rememberWorkspace(h.db, workspaceId(root), root, (await h.ask('workspace', root)).name);
}
