// What applying and recovery need, as tests have it: everything is begun here, by one hand.

import { parseJournalLine, parseSummary } from '../../../wire/plan';
import type { OutsideFiles, WritableFileTree } from '../../files/fileTree';
import { scenePaths } from '../../references/scan';
import type { ApplyContext } from '../apply';
import { laterPlans, type Holding } from '../depends';
import { planUndo } from '../invert';
import { readJournals, type JournalRecord } from '../journal';
import type { Plan } from '../plan';
import { recover, type Recovered } from '../recover';
import { ledgerOf, readLedgerOf, undoneIds, type LedgerEntry } from '../summary';
import { memoryOutside } from './memoryOutside';

let count = 0;
const clock = () => new Date(++count * 1000).toISOString();

/** A context to apply with; plans count on from one to the next. */
export function applying(id: string, more: Partial<ApplyContext> = {}): ApplyContext {
  return {
    id,
    seq: ++count,
    now: clock,
    outside: memoryOutside({}),
    scenesOf: async (tree) => (await scenePaths(tree)).scenes,
    sign: (seal) => ({ installation: 'here', seal }),
    root: '/memory',
    ...more,
  };
}

/** Settles what is open, as the next change would. */
export async function recovering(
  tree: WritableFileTree,
  outside: Pick<OutsideFiles, 'stat'> = memoryOutside({}),
): Promise<Recovered[]> {
  const { open } = await readLedgerOf(tree, 'test', parseJournalLine, parseSummary);
  return recover(tree, open, parseJournalLine, {
    outside,
    now: clock,
    root: '/memory',
    isOwn: (record, seal) => record.by?.seal === seal,
  });
}

/** The ledger, newest first. */
export async function ledgerIn(tree: WritableFileTree): Promise<LedgerEntry[]> {
  return ledgerOf(await readLedgerOf(tree, 'test', parseJournalLine, parseSummary));
}

/** Every journal, oldest first. */
export const recordsIn = (tree: WritableFileTree) => readJournals(tree, parseJournalLine);

/** Applied plans that still hold, oldest first, with what they touch. */
export async function holdingIn(tree: WritableFileTree): Promise<Holding[]> {
  const { ended } = await readLedgerOf(tree, 'test', parseJournalLine, parseSummary);
  const undone = undoneIds(ended);
  const held = ended.filter(
    (s) => s.end.how === 'applied' && !undone.has(s.id) && !(s.undoes !== null && undone.has(s.undoes)),
  );
  return held.map((s) => ({ id: s.id, title: s.title, paths: s.touched, folders: s.folders }));
}

/** The plan that undoes a record, with what stands on it. */
export async function undoing(tree: WritableFileTree, record: JournalRecord): Promise<Plan> {
  return planUndo(tree, record, laterPlans(await holdingIn(tree)).get(record.id) ?? []);
}
