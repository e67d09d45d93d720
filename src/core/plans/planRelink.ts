// Points missing references to where their files are now: to those that are chosen, to those that moved in the same way, and, where that is
// asked for, to all that are sure. What is less sure (two alike, a near spelling) is named and left.

import type { Basis, Note, PathChange, Plan, Step } from '../changes/plan';
import type { CancelSignal } from '../files/fileTree';
import { isAbsolutePath, nameOf, type TreePath } from '../files/treePath';
import { fullPath } from '../formats/format';
import { gapsOf, sequencePattern, setOf } from '../names/sequences';
import { reasonText, type Candidate, type Evidence, type NameIndex } from '../references/candidates';
import { isReady } from '../references/resolve';
import { type JudgedReference } from '../references/scan';
import { keyOf } from '../references/key';
import { candidatesForGap, chosenFilling, fillingSteps, sureFilling, type Filling } from './holes';
import {
  byFolder,
  evidenceOf,
  headsOf,
  indexOf,
  isLookedFor,
  lostOnes,
  membersAt,
  sameWay,
  sureFor,
  type Lost,
  type LostOnes,
} from './lost';
import { writtenAbsolute, writtenRelative, type Rewriting } from './rewrite';
import type { Scene } from './sceneSet';
import type { Workspace } from './workspace';
import { titleOfPaths } from './titles';

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

/** Candidates for one reference, and how many others would be found the same way as by each. */
export interface Suggestions {
  candidates: (Candidate & { why: string; isSure: boolean; sameWay: number })[];
}

/** What could be meant by one missing reference, or by the first file that a set lacks; best first, at most `most`. */
export async function suggest(
  workspace: Workspace,
  of: { scene: string; at: string },
  request: Pick<RelinkRequest, 'search' | 'seen' | 'signal'>,
  most = 8,
): Promise<Suggestions> {
  const found = await lostOnes(workspace, null, request.signal);
  const isIt = (l: Lost) => l.scene === of.scene && l.reference.at === of.at;
  const [one, holed] = [found.lost.find(isIt), found.holed.find(isIt)];
  if (!one && !holed) return { candidates: [] };
  const index = await searched(workspace, request);
  if (!one) {
    const { meant, candidates } = candidatesForGap(holed!, holed!.reference.gaps[0]!, index);
    const sure = sureFor({ ...holed!, meant, path: meant }, candidates, found.claimed, {});
    return {
      candidates: candidates
        .slice(0, most)
        .map((c) => ({ ...c, why: reasonText(c), isSure: c === sure, sameWay: 0 })),
    };
  }
  const evidence = evidenceOf(one, byFolder(found.lost), request.seen);
  const candidates = index.candidatesFor(one.path, evidence);
  const sure = sureFor(one, candidates, found.claimed, evidence);
  const shown: Suggestions['candidates'] = [];
  for (const c of candidates.slice(0, most)) {
    const heads = headsOf(one.meant, c.path);
    let others = 0;
    if (nameOf(c.path) === nameOf(one.meant))
      for (const o of found.lost)
        if (o !== one && (await sameWay(workspace, o.meant, heads)) !== null) others++;
    shown.push({ ...c, why: reasonText(c), isSure: c === sure, sameWay: others });
  }
  return { candidates: shown };
}

/** The index of all that may be looked in. */
function searched(
  workspace: Workspace,
  request: Pick<RelinkRequest, 'search' | 'signal'>,
): Promise<NameIndex> {
  const libraries = workspace.file.libraries.map((l) => l.path);
  return indexOf(workspace, [...request.search, ...libraries], request.signal);
}

/** A plan to relink being worked out. */
interface Work extends LostOnes {
  workspace: Workspace;
  request: RelinkRequest;
  notes: Note[];
  /** Where each reference is pointed: a tree path inside the root, else absolute; of a set the path with its marks. */
  targets: Map<Lost, string>;
  /** What sets lack, and where it is. */
  fillings: Map<Lost, Filling>;
}

