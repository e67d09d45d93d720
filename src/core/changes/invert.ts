// Undo: an applied plan, turned round, as a plan of its own; so redo is undoing the undo.

import { AppError } from '../errors';
import type { FileTree } from '../files/fileTree';
import { sameTime } from '../files/times';
import { folderOf, isWithin, join, type TreePath } from '../files/treePath';
import type { LaterPlan } from './depends';
import type { About, JournalRecord } from './journal';
import { Moves } from './moves';
import type { FileState, Note, Plan, Step } from './plan';

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
      return { do: 'make-folder', path: step.path, mode: about.was?.mode };
    case 'move':
      return { do: 'move', path: step.to, to: step.path, content: step.content };
    case 'move-folder':
      return { do: 'move-folder', path: step.to, to: step.path };
    case 'link':
      return { do: 'link', path: step.path, before: step.after, after: step.before };
    case 'remove':
      return { ...putKept(step.path, step.before, about), before: null, mode: about.was?.mode };
    case 'put': {
      const after = { size: step.size, modified: about.modified ?? step.modified ?? 0, digest: about.digest };
      if (step.before === null) return { do: 'remove', path: step.path, before: after };
      return { ...putKept(step.path, step.before, about), before: after };
    }
  }
}

/** The step that brings back what was kept of a file. */
function putKept(path: TreePath, before: FileState, about: About): Step & { do: 'put' } {
  return {
    do: 'put',
    path,
    before: null,
    size: before.size,
    modified: about.was?.modified ?? before.modified,
    from: { from: 'store', digest: about.kept! },
  };
}

type Finding = { code: string; path: string; message: string };

/** What stands in the way of an undo at one step; null: nothing. 'drop': what it would take away is gone already. */
async function findingAt(
  tree: FileTree,
  step: Step,
  at: TreePath,
  hasLeft: (path: string) => boolean,
): Promise<Finding | 'drop' | null> {
  const gone = (path: string) => ({ code: 'gone', path, message: `${path} is not there any more.` });
  const changed = { code: 'changed-since', path: at, message: `${at} was changed since.` };
  if (step.do === 'move-folder') return (await tree.kind(at)) === 'folder' ? null : gone(at);
  if (step.do === 'make-folder' || step.do === 'remove-folder') return null;
  const isNew = (step.do === 'put' || step.do === 'link') && step.before === null;
  if (isNew)
    return (await tree.kind(at)) !== null && !hasLeft(at)
      ? { code: 'in-the-way', path: at, message: `${at} is there again; undoing would overwrite it.` }
      : null;
  const link = step.do === 'link' ? step.before! : step.do === 'move' ? step.content.link : undefined;
  if (link !== undefined) {
    const text = await tree.readLink(at);
    return text === link ? null : text === null && (await tree.kind(at)) === null ? gone(at) : changed;
  }
  const before = step.do === 'move' ? step.content : (step as Step & { do: 'put' | 'remove' }).before!;
  const kind = await tree.kind(at);
  if (kind === null) return step.do === 'remove' ? 'drop' : gone(at);
  if (kind !== 'file') return changed;
  const stat = await tree.stat(at);
  if (stat?.size !== before.size) return changed;
  const isSame =
    before.digest === null
      ? sameTime(stat.modified, before.modified)
      : (await tree.digest(at)) === before.digest;
  return isSame ? null : changed;
}

