// New written paths for references of one file, as pieces of its new content.

import type { PathChange, PlanPiece, Note } from '../changes/plan';
import { planPieces } from '../changes/plan';
import { folderOf, relativePath } from '../files/treePath';
import { fullPath, type Reference } from '../formats/format';
import type { FileReading } from '../formats/formats';
import { uncertain, type JudgedReference } from '../references/scan';
import { spell, understand } from '../references/written';
import { applyPieces, piecesOf, sizeOfPieces, type Edit } from '../text/edits';

/** A wish: this reference shall be written so. */
export interface Rewriting {
  reference: JudgedReference;
  written: string;
}

/** Whether a reference is a guess, which is rewritten only when it is named; says so in a note. */
export function isGuess(r: JudgedReference, scene: string, notes: Note[]): boolean {
  if (r.uncertain)
    notes.push({
      level: 'info',
      code: uncertain,
      message: `${r.written} at ${r.at} may be a path or not; it is left until you choose it by itself.`,
      path: scene,
    });
  return r.uncertain === true;
}

/** New content of a file of `size` bytes; null when nothing changes. */
export function rewrite(
  reading: FileReading,
  size: number,
  rewritings: readonly Rewriting[],
  scene: string,
): { pieces: PlanPiece[] | null; size: number; paths: PathChange[]; notes: Note[] } {
  if (reading.rewrite) return rewriteByReader(reading, reading.rewrite, size, rewritings, scene);
  const edits: Edit[] = [];
  const paths: PathChange[] = [];
  const notes: Note[] = [];
  for (const { reference, written } of rewritings) {
    if (written === fullPath(reference)) continue;
    const bytes = reference.span ? reading.format.encode(written, reference) : null;
    if (!bytes) {
      notes.push({
        level: 'warning',
        code: 'cannot-say',
        message: `${reading.format.name} cannot hold “${written}” at ${reference.at}; it stays as it is.`,
        path: scene,
      });
      continue;
    }
    edits.push({ span: reference.span!, bytes });
    paths.push({ scene, at: reference.at, before: fullPath(reference), after: written });
  }
  if (edits.length === 0) return { pieces: null, size, paths, notes };
  if (reading.format.settle && reading.bytes) edits.push(...reading.format.settle(reading.bytes, edits));
  const pieces = piecesOf(edits, size);
  if (reading.bytes && !readsBack(reading, edits, rewritings)) {
    notes.push({
      level: 'warning',
      code: 'cannot-say',
      message: `The new paths would not be read back as they are meant; ${scene} stays as it is.`,
      path: scene,
    });
    return { pieces: null, size, paths: [], notes };
  }
  return { pieces: planPieces(pieces), size: sizeOfPieces(pieces), paths, notes };
}

/** The same for a format that finds the edits itself. */
function rewriteByReader(
  reading: FileReading,
  find: NonNullable<FileReading['rewrite']>,
  size: number,
  rewritings: readonly Rewriting[],
  scene: string,
): ReturnType<typeof rewrite> {
  const paths = rewritings
    .filter(({ reference, written }) => written !== fullPath(reference))
    .map(({ reference, written }) => ({
      scene,
      at: reference.at,
      before: fullPath(reference),
      after: written,
    }));
  const edits = find(paths.map((p) => ({ at: p.at, value: p.after })));
  if (!edits)
    return {
      pieces: null,
      size,
      paths: [],
      notes: [
        {
          level: 'warning',
          code: 'cannot-say',
          message: `${reading.format.name} cannot hold one of the new paths; ${scene} stays as it is.`,
          path: scene,
        },
      ],
    };
  if (edits.length === 0) return { pieces: null, size, paths: [], notes: [] };
  const pieces = piecesOf(edits, size);
  return { pieces: planPieces(pieces), size: sizeOfPieces(pieces), paths, notes: [] };
}

/** How a file at `scene` writes a relative path to `target`, both tree paths, in the style of the old value: the full path. */
export function writtenRelative(
  reading: Pick<FileReading, 'format'>,
  scene: string,
  target: string,
  reference: Pick<Reference, 'written' | 'prefix' | 'suffix' | 'syntax'>,
): string {
  const syntax = reference.syntax ?? reading.format.syntax;
  const old = `${reference.prefix ?? ''}${reference.written}`;
  if (reference.suffix !== undefined) {
    // The value is the folder; what stands behind it stays.
    const name = reference.suffix.replace(/^\//, '');
    const folder = relativePath(folderOf(scene), target).slice(0, -name.length);
    const base = reference.suffix.startsWith('/') ? folder.replace(/\/$/, '') : folder;
    return spell(base, syntax, old) + reference.suffix;
  }
  const understood = understand(old, syntax);
  const tail = 'tail' in understood ? understood.tail : '';
  const path = relativePath(folderOf(scene), target);
  // `x` may be looked for elsewhere too where a format has a search path: what was anchored, or absolute, becomes `./x`.
  const anchored =
    /^\.[/\\]/.test(old) || (syntax === 'usd' && 'path' in understood && understood.form === 'absolute');
  return spell(anchored && !path.startsWith('.') ? `./${path}` : path, syntax, old) + tail;
}

/** Reads the new content and makes sure that it says what was meant, and nothing else. */
function readsBack(reading: FileReading, edits: readonly Edit[], rewritings: readonly Rewriting[]): boolean {
  const bytes = reading.bytes!;
  const pieces = piecesOf(edits, bytes.length);
  const again = reading.format.read(applyPieces(bytes, pieces), sizeOfPieces(pieces));
  const wanted = new Map(rewritings.map((r) => [r.reference.at, r.written]));
  const named = new Map(again.references.map((r) => [r.at, fullPath(r)]));
  for (const other of again.otherReadings ?? [])
    if (wanted.get(other.reference.at) === other.reference.written)
      named.set(other.reference.at, other.reference.written);
  return (
    again.references.length === reading.references.length &&
    edits.length > 0 &&
    rewritings.every(
      (r) =>
        named.get(r.reference.at) === r.written ||
        named.get(r.reference.at) === `./${r.written}` ||
        reading.format.encode(r.written, r.reference) === null,
    )
  );
}
