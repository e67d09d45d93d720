// A picture, or geometry, out of a GLB and beside it: the bytes go from the binary chunk into a file of their own, and the JSON says where. Everything else
// in the JSON stays as it is written. Source: glTF 2.0 Specification, §3.6.1 (buffers and views), §3.9.1 (pictures by URI), §4.4 (chunks).

import {
  binaryChunk,
  glbMark,
  isObject,
  jsonChunk,
  parseObject,
  type Json,
  type Refusal,
} from '../documents/gltfText';
import { placeOf, placesIn, withItem, withMember } from '../documents/jsonPlaces';
import type { Span } from '../problem';
import { latin1, utf8 } from '../text/bytes';
import { piecesOf, sizeOfPieces, type Edit, type Piece } from '../text/edits';
import { padded, words } from './glb';

export interface TakenOut {
  /** Pieces of the GLB that make the new one. */
  scene: Piece[];
  /** Pieces of the GLB that make the file beside it. */
  file: Piece[];
}

// Extensions of a view that say again where its bytes are.
const knownOfViews = new Set(['EXT_meshopt_compression', 'KHR_meshopt_compression']);

interface Opened {
  text: Uint8Array;
  textAt: number;
  json: Json;
  /** Bytes [start, end) of the binary chunk's data. */
  binary: Span;
}

function opened(bytes: Uint8Array): Opened | Refusal {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  if (bytes.length < 28 || view.getUint32(0, true) !== glbMark || view.getUint32(4, true) !== 2)
    return { refused: 'It is no GLB of version 2.' };
  const chunks: { type: number; span: Span }[] = [];
  for (let at = 12; at + 8 <= bytes.length;) {
    const end = at + 8 + view.getUint32(at, true);
    if (end > bytes.length) return { refused: 'It is cut off inside a chunk.' };
    chunks.push({ type: view.getUint32(at + 4, true), span: [at + 8, end] });
    at = end;
  }
  if (chunks.length !== 2 || chunks[0]!.type !== jsonChunk || chunks[1]!.type !== binaryChunk)
    return { refused: 'Only a GLB of one JSON and one binary chunk is taken apart.' };
  const textAt = chunks[0]!.span[0];
  const text = bytes.subarray(textAt, chunks[0]!.span[1]);
  const json = parseObject(text);
  return json
    ? { text, textAt, json, binary: chunks[1]!.span }
    : { refused: 'Its JSON cannot be read whole.' };
}

/** A view of the buffer in the GLB. */
interface View {
  from: number;
  length: number;
}

function viewsOf(json: Json, binary: Span): (View | null)[] | Refusal {
  const list = Array.isArray(json.bufferViews) ? (json.bufferViews as unknown[]) : [];
  const views: (View | null)[] = [];
  for (const v of list) {
    if (!isObject(v)) return { refused: 'One of its views is none.' };
    const extensions = isObject(v.extensions) ? Object.entries(v.extensions) : [];
    const strange = extensions.find(([key, e]) => !knownOfViews.has(key) && isObject(e) && 'byteOffset' in e);
    if (strange) return { refused: `What ${strange[0]} says of its views is not known.` };
    // A compressed view's own bytes are where its extension says.
    const packed = extensions.find(([key]) => knownOfViews.has(key))?.[1];
    const said = isObject(packed) ? packed : v;
    const [from, length] = [Number(said.byteOffset ?? 0), Number(said.byteLength)];
    if (said.buffer !== 0) views.push(null);
    else if (from >= 0 && length > 0 && from + length <= binary[1] - binary[0]) views.push({ from, length });
    else return { refused: 'One of its views leads out of its buffer.' };
  }
  return views;
}

/** Stretches of the buffer that go, by whole fours, so that what stays keeps its place within a word. `keep`: bytes of each that have to stay. */
function stretches(views: readonly (View | null)[], gone: readonly number[], keep: number): Span[] | Refusal {
  const isGone = new Set(gone);
  const spans: Span[] = [];
  for (const n of [...gone].sort((a, b) => views[a]!.from - views[b]!.from)) {
    const { from, length } = views[n]!;
    const overlaps = views.some(
      (v, i) => v && !isGone.has(i) && v.from < from + length && from < v.from + v.length,
    );
    if (overlaps) return { refused: 'Other things of the scene lie on the same bytes.' };
    const cut = Math.floor((length - keep) / 4) * 4;
    if (cut > 0 && (spans.length === 0 || spans.at(-1)![1] <= from)) spans.push([from, from + cut]);
  }
  return spans;
}

