// Pictures, sounds and profiles that lie inside a glTF, out of it: the things name files, their views go, and the buffer is what is left. Everything else in the
// JSON stays as it is written. The other way round of wholeGltf. Source: glTF 2.0 Specification, §3.6.1 and §3.9.1.

import { holdingLists, pointersOf, thingsIn, wayOfList, type ListName } from '../documents/gltfPointers';
import { isObject, type GltfText, type Json } from '../documents/gltfText';
import {
  membersOf,
  placeOf,
  placesIn,
  withMember,
  withoutItems,
  withoutMembers,
} from '../documents/jsonPlaces';
import type { Span } from '../problem';
import { utf8 } from '../text/bytes';
import type { Edit } from '../text/edits';
import type { PutInside } from './wholeGltf';

/** A thing whose bytes lie inside. */
export interface Inside {
  list: ListName;
  index: number;
  /** Its view; null: it stands in the text as a data URI. */
  view: number | null;
  /** What it was called before it was put inside; null: nothing tells. */
  was: string | null;
}

const allLists: ReadonlySet<ListName> = new Set([
  'accessors',
  'images',
  'meshes',
  'nodes',
  'materials',
  ...holdingLists,
]);

/** All of them. */
export function insideOf(json: Json): Inside[] {
  const views = thingsIn(json, 'bufferViews');
  return [...holdingLists].flatMap((list) =>
    thingsIn(json, list).flatMap((thing, index): Inside[] => {
      if (typeof thing.uri === 'string')
        return /^data:/i.test(thing.uri) ? [{ list, index, view: null, was: null }] : [];
      if (typeof thing.bufferView !== 'number' || !views[thing.bufferView]) return [];
      const said = putInside(views[thing.bufferView]!);
      return [{ list, index, view: thing.bufferView, was: said?.file ?? null }];
    }),
  );
}

const putInside = (view: Json): PutInside | null =>
  isObject(view.extras) && typeof view.extras.file === 'string'
    ? (view.extras as unknown as PutInside)
    : null;

export interface ApartGltf {
  edits: Edit[];
  /** Stretches of the own buffer that stay; all of it where the views have to. */
  stays: Span[];
  /** Bytes of it that stay. */
  length: number;
  /** Views have to stay, since these extensions may count them. */
  strange: string[];
}

/** What the scene becomes. `uris`: how each thing names its file, in the order of `inside`; `buffer`: how it names its buffer, null: it keeps it where it is. */
export function apartGltf(
  doc: GltfText,
  inside: readonly Inside[],
  uris: readonly string[],
  buffer: string | null,
): ApartGltf {
  const { json, text } = doc;
  const edits: Edit[] = [];
  const users = new Map<number, number>();
  const strange = new Set<string>();
  const pointers: { to: number; list: ListName; index: number; way: readonly (string | number)[] }[] = [];
  for (const list of allLists)
    for (const [index, thing] of thingsIn(json, list).entries()) {
      const found = pointersOf(list, thing);
      for (const s of found.strange) strange.add(s.name);
      for (const p of found.pointers)
        if (p.to === 'bufferViews') {
          users.set(p.index, (users.get(p.index) ?? 0) + 1);
          pointers.push({ to: p.index, list, index, way: p.way });
        }
    }
  for (const name of Object.keys(isObject(json.extensions) ? json.extensions : {}))
    if (/structural_metadata|feature_metadata/.test(name)) strange.add(name);
  const taken = new Map<number, number>();
  for (const { view } of inside) if (view !== null) taken.set(view, (taken.get(view) ?? 0) + 1);
  const gone =
    strange.size > 0 ? [] : [...taken].filter(([view, n]) => users.get(view) === n).map(([view]) => view);
  for (const [i, thing] of inside.entries()) edits.push(...namedEdits(doc, thing, uris[i]!));
  const { cut, stays, length } = stretches(doc, gone);
  edits.push(...viewEdits(doc, new Set(gone), cut, pointers, inside));
  const root = placeOf(text, [])!;
  const empty = [
    ...(gone.length > 0 && gone.length === thingsIn(json, 'bufferViews').length ? ['bufferViews'] : []),
    ...(doc.binary && length === 0 && thingsIn(json, 'buffers').length === 1 ? ['buffers'] : []),
  ];
  if (!empty.includes('buffers')) edits.push(...bufferEdits(doc, buffer, length));
  edits.push(...withoutMembers(text, root, empty));
  return { edits, stays, length, strange: gone.length < taken.size ? [...strange] : [] };
}

/** The thing names a file where it named a view, or held it in its text. */
function namedEdits({ json, text }: GltfText, { list, index, view }: Inside, uri: string): Edit[] {
  const object = placeOf(text, [...wayOfList(list), index])!;
  const members = membersOf(text, object[0])!;
  const key = members.findLast((m) => m.key === (view === null ? 'uri' : 'bufferView'))!;
  const edits: Edit[] = [{ span: key.value, bytes: utf8(JSON.stringify(uri)) }];
  if (view === null) return edits;
  const keyEnd = key.keyStart + '"bufferView"'.length;
  edits.push({ span: [key.keyStart, keyEnd], bytes: utf8('"uri"') });
  // A type that was added with the view goes with it.
  const type = members.findLast((m) => m.key === 'mimeType');
  const wasAdded = putInside(thingsIn(json, 'bufferViews')[view]!)?.mimeType === 'added';
  if (wasAdded && type && type.keyStart > key.value[1])
    edits.push({ span: [key.value[1], type.value[1]], bytes: new Uint8Array() });
  return edits;
}

