// What scenes say of files, as far as moving needs it: which references follow, how they are written then, and what cannot be said and so holds
// its file where it is. References that are missing already stay as they are, to the byte.

import type { Note } from '../changes/plan';
import { folderOf, join, joinInside, nameOf, type TreePath, insideOf } from '../files/treePath';
import { sequencePattern, setOf } from '../names/sequences';
import type { Syntax } from '../formats/format';
import { filesOf, type JudgedReference } from '../references/scan';
import { understand } from '../references/written';
import type { LinkWorld, Place } from './placing';
import { writtenAbsolute, writtenRelative } from './rewrite';
import type { Scene } from './sceneSet';

/** What a scene says of one file inside the root or, from a scene that moves, outside it. */
export interface Tie {
  scene: TreePath;
  /** The files themselves; none for what lies outside. */
  files: readonly string[];
  target: string;
  /** False where the path stands in no text that can be changed. */
  canChange: boolean;
  reference: JudgedReference;
  syntax: Syntax;
}

/** The ties of one scene. */
export function tiesOf({ path, reading, references }: Scene): Tie[] {
  return references.flatMap((r): Tie[] =>
    r.target === null
      ? []
      : [
          {
            scene: path,
            files: filesOf(r),
            target: r.target,
            canChange: reading.rewrite !== undefined || r.span !== null,
            reference: r,
            syntax: r.syntax ?? reading.format.syntax,
          },
        ],
  );
}

/** Whether a tie has anything to do with the moves. */
export function isMoved(tie: Tie, place: Place): boolean {
  if (place(tie.scene) !== tie.scene) return true;
  return tie.files.length > 0 && (place(tie.target) !== tie.target || tie.files.some((f) => place(f) !== f));
}

/** Where the file that a reference inside the root means will lie; of a sequence the name with its marks. */
function targetAfter(r: JudgedReference, place: Place): TreePath {
  const [first] = filesOf(r);
  if (!r.members) return place(first ?? r.target!);
  return join(folderOf(place(first!)), setAfter(r, place) ?? nameOf(r.target!));
}

/** The name of a row of frames or tiles after the moves, with its marks; null where its files do not stay one row with the same numbers. */
function setAfter(r: JudgedReference, place: Place): string | null {
  const written = nameOf(r.target!);
  const files = filesOf(r);
  const moved = files.map(place);
  const name = setOf(written, nameOf(moved[0]!));
  const [before, after] = [sequencePattern(written), name === null ? null : sequencePattern(name)];
  if (!before || !after) return null;
  const isOneRow = moved.every(
    (m, i) =>
      folderOf(m) === folderOf(moved[0]!) && after.numberOf(nameOf(m)) === before.numberOf(nameOf(files[i]!)),
  );
  return isOneRow ? name : null;
}

/** Whether a reference, as it is written, leads to its file from the scene's new place `to`. */
function stillFinds(tie: Tie, to: TreePath, place: Place, links: LinkWorld): boolean {
  const { reference: r, syntax, scene } = tie;
  const target = tie.files.length === 0 ? (tie.target as TreePath) : targetAfter(r, place);
  const understood = understand(`${r.prefix ?? ''}${r.written}`, syntax);
  const isByItself =
    understood.form === 'absolute' ||
    r.via === 'search path' ||
    r.oddities.includes('working-folder') ||
    r.oddities.includes('home-folder');
  if ((to === scene || isByItself) && links.realAfter(r.target as TreePath) === target) return true;
  if (tie.files.length === 0) return isByItself;
  if (isByItself || understood.form !== 'relative') return false;
  const said = joinInside(folderOf(to), `${understood.path}${r.suffix ?? ''}`);
  return said !== null && links.realAfter(said) === target;
}

/** How a reference is written after the move; undefined where it stays, null where that cannot be said. */
export function newWriting(
  root: string,
  scene: Scene,
  tie: Tie,
  to: TreePath,
  place: Place,
  links: LinkWorld,
): string | null | undefined {
  const { reference: r, syntax } = tie;
  const understood = understand(`${r.prefix ?? ''}${r.written}`, syntax);
  const isAbsolute = understood.form === 'absolute';
  if (!r.inside)
    return isAbsolute || to === scene.path || r.oddities.includes('home-folder')
      ? undefined
      : writtenRelative(scene.reading, `${root}/${to}`, r.target!, r);
  if (stillFinds(tie, to, place, links)) return undefined;
  const target = links.sayAfter(r.target as TreePath, targetAfter(r, place));
  if (isAbsolute && insideOf(root, understood.path) !== null)
    return writtenAbsolute(scene.reading, `${root}/${target}`, r);
  return writtenRelative(scene.reading, to, target, r);
}

/** Takes a file out of the moves, with a note why; false where it did not move. A file in a folder that moves as a whole blocks the plan. */
export function hold(
  file: string,
  files: Map<string, string>,
  place: Place,
  notes: Note[],
  why: string,
): boolean {
  if (files.delete(file))
    notes.push({ level: 'warning', code: 'held', message: `${file} stays where it is: ${why}.`, path: file });
  else if (place(file) !== file && !notes.some((n) => n.path === file && n.code === 'held'))
    notes.push({ level: 'blocker', code: 'held', message: `${file} cannot be moved: ${why}.`, path: file });
  else return false;
  return true;
}

/** Takes out moves that would break what cannot be mended; what depends on them in turn is looked at again. */
export function holdBack(
  ties: Iterable<readonly Tie[]>,
  files: Map<string, string>,
  placeNow: () => { place: Place; links: LinkWorld },
  notes: Note[],
): void {
  const all = [...ties];
  for (let again = true; again;) {
    again = false;
    const { place, links } = placeNow();
    const holdOne = (file: string, why: string) => {
      if (hold(file, files, place, notes, why)) again = true;
    };
    for (const own of all)
      for (const tie of own) {
        if (!isMoved(tie, place)) continue;
        if (tie.files.length > 0 && tie.reference.members && setAfter(tie.reference, place) === null)
          for (const f of tie.files) {
            if (place(f) !== f) holdOne(f, 'its frames or tiles must keep their numbers and stay together');
          }
        else if (!tie.canChange && !stillFinds(tie, place(tie.scene), place, links)) {
          const why =
            tie.files.length === 0
              ? 'it is a packed file whose path to a file outside cannot be changed'
              : `${nameOf(tie.scene)} is a packed file whose paths cannot be changed`;
          for (const f of [tie.scene, ...tie.files]) if (place(f) !== f) holdOne(f, why);
        }
      }
  }
}
