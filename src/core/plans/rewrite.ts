// New written paths for references of one file, as pieces of its new content.

import type { PathChange, PlanPiece, Note } from '../changes/plan';
import { planPieces } from '../changes/plan';
import { folderOf, relativePath } from '../files/treePath';
import type { ByteRange } from '../files/fileTree';
import { concat } from '../text/bytes';
import { fullPath, type Reading, type Syntax } from '../formats/format';
import { readReferences, type FileReading } from '../formats/formats';
import { uncertain, type JudgedReference } from '../references/scan';
import { spell, understand } from '../references/written';
import { applyPieces, piecesOf, sizeOfPieces, type Edit, type Piece } from '../text/edits';

/** A wish: this reference shall be written so. */
export interface Rewriting {
  reference: JudgedReference;
  /** Null: there is no way to write it. */
  written: string | null;
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

/** What became of wishes: null pieces where nothing changes. */
interface Done {
  pieces: PlanPiece[] | null;
  size: number;
  paths: PathChange[];
  notes: Note[];
}

/** Gives bytes [start, end) of the file as it is. */
type ReadOld = (range: ByteRange) => Promise<Uint8Array>;

/** New content of a file of `size` bytes; null when nothing changes. It is read back before it is given, whatever its format. */
export async function rewrite(
  reading: FileReading,
  size: number,
  rewritings: readonly Rewriting[],
  scene: string,
  read: ReadOld,
): Promise<Done> {
  if (reading.rewrite) return rewriteByReader(reading, reading.rewrite, size, rewritings, scene, read);
  const edits: Edit[] = [];
  const paths: PathChange[] = [];
  const notes: Note[] = [];
  for (const { reference, written } of rewritings) {
    if (written === fullPath(reference)) continue;
    const bytes = reference.span && written !== null ? reading.format.encode(written, reference) : null;
    if (!bytes || written === null) {
      notes.push({
        level: 'warning',
        code: 'cannot-say',
        message: `${reading.format.name} cannot hold ${written === null ? 'the new path' : `“${written}”`} at ${reference.at}; it stays as it is.`,
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
  const wanted = rewritings.filter(
    (r) => r.reference.span && r.written !== null && reading.format.encode(r.written, r.reference) !== null,
  );
  const isRight = reading.bytes
    ? saysWhatIsMeant(reading, rereadBytes(reading, edits), wanted)
    : saysWhatIsMeant(reading, await rereadParts(scene, pieces, read), wanted);
  if (!isRight) return { pieces: null, size, paths: [], notes: [...notes, notReadBack(scene)] };
  return { pieces: planPieces(pieces), size: sizeOfPieces(pieces), paths, notes };
}

/** The same for a format that finds the edits itself. */
async function rewriteByReader(
  reading: FileReading,
  find: NonNullable<FileReading['rewrite']>,
  size: number,
  rewritings: readonly Rewriting[],
  scene: string,
  read: ReadOld,
): Promise<Done> {
  const paths = rewritings.flatMap(({ reference, written }) =>
    written === null || written === fullPath(reference)
      ? []
      : [{ scene, at: reference.at, before: fullPath(reference), after: written }],
  );
  const isSayable = rewritings.every((r) => r.written !== null);
  const edits = isSayable ? find(paths.map((p) => ({ at: p.at, value: p.after }))) : null;
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
  if (!saysWhatIsMeant(reading, await rereadParts(scene, pieces, read), rewritings))
    return { pieces: null, size, paths: [], notes: [notReadBack(scene)] };
  return { pieces: planPieces(pieces), size: sizeOfPieces(pieces), paths, notes: [] };
}

function notReadBack(scene: string): Note {
  return {
    level: 'warning',
    code: 'cannot-say',
    message: `The new paths would not be read back as they are meant; ${scene} stays as it is.`,
    path: scene,
  };
}

type Pointing = Pick<JudgedReference, 'written' | 'prefix' | 'suffix' | 'syntax' | 'oddities' | 'state'>;

/** What stands behind the path in a value and is kept: query, fragment, arguments. Where the value was read literally, that is part of the name. */
export function tailOf(r: Pointing, syntax: Syntax): string {
  if (r.oddities.includes('not-decoded')) return '';
  const understood = understand(`${r.prefix ?? ''}${r.written}`, syntax);
  return 'tail' in understood ? understood.tail : '';
}

/** A path as a value, in the style of the old one; null where it would be read as another path (a backslash in a name, blanks around it). */
function say(path: string, syntax: Syntax, old: string, tail: string): string | null {
  const written = spell(path, syntax, old) + tail;
  const again = understand(written, syntax);
  const isSame = 'path' in again && again.path === path && again.tail === tail;
  const isOther = /^(~|\{[^{}/]+\})\//.test(path) || (syntax !== 'uri' && written.trim() !== written);
  return isSame && !isOther ? written : null;
}

/** How a scene writes an absolute path; null where its format cannot. */
export function writtenAbsolute(
  reading: Pick<FileReading, 'format'>,
  path: string,
  r: Pointing,
): string | null {
  const syntax = r.syntax ?? reading.format.syntax;
  return say(path, syntax, r.written, tailOf(r, syntax));
}

/** How a file at `scene` writes a relative path to `target`, both tree paths, in the style of the old value: the full path. Null where its format cannot. */
export function writtenRelative(
  reading: Pick<FileReading, 'format'>,
  scene: string,
  target: string,
  r: Pointing,
): string | null {
  if (reading.format.sealed && r.state !== 'travels' && r.state !== 'case') return null;
  const syntax = r.syntax ?? reading.format.syntax;
  const old = `${r.prefix ?? ''}${r.written}`;
  if (r.suffix !== undefined) {
    // The value is the folder; what stands behind it stays.
    const name = r.suffix.replace(/^\//, '');
    const folder = relativePath(folderOf(scene), target).slice(0, -name.length);
    const base = r.suffix.startsWith('/') ? folder.replace(/\/$/, '') : folder;
    const said = base === '' ? '' : say(base, syntax, old, '');
    return said === null ? null : said + r.suffix;
  }
  const understood = understand(old, syntax);
  const path = relativePath(folderOf(scene), target);
  // `x` may be looked for elsewhere too where a format has a search path: what was anchored, or absolute, becomes `./x`.
  const anchored =
    /^\.[/\\]/.test(old) || (syntax === 'usd' && 'path' in understood && understood.form === 'absolute');
  return say(anchored && !path.startsWith('.') ? `./${path}` : path, syntax, old, tailOf(r, syntax));
}

/** Reads new content that is held in memory. */
function rereadBytes(reading: FileReading, edits: readonly Edit[]): Reading {
  const pieces = piecesOf(edits, reading.bytes!.length);
  return reading.format.read(applyPieces(reading.bytes!, pieces), sizeOfPieces(pieces));
}

/** Reads new content that is made, as it is asked for, of the old file's parts. */
async function rereadParts(scene: string, pieces: readonly Piece[], read: ReadOld): Promise<Reading | null> {
  const size = sizeOfPieces(pieces);
  const readNew: ReadOld = async ([start, end]) => {
    const out: Uint8Array[] = [];
    let at = 0;
    for (const piece of pieces) {
      const length = 'copy' in piece ? piece.copy[1] - piece.copy[0] : piece.bytes.length;
      const [from, to] = [Math.max(0, start - at), Math.min(length, end - at)];
      at += length;
      if (to <= from) continue;
      out.push(
        'copy' in piece
          ? new Uint8Array(await read([piece.copy[0] + from, piece.copy[0] + to]))
          : piece.bytes.subarray(from, to),
      );
    }
    return concat(out);
  };
  return readReferences(scene, size, readNew);
}

/** Whether the new content says what was meant, and for the rest what the old one said. */
function saysWhatIsMeant(
  reading: FileReading,
  again: Reading | null,
  rewritings: readonly Rewriting[],
): boolean {
  if (!again || again.references.length !== reading.references.length) return false;
  const wanted = new Map(rewritings.map((r) => [r.reference.at, r.written]));
  const said = new Map(again.references.map((r) => [r.at, fullPath(r)]));
  for (const other of again.otherReadings ?? [])
    if (wanted.get(other.reference.at) === other.reference.written)
      said.set(other.reference.at, other.reference.written);
  for (const [at, written] of wanted)
    if (said.get(at) !== written && said.get(at) !== `./${written}`) return false;
  // Where one reading of a line was taken, its other readings say something else now.
  const other = new Set(reading.otherReadings?.flatMap((o) => (wanted.has(o.reference.at) ? o.instead : [])));
  return reading.references.every(
    (r, i) => wanted.has(r.at) || other.has(i) || said.get(r.at) === fullPath(r),
  );
}
