// Tiles and frames that a set inside the root lacks and that lie elsewhere: copied to where the set lies, under their own names. A set is not
// pointed to a folder that holds less of it than its own does.

import type { Note, Source, Step } from '../changes/plan';
import { folderOf, isAbsolutePath, join, nameOf, type TreePath } from '../files/treePath';
import { sampleOf, sequencePattern } from '../names/sequences';
import type { Candidate, Evidence, NameIndex } from '../references/candidates';
import { membersAt, sureFor, type Lost } from './lost';
import { stateOf, type Workspace } from './workspace';

/** The path of a set, where its files lie. */
const placeOf = (one: Lost) => (one.reference.real ?? one.reference.target)! as TreePath;

/** Candidates for one number that a set lacks, best first, and where it is meant to lie. */
export function candidatesForGap(
  one: Lost,
  number: number,
  index: NameIndex,
  evidence: Evidence = {},
): { meant: TreePath; candidates: Candidate[] } {
  const at = placeOf(one);
  const found = index.membersOf(nameOf(at), sequencePattern(nameOf(at))!).filter((m) => m.number === number);
  const name = found[0] ? nameOf(found[0].path) : sampleOf(nameOf(at))!;
  const meant = join(folderOf(at), name);
  const paths = new Set(found.map((f) => f.path));
  return { meant, candidates: index.candidatesFor(meant, evidence, false).filter((c) => paths.has(c.path)) };
}

/** Numbers of a set, and the files they are copied from. */
export type Filling = Map<number, string>;

/** What is sure to be the files a set lacks; what is not is told. */
export function sureFilling(
  one: Lost,
  index: NameIndex,
  claimed: ReadonlySet<string>,
  evidence: Evidence,
  notes: Note[],
): Filling {
  const filling: Filling = new Map();
  const unsure: number[] = [];
  for (const number of one.reference.gaps) {
    const { meant, candidates } = candidatesForGap(one, number, index, evidence);
    const sure = sureFor({ ...one, meant, path: meant }, candidates, claimed, evidence);
    if (sure) filling.set(number, sure.path);
    else if (candidates.length > 0) unsure.push(number);
  }
  if (unsure.length > 0)
    notes.push({
      level: 'warning',
      code: 'not-sure',
      path: one.scene,
      message: `For ${unsure.slice(0, 5).join(', ')}${unsure.length > 5 ? ' …' : ''} of ${nameOf(placeOf(one))} there is more than one file, or another's; it is left for you to choose.`,
    });
  return filling;
}

/**
 * What a file chosen by hand means for a set with gaps: the files of its folder that the set lacks; null where that folder has all that the set
 * has, so that the set itself is meant to lie there.
 */
export async function chosenFilling(workspace: Workspace, one: Lost, given: string): Promise<Filling | null> {
  const there = await membersAt(workspace, [folderOf(given), nameOf(placeOf(one))].filter(Boolean).join('/'));
  const here = await membersAt(workspace, placeOf(one));
  const numbers = new Set(there.map((m) => m.number));
  if (there.length === 0 || here.every((m) => numbers.has(m.number))) return null;
  const gaps = new Set(one.reference.gaps);
  const folder = folderOf(given);
  return new Map(
    there
      .filter((m) => gaps.has(m.number))
      .map((m) => [m.number, folder === '' ? m.name : `${folder}/${m.name}`]),
  );
}

/** The steps that copy what sets lack; each file once, though several scenes use its set. */
export async function fillingSteps(
  workspace: Workspace,
  fillings: ReadonlyMap<Lost, Filling>,
  notes: Note[],
): Promise<Step[]> {
  const { tree } = workspace;
  const steps = new Map<string, Step>();
  for (const [one, filling] of fillings)
    for (const from of filling.values()) {
      const path = join(folderOf(placeOf(one)), nameOf(from));
      if (steps.has(path) || (await tree.kind(path)) !== null) continue;
      const source = await sourceOf(workspace, from);
      if (source) {
        const { size, modified } = source.state;
        steps.set(path, { do: 'put', path, before: null, size, modified, from: source });
      } else
        notes.push({
          level: 'warning',
          code: 'not-allowed',
          message: `${from} cannot be read. Allow its folder under Workspaces, then plan again.`,
          path: from,
        });
    }
  return [...steps.values()];
}

/** A file as the source of a copy, inside the root or outside; null where it cannot be read. */
async function sourceOf(
  { tree, outside }: Workspace,
  from: string,
): Promise<Extract<Source, { from: 'tree' | 'outside' }> | null> {
  if (!isAbsolutePath(from)) {
    const state = await stateOf(tree, from as TreePath);
    return state && { from: 'tree', path: from as TreePath, state, pieces: null };
  }
  const stat = outside.mayRead?.(from) === false ? null : await outside.stat(from);
  return stat && { from: 'outside', path: from, state: { ...stat, digest: null }, pieces: null };
}