/** Takes a picture out. `uri`: how the scene is to name its file. */
export function takePicture(bytes: Uint8Array, image: number, uri: string): TakenOut | Refusal {
  const glb = opened(bytes);
  if ('refused' in glb) return glb;
  const { json, text, binary } = glb;
  const said: unknown = (json.images as unknown[] | undefined)?.[image];
  const n = isObject(said) ? said.bufferView : undefined;
  const views = viewsOf(json, binary);
  if ('refused' in views) return views;
  if (typeof n !== 'number' || !views[n]) return { refused: 'The picture does not lie in the scene.' };
  if (usersOfView(json, n) > 1) return { refused: 'The picture’s bytes are used by something else, too.' };
  // Views are counted: one that nobody uses stays, with what is left of it.
  const cut = stretches(views, [n], 1);
  if ('refused' in cut) return cut;
  // The member that named the view names the file.
  const object = placeOf(text, ['images', image]);
  const value = object && placesIn(text, object)?.members.get('bufferView');
  const key = value ? latin1(text.subarray(object[0], value[0])).lastIndexOf('"bufferView"') : -1;
  if (!object || !value || key < 0) return { refused: 'The place of the picture cannot be told.' };
  const { from, length } = views[n];
  const edits: Edit[] = [
    { span: [object[0] + key, object[0] + key + '"bufferView"'.length], bytes: utf8('"uri"') },
    { span: value, bytes: utf8(JSON.stringify(uri)) },
  ];
  return put(glb, views, cut, new Map([[n, length - (cut[0] ? cut[0][1] - cut[0][0] : 0)]]), edits, [
    { copy: [binary[0] + from, binary[0] + from + length] },
  ]);
}

/** A picture of a glTF in text that stands in it as a data URI: where its base64 lies, and the scene that names its file instead. */
export function takeDataPicture(
  text: Uint8Array,
  image: number,
  uri: string,
): { scene: Piece[]; base64: Span } | Refusal {
  const object = placeOf(text, ['images', image]);
  const value = object && placesIn(text, object)?.members.get('uri');
  if (!value) return { refused: 'The place of the picture cannot be told.' };
  const written = latin1(text.subarray(value[0] + 1, value[1] - 1));
  const head = /^data:[^,\\]*;base64,/i.exec(written);
  if (!head || written.includes('\\')) return { refused: 'The picture is not written in plain base64.' };
  return {
    scene: piecesOf([{ span: value, bytes: utf8(JSON.stringify(uri)) }], text.length),
    base64: [value[0] + 1 + head[0].length, value[1] - 1],
  };
}

/** Takes geometry out: the views go into a buffer of their own. */
export function takeGeometry(bytes: Uint8Array, gone: readonly number[], uri: string): TakenOut | Refusal {
  const glb = opened(bytes);
  if ('refused' in glb) return glb;
  const { json, text, binary } = glb;
  const views = viewsOf(json, binary);
  if ('refused' in views) return views;
  if (gone.length === 0 || gone.some((n) => !views[n])) return { refused: 'It does not lie in the scene.' };
  const packed = (json.bufferViews as Json[]).some((v, n) => gone.includes(n) && isObject(v.extensions));
  if (packed) return { refused: 'Compressed geometry stays where it is.' };
  const cut = stretches(views, gone, 0);
  if ('refused' in cut) return cut;
  const buffers = placeOf(text, ['buffers']);
  const list = placeOf(text, ['bufferViews']);
  const places = list && placesIn(text, list);
  if (!buffers || !places) return { refused: 'The place of its buffers cannot be told.' };
  const file: Piece[] = [];
  const edits: Edit[] = [];
  let at = 0;
  const next = (json.buffers as unknown[]).length;
  for (const n of gone) {
    const { from, length } = views[n]!;
    file.push({ copy: [binary[0] + from, binary[0] + from + length] });
    const members = placesIn(text, places.items[n]!)!.members;
    edits.push({ span: members.get('buffer')!, bytes: utf8(String(next)) });
    edits.push(...offsetEdit(text, places.items[n]!, members, at));
    const blank = padded(length) - length;
    if (blank > 0) file.push({ bytes: new Uint8Array(blank) });
    at += length + blank;
  }
  edits.push(withItem(text, buffers, { uri, byteLength: at }));
  return put(glb, views, cut, new Map(), edits, file, new Set(gone));
}

