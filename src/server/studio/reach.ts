// Which work a worker can do: that of the folders it reaches. Each job carries the allowed folders that it touches as flags; a worker takes none with a flag of a
// folder that is not there on its machine.

import { isWithin } from '@/core/files/treePath';
import type { WorkOrder } from '@/wire/jobs';

/** A flag for an allowed folder; and for the data folder of one server, which only its own worker reaches. */
export const placeFlag = (place: string): string => `place:${place}`;
/** The folder of such a flag. */
export const placeOf = (flag: string): string => flag.slice('place:'.length);
export const ownFlag = (owner: string): string => `own:${owner}`;

// A worker has a temporary folder of its own.
const replaced = new Set(['temporary']);
// Text of a scene, not a path of this machine: it is looked at where it is resolved.
const texts = new Set(['written', 'before', 'after', 'title', 'message', 'note']);

/** Every absolute path that an order names. */
function* pathsIn(value: unknown): Generator<string> {
  if (typeof value === 'string') {
    if (/^(\/|[A-Za-z]:\/)/.test(value)) yield value;
  } else if (Array.isArray(value)) for (const inner of value) yield* pathsIn(inner);
  else if (typeof value === 'object' && value !== null)
    for (const [key, inner] of Object.entries(value))
      if (!replaced.has(key) && !texts.has(key)) yield* pathsIn(inner);
}

/** The flags of an order: of each path the innermost allowed folder that holds it, and the server's own folder. */
export function flagsOf(
  order: WorkOrder,
  places: readonly string[],
  own: { folder: string; owner: string },
): string[] {
  const flags = new Set<string>();
  for (const path of pathsIn(order)) {
    if (isWithin(path, own.folder)) flags.add(ownFlag(own.owner));
    const holding = places.filter((p) => p === '/' || isWithin(path, p)).sort((a, b) => b.length - a.length);
    if (holding[0] !== undefined) flags.add(placeFlag(holding[0]));
  }
  return [...flags].sort();
}

/** Whether a worker that is told to keep to some heads keeps to a folder; `heads` empty: it keeps to none. */
export const keepsTo = (heads: readonly string[], place: string): boolean =>
  heads.length === 0 || heads.some((head) => isWithin(place, head));
