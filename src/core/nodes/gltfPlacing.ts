// Where nodes that are carried stand below their new parent, so that they stand in the world as they stood, or below it as they stood below what was above them.
// Source: glTF 2.0 Specification, §3.5.2 and §3.5.3 (transformations; a node that is animated has no matrix).

import { thingsIn } from '../documents/gltfPointers';
import { isObject, type Json } from '../documents/gltfText';
import type { PlacedChange } from '../documents/jsonEdits';
import { identity, inverse, isSameMatrix, parted, times } from '../units/matrix';
import type { GltfNeeds } from './gltfNeeds';
import { localOf, parentsOf, worldAbove, worldOf } from './gltfTree';

export type Parted = NonNullable<ReturnType<typeof parted>>;

/** What a node says of its place instead, and what a node around it says; null: nothing. */
export interface Placing {
  local: Parted | null;
  wrapper: Parted | null;
}

const sheared =
  'What stands above it in the two scenes is scaled unevenly and turned: no node can say the same place in the world. Put it under another node, or at the parent’s place.';

/** Nodes that animations which come along move. */
function movedBy(json: Json, channels: GltfNeeds['channels']): Set<number> {
  return new Set(
    [...channels].flatMap(([n, own]) =>
      own.flatMap((c) => {
        const channel = (thingsIn(json, 'animations')[n]?.channels as Json[])[c];
        const node = isObject(channel?.target) ? channel.target.node : undefined;
        return typeof node === 'number' ? [node] : [];
      }),
    ),
  );
}

/** Where each node that hangs in the target by itself is to stand. `hanging`: those nodes. `refused`: no node can say it. */
export function placings(
  source: Json,
  target: Json,
  needs: GltfNeeds,
  hanging: readonly number[],
  { under, place }: { under: number | null; place: 'world' | 'parent' },
): Map<number, Placing> | { refused: string } {
  const nodes = thingsIn(source, 'nodes');
  const parents = parentsOf(nodes);
  const there = thingsIn(target, 'nodes');
  const moved = movedBy(source, needs.channels);
  const first = needs.tops[0];
  const base =
    place === 'parent'
      ? first === undefined
        ? identity
        : worldAbove(nodes, parents, first)
      : under === null
        ? identity
        : worldOf(there, parentsOf(there), under);
  const back = inverse(base);
  if (!back)
    return {
      refused: 'What stands above it is scaled to nothing: no place below it is the same in the world.',
    };
  const found = new Map<number, Placing>();
  for (const n of hanging) {
    const above = parents.get(n);
    const between = times(back, worldAbove(nodes, parents, n));
    // Below a node that stands for its own parent, and where nothing lies between, a node stays as it says.
    if ((above !== undefined && needs.nodes.has(above)) || isSameMatrix(between, identity)) {
      found.set(n, { local: null, wrapper: null });
      continue;
    }
    // An animation says anew where it stands below its parent: what lies between goes into a node of its own.
    const isMoved = moved.has(n);
    const p = parted(isMoved ? between : times(between, localOf(nodes[n]!)));
    if (!p) return { refused: sheared };
    found.set(n, isMoved ? { local: null, wrapper: p } : { local: p, wrapper: null });
  }
  return found;
}

/** What a node says of its place, written anew. */
export const localChanges = (p: Parted): PlacedChange[] => [
  { way: ['matrix'], to: null },
  { way: ['translation'], to: JSON.stringify(p.t) },
  { way: ['rotation'], to: JSON.stringify(p.turn) },
  { way: ['scale'], to: JSON.stringify(p.s) },
];
