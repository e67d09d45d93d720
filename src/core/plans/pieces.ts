// Content made of pieces of a file: its id, the way back, and one way after another.

import type { PlanPiece } from '../changes/plan';
import type { Digest } from '../files/digest';
import type { FileTree } from '../files/fileTree';
import type { TreePath } from '../files/treePath';
import { bytesOfText, latin1 } from '../text/bytes';
import type { BackPiece } from '../versions/note';

/** Length of a piece in bytes. */
export function lengthOf(piece: PlanPiece): number {
  return 'copy' in piece ? piece.copy[1] - piece.copy[0] : piece.latin1.length;
}

/** The content id of what pieces of a file make; null pieces: of the file itself. */
export async function digestOfPieces(
  tree: FileTree,
  path: TreePath,
  pieces: readonly PlanPiece[] | null,
): Promise<Digest> {
  const hash = tree.startHash();
  for (const piece of pieces ?? [null]) {
    if (piece !== null && 'latin1' in piece) hash.update(bytesOfText(piece.latin1));
    else for await (const part of tree.stream(path, piece?.copy)) hash.update(part);
  }
  return hash.digest();
}

/** Pieces of what the given pieces make that give the file of `size` bytes back; `read` gives bytes of that file. Pieces must copy in order. */
export async function inverseOf(
  pieces: readonly PlanPiece[],
  size: number,
  read: (range: readonly [number, number]) => Promise<Uint8Array>,
): Promise<BackPiece[]> {
  const back: BackPiece[] = [];
  let [at, done] = [0, 0];
  const lost = async (to: number) => {
    if (to > done) back.push({ latin1: latin1(await read([done, to])) });
    done = Math.max(done, to);
  };
  for (const piece of pieces) {
    if ('copy' in piece && piece.copy[0] >= done) {
      await lost(piece.copy[0]);
      back.push({ copy: [at, at + lengthOf(piece)] });
      done = piece.copy[1];
    }
    at += lengthOf(piece);
  }
  await lost(size);
  return back;
}

/** Pieces of A that give C, from pieces of A that give B and pieces of B that give C. */
export function composed(first: readonly BackPiece[], second: readonly BackPiece[]): BackPiece[] {
  const out: BackPiece[] = [];
  for (const piece of second) {
    if ('latin1' in piece) {
      out.push(piece);
      continue;
    }
    let at = 0;
    const [start, end] = piece.copy;
    for (const part of first) {
      const [from, to] = [Math.max(start, at), Math.min(end, at + lengthOf(part))];
      if (to > from)
        out.push(
          'latin1' in part
            ? { latin1: part.latin1.slice(from - at, to - at) }
            : { copy: [part.copy[0] + from - at, part.copy[0] + to - at] },
        );
      at += lengthOf(part);
    }
  }
  return out;
}
