// How a thing of a glTF is changed where what it points to does not come along, and how a list of nodes is written anew.

import type { Way } from '../documents/gltfPointers';
import { isObject, type Json } from '../documents/gltfText';
import type { PlacedChange } from '../documents/jsonEdits';
import { placesIn, withMember, withoutMember } from '../documents/jsonPlaces';
import type { Span } from '../problem';
import type { Edit } from '../text/edits';
import { bytesOfText } from '../text/bytes';

/** What goes where a pointer goes: a texture with its place, an extension whole. */
export function dropped(way: Way): Way {
  const extension = way.lastIndexOf('extensions');
  if (extension >= 0) return way.slice(0, extension + 2);
  if (way[0] === 'channels') return way.slice(0, 2);
  return way.at(-1) === 'index' ? way.slice(0, -1) : way;
}

/** Drops as changes; an object of extensions that would be left empty goes whole (an empty one is not allowed, §5). */
export function droppedWhole(thing: Json, drops: readonly Way[]): PlacedChange[] {
  const inside = (way: Way) =>
    way.reduce<unknown>(
      (at, key) => (isObject(at) || Array.isArray(at) ? (at as Json)[key] : undefined),
      thing,
    );
  const holders = new Map<string, { way: Way; names: Set<unknown> }>();
  for (const way of drops) {
    if (way.at(-2) !== 'extensions') continue;
    const key = JSON.stringify(way.slice(0, -1));
    const held = holders.get(key) ?? { way: way.slice(0, -1), names: new Set() };
    held.names.add(way.at(-1));
    holders.set(key, held);
  }
  const wholes = [...holders.values()].filter(({ way, names }) => {
    const there = inside(way);
    return isObject(there) && Object.keys(there).every((k) => names.has(k));
  });
  return [...drops, ...wholes.map((w) => w.way)].map((way) => ({ way, to: null }));
}

/** Of changes at one place and below it only the outer one counts, if it takes the place away; of two at one place the last. */
export function withoutInner(changes: readonly PlacedChange[]): PlacedChange[] {
  const gone = new Set(changes.filter((c) => c.to === null).map((c) => JSON.stringify(c.way)));
  const last = new Map(changes.map((c) => [JSON.stringify(c.way), c]));
  return [...last.values()].filter(
    ({ way }) => !way.some((_, n) => n > 0 && gone.has(JSON.stringify(way.slice(0, n)))),
  );
}

export function childrenEdit(
  text: Uint8Array,
  object: Span,
  list: readonly number[],
  key = 'children',
): Edit[] {
  const there = placesIn(text, object)?.members.get(key);
  const bytes = bytesOfText(JSON.stringify(list));
  if (list.length === 0) {
    const gone = there && withoutMember(text, object, key);
    return gone ? [gone] : [];
  }
  return [there ? { span: there, bytes } : withMember(text, object, key, list)];
}
