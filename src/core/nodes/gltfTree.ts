// The nodes of a glTF and where each stands in the world. Source: glTF 2.0 Specification, §3.5 (scenes and nodes, transformations).

import { isObject, listIn, type Json } from '../documents/gltfText';
import { identity, placedBy, times, type Matrix } from '../units/matrix';
import type { SceneNode } from './sceneNodes';

const numbers = (x: unknown, n: number): number[] | null =>
  Array.isArray(x) && x.length === n && x.every((v) => typeof v === 'number' && Number.isFinite(v))
    ? (x as number[])
    : null;

/** What a node says of its own place. */
export function localOf(node: Json): Matrix {
  return (
    numbers(node.matrix, 16) ??
    placedBy(
      numbers(node.translation, 3) ?? [0, 0, 0],
      numbers(node.rotation, 4) ?? [0, 0, 0, 1],
      numbers(node.scale, 3) ?? [1, 1, 1],
    )
  );
}

export const childrenOf = (node: Json | undefined): number[] =>
  Array.isArray(node?.children)
    ? node.children.filter((c): c is number => typeof c === 'number' && Number.isInteger(c))
    : [];

/** Who stands above whom; where two claim a node, the first. */
export function parentsOf(nodes: readonly Json[]): Map<number, number> {
  const parents = new Map<number, number>();
  for (const [n, node] of nodes.entries())
    for (const child of childrenOf(node)) if (!parents.has(child) && nodes[child]) parents.set(child, n);
  return parents;
}

/** Nodes above one, from the nearest; a circle ends where it closes. */
export function above(parents: ReadonlyMap<number, number>, n: number): number[] {
  const found: number[] = [];
  for (let at = parents.get(n); at !== undefined && !found.includes(at); at = parents.get(at)) found.push(at);
  return found;
}

/** Where a node stands in the world at rest. */
export function worldOf(nodes: readonly Json[], parents: ReadonlyMap<number, number>, n: number): Matrix {
  return above(parents, n).reduce((m, at) => times(localOf(nodes[at]!), m), localOf(nodes[n]!));
}

/** Where what stands above a node stands. */
export function worldAbove(nodes: readonly Json[], parents: ReadonlyMap<number, number>, n: number): Matrix {
  const parent = parents.get(n);
  return parent === undefined ? identity : worldOf(nodes, parents, parent);
}

/** What a thing is called; for people, where it has no name. */
export const nameOrNumber = (thing: Json | undefined, index: number, kind: string): string =>
  typeof thing?.name === 'string' && thing.name !== '' ? thing.name : `${kind} ${index}`;

/** All nodes, in the order of the tree. */
export function gltfNodes(json: Json): SceneNode[] {
  const nodes = listIn(json, 'nodes');
  const parents = parentsOf(nodes);
  const joints = new Set(listIn(json, 'skins').flatMap((s) => (Array.isArray(s.joints) ? s.joints : [])));
  const found: SceneNode[] = [];
  const seen = new Set<number>();
  const visit = (top: number) => {
    const waiting: [n: number, parent: SceneNode | null][] = [[top, null]];
    for (let at = waiting.pop(); at; at = waiting.pop()) {
      const [n, parent] = at;
      const node = nodes[n];
      if (!node || seen.has(n)) continue;
      seen.add(n);
      const name = nameOrNumber(node, n, 'node');
      const path = parent ? `${parent.path}/${name}` : name;
      const one = {
        id: String(n),
        name,
        path,
        parent: parent?.id ?? null,
        kind: kindOf(node, joints.has(n)),
      };
      found.push(one);
      for (const child of childrenOf(node).reverse()) waiting.push([child, one]);
    }
  };
  for (const n of nodes.keys()) if (!parents.has(n)) visit(n);
  // Nodes that stand in each other have no top.
  for (const n of nodes.keys()) visit(n);
  return found;
}

function kindOf(node: Json, isJoint: boolean): string {
  if (node.skin !== undefined) return 'skinned mesh';
  if (node.mesh !== undefined) return 'mesh';
  if (node.camera !== undefined) return 'camera';
  if (isObject(node.extensions) && Object.keys(node.extensions).some((e) => /light/i.test(e))) return 'light';
  return isJoint ? 'joint' : 'group';
}