/** The undo of a record as a plan whose notes say what stands in its way. `later`: plans that came after it, still hold, and have touched the same files. */
export async function planUndo(
  tree: FileTree,
  record: JournalRecord,
  later: readonly LaterPlan[] = [],
): Promise<Plan> {
  if (record.damaged)
    throw new AppError(
      'undo-conflict',
      `The record of “${record.plan.title}” is damaged; it cannot be undone.`,
    );
  if (record.end?.how !== 'applied')
    throw new AppError('bad-request', `“${record.plan.title}” was not applied, so there is nothing to undo.`);
  const plan = invert(record);
  const notes: Note[] = [];
  for (const by of later)
    notes.push({
      level: 'blocker',
      code: 'stands-on',
      message: `“${by.title}” came later and stands on it. Undo that first.`,
    });
  const checked = new Set<string>();
  const moves = new Moves();
  const steps: Step[] = [];
  for (const step of plan.steps) {
    const at = moves.before(step.path);
    const isFirst = !checked.has(at);
    checked.add(at);
    const isMove = step.do === 'move-folder' || step.do === 'move';
    if (isMove && !moves.hasLeft(step.to) && !checked.has(step.to) && (await tree.kind(step.to)) !== null)
      notes.push({
        level: 'blocker',
        code: 'in-the-way',
        message: `${step.to} is there again; undoing would overwrite it.`,
        path: step.to,
      });
    if (isMove) moves.add(step.path, step.to);
    const found = isFirst ? await findingAt(tree, step, at, (p) => moves.hasLeft(p)) : null;
    if (found === 'drop') {
      notes.push({ level: 'info', code: 'gone', message: `${at} is gone already.`, path: at });
      continue;
    }
    steps.push(step);
    if (found) notes.push({ level: 'blocker', ...found });
  }
  const all = await withFolders(tree, steps);
  return { ...plan, steps: all, notes: [...notes, ...(await foldersThatStay(tree, all))] };
}

/** The steps, and before each the folders it needs: a later plan may have taken away what fell empty since. */
async function withFolders(tree: FileTree, steps: readonly Step[]): Promise<Step[]> {
  const there = new Set<string>(['']);
  const removed = new Set<string>();
  const movedAway: string[] = [];
  const arrived: string[] = [];
  const all: Step[] = [];
  const need = async (folder: TreePath): Promise<void> => {
    if (there.has(folder) || arrived.some((to) => isWithin(folder, to))) return;
    await need(folderOf(folder));
    there.add(folder);
    const isLeaving = removed.has(folder) || movedAway.some((from) => isWithin(folder, from));
    if (isLeaving || (await tree.kind(folder)) === null) all.push({ do: 'make-folder', path: folder });
  };
  for (const step of steps) {
    const isNew = (step.do === 'put' || step.do === 'link') && step.before === null;
    if (step.do === 'move' || step.do === 'move-folder') await need(folderOf(step.to));
    else if (isNew || step.do === 'make-folder') await need(folderOf(step.path));
    if (step.do === 'make-folder') there.add(step.path);
    if (step.do === 'remove-folder') {
      there.delete(step.path);
      removed.add(step.path);
    }
    if (step.do === 'move-folder') {
      arrived.push(step.to);
      movedAway.push(step.path);
      for (const f of there) if (isWithin(f, step.path)) there.delete(f);
    }
    all.push(step);
  }
  return all;
}

/** Folders that a plan made and in which something lies that is not its own: they stay, and that is said. */
async function foldersThatStay(tree: FileTree, steps: readonly Step[]): Promise<Note[]> {
  const leaving = new Set<string>();
  const notes: Note[] = [];
  for (const step of steps) {
    if (step.do === 'move' || step.do === 'move-folder' || step.do === 'remove') leaving.add(step.path);
    if (step.do === 'link' && step.after === null) leaving.add(step.path);
    if (step.do !== 'remove-folder') continue;
    const stay = (await tree.entries(step.path))?.filter((e) => !leaving.has(join(step.path, e.name))) ?? [];
    const [first] = stay;
    if (first === undefined) leaving.add(step.path);
    else
      notes.push({
        level: 'info',
        code: 'folder-stays',
        message: `The folder ${step.path} stays: ${first.name} ${stay.length === 1 ? 'lies' : `and ${stay.length - 1} more lie`} in it.`,
        path: step.path,
      });
  }
  return notes;
}
