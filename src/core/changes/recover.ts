// Finishes what a crash left. A journal is not a licence: only what this installation began here, told by a seal that nobody else can make,
// is put back by itself; anything else is reported, and put back when the user says so. In every case the tree keeps it inside the root.

import type { FileTree, WritableFileTree } from '../files/fileTree';
import { sameTime } from '../files/times';
import { close } from './apply';
import { isRecord, readJournal, sealsOf, type JournalRecord, type ParseLine } from './journal';
import type { Step } from './plan';
import { putBack, type PutBackContext } from './putBack';
import type { OpenEntry } from './summary';

export interface RecoverContext extends PutBackContext {
  /** The folder's real absolute path, as it was sealed. */
  root: string;
  /** Whether a record was begun by this installation. */
  isOwn: (record: JournalRecord, seal: string) => boolean;
}

/** What became of one unfinished plan. */
export interface Recovered {
  id: string;
  title: string;
  /** 'done': all of it had been made, only its last line was missing. 'stuck': not all could be put back yet. 'foreign': somebody else began it. */
  how: 'put-back' | 'done' | 'stuck' | 'foreign' | 'damaged' | 'newer';
  /** Files in neither state, which were left. */
  left: string[];
  stuck: { path: string; why: string }[];
}

/** Whether a step shows on the disk: 'before', 'after', or null where it tells nothing or was changed since. */
async function lookOf(
  tree: FileTree,
  step: Step,
  record: JournalRecord,
  i: number,
): Promise<'before' | 'after' | null> {
  const about = record.about.get(i);
  switch (step.do) {
    case 'make-folder':
    case 'remove-folder':
      return null;
    case 'move':
    case 'move-folder': {
      const [from, to] = [await tree.kind(step.path), await tree.kind(step.to)];
      if (from !== null && to === null) return 'before';
      if (from !== null || to === null) return null;
      if (step.do === 'move-folder' || step.content.link !== undefined) return 'after';
      const stat = await tree.stat(step.to);
      return stat?.size === step.content.size ? 'after' : null;
    }
    case 'link': {
      const text = await tree.readLink(step.path);
      if (text === null && (await tree.kind(step.path)) !== null) return null;
      return text === step.after ? 'after' : text === step.before ? 'before' : null;
    }
    case 'remove':
      return (await tree.kind(step.path)) === null ? 'after' : 'before';
    case 'put': {
      const stat = await tree.stat(step.path);
      if (!stat) return step.before === null ? 'before' : null;
      if (about) {
        const now = await tree.digest(step.path);
        return now === about.digest ? 'after' : now === about.kept ? 'before' : null;
      }
      if (step.before === null) return stat.size === step.size ? 'after' : null;
      return stat.size === step.before.size && sameTime(stat.modified, step.before.modified)
        ? 'before'
        : null;
    }
  }
}

/** Whether every step was made: then the plan is done, and what was saved since stays. */
async function isDone(tree: FileTree, record: JournalRecord): Promise<boolean> {
  const last = record.plan.steps.length - 1;
  if (record.isBeingPutBack) return false;
  if (last < 0) return true;
  for (let i = 0; i <= last; i++) if (!record.about.has(i)) return false;
  if (record.about.get(last)!.skip) return true;
  const step = record.plan.steps[last]!;
  if (step.do === 'make-folder') return (await tree.kind(step.path)) !== null;
  if (step.do === 'remove-folder') return (await tree.kind(step.path)) === null;
  const look = await lookOf(tree, step, record, last);
  // Content that is neither was saved since; a place where nothing lies tells that something else was undone already.
  return (
    look === 'after' ||
    (look === null && (await tree.kind(step.do === 'move' ? step.to : step.path)) !== null)
  );
}

/** Whether steps were made of which the journal says nothing: its last lines were lost, for each is told before it is made. Only paths that no other step of the plan meets tell. */
async function hasLostTail(tree: FileTree, record: JournalRecord): Promise<boolean> {
  const { steps } = record.plan;
  const begun = [...record.about.keys()].reduce((a, b) => Math.max(a, b), -1);
  const met = new Map<string, number>();
  const meet = (path: string) => met.set(path, (met.get(path) ?? 0) + 1);
  for (const step of steps) {
    meet(step.path);
    if ('to' in step) meet(step.to);
  }
  for (const [i, step] of steps.entries()) {
    const isAlone = met.get(step.path) === 1 && (!('to' in step) || met.get(step.to) === 1);
    if (i > begun && isAlone && (await isMade(tree, step, record, i))) return true;
  }
  return false;
}

/** Whether a step of which nothing is told shows as made; what could as well have been done by somebody else does not count. */
async function isMade(tree: FileTree, step: Step, record: JournalRecord, i: number): Promise<boolean> {
  if (step.do === 'remove' || step.do === 'make-folder' || step.do === 'remove-folder') return false;
  if (step.do !== 'put' || step.before === null)
    return (
      (step.do !== 'link' || step.before !== step.after) && (await lookOf(tree, step, record, i)) === 'after'
    );
  const stat = await tree.stat(step.path);
  if (stat?.size !== step.size || step.before.digest === null) return false;
  return (await tree.digest(step.path)) !== step.before.digest;
}

/** Settles one unfinished record. */
async function settle(
  tree: WritableFileTree,
  record: JournalRecord,
  context: RecoverContext,
): Promise<Recovered> {
  const { id } = record;
  const { title } = record.plan;
  if (record.damaged || (await hasLostTail(tree, record)))
    return { id, title, how: 'damaged', left: [], stuck: [] };
  if (await isDone(tree, record)) {
    await close(tree, record, { how: 'applied', time: context.now() });
    return { id, title, how: 'done', left: [], stuck: [] };
  }
  const { left, stuck } = await putBack(tree, record, context);
  if (stuck.length > 0) return { id, title, how: 'stuck', left, stuck };
  await close(tree, record, {
    how: 'put-back',
    time: context.now(),
    because: 'The program ended before the plan was done.',
    left,
  });
  return { id, title, how: 'put-back', left, stuck };
}

/**
 * Settles what is open, the latest first. `asked`: ids that the user wants put back whoever began them. Once one cannot be settled those before
 * it stay too: they lie below it.
 */
export async function recover(
  tree: WritableFileTree,
  open: readonly OpenEntry[],
  parse: ParseLine,
  context: RecoverContext,
  asked: ReadonlySet<string> = new Set(),
): Promise<Recovered[]> {
  const done: Recovered[] = [];
  const records: JournalRecord[] = [];
  for (const { id, title, why } of open) {
    const read = await readJournal(tree, id, parse);
    if (isRecord(read)) {
      if (read.end === null || read.damaged) records.push(read);
    } else if (read)
      done.push({ id, title: title ?? id, how: why === 'newer' ? 'newer' : 'damaged', left: [], stuck: [] });
  }
  records.sort((a, b) => b.seq - a.seq || (a.id < b.id ? 1 : -1));
  for (const record of records) {
    const isOurs = sealsOf(context.root, record).some((seal) => context.isOwn(record, seal));
    if (!isOurs && !asked.has(record.id))
      done.push({ id: record.id, title: record.plan.title, how: 'foreign', left: [], stuck: [] });
    else done.push(await settle(tree, record, context));
  }
  return done;
}
