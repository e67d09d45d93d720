// Undo: an applied plan, turned round, as a plan of its own; so redo is undoing the undo.

import { AppError } from '../errors';
import type { FileTree } from '../files/fileTree';
import { touches } from './depends';
import type { About, JournalRecord } from './journal';
import { isWithin, type TreePath } from '../files/treePath';
import { whereBefore, type Plan, type Step } from './plan';

/** The plan that undoes an applied one. Steps that had nothing to do have nothing to undo. */
export function invert(record: JournalRecord): Plan {
  const steps: Step[] = [];
  for (let i = record.plan.steps.length - 1; i >= 0; i--) {
    const about = record.about.get(i);
    if (about && !about.skip) steps.push(invertStep(record.plan.steps[i]!, about));
  }
  const title =
    record.plan.kind === 'undo'
      ? `Redo: ${record.plan.title.replace(/^Undo: /, '')}`
      : `Undo: ${record.plan.title}`;
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
    case 'move-folder':
      return { do: 'move-folder', path: step.to, to: step.path };
    case 'remove':
      return {
        do: 'put',
        path: step.path,
        before: null,
        size: step.before.size,
        modified: step.before.modified,
        from: { from: 'store', digest: about.kept! },
      };
    case 'put': {
      const after = { size: step.size, modified: 0, digest: about.digest };
      if (step.before === null) return { do: 'remove', path: step.path, before: after };
      return {
        do: 'put',
        path: step.path,
        before: after,
        size: step.before.size,
        modified: step.before.modified,
        from: { from: 'store', digest: about.kept! },
      };
    }
  }
}

/** The undo of a record as a plan whose notes say what stands in its way: a file changed since blocks it. `later`: plans that came after it and still hold, to name the one that changed the file. */
export async function planUndo(
  tree: FileTree,
  record: JournalRecord,
  later: readonly JournalRecord[] = [],
): Promise<Plan> {
  if (record.end?.how !== 'applied')
    throw new AppError('bad-request', `“${record.plan.title}” was not applied, so there is nothing to undo.`);
  const plan = invert(record);
  const notes = [...plan.notes];
  const checked = new Set<string>();
  const moves: { path: TreePath; to: TreePath }[] = [];
  const block = (code: string, path: string, message: string) => {
    const by = later.findLast((r) => touches(r.plan, path));
    notes.push({
      level: 'blocker',
      code,
      message: by ? `${message.replace(/\.$/, '')}, by “${by.plan.title}”. Undo that first.` : message,
      path,
    });
  };
  for (const step of plan.steps) {
    const at = whereBefore(moves, step.path);
    const isFirst = !checked.has(at);
    checked.add(at);
    if (step.do === 'move-folder' || step.do === 'move') {
      if (
        !moves.some((m) => isWithin(step.to, m.path)) &&
        !checked.has(step.to) &&
        (await tree.kind(step.to)) !== null
      )
        block('in-the-way', step.to, `${step.to} is there again; undoing would overwrite it.`);
      moves.push(step);
    }
    if (!isFirst) continue;
    if (step.do === 'move-folder') {
      if ((await tree.kind(at)) !== 'folder') block('gone', at, `The folder ${at} is not there any more.`);
      continue;
    }
    const before =
      step.do === 'put' || step.do === 'remove' ? step.before : step.do === 'move' ? step.content : null;
    if (before?.digest === null) {
      const stat = await tree.stat(at);
      if (!stat) block('gone', at, `${at} is not there any more.`);
      else if (stat.size !== before.size || stat.modified !== before.modified)
        block('changed-since', at, `${at} was changed since.`);
      continue;
    }
    const now = await tree.digest(at);
    if (step.do === 'put' && step.before === null && now !== null && !moves.some((m) => isWithin(at, m.path)))
      block('in-the-way', at, `${at} is there again; undoing would overwrite it.`);
    else if (before && now === null) block('gone', at, `${at} is not there any more.`);
    else if (before && now !== before.digest) block('changed-since', at, `${at} was changed since.`);
  }
  return { ...plan, notes };
}