/** Stretches of the own buffer that only the views that go use, by whole fours. */
function stretches(doc: GltfText, gone: readonly number[]): { cut: Span[]; stays: Span[]; length: number } {
  const views = thingsIn(doc.json, 'bufferViews');
  const size = doc.binary ? Number(thingsIn(doc.json, 'buffers')[0]?.byteLength ?? 0) : 0;
  const isGone = new Set(gone);
  const spanOf = (view: Json): Span | null =>
    view.buffer === 0
      ? [Number(view.byteOffset ?? 0), Number(view.byteOffset ?? 0) + Number(view.byteLength)]
      : null;
  const packed = (view: Json): Span | null => {
    const e = Object.values(isObject(view.extensions) ? view.extensions : {}).find(
      (x) => isObject(x) && x.buffer === 0,
    ) as Json | undefined;
    return e ? [Number(e.byteOffset ?? 0), Number(e.byteOffset ?? 0) + Number(e.byteLength)] : null;
  };
  const kept = views
    .flatMap((v, n) => (isGone.has(n) ? [] : [spanOf(v), packed(v)]))
    .filter((s) => s !== null)
    .sort((a, b) => a[0] - b[0]);
  const cut: Span[] = [];
  for (const n of [...gone].sort(
    (a, b) => Number(views[a]!.byteOffset ?? 0) - Number(views[b]!.byteOffset ?? 0),
  )) {
    const span = spanOf(views[n]!);
    if (!doc.binary || !span || kept.some((k) => k[0] < span[1] && span[0] < k[1])) continue;
    // Up to the next thing, so that what fills a word goes too; what stays keeps its place within a word.
    const next = Math.min(size, ...kept.filter((k) => k[0] >= span[1]).map((k) => k[0]));
    const from = Math.max((span[0] + 3) & ~3, cut.at(-1)?.[1] ?? 0);
    const filled = Math.min((span[1] + 3) & ~3, next);
    const to = filled === size ? size : filled - ((filled - from) & 3);
    if (to > from) cut.push([from, to]);
  }
  const stays: Span[] = [];
  let at = 0;
  for (const [from, to] of cut) {
    if (from > at) stays.push([at, from]);
    at = to;
  }
  if (size > at) stays.push([at, size]);
  return { cut, stays, length: stays.reduce((sum, [from, to]) => sum + to - from, 0) };
}

/** Views that go leave the list, those behind them are counted anew and moved up. */
function viewEdits(
  { json, text }: GltfText,
  gone: ReadonlySet<number>,
  cut: readonly Span[],
  pointers: readonly { to: number; list: ListName; index: number; way: readonly (string | number)[] }[],
  inside: readonly Inside[],
): Edit[] {
  const edits: Edit[] = [];
  const views = thingsIn(json, 'bufferViews');
  const list = placeOf(text, ['bufferViews']);
  const items = (list && placesIn(text, list)?.items) ?? [];
  const numbers = new Map<number, number>();
  for (const n of views.keys()) if (!gone.has(n)) numbers.set(n, numbers.size);
  const before = (at: number) => cut.reduce((sum, [from, to]) => sum + (to <= at ? to - from : 0), 0);
  for (const [n, view] of views.entries()) {
    if (gone.has(n)) continue;
    const holders = [
      { said: view, way: [] as string[] },
      ...Object.entries(isObject(view.extensions) ? view.extensions : {}).map(([name, e]) => ({
        said: isObject(e) ? e : {},
        way: ['extensions', name],
      })),
    ];
    for (const { said, way } of holders) {
      const at = Number(said.byteOffset ?? 0);
      if (said.buffer !== 0 || before(at) === 0) continue;
      const object = placeOf(text, way, items[n]![0])!;
      const place = placesIn(text, object)!.members.get('byteOffset')!;
      edits.push({ span: place, bytes: utf8(String(at - before(at))) });
    }
  }
  const taken = new Set(inside.flatMap((i) => (i.view === null ? [] : [`${i.list} ${i.index}`])));
  for (const p of pointers) {
    const now = numbers.get(p.to);
    if (now === undefined || now === p.to || taken.has(`${p.list} ${p.index}`)) continue;
    edits.push({ span: placeOf(text, [...wayOfList(p.list), p.index, ...p.way])!, bytes: utf8(String(now)) });
  }
  if (list && gone.size < items.length) edits.push(...withoutItems(text, list, gone));
  return edits;
}

/** The own buffer: its name and its length. */
function bufferEdits({ text, json, binary }: GltfText, uri: string | null, length: number): Edit[] {
  const first = thingsIn(json, 'buffers')[0];
  if (!binary || !first) return [];
  const object = placeOf(text, ['buffers', 0])!;
  const edits: Edit[] = [];
  if (Number(first.byteLength) !== length)
    edits.push({ span: placesIn(text, object)!.members.get('byteLength')!, bytes: utf8(String(length)) });
  if (uri !== null) edits.push(withMember(text, object, 'uri', uri));
  return edits;
}
