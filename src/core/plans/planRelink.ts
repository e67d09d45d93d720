// Points missing references to where their files are now: to those that are chosen, to those that moved in the same way, and, where that is
// asked for, to all that are sure. What is less sure (two alike, a near spelling) is named and left.

import { isOwn } from '../files/records';
import type { Basis, Note, PathChange, Plan, Step } from '../changes/plan';
import type { CancelSignal, OutsideFiles } from '../files/fileTree';
import { folderOf, isAbsolutePath, nameOf, type TreePath } from '../files/treePath';
import { fullPath, type Syntax } from '../formats/format';
import {
  isFolderAlike,
  NameIndex,
  reasonText,
  sureOne,
  type Candidate,
  type Evidence,
} from '../references/candidates';
import { isReady } from '../references/resolve';
import { keyOf, targetsOf, type JudgedReference } from '../references/scan';
import { setOf } from '../names/sequences';
import { isUsualName } from '../names/usual';
import { meaningOf } from '../references/meant';

import { isGuess, writtenAbsolute, writtenRelative, type Rewriting } from './rewrite';
import { SceneSet } from './sceneSet';
import type { Workspace } from './workspace';

export interface RelinkRequest {
  /** Folders outside the root to look in, absolute, with all below them. */
  search: readonly string[];
  /** Chosen by hand: a tree path inside the root, else absolute. */
  choices?: readonly { scene: string; at: string; to: string }[];
  /** True: what is missing from a folder that a choice shows to have moved is pointed to the new one too. */
  sameWay?: boolean;
  /** True: take everything that is sure. Absent: yes where nothing is chosen. */
  sure?: boolean;
  /** Only these references, where sure ones are taken; absent: all. */
  only?: readonly { scene: string; at: string }[] | undefined;
  /** What was last seen at a path inside the root. */
  seen?: ReadonlyMap<string, Evidence> | undefined;
  signal?: CancelSignal | undefined;
}

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
    if (!path.startsWith(`${workspace.root}/`))
      known.add(path, false, { size: (await workspace.outside.stat(path))?.size ?? null });
  return known;
}

