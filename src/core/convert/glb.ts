// glTF in its text form ↔ its binary form. Every byte of the JSON stays but the place of the first buffer; buffers, pictures and unknown extensions stay
// what they are. Source: glTF 2.0 Specification, §3.6.1 and §4.4 (chunks, padding by blanks and zeros, the buffer of the binary chunk).

import { placeOf, withMember, withoutMember } from '../documents/jsonPlaces';
import { fromDataUri } from '../documents/gltfFile';
import {
  binaryChunk,
  glbMark,
  isObject,
  jsonChunk,
  openGltf,
  parseObject,
  type Refusal,
} from '../documents/gltfText';
import { piecesOf, sizeOfPieces, type Edit, type Piece } from '../text/edits';

/** What a GLB is made of, in this order. Pieces copy from the glTF file. */
export interface GlbPlan {
  /** The head of the file, and of its JSON chunk. */
  head: Uint8Array;
  json: Piece[];
  /** Blanks behind the JSON, and the head of the binary chunk where there is one. */
  between: Uint8Array;
  /** The file the buffer lies in, as it is written; or its bytes, which stood in the JSON; null: there is none. */
  from: { uri: string } | { bytes: Uint8Array } | null;
  /** Bytes of the buffer that count, and zeros behind them. */
  byteLength: number;
  padding: number;
}

/** Up to the next multiple of four. */
export const padded = (n: number) => (n + 3) & ~3;

/** Words of 32 bits, little-endian. */
export function words(...values: number[]): Uint8Array {
  const out = new Uint8Array(4 * values.length);
  const view = new DataView(out.buffer);
  for (const [i, v] of values.entries()) view.setUint32(4 * i, v, true);
  return out;
}

/** How a glTF in JSON becomes a GLB. */
export function glbOf(file: Uint8Array): GlbPlan | Refusal {
  const hasMark = file[0] === 0xef && file[1] === 0xbb && file[2] === 0xbf;
  const skipped = hasMark ? 3 : 0;
  const text = file.subarray(skipped);
  const json = parseObject(text);
  if (!json) return { refused: 'It is no JSON that can be read whole.' };
  if (!/^2\./.test(String(isObject(json.asset) ? json.asset.version : '')))
    return { refused: 'Only glTF 2 has this binary form.' };
  const first: unknown = Array.isArray(json.buffers) ? json.buffers[0] : undefined;
  const uri = isObject(first) ? first.uri : undefined;
  if (!isObject(first) || typeof uri !== 'string') return plan(text, skipped, [], null, 0);
  const byteLength = Number(first.byteLength);
  if (!Number.isInteger(byteLength) || byteLength < 1)
    return { refused: 'Its buffer does not say how long it is.' };
  const object = placeOf(text, ['buffers', 0]);
  const edit = object && withoutMember(text, object, 'uri');
  if (!edit) return { refused: 'The place of its buffer cannot be told.' };
  if (!uri.startsWith('data:')) return plan(text, skipped, [edit], { uri }, byteLength);
  const bytes = fromDataUri(uri);
  if (!bytes || bytes.length < byteLength) return { refused: 'The buffer in it is not whole.' };
  return plan(text, skipped, [edit], { bytes: bytes.subarray(0, byteLength) }, byteLength);
}

/** `skipped`: bytes of the file before the text. */
function plan(
  text: Uint8Array,
  skipped: number,
  edits: readonly Edit[],
  from: GlbPlan['from'],
  byteLength: number,
): GlbPlan {
  const json = moved(piecesOf(edits, text.length), skipped);
  const length = sizeOfPieces(json);
  const binary = from ? padded(byteLength) : 0;
  const whole = 12 + 8 + padded(length) + (from ? 8 + binary : 0);
  const blanks = new Uint8Array(padded(length) - length).fill(0x20);
  return {
    head: words(glbMark, 2, whole, padded(length), jsonChunk),
    json,
    between: from ? new Uint8Array([...blanks, ...words(binary, binaryChunk)]) : blanks,
    from,
    byteLength,
    padding: binary - byteLength,
  };
}

/** Pieces of a stretch of a file, as pieces of the file. */
function moved(pieces: readonly Piece[], by: number): Piece[] {
  return pieces.map((p) => ('copy' in p ? { copy: [p.copy[0] + by, p.copy[1] + by] } : p));
}

/** What a GLB becomes in its text form: the JSON, and which bytes of the file are its buffer. */
export interface GltfPlan {
  /** Pieces of the GLB. */
  json: Piece[];
  /** Bytes [start, end) of the GLB; null: it has no buffer of its own. */
  buffer: readonly [number, number] | null;
  /** Chunks that the text form has no place for, in bytes. */
  otherChunks: number;
}

/** How a GLB becomes a glTF in JSON, with its buffer in a file that is called `bufferName`. `read` gives bytes of the file. */
export async function gltfOf(
  size: number,
  read: (range: readonly [number, number]) => Promise<Uint8Array>,
  bufferUri: string,
): Promise<GltfPlan | Refusal> {
  const opened = await openGltf(size, read);
  if ('refused' in opened) return opened;
  const { text, textAt, json: said, binary, others } = opened;
  if (!opened.isBinary) return { refused: 'It is no GLB of version 2.' };
  const otherChunks = others.reduce((sum, [from, to]) => sum + to - from - 8, 0);
  const first: unknown = Array.isArray(said.buffers) ? said.buffers[0] : undefined;
  const whole = (edits: readonly Edit[]) => moved(piecesOf(edits, text.length), textAt);
  if (!binary || !isObject(first) || first.uri !== undefined)
    return { json: whole([]), buffer: null, otherChunks };
  const byteLength = Number(first.byteLength);
  if (!(byteLength <= binary[1] - binary[0])) return { refused: 'Its buffer is shorter than it says.' };
  const object = placeOf(text, ['buffers', 0])!;
  const edit = withMember(text, object, 'uri', bufferUri);
  return {
    json: whole([edit]),
    buffer: [binary[0], binary[0] + byteLength],
    otherChunks,
  };
}
