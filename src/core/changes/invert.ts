// Undo: an applied plan, turned round, as a plan of its own; so redo is undoing the undo.

import { AppError } from '../errors';
import type { FileTree } from '../files/fileTree';
import type { About, JournalRecord } from './journal';
import type { Plan, Step } from './plan';

/** The plan that undoes an applied one. Steps that had nothing to do have nothing to undo. */
export function invert(record: JournalRecord): Plan {
  const steps: Step[] = [];
  for (let i = record.plan.steps.length - 1; i >= 0; i--) {
    const about = record.about.get(i);
    if (about && !about.skip) steps.push(invertStep(record.plan.steps[i]!, about));
  }
  const title = record.plan.kind === 'undo' ? `Redo: ${record.plan.title.replace(/^Undo: /, '')}` : `Undo: ${record.plan.title}`;
  const paths = record.plan.paths.map((p) => ({ ...p, before: p.after, after: p.before }));
  return { kind: 'undo', title, steps, notes: [], paths, readiness: null, undoes: record.id };
}

function invertStep(step: Step, about: About): Step {
  switch (step.do) {
    case 'make-folder':
      return { do: 'remove-folder', path: step.path };
    case 'remove-folder':
      return { do: 'make-folder', path: step.path };
    case 'move':
      return { do: 'move', path: step.to, to: step.path, content: step.content };
    case 'remove':
      return { do: 'put', path: step.path, before: null, size: step.before.size, modified: step.before.modified, from: { from: 'store', digest: about.kept! } };
    case 'put': {
      const after = { size: step.size, modified: 0, digest: about.digest };
      if (step.before === null) return { do: 'remove', path: step.path, before: after };
      return { do: 'put', path: step.path, before: after, size: step.before.size, modified: step.before.modified, from: { from: 'store', digest: about.kept! } };
    }
  }
}

/** The undo of a record as a plan whose notes say what stands in its way: a file changed since blocks it. */
export async function planUndo(tree: FileTree, record: JournalRecord): Promise<Plan> {
  if (record.end?.how !== 'applied') throw new AppError('bad-request', `“${record.plan.title}” was not applied, so there is nothing to undo.`);
  const plan = invert(record);
  const notes = [...plan.notes];
  const checked = new Set<string>();
  for (const step of plan.steps) {
    if (checked.has(step.path)) continue;
    checked.add(step.path);
    const before = step.do === 'put' || step.do === 'remove' ? step.before : step.do === 'move' ? step.content : null;
    const now = await tree.digest(step.path);
    if (step.do === 'put' && step.before === null && now !== null) notes.push({ level: 'blocker', code: 'in-the-way', message: `${step.path} is there again; undoing would overwrite it.`, path: step.path });
    else if (before && now === null) notes.push({ level: 'blocker', code: 'gone', message: `${step.path} is not there any more.`, path: step.path });
    else if (before && before.digest !== null && now !== before.digest) notes.push({ level: 'blocker', code: 'changed-since', message: `${step.path} was changed since.`, path: step.path });
  }
  return { ...plan, notes };
}