/** A reference that is not found, with what is needed to point it elsewhere. */
interface Lost {
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
const isLookedFor = (r: JudgedReference) => r.state === 'missing' || r.state === 'case';

/** Every reference of the workspace that is missing or found in other letters only, those named in `chosen` in any state, and how many are ready of all. */
async function lostOnes(
  workspace: Workspace,
  notes: Note[] | null,
  signal?: CancelSignal,
  chosen: ReadonlyMap<string, string> = new Map(),
): Promise<{ lost: Lost[]; of: number; ready: number; scenes: SceneSet; claimed: Set<string> }> {
  const scenes = await SceneSet.of(workspace, { signal });
  const lost: Lost[] = [];
  const claimed = new Set<string>();
  let [of, ready] = [0, 0];
  for await (const { path, reading, references } of scenes.each())
    for (const reference of references) {
      of++;
      if (isReady(reference)) ready++;
      for (const file of targetsOf(reference)) claimed.add(file);
      const isChosen = chosen.has(keyOf(path, reference.at));
      if (
        !isChosen &&
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
      lost.push({
        scene: path,
        reference,
        syntax,
        ...meaning,
      });
    }
  return { lost, of, ready, scenes, claimed };
}

/** Names of what is missing, by the folder it is meant to lie in; no more of them than are looked at. */
type ByFolder = ReadonlyMap<string, readonly string[]>;

function byFolder(lost: readonly Lost[]): ByFolder {
  const found = new Map<string, Set<string>>();
  for (const { meant } of lost) {
    const names = found.get(folderOf(meant)) ?? new Set();
    found.set(folderOf(meant), names);
    if (names.size <= 40) names.add(nameOf(meant));
  }
  return new Map([...found].map(([folder, names]) => [folder, [...names]]));
}

/** What speaks for candidates of one: what was seen where it points, and who is referenced from the same folder. */
function evidenceOf(one: Lost, all: ByFolder, seen: RelinkRequest['seen']): Evidence {
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
function sureFor(
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

/** Two different missing files are not both the one file that is left: then neither is sure. */
function withoutRivals(taken: ReadonlyMap<Lost, Candidate>, notes: Note[]): Map<Lost, string> {
  const meant = new Map<string, Set<string>>();
  for (const [one, c] of taken) meant.set(c.path, (meant.get(c.path) ?? new Set()).add(one.meant));
  const kept = new Map<Lost, string>();
  for (const [one, c] of taken) {
    if (meant.get(c.path)!.size === 1 || c.reason === 'same content') kept.set(one, c.path);
    else
      notes.push({
        level: 'warning',
        code: 'not-sure',
        path: one.scene,
        message: `${fullPath(one.reference)} could be ${c.path}, and so could another missing file; it is left for you to choose.`,
      });
  }
  return kept;
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
async function sameWay(
  workspace: Workspace,
  meant: string,
  heads: { from: string; to: string },
): Promise<string | null> {
  // Without a head of its own only paths inside the root can have gone the same way.
  if (heads.from !== '' ? !meant.startsWith(`${heads.from}/`) : isAbsolutePath(meant)) return null;
  const path = [heads.to, meant.slice(heads.from === '' ? 0 : heads.from.length + 1)]
    .filter(Boolean)
    .join('/');
  const isOutside = isAbsolutePath(path);
  const kind = isOutside ? await workspace.outside.kind(path) : await workspace.tree.kind(path as TreePath);
  return kind === 'file' ? path : null;
}

/** Candidates for one reference, and how many others would be found the same way as by each. */
export interface Suggestions {
  candidates: (Candidate & { why: string; isSure: boolean; sameWay: number })[];
}

/** What could be meant by one missing reference, best first, at most `most`. */
export async function suggest(
  workspace: Workspace,
  of: { scene: string; at: string },
  request: Pick<RelinkRequest, 'search' | 'seen' | 'signal'>,
  most = 8,
): Promise<Suggestions> {
  const { lost, claimed } = await lostOnes(workspace, null, request.signal);
  const one = lost.find((l) => l.scene === of.scene && l.reference.at === of.at);
  if (!one) return { candidates: [] };
  const index = await indexOf(
    workspace,
    [...request.search, ...workspace.file.libraries.map((l) => l.path)],
    request.signal,
  );
  const evidence = evidenceOf(one, byFolder(lost), request.seen);
  const candidates = index.candidatesFor(one.path, evidence);
  const sure = sureFor(one, candidates, claimed, evidence);
  const shown: Suggestions['candidates'] = [];
  for (const c of candidates.slice(0, most)) {
    const heads = headsOf(one.meant, c.path);
    let others = 0;
    if (nameOf(c.path) === nameOf(one.meant))
      for (const o of lost) if (o !== one && (await sameWay(workspace, o.meant, heads)) !== null) others++;
    shown.push({ ...c, why: reasonText(c), isSure: c === sure, sameWay: others });
  }
  return { candidates: shown };
}

/** The plan that points missing references, and those in wrong letters, to the files that are meant. */
export async function planRelink(workspace: Workspace, request: RelinkRequest): Promise<Plan> {
  const notes: Note[] = [];
  const chosen = request.choices ?? [];
  const takeSure = request.sure ?? chosen.length === 0;
  const key = (o: { scene: string; at: string }) => keyOf(o.scene, o.at);
  const byHand = new Map(chosen.map((c) => [key(c), c.to]));
  const { lost, of, ready, scenes, claimed } = await lostOnes(
    workspace,
    takeSure ? notes : null,
    request.signal,
    byHand,
  );
  const targets = new Map<Lost, string>();
  const heads: { from: string; to: string }[] = [];
  for (const one of lost) {
    const given = byHand.get(keyOf(one.scene, one.reference.at));
    if (given === undefined) continue;
    // Of a set the set is meant, not the tile or frame that was pointed at.
    const set = setOf(nameOf(one.path), nameOf(given));
    const to = set === null ? given : given.slice(0, given.length - nameOf(given).length) + set;
    targets.set(one, to);
    if (one.meant !== '' && nameOf(to) === nameOf(one.meant)) heads.push(headsOf(one.meant, to));
  }
  if (request.sameWay)
    for (const one of lost)
      for (const h of heads) {
        const to = targets.has(one) || one.meant === '' ? null : await sameWay(workspace, one.meant, h);
        if (to !== null) targets.set(one, to);
      }
  if (takeSure) {
    const only = request.only && new Set(request.only.map(key));
    const index = await indexOf(
      workspace,
      [...request.search, ...workspace.file.libraries.map((l) => l.path)],
      request.signal,
    );
    const taken = new Map<Lost, Candidate>();
    const neighbourhoods = byFolder(lost);
    for (const one of lost) {
      if (
        targets.has(one) ||
        !isLookedFor(one.reference) ||
        (only && !only.has(keyOf(one.scene, one.reference.at)))
      )
        continue;
      if (one.reference.state === 'case') {
        targets.set(one, one.reference.target!);
        continue;
      }
      const evidence = evidenceOf(one, neighbourhoods, request.seen);
      const candidates = index.candidatesFor(one.path, evidence);
      const sure = sureFor(one, candidates, claimed, evidence);
      if (sure) taken.set(one, sure);
      else
        notes.push({
          level: 'warning',
          code: candidates.length > 0 ? 'not-sure' : 'missing',
          path: one.scene,
          message:
            candidates.length === 0
              ? `${fullPath(one.reference)} was found nowhere.`
              : `${fullPath(one.reference)} could be ${candidates
                  .slice(0, 3)
                  .map((c) => `${c.path} (${c.reason})`)
                  .join(', ')}; it is left for you to choose.`,
        });
    }
    for (const [one, to] of withoutRivals(taken, notes)) targets.set(one, to);
  }
  const steps: Step[] = [];
  const paths: PathChange[] = [];
  let gained = 0;
  const files: NonNullable<Basis['files']>[number][] = [];
  const byScene = new Map<TreePath, [Lost, string][]>();
  for (const target of targets)
    byScene.set(target[0].scene, [...(byScene.get(target[0].scene) ?? []), target]);
  for (const [scene, own] of byScene) {
    const read = await scenes.read(scene);
    if (!read) continue;
    const rewritings: Rewriting[] = [];
    for (const [o, to] of own) {
      const rests = await restOn(workspace, to);
      if (rests) files.push(rests);
      const isOutside = isAbsolutePath(to);
      rewritings.push({
        reference: o.reference,
        written: isOutside
          ? writtenAbsolute(read.reading, to, o.reference)
          : writtenRelative(read.reading, scene, to, o.reference),
      });
      const isLibrary = isOutside && workspace.file.libraries.some((l) => to.startsWith(`${l.path}/`));
      if (isReady(o.reference)) {
        if (isOutside) gained--;
      } else if (!isOutside) gained++;
      else if (!isLibrary)
        notes.push({
          level: 'info',
          code: 'outside',
          path: scene,
          message: `${nameOf(to)} is found outside the root, at ${to}; make it travel to bring it in.`,
        });
    }
    const done = await scenes.rewriteStep(read, rewritings);
    notes.push(...done.notes);
    paths.push(...done.paths);
    if (done.step) steps.push(done.step);
  }
  return {
    kind: 'relink',
    title: `Relink ${paths.length} ${paths.length === 1 ? 'reference' : 'references'}`,
    steps,
    paths,
    notes,
    readiness: { before: ready, after: ready + gained, of },
    basis: { files },
  };
}

/** What a reference is pointed to must still be there when the plan is applied. */
async function restOn(workspace: Workspace, to: string): Promise<NonNullable<Basis['files']>[number] | null> {
  const outside = isAbsolutePath(to);
  const stat = outside ? await workspace.outside.stat(to) : await workspace.tree.stat(to as TreePath);
  return stat && { path: to, outside, state: { size: stat.size, modified: stat.modified, digest: null } };
}
