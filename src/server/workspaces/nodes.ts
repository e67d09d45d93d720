// Parts of scenes on disk: which nodes a scene has, what carrying some of them would meet, and its plan.

import { treePath } from '@/core/files/treePath';
import { nodesIn, planCarryNodes } from '@/core/plans/planCarryNodes';
import type { NodesCarried } from '@/core/plans/carryNodes';
import type { CarryNodesLook, CarryNodesWire, SceneNodes } from '@/wire/nodes';
import { sourceOf } from './collect';
import type { OpenWorkspace } from './open';

const full = (root: string, path: string) => `${root === '/' ? '' : root}/${path}`;

/** The nodes of a scene of a workspace or folder. */
export async function nodesOfScene(workspace: OpenWorkspace, scene: string): Promise<SceneNodes> {
  const nodes = await nodesIn(workspace, full(workspace.root, scene));
  return { nodes: nodes.map(({ id, name, path, parent, kind }) => ({ id, name, path, parent, kind })) };
}

/** The plan that carries nodes from a scene of `from` into one of `target`, and what there is to see of it. */
export function planNodes(
  target: OpenWorkspace,
  from: OpenWorkspace,
  request: Omit<CarryNodesWire, 'from'> & { from: { scene: string } },
): Promise<NodesCarried> {
  return planCarryNodes(
    { source: sourceOf(from), target },
    {
      from: full(from.root, request.from.scene),
      nodes: request.nodes,
      into: treePath(request.into),
      under: request.under,
      place: request.place,
      clash: { all: request.clash ?? undefined, ways: new Map(request.ways) },
      pictures: request.pictures,
      buffer: request.buffer,
    },
  );
}

/** What there is to see of it. */
export async function lookNodesOf(...given: Parameters<typeof planNodes>): Promise<CarryNodesLook> {
  const { plan, things, clashes } = await planNodes(...given);
  return {
    things: things.map((t) => ({ ...t, neededBy: [...t.neededBy] })),
    clashes: clashes.map(({ key, kind, name, isEqual, way, renamed, ways }) => ({
      key,
      kind,
      name,
      isEqual,
      way,
      renamed,
      ways: [...ways],
    })),
    notes: plan.notes.map(({ level, message }) => ({ level, message })),
  };
}
