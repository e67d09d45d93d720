// A glTF with all it needs as one GLB: buffers become one, pictures, sounds and profiles lie in it. Everything else in the JSON stays as it is written. What a
// file was called stands in the view that holds it, so that it can be taken apart again. Source: glTF 2.0 Specification, §3.6.1, §3.9.1 and §4.4.

import { thingsIn, wayOfList, type ListName } from '../documents/gltfPointers';
import { isObject, type GltfText, type Json, type Refusal } from '../documents/gltfText';
import { asBytes, changedText, withItems } from '../documents/jsonEdits';
import { placeOf, placesIn, withMember } from '../documents/jsonPlaces';
import { bytesOfText, utf8 } from '../text/bytes';
import type { Edit } from '../text/edits';
import { padded } from './glb';

/** What is said of a file that was put inside, in the `extras` of its view. */
export interface PutInside {
  /** As it was written. Not called `uri`: it is no reference any more, and must not look like one. */
  file: string;
  /** The type was added with it. */
  mimeType?: 'added';
}

/** Something that is to lie inside. */
export interface ToHold {
  list: ListName;
  index: number;
  uri: string;
  /** Things with one key hold the same bytes. */
  key: string;
  length: number;
  mimeType: string;
}

/** How it is put together. */
export interface WholeGltf {
  edits: Edit[];
  /** What the binary chunk holds, in order; each begins at a multiple of four. */
  bytes: ({ buffer: number; length: number } | { key: string; length: number })[];
  length: number;
}

/** Puts it together. */
export function wholeGltf(doc: GltfText, held: readonly ToHold[]): WholeGltf | Refusal {
  const { json, text } = doc;
  const buffers = thingsIn(json, 'buffers');
  const bytes: WholeGltf['bytes'] = [];
  const starts: number[] = [];
  let at = 0;
  const isEmpty = (b: Json, n: number) => b.uri === undefined && !(n === 0 && doc.binary);
  for (const [n, buffer] of buffers.entries()) {
    const length = Number(buffer.byteLength);
    if (!Number.isInteger(length) || length < 1)
      return { refused: `Its buffer ${n} does not say how long it is.` };
    starts.push(isEmpty(buffer, n) ? -1 : at);
    if (isEmpty(buffer, n)) continue;
    bytes.push({ buffer: n, length });
    at = padded(at + length);
  }
  const edits: Edit[] = [];
  const moved = viewEdits(doc, starts, edits);
  if (moved) return moved;
  const views = thingsIn(json, 'bufferViews').length;
  const known = new Map<string, number>();
  const added: string[] = [];
  for (const thing of held) {
    let view = known.get(thing.key);
    const said = thingsIn(json, thing.list)[thing.index]!;
    const isTyped = said.mimeType !== undefined;
    if (view === undefined) {
      view = views + added.length;
      known.set(thing.key, view);
      const extras: PutInside = { file: thing.uri, ...(isTyped ? {} : { mimeType: 'added' }) };
      added.push(
        asBytes(
          JSON.stringify({
            buffer: 0,
            byteOffset: at,
            byteLength: thing.length,
            ...(thing.uri.startsWith('data:') ? {} : { extras }),
          }),
        ),
      );
      bytes.push({ key: thing.key, length: thing.length });
      at = padded(at + thing.length);
    }
    const object = placeOf(text, [...wayOfList(thing.list), thing.index])!;
    const value = placesIn(text, object)!.members.get('uri')!;
    const key = utf8('"uri"');
    const keyAt = lastBefore(text, key, value[0]);
    if (keyAt < object[0]) return { refused: 'The place of one of its pictures cannot be told.' };
    edits.push({ span: [keyAt, keyAt + key.length], bytes: utf8('"bufferView"') });
    edits.push({
      span: value,
      bytes: utf8(`${view}${isTyped ? '' : `,"mimeType":${JSON.stringify(thing.mimeType)}`}`),
    });
  }
  edits.push(...withItems(text, [{ way: ['bufferViews'], texts: added }]));
  edits.push(...bufferEdits(doc, starts, at));
  return { edits, bytes, length: at };
}

/** The buffers that have no bytes stay behind the one that has all. */
function bufferEdits({ text, json }: GltfText, starts: readonly number[], length: number): Edit[] {
  if (length === 0) return [];
  const list = placeOf(text, ['buffers']);
  const items = list && placesIn(text, list)?.items;
  if (!list || !items || items.length === 0)
    return withItems(text, [{ way: ['buffers'], texts: [JSON.stringify({ byteLength: length })] }]);
  const first = starts.findIndex((s) => s >= 0);
  const said = thingsIn(json, 'buffers')[first];
  const one =
    first < 0
      ? JSON.stringify({ byteLength: length })
      : changedText(text, items[first]!, [
          ...(said?.uri === undefined ? [] : [{ way: ['uri'], to: null }]),
          ...(said?.byteLength === length ? [] : [{ way: ['byteLength'], to: String(length) }]),
        ]);
  const empty = items.flatMap((item, n) => (starts[n]! < 0 ? [changedText(text, item, [])] : []));
  if (items.length === 1 && first === 0) return [{ span: items[0]!, bytes: bytesOfText(one) }];
  return [{ span: list, bytes: bytesOfText(`[${[one, ...empty].join(',')}]`) }];
}

/** Where each view lies in the one buffer. */
function viewEdits({ text, json }: GltfText, starts: readonly number[], edits: Edit[]): Refusal | null {
  const list = placeOf(text, ['bufferViews']);
  const items = (list && placesIn(text, list)?.items) ?? [];
  const emptyAt = new Map([...starts.entries()].filter(([, s]) => s < 0).map(([n], i) => [n, i + 1]));
  for (const [n, view] of thingsIn(json, 'bufferViews').entries()) {
    const holders: { said: Json; way: string[] }[] = [{ said: view, way: [] }];
    for (const [name, e] of Object.entries(isObject(view.extensions) ? view.extensions : {}))
      if (isObject(e) && typeof e.buffer === 'number') holders.push({ said: e, way: ['extensions', name] });
    for (const { said, way } of holders) {
      const start = starts[Number(said.buffer)];
      if (start === undefined) return { refused: `Its view ${n} lies in a buffer that is not there.` };
      const to = start < 0 ? emptyAt.get(Number(said.buffer))! : 0;
      const object = placeOf(text, way, items[n]![0])!;
      const members = placesIn(text, object)!.members;
      if (to !== said.buffer) edits.push({ span: members.get('buffer')!, bytes: utf8(String(to)) });
      if (start <= 0) continue;
      const now = String(Number(said.byteOffset ?? 0) + start);
      const place = members.get('byteOffset');
      edits.push(
        place ? { span: place, bytes: utf8(now) } : withMember(text, object, 'byteOffset', Number(now)),
      );
    }
  }
  return null;
}

function lastBefore(text: Uint8Array, what: Uint8Array, before: number): number {
  for (let i = before - what.length; i >= 0; i--) if (what.every((c, k) => text[i + k] === c)) return i;
  return -1;
}