const usersOfView = (json: Json, n: number): number => {
  let users = 0;
  JSON.stringify(json, (key, value: unknown) => {
    if (key === 'bufferView' && value === n) users++;
    return value;
  });
  return users;
};

function offsetEdit(text: Uint8Array, object: Span, members: ReadonlyMap<string, Span>, to: number): Edit[] {
  const place = members.get('byteOffset');
  if (place) return [{ span: place, bytes: utf8(String(to)) }];
  return to === 0 ? [] : [withMember(text, object, 'byteOffset', to)];
}

/** The new GLB. `shorter`: views that keep less than they had; `moved`: views whose places are written already. */
function put(
  { text, textAt, json, binary }: Opened,
  views: readonly (View | null)[],
  cut: readonly Span[],
  shorter: ReadonlyMap<number, number>,
  edits: Edit[],
  file: Piece[],
  moved: ReadonlySet<number> = new Set(),
): TakenOut | Refusal {
  const goneBefore = (at: number) => cut.reduce((sum, [from, to]) => sum + (to <= at ? to - from : 0), 0);
  const said = Number((json.buffers as Json[])[0]!.byteLength);
  const list = placeOf(text, ['bufferViews']);
  const items = list && placesIn(text, list)?.items;
  if (!items) return { refused: 'The place of its views cannot be told.' };
  for (const [n, view] of views.entries()) {
    if (!view || moved.has(n)) continue;
    const object = items[n]!;
    const members = placesIn(text, object)!.members;
    const packedAt = members.get('extensions');
    const extension =
      packedAt && [...(placesIn(text, packedAt)?.members ?? [])].find(([key]) => knownOfViews.has(key));
    const [holder, own] = extension
      ? [extension[1], placesIn(text, extension[1])!.members]
      : [object, members];
    const to = view.from - goneBefore(view.from);
    if (to !== view.from) edits.push(...offsetEdit(text, holder, own, to));
    const length = shorter.get(n);
    if (length !== undefined) edits.push({ span: own.get('byteLength')!, bytes: utf8(String(length)) });
  }
  const total = goneBefore(Infinity);
  const length = placeOf(text, ['buffers', 0, 'byteLength'])!;
  edits.push({ span: length, bytes: utf8(String(said - total)) });
  const pieces = piecesOf(edits, text.length);
  const size = sizeOfPieces(pieces);
  const stays: Span[] = [];
  let at = 0;
  for (const [from, to] of cut) {
    stays.push([at, from]);
    at = to;
  }
  stays.push([at, binary[1] - binary[0]]);
  const left = stays.filter(([from, to]) => to > from);
  const bytesLeft = left.reduce((sum, [from, to]) => sum + to - from, 0);
  const whole = 12 + 8 + padded(size) + 8 + padded(bytesLeft);
  return {
    scene: [
      { bytes: words(glbMark, 2, whole, padded(size), jsonChunk) },
      ...pieces.map((p): Piece => ('copy' in p ? { copy: [p.copy[0] + textAt, p.copy[1] + textAt] } : p)),
      { bytes: new Uint8Array(padded(size) - size).fill(0x20) },
      { bytes: words(padded(bytesLeft), binaryChunk) },
      ...left.map(([from, to]): Piece => ({ copy: [from + binary[0], to + binary[0]] })),
      { bytes: new Uint8Array(padded(bytesLeft) - bytesLeft) },
    ].filter((p) => 'copy' in p || p.bytes.length > 0),
    file,
  };
}