const keyOfRequest = (o: { scene: string; at: string }) => keyOf(o.scene, o.at);

/** The plan that points missing references, and those in wrong letters, to the files that are meant, and brings sets what they lack. */
export async function planRelink(workspace: Workspace, request: RelinkRequest): Promise<Plan> {
  const notes: Note[] = [];
  const chosen = request.choices ?? [];
  const takesSure = request.sure ?? chosen.length === 0;
  const byHand = new Map(chosen.map((c) => [keyOfRequest(c), c.to]));
  const found = await lostOnes(workspace, takesSure ? notes : null, request.signal, byHand);
  const work: Work = { ...found, workspace, request, notes, targets: new Map(), fillings: new Map() };
  await takeChosen(work, byHand);
  if (takesSure) await takeSure(work);
  const fills = await fillingSteps(workspace, work.fillings, notes);
  const { steps, paths, files, gained } = await pointed(work);
  const title = (n: number, one: string) => `${n} ${n === 1 ? one : `${one}s`}`;
  const copied = fills.length > 0 ? `Bring ${title(fills.length, 'missing file')} to its set` : '';
  return {
    kind: 'relink',
    title:
      paths.length === 0 && copied
        ? copied
        : `${titleOfPaths('Relink', paths, 'reference')}${copied && ` and ${copied.replace('Bring', 'bring')}`}`,
    steps: [...fills, ...steps],
    paths,
    notes,
    readiness: { before: work.ready, after: work.ready + gained, of: work.of },
    basis: { files },
  };
}

/** What was chosen by hand, and, where that is asked for, what went the same way. */
async function takeChosen(work: Work, byHand: ReadonlyMap<string, string>): Promise<void> {
  const { workspace, request, targets, lost } = work;
  const heads: { from: string; to: string }[] = [];
  const given = (one: Lost) => byHand.get(keyOf(one.scene, one.reference.at));
  const point = (one: Lost, file: string) => {
    // Of a set the set is meant, not the tile or frame that was pointed at.
    const set = setOf(nameOf(one.path), nameOf(file));
    const to = set === null ? file : file.slice(0, file.length - nameOf(file).length) + set;
    targets.set(one, to);
    if (one.meant !== '' && nameOf(to) === nameOf(one.meant)) heads.push(headsOf(one.meant, to));
  };
  for (const one of lost) {
    const file = given(one);
    if (file !== undefined) point(one, file);
  }
  for (const one of work.holed) {
    const file = given(one);
    if (file === undefined) continue;
    const filling = await chosenFilling(workspace, one, file);
    if (filling === null) point(one, file);
    else work.fillings.set(one, filling);
  }
  if (!request.sameWay) return;
  for (const one of lost)
    for (const h of heads) {
      const to = targets.has(one) || one.meant === '' ? null : await sameWay(workspace, one.meant, h);
      if (to !== null) targets.set(one, to);
    }
}

/** What is sure. */
async function takeSure(work: Work): Promise<void> {
  const { workspace, request, notes, targets, lost, claimed } = work;
  const only = request.only && new Set(request.only.map(keyOfRequest));
  const isAsked = (one: Lost) => !only || only.has(keyOf(one.scene, one.reference.at));
  const index = await searched(workspace, request);
  const taken = new Map<Lost, Candidate>();
  const neighbourhoods = byFolder(lost);
  for (const one of lost) {
    if (targets.has(one) || !isLookedFor(one.reference) || !isAsked(one)) continue;
    if (one.reference.state === 'case') {
      targets.set(one, one.reference.target!);
      continue;
    }
    const evidence = evidenceOf(one, neighbourhoods, request.seen);
    const candidates = index.candidatesFor(one.path, evidence, false);
    const sure = sureFor(one, candidates, claimed, evidence);
    if (sure) taken.set(one, sure);
    else notes.push(unsureNote(one, candidates));
  }
  for (const [one, to] of withoutRivals(taken, notes)) targets.set(one, to);
  for (const one of work.holed) {
    if (targets.has(one) || work.fillings.has(one) || !isAsked(one)) continue;
    const filling = sureFilling(one, index, claimed, evidenceOf(one, neighbourhoods, undefined), notes);
    if (filling.size > 0) work.fillings.set(one, filling);
  }
}

