// A change to a file as edits on its old bytes. What no edit covers stays as it was, to the byte.

import type { Span } from '../problem';

/** Replaces the bytes of `span` by `bytes`. */
export interface Edit {
  span: Span;
  bytes: Uint8Array;
}

/** A file's new content in pieces: [start, end) of the old bytes, or new bytes. */
export type Piece = { copy: Span } | { bytes: Uint8Array };

/** Sorts edits; throws a plain Error (a bug) when two overlap. */
export function sortEdits(edits: readonly Edit[]): Edit[] {
  const sorted = [...edits].sort((a, b) => a.span[0] - b.span[0]);
  for (let i = 1; i < sorted.length; i++) {
    if (sorted[i]!.span[0] < sorted[i - 1]!.span[1]) throw new Error('edits overlap');
  }
  return sorted;
}

/** Edits as pieces over a file of `size` bytes. */
export function piecesOf(edits: readonly Edit[], size: number): Piece[] {
  const pieces: Piece[] = [];
  let at = 0;
  for (const edit of sortEdits(edits)) {
    if (edit.span[0] > at) pieces.push({ copy: [at, edit.span[0]] });
    pieces.push({ bytes: edit.bytes });
    at = edit.span[1];
  }
  if (at < size) pieces.push({ copy: [at, size] });
  return pieces;
}

/** Length in bytes of what the pieces make. */
export function sizeOfPieces(pieces: readonly Piece[]): number {
  return pieces.reduce((sum, p) => sum + ('copy' in p ? p.copy[1] - p.copy[0] : p.bytes.length), 0);
}

/** The new content, in memory: for small files and tests. */
export function applyPieces(old: Uint8Array, pieces: readonly Piece[]): Uint8Array {
  const out = new Uint8Array(sizeOfPieces(pieces));
  let at = 0;
  for (const piece of pieces) {
    const part = 'copy' in piece ? old.subarray(piece.copy[0], piece.copy[1]) : piece.bytes;
    out.set(part, at);
    at += part.length;
  }
  return out;
}
