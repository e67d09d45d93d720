// What many scene files carry inside them, each for itself: found by equal chunks, so that it is found wherever in a file it stands, and though a part of
// it changed.

import { cutAt, sizesAround, type ChunkSizes } from '../store/chunking';
import { mayLieApart, type Part } from './parts';

/** A part with its chunks: the id of each, and its bytes. */
export interface CutPart {
  kind: Part['kind'];
  name: string;
  size: number;
  /** Whether the format can say that it lies elsewhere. */
  apart: boolean;
  /** Id of all its bytes. */
  digest: string;
  chunks: readonly (readonly [id: string, length: number])[];
}

export interface CutFile {
  path: string;
  parts: readonly CutPart[];
}

/** A part that stands in several files. */
export interface Repeat {
  kind: Part['kind'];
  name: string;
  apart: boolean;
  digest: string;
  /** Bytes of it in each file that stand in another one, too. */
  each: number;
  /** All of them but one. */
  spare: number;
  files: readonly string[];
}

const sizes = sizesAround(13);

/** The chunks of bytes, in order: the id of each, and its length. */
export function cutBytes(
  bytes: Uint8Array,
  around: ChunkSizes,
  idOf: (pieces: readonly Uint8Array[]) => string,
): [id: string, length: number][] {
  const chunks: [string, number][] = [];
  for (let at = 0; at < bytes.length;) {
    const end = cutAt(bytes, at, bytes.length, around);
    chunks.push([idOf([bytes.subarray(at, end)]), end - at]);
    at = end;
  }
  return chunks;
}

/** Cuts a part; `idOf` gives the id of bytes. */
export function cutPart(part: Part, idOf: (pieces: readonly Uint8Array[]) => string): CutPart {
  const chunks = part.bytes.flatMap((bytes) => cutBytes(bytes, sizes, idOf));
  return {
    kind: part.kind,
    name: part.name,
    size: part.size,
    apart: mayLieApart(part),
    digest: idOf(part.bytes),
    chunks,
  };
}

/** Less is not worth a word. */
const least = 1024;

/** What stands in at least two files, the dearest first. Chunks that are a small part of what they stand in join nothing. */
export function repeatsOf(files: readonly CutFile[]): Repeat[] {
  const parts = files.flatMap((file) => file.parts.map((part) => ({ file: file.path, part })));
  // Of each chunk the first part that has it, and the files it stands in.
  const firstWith = new Map<string, number>();
  const filesWith = new Map<string, Set<string>>();
  for (const [n, { file, part }] of parts.entries())
    for (const [id] of part.chunks) {
      if (!firstWith.has(id)) firstWith.set(id, n);
      const own = filesWith.get(id) ?? new Set();
      filesWith.set(id, own.add(file));
    }
  const isElsewhere = (id: string) => filesWith.get(id)!.size > 1;
  // Parts that are at least half made of the same chunks are one thing.
  const leader = parts.map((_, n) => n);
  const lead = (n: number): number => (leader[n] === n ? n : (leader[n] = lead(leader[n]!)));
  for (const [n, { part }] of parts.entries()) {
    const shared = new Map<number, number>();
    for (const [id, length] of new Map(part.chunks)) {
      const other = firstWith.get(id)!;
      if (other < n) shared.set(lead(other), (shared.get(lead(other)) ?? 0) + length);
    }
    for (const [other, bytes] of shared)
      if (bytes * 2 >= Math.min(part.size, parts[other]!.part.size)) leader[lead(n)] = lead(other);
  }
  const groups = new Map<number, number[]>();
  for (const n of parts.keys()) groups.set(lead(n), [...(groups.get(lead(n)) ?? []), n]);
  const found: Repeat[] = [];
  for (const members of groups.values()) {
    const own = [...new Set(members.map((n) => parts[n]!.file))];
    if (own.length < 2) continue;
    const repeated = members.map((n) =>
      parts[n]!.part.chunks.reduce((s, [id, length]) => s + (isElsewhere(id) ? length : 0), 0),
    );
    const last = parts[members.at(-1)!]!.part;
    const each = Math.max(...repeated);
    if (each < least) continue;
    found.push({
      kind: last.kind,
      name: last.name,
      apart: last.apart,
      digest: last.digest,
      each,
      spare: repeated.reduce((s, b) => s + b, 0) - each,
      files: own,
    });
  }
  return found.sort((a, b) => b.spare - a.spare || (a.name < b.name ? -1 : 1));
}
