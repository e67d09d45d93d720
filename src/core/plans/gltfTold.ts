// What is told of a part of a glTF that is carried: its things level by level, and what stays behind.

import type { Note } from '../changes/plan';
import { thingsIn, type ListName } from '../documents/gltfPointers';
import { listIn, type Json } from '../documents/gltfText';
import { calledAs } from '../nodes/gltfClashes';
import { keyOf, readBy, shownLists, wordOf, type GltfNeeds } from '../nodes/gltfNeeds';
import { nameOrNumber, parentsOf } from '../nodes/gltfTree';
import { count } from '../text/figures';
import type { NeededThing } from './carryNodes';
import { bytesOfView } from './gltfFiles';

/** Everything that comes along, in the order of levels. `sizes`: of pictures and sounds, by key, in bytes. */
export function thingsTold(json: Json, needs: GltfNeeds, sizes: ReadonlyMap<string, number>): NeededThing[] {
  const nameOfKey = (key: string): string => {
    const [list, index] = key.split(' ') as [ListName, string];
    const thing = thingsIn(json, list)[Number(index)];
    // What has no name is called by its file; a texture by its picture.
    const picture = list === 'textures' && thing?.name === undefined ? thing?.source : undefined;
    if (typeof picture === 'number') return nameOfKey(keyOf('images', picture));
    return calledAs(list, thing) ?? nameOrNumber(thing, Number(index), wordOf(list));
  };
  const parents = parentsOf(listIn(json, 'nodes'));
  const nodes = [...needs.nodes].map(([n, how]): NeededThing => {
    const parent = parents.get(n);
    return {
      key: keyOf('nodes', n),
      kind: how === 'whole' ? 'node' : 'joint',
      name: nameOfKey(keyOf('nodes', n)),
      level: how === 'whole' ? 0 : 1,
      neededBy:
        how === 'whole' && parent !== undefined && needs.nodes.has(parent)
          ? [nameOfKey(keyOf('nodes', parent))]
          : [],
      bytes: 0,
    };
  });
  const bytes = bytesBy(json, needs);
  const things = [...needs.things]
    .filter(([, { list }]) => shownLists.has(list))
    .map(([key, t]): NeededThing => ({
      key,
      kind: wordOf(t.list),
      name: t.name,
      level: t.level,
      neededBy: t.neededBy.map(nameOfKey),
      bytes: sizes.get(key) ?? bytes.get(key) ?? 0,
    }));
  return [...nodes, ...things].sort((a, b) => a.level - b.level);
}

/** What comes, in numbers, and what does not. `all`: what would come if no name clashed. */
export function notesTold(json: Json, needs: GltfNeeds, all: GltfNeeds): Note[] {
  const said: Note[] = [];
  const counts = new Map<string, number>();
  for (const { list } of needs.things.values())
    if (shownLists.has(list)) counts.set(wordOf(list), (counts.get(wordOf(list)) ?? 0) + 1);
  const bare = [...needs.nodes.values()].filter((h) => h === 'bare').length;
  const parts = [
    count(needs.nodes.size - bare, 'node'),
    ...(bare > 0 ? [count(bare, 'joint')] : []),
    ...[...counts].map(([word, n]) =>
      word === 'mesh' ? `${n} ${n === 1 ? 'mesh' : 'meshes'}` : count(n, word),
    ),
  ];
  said.push({ level: 'info', code: 'comes', message: `What comes along: ${parts.join(', ')}.` });
  for (const { name, left } of needs.cutAnimations)
    said.push({
      level: 'info',
      code: 'cut-animation',
      message: `Of the animation “${name}” comes what moves these nodes; ${count(left, 'channel')} of others ${left === 1 ? 'stays' : 'stay'}.`,
    });
  for (const name of needs.movedAbove)
    said.push({
      level: 'warning',
      code: 'moved-above',
      message: `“${name}” stands above what is carried and is animated: that movement stays behind.`,
    });
  const strange = new Map<string, number>();
  for (const list of all.strange.values())
    for (const { name } of list) strange.set(name, (strange.get(name) ?? 0) + 1);
  for (const [name, n] of strange)
    said.push({
      level:
        Array.isArray(json.extensionsRequired) && json.extensionsRequired.includes(name)
          ? 'blocker'
          : 'warning',
      code: 'strange-extension',
      message: `${name} (${count(n, 'place')}) is not known here and holds numbers that may point to other things: it is left out.`,
    });
  return said;
}

/** Bytes of buffers that shown things read themselves; of two that read the same each counts it. */
function bytesBy(json: Json, needs: GltfNeeds): Map<string, number> {
  const found = new Map<string, number>();
  const add = (key: string, bytes: number) => found.set(key, (found.get(key) ?? 0) + bytes);
  const owners = (key: string, seen: Set<string>): string[] => {
    const thing = needs.things.get(key);
    if (!thing || seen.has(key)) return [];
    seen.add(key);
    return shownLists.has(thing.list) ? [key] : thing.neededBy.flatMap((k) => owners(k, seen));
  };
  for (const [key, { list, index }] of needs.things) {
    if (list === 'accessors')
      for (const { run } of readBy(json, thingsIn(json, 'accessors')[index]!) ?? [])
        for (const owner of owners(key, new Set())) if (Number.isFinite(run[1])) add(owner, run[1] - run[0]);
    if (list === 'bufferViews' && !needs.runs.has(index)) {
      const { length } = bytesOfView(thingsIn(json, 'bufferViews')[index]!);
      for (const owner of owners(key, new Set())) add(owner, length);
    }
  }
  return found;
}
