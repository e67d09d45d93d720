// References that are not found, or not whole, and what speaks for the files that could be meant.

import { isOwn } from '../files/records';
import type { Note } from '../changes/plan';
import type { CancelSignal, OutsideFiles } from '../files/fileTree';
import { folderOf, isAbsolutePath, nameOf, type TreePath, insideOf } from '../files/treePath';
import { fullPath, type Syntax } from '../formats/format';
import { sequencePattern } from '../names/sequences';
import { isUsualName } from '../names/usual';
import { isFolderAlike, NameIndex, sureOne, type Candidate, type Evidence } from '../references/candidates';
import { meaningOf } from '../references/meant';
import { isReady } from '../references/resolve';
import { targetsOf, type JudgedReference } from '../references/scan';
import { keyOf } from '../references/key';
import { isGuess } from './rewrite';
import { SceneSet } from './sceneSet';
import type { Workspace } from './workspace';

const mostSearched = 1_000_000;

/** Every file below a folder, folders behind links left out; `into` hears each. */
async function filesBelow(
  outside: OutsideFiles,
  folder: string,
  into: (path: string) => void,
  signal?: CancelSignal,
): Promise<void> {
  const waiting = [folder];
  for (let n = 0; waiting.length > 0 && n < mostSearched; n++) {
    signal?.throwIfAborted();
    const at = waiting.pop()!;
    if (outside.mayRead?.(at) === false) continue;
    for (const e of (await outside.entries(at)) ?? []) {
      const path = `${at === '/' ? '' : at}/${e.name}`;
      if (e.kind === 'file') into(path);
      else if (e.kind === 'folder' && e.link === undefined) waiting.push(path);
    }
  }
}

/** Files to look in: all of the workspace, and those of the folders and libraries given. */
export async function indexOf(
  workspace: Workspace,
  search: readonly string[],
  signal?: CancelSignal,
): Promise<NameIndex> {
  const known = new NameIndex();
  for await (const f of workspace.tree.list()) if (!isOwn(f.path)) known.add(f.path, true, { size: f.size });
  const outside: string[] = [];
  for (const folder of search)
    await filesBelow(workspace.outside, folder, (path) => outside.push(path), signal);
  for (const path of new Set(outside))
    if (insideOf(workspace.root, path) === null)
      known.add(path, false, { size: (await workspace.outside.stat(path))?.size ?? null });
  return known;
}

/** A reference that is not found, with what is needed to point it elsewhere. */
export interface Lost {
  scene: TreePath;
  reference: JudgedReference;
  syntax: Syntax;
  tail: string;
  /** As it is written, '/'-separated. */
  path: string;
  /** The file it means: a tree path where that lies inside the root, else absolute, else as it is written. */
  meant: string;
}

/** Whether a file is looked for without being asked: nothing lies there, or only in other letters. */
export const isLookedFor = (r: JudgedReference) => r.state === 'missing' || r.state === 'case';

/** What a workspace's scenes do not find. */
export interface LostOnes {
  lost: Lost[];
  /** Sets inside the root that are there, but not whole. */
  holed: Lost[];
  /** How many references there are, and how many of them are ready. */
  of: number;
  ready: number;
  scenes: SceneSet;
  /** Files that references find, and sets by their path with its marks. */
  claimed: Set<string>;
}

/** Every reference of the workspace that is missing, found in other letters only, or a set with gaps, and those named in `chosen` in any state. */
export async function lostOnes(
  workspace: Workspace,
  notes: Note[] | null,
  signal?: CancelSignal,
  chosen: ReadonlyMap<string, string> = new Map(),
): Promise<LostOnes> {
  const scenes = await SceneSet.of(workspace, { signal });
  const lost: Lost[] = [];
  const holed: Lost[] = [];
  const claimed = new Set<string>();
  let [of, ready] = [0, 0];
  for await (const { path, reading, references } of scenes.each())
    for (const reference of references) {
      of++;
      if (isReady(reference)) ready++;
      for (const file of targetsOf(reference)) claimed.add(file);
      if (reference.members) claimed.add(reference.target!);
      const isHoled = reference.inside && reference.gaps.length > 0 && reference.uncertain !== true;
      const isChosen = chosen.has(keyOf(path, reference.at));
      if (
        !isChosen &&
        !isHoled &&
        (!isLookedFor(reference) || (notes ? isGuess(reference, path, notes) : reference.uncertain === true))
      )
        continue;
      const syntax = reference.syntax ?? reading.format.syntax;
      const meaning = meaningOf(workspace.root, path, fullPath(reference), syntax);
      if (!meaning) {
        // A web address has no path to be looked for; by hand it may be pointed anywhere.
        if (isChosen) lost.push({ scene: path, reference, syntax, tail: '', path: '', meant: '' });
        continue;
      }
      (isHoled ? holed : lost).push({ scene: path, reference, syntax, ...meaning });
    }
  return { lost, holed, of, ready, scenes, claimed };
}