function unsureNote(one: Lost, candidates: readonly Candidate[]): Note {
  const could = candidates
    .slice(0, 3)
    .map((c) => `${c.path} (${c.reason})`)
    .join(', ');
  return {
    level: 'warning',
    code: candidates.length > 0 ? 'not-sure' : 'missing',
    path: one.scene,
    message: could
      ? `${fullPath(one.reference)} could be ${could}; it is left for you to choose.`
      : `${fullPath(one.reference)} was found nowhere.`,
  };
}

type BasisFile = NonNullable<Basis['files']>[number];

interface Pointed {
  steps: Step[];
  paths: PathChange[];
  /** What references are pointed to. */
  files: BasisFile[];
  /** How many references more are ready. */
  gained: number;
}

/** The scenes with their new paths. */
async function pointed(work: Work): Promise<Pointed> {
  const { targets, scenes, notes, fillings } = work;
  const done: Pointed = { steps: [], paths: [], files: [], gained: 0 };
  for (const [{ reference }, filling] of fillings)
    if (reference.gaps.every((n) => filling.has(n)) && isReady({ ...reference, gaps: [] })) done.gained++;
  const byScene = new Map<TreePath, [Lost, string][]>();
  for (const target of targets)
    byScene.set(target[0].scene, [...(byScene.get(target[0].scene) ?? []), target]);
  for (const [path, own] of byScene) {
    const scene = await scenes.read(path);
    if (!scene) continue;
    const rewritings: Rewriting[] = [];
    for (const [one, to] of own) rewritings.push(await pointedTo(work, scene, one, to, done));
    const rewritten = await scenes.rewriteStep(scene, rewritings);
    notes.push(...rewritten.notes);
    done.paths.push(...rewritten.paths);
    if (rewritten.step) done.steps.push(rewritten.step);
  }
  return done;
}

async function pointedTo(
  { workspace, notes }: Work,
  scene: Scene,
  one: Lost,
  to: string,
  done: Pointed,
): Promise<Rewriting> {
  const { reference } = one;
  done.files.push(...(await restOn(workspace, to)));
  const isOutside = isAbsolutePath(to);
  if (isReady(reference)) {
    if (isOutside) done.gained--;
  } else if (!isOutside) {
    if (await isWhole(workspace, reference, to)) done.gained++;
  } else if (!workspace.file.libraries.some((l) => to.startsWith(`${l.path}/`)))
    notes.push({
      level: 'info',
      code: 'outside',
      path: scene.path,
      message: `${nameOf(to)} is found outside the root, at ${to}; make it travel to bring it in.`,
    });
  return {
    reference,
    written: isOutside
      ? writtenAbsolute(scene.reading, to, reference)
      : writtenRelative(scene.reading, scene.path, to, reference),
  };
}

/** Whether a set has no gaps where it is pointed to; one file always is. */
async function isWhole(workspace: Workspace, r: JudgedReference, to: string): Promise<boolean> {
  const set = sequencePattern(nameOf(to));
  if (!set) return true;
  const numbers = (await membersAt(workspace, to)).map((m) => m.number);
  return gapsOf(numbers, set.of, r.frames).length === 0;
}

/** What a reference is pointed to must still be there when the plan is applied. */
async function restOn(workspace: Workspace, to: string): Promise<BasisFile[]> {
  const outside = isAbsolutePath(to);
  const members = await membersAt(workspace, to);
  const folder = to.slice(0, to.length - nameOf(to).length);
  const found: BasisFile[] = [];
  for (const path of members.length > 0 ? members.map((m) => folder + m.name) : [to]) {
    const stat = outside ? await workspace.outside.stat(path) : await workspace.tree.stat(path as TreePath);
    if (stat)
      found.push({ path, outside, state: { size: stat.size, modified: stat.modified, digest: null } });
  }
  return found;
}
