// Carries files from one workspace, or any folder, into another, with what they need: references are valid there, the sources stay as they are.

import { foldersFor, type Basis, type Note, type PathChange, type Plan, type Step } from '../changes/plan';
import type { Closure } from '../collect/closure';
import { nameOf } from '../files/treePath';
import { count } from '../text/figures';
import type { Carrying, CarryClash } from './carrying';
import { leftNotes } from './planCollect';
import type { Workspace } from './workspace';

/** The plan, for the tree of the target. `name`: what is carried, in words. */
export async function planCarry(
  { tree }: Pick<Workspace, 'tree'>,
  closure: Closure,
  carrying: Carrying,
  name: string,
): Promise<Plan> {
  const done = await carriedSteps({ tree }, closure, carrying);
  const { steps, paths } = done;
  const notes: Note[] = [...closure.notes, ...leftNotes(closure.left), ...done.notes];
  const clashing = new Set(carrying.clashes.map((c) => c.from));
  let copies = 0;
  for (const { from, to, how } of carrying.files.values()) {
    if (how === 'there')
      notes.push({
        level: 'info',
        code: 'reused',
        message: `${nameOf(from)} is there already with the same content; ${to} is used.`,
        path: to,
      });
    if (how === 'there' || how === 'target') continue;
    copies++;
    if (how === 'copy' && nameOf(to) !== nameOf(from) && !clashing.has(from))
      notes.push({
        level: 'info',
        code: 'renamed',
        message: `${nameOf(from)} will be ${to}: its own name cannot be.`,
        path: to,
      });
  }
  notes.push(...carrying.clashes.map(clashNote));
  for (const from of carrying.inLibraries)
    notes.push({
      level: 'info',
      code: 'library',
      message: `${nameOf(from)} lies in a library that is known here; it is used there.`,
      path: from,
    });
  if (copies === 0) notes.push({ level: 'info', code: 'nothing', message: 'All of it is there already.' });
  return {
    kind: 'carry',
    title: `Carry over ${name}: ${count(copies, 'file')}`,
    steps,
    notes,
    paths,
    readiness: null,
    basis: carriedBasis(carrying),
  };
}

function clashNote({ from, there, both, way }: CarryClash): Note {
  const name = nameOf(from);
  const message = {
    both: `${there} is another file: ${name} comes as ${both}.`,
    replace: `${name} takes the place of ${there}: whatever uses that here shows the new one. Undo brings it back.`,
    target: `${there} is another file, and is used instead of ${name}.`,
  }[way];
  return { level: way === 'replace' ? 'warning' : 'info', code: `clash-${way}`, message, path: there };
}

/** The steps that put what is carried where it goes, and what is changed in it. */
export async function carriedSteps(
  { tree }: Pick<Workspace, 'tree'>,
  closure: Closure,
  carrying: Carrying,
): Promise<{ steps: Step[]; paths: PathChange[]; notes: Note[] }> {
  const steps: Step[] = [];
  const paths: PathChange[] = [];
  const notes: Note[] = [];
  const made = new Set<string>();
  for (const { from, to, how, before, content } of carrying.files.values()) {
    if (how === 'there' || how === 'target') continue;
    for (const step of foldersFor(to, (f) => made.has(f))) {
      made.add(step.path);
      if ((await tree.kind(step.path)) === null) steps.push(step);
    }
    paths.push(...content.paths);
    notes.push(...content.notes);
    const { state } = closure.files.get(from)!;
    steps.push({
      do: 'put',
      path: to,
      before,
      size: content.size,
      modified: state.modified,
      from: { from: 'outside', path: from, state, pieces: content.pieces },
    });
  }
  return { steps, paths, notes };
}

/** What a plan uses as it lies in the target. */
export const carriedBasis = (carrying: Carrying): Basis => ({
  files: [...carrying.files.values()].flatMap((f) =>
    f.before && (f.how === 'there' || f.how === 'target')
      ? [{ path: f.to, outside: false, state: f.before }]
      : [],
  ),
});