/** Names of what is missing, by the folder it is meant to lie in; no more of them than are looked at. */
export type ByFolder = ReadonlyMap<string, readonly string[]>;

export function byFolder(lost: readonly Lost[]): ByFolder {
  const found = new Map<string, Set<string>>();
  for (const { meant } of lost) {
    const names = found.get(folderOf(meant)) ?? new Set();
    found.set(folderOf(meant), names);
    if (names.size <= 40) names.add(nameOf(meant));
  }
  return new Map([...found].map(([folder, names]) => [folder, [...names]]));
}

/** What speaks for candidates of one: what was seen where it points, and who is referenced from the same folder. */
export function evidenceOf(
  one: Lost,
  all: ByFolder,
  seen: ReadonlyMap<string, Evidence> | undefined,
): Evidence {
  const neighbours = (all.get(folderOf(one.meant)) ?? []).filter((name) => name !== nameOf(one.meant));
  return {
    ...seen?.get(one.meant),
    ...(neighbours.length > 0 ? { neighbours } : {}),
  };
}

/**
 * The candidate that is sure; null where none is. A name alone says little: another's own `diffuse.png` has it, and `1k/wood.png` is not
 * `4k/wood.png`. So its size or content was seen before, or the folder agrees; and what others use already, and find, is theirs unless more agrees.
 */
export function sureFor(
  one: Lost,
  candidates: readonly Candidate[],
  claimed: ReadonlySet<string>,
  evidence: Evidence,
): Candidate | null {
  const sure = sureOne(candidates);
  if (!sure || sure.reason === 'same content') return sure;
  if (evidence.size !== undefined && sure.size === evidence.size) return sure;
  if (!isFolderAlike(one.meant, sure.path)) return isOneOfItsName(one, candidates, claimed) ? sure : null;
  if (!claimed.has(sure.path) || !isUsualName(one.meant)) return sure;
  const folders = folderOf(one.meant).split('/').length;
  return sure.folders >= Math.min(2, folders) || headsOf(one.meant, sure.path).from === '' ? sure : null;
}

/** Whether the name alone is enough: nobody else has it or uses the file, it is no usual one, and no other size or step of the same (`1k` for `4k`). */
function isOneOfItsName(one: Lost, candidates: readonly Candidate[], claimed: ReadonlySet<string>): boolean {
  const [first, second] = candidates;
  const isNumbered = (path: string) => /\d/.test(nameOf(folderOf(path)));
  return (
    !second?.reason.startsWith('same name') &&
    !claimed.has(first!.path) &&
    !isUsualName(one.meant) &&
    !(isNumbered(one.meant) && isNumbered(first!.path))
  );
}

/** Where something went, told by one file: the head that changed, when what is equal at the end is left out. */
export function headsOf(meant: string, to: string): { from: string; to: string } {
  const [a, b] = [meant.split('/'), to.split('/')];
  let n = 0;
  while (n < a.length && n < b.length && a[a.length - 1 - n] === b[b.length - 1 - n]) n++;
  return {
    from: a.slice(0, a.length - Math.max(1, n)).join('/'),
    to: b.slice(0, b.length - Math.max(1, n)).join('/'),
  };
}

/** Where a missing file lies if it went the same way; null where nothing is there. */
export async function sameWay(
  workspace: Workspace,
  meant: string,
  heads: { from: string; to: string },
): Promise<string | null> {
  // Without a head of its own only paths inside the root can have gone the same way.
  if (heads.from !== '' ? !meant.startsWith(`${heads.from}/`) : isAbsolutePath(meant)) return null;
  const path = [heads.to, meant.slice(heads.from === '' ? 0 : heads.from.length + 1)]
    .filter(Boolean)
    .join('/');
  return (await isThere(workspace, path)) ? path : null;
}

/** Whether a file lies at a path, or for the path of a set any of its files. */
async function isThere({ tree, outside }: Workspace, path: string): Promise<boolean> {
  const isOutside = isAbsolutePath(path);
  const kind = isOutside ? await outside.kind(path) : await tree.kind(path as TreePath);
  return kind === 'file' || (await membersAt({ tree, outside }, path)).length > 0;
}

/** Names of the files that the path of a set stands for, with their numbers; none where it is the path of one file. */
export async function membersAt(
  { tree, outside }: Pick<Workspace, 'tree' | 'outside'>,
  path: string,
): Promise<{ name: string; number: number }[]> {
  const set = sequencePattern(nameOf(path));
  if (!set) return [];
  const folder = folderOf(path);
  const entries = isAbsolutePath(path)
    ? await outside.entries(folder)
    : await tree.entries(folder as TreePath);
  return (entries ?? []).flatMap(({ name, kind }) => {
    const number = kind === 'file' ? set.numberOf(name) : null;
    return number === null ? [] : [{ name, number }];
  });
}
