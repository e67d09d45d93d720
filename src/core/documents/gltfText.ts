// The JSON of a glTF in either of its forms, and where it and the buffer in the file lie. Of a GLB only the heads of its chunks and the JSON are read.
// Source: glTF 2.0 Specification, §4.4 (chunks).

import type { Span } from '../problem';
import { decodeText } from '../text/bytes';

export type Json = Record<string, unknown>;

export const isObject = (x: unknown): x is Json => typeof x === 'object' && x !== null && !Array.isArray(x);

/** A member that is a list of objects; what is none stands for an empty one, since places count. */
export const listIn = (json: unknown, key: string): Json[] => {
  const list = isObject(json) ? json[key] : null;
  return Array.isArray(list) ? list.map((x) => (isObject(x) ? x : {})) : [];
};

/** The extension by which a view is compressed, and what it says; null: it is not. Source: EXT_meshopt_compression (from memory of the extension's text). */
export function packedIn(view: Json): [name: string, said: Json] | null {
  for (const [name, said] of Object.entries(isObject(view.extensions) ? view.extensions : {}))
    if (/_meshopt_compression$/.test(name) && isObject(said)) return [name, said];
  return null;
}

/** 'glTF' */
export const glbMark = 0x46546c67;
export const jsonChunk = 0x4e4f534a;
export const binaryChunk = 0x004e4942;

export interface GltfText {
  /** The JSON as it stands, without a byte order mark in front and blanks behind. */
  text: Uint8Array;
  /** Where it begins in the file. */
  textAt: number;
  json: Json;
  isBinary: boolean;
  /** Bytes [start, end) of the file that are its own buffer; null: it has none. */
  binary: Span | null;
  /** Chunks of other kinds, with their heads. */
  others: readonly Span[];
}

/** What is wrong with a file that cannot be worked on. */
export type Refusal = { refused: string };

/** Opens a glTF of `size` bytes. */
export async function openGltf(
  size: number,
  read: (range: Span) => Promise<Uint8Array>,
): Promise<GltfText | Refusal> {
  const head = await read([0, Math.min(size, 20)]);
  const view = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  if (head.length < 20 || view(head).getUint32(0, true) !== glbMark) {
    const file = await read([0, size]);
    const skipped = file[0] === 0xef && file[1] === 0xbb && file[2] === 0xbf ? 3 : 0;
    return opened({
      text: file.subarray(skipped),
      textAt: skipped,
      isBinary: false,
      binary: null,
      others: [],
    });
  }
  if (view(head).getUint32(4, true) !== 2) return { refused: 'It is no GLB of version 2.' };
  let text: Uint8Array | null = null;
  let textAt = 0;
  let binary: Span | null = null;
  const others: Span[] = [];
  const end = Math.min(size, view(head).getUint32(8, true));
  for (let at = 12; at + 8 <= end;) {
    const chunk = view(await read([at, at + 8]));
    const [length, type] = [chunk.getUint32(0, true), chunk.getUint32(4, true)];
    if (at + 8 + length > size) return { refused: 'It is cut off inside a chunk.' };
    const data = [at + 8, at + 8 + length] as const;
    if (type === jsonChunk && !text) [text, textAt] = [await read(data), data[0]];
    else if (type === binaryChunk && !binary) binary = data;
    else others.push([at, data[1]]);
    at += 8 + length;
  }
  if (!text) return { refused: 'It has no JSON.' };
  return opened({ text: withoutPadding(text), textAt, isBinary: true, binary, others });
}

function opened(found: Omit<GltfText, 'json'>): GltfText | Refusal {
  const json = parseObject(found.text);
  if (!json) return { refused: 'Its JSON cannot be read whole.' };
  // Lists of version 1 are objects, and point by names.
  const version = isObject(json.asset) ? json.asset.version : undefined;
  return /^2\./.test(String(version)) ? { ...found, json } : { refused: 'Only glTF 2 is taken apart here.' };
}

/** JSON that is an object; null: it is none. */
export function parseObject(text: Uint8Array): Json | null {
  try {
    const json: unknown = JSON.parse(decodeText(text).text);
    return isObject(json) ? json : null;
  } catch {
    return null;
  }
}

function withoutPadding(json: Uint8Array): Uint8Array {
  let end = json.length;
  while (end > 0 && json[end - 1] === 0x20) end--;
  return json.subarray(0, end);
}
