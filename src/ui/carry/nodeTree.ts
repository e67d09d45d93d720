// Nodes of a scene as a tree.

import type { SceneNode } from '@/core/nodes/sceneNodes';

/** Nodes by the id of the one above; null: the top. */
export function childrenOf(nodes: readonly SceneNode[]): Map<string | null, SceneNode[]> {
  const found = new Map<string | null, SceneNode[]>();
  for (const node of nodes) {
    const held = found.get(node.parent);
    if (held) held.push(node);
    else found.set(node.parent, [node]);
  }
  return found;
}

/** Ids of nodes and of all below them. Nodes come after those above them. */
export function withAllBelow(nodes: readonly SceneNode[], ids: readonly string[]): Set<string> {
  const found = new Set(ids);
  for (const node of nodes) if (node.parent !== null && found.has(node.parent)) found.add(node.id);
  return found;
}
