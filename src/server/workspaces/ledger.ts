// The ledger of a folder: what was done, from the summaries; a plan's body only where it is asked for, and then once.

import { laterPlans, touched, touches, type LaterPlan, type Touched } from '@/core/changes/depends';
import { planUndo } from '@/core/changes/invert';
import { isRecord, planText, readJournal } from '@/core/changes/journal';
import type { Plan } from '@/core/changes/plan';
import {
  ledgerOf,
  readLatest,
  readLedgerOf,
  undoneIds,
  type LedgerEntry,
  type LedgerRead,
  type Summary,
} from '@/core/changes/summary';
import { AppError } from '@/core/errors';
import type { FileTree } from '@/core/files/fileTree';
import { checkpointsFolder } from '@/core/files/records';
import { isWithin } from '@/core/files/treePath';
import { checkpointContents } from '@/core/plans/planBack';
import { withStored } from '@/core/plans/storedTree';
import { hasContent } from '@/core/store/store';
import { decodeText } from '@/core/text/bytes';
import { readCheckpoint } from '@/core/versions/checkpoint';
import { parseJournalLine, parseSummary } from '@/wire/plan';
import type { LedgerLine } from '@/wire/views';
import { recordsIn, type Records } from './changing';

const read = (of: Records): Promise<LedgerRead> =>
  readLedgerOf(of.tree, of.records, parseJournalLine, parseSummary);

/** The entry of a plan that was done at `since` (ms) or later, and was not undone; null: there is none. */
export async function appliedSince(of: Records, plan: Plan, since: number): Promise<string | null> {
  const { ended } = await read(of);
  const undone = undoneIds(ended);
  const wanted = planText(plan);
  for (const { id, time, title, end } of [...ended].reverse()) {
    if (end.how !== 'applied' || title !== plan.title || Date.parse(time) < since || undone.has(id)) continue;
    const record = await readJournal(of.tree, id, parseJournalLine);
    if (isRecord(record) && planText(record.plan) === wanted) return id;
  }
  return null;
}

/** Every plan applied to a root, newest first. */
export async function readLedger(of: Records): Promise<LedgerEntry[]> {
  return ledgerOf(await read(of));
}

/** What was done last in a root, by whom (null: nobody had to say) and when (ISO); null: nothing yet. */
export async function lastDone(
  root: string,
): Promise<{ title: string; by: string | null; time: string } | null> {
  const last = await readLatest(recordsIn(root).tree, parseSummary);
  return last && { title: last.title, by: last.by ?? null, time: last.time };
}

// What large plans touch, which their summaries do not name whole; an entry that has ended does not change.
const largeOnes = new Map<string, Touched>();
const mostLarge = 20;

async function touchedBy(of: Records, s: Summary): Promise<Touched> {
  if (s.files <= s.touched.length) return { paths: s.touched, folders: s.folders };
  const key = `${of.records}\0${s.id}`;
  const known = largeOnes.get(key);
  if (known) return known;
  const record = await readJournal(of.tree, s.id, parseJournalLine);
  const all = isRecord(record) ? touched(record.plan) : { paths: s.touched, folders: s.folders };
  largeOnes.set(key, all);
  if (largeOnes.size > mostLarge) largeOnes.delete(largeOnes.keys().next().value!);
  return all;
}

/** For each applied plan that still holds (not undone, and not the undoing of another), the later ones that stand on it. */
async function laterOf(of: Records, ended: readonly Summary[]): Promise<Map<string, LaterPlan[]>> {
  const undone = undoneIds(ended);
  const plans = [];
  for (const s of ended)
    if (s.end.how === 'applied' && !undone.has(s.id) && !(s.undoes !== null && undone.has(s.undoes)))
      plans.push({ id: s.id, title: s.title, ...(await touchedBy(of, s)) });
  return laterPlans(plans);
}

/** Ids of entries that touch one of these files, or a folder they lie in. */
async function touching(
  of: Records,
  ended: readonly Summary[],
  paths: readonly string[],
): Promise<Set<string>> {
  const wanted = new Set<string>();
  for (const s of ended) {
    const all = await touchedBy(of, s);
    if (paths.some((p) => touches(all, p))) wanted.add(s.id);
  }
  return wanted;
}

/** Entries that touch one of these files, newest first. */
export async function readHistory(root: string, paths: readonly string[]): Promise<LedgerEntry[]> {
  const of = recordsIn(root);
  const { ended } = await read(of);
  const wanted = await touching(of, ended, paths);
  return ledgerOf({ ended, open: [] }).filter((e) => wanted.has(e.id));
}

/** The ledger in full: what each entry touches, and which later ones stand on it. `paths`: only entries that touch one of these. */
export async function readLedgerLong(root: string, paths: readonly string[] | null): Promise<LedgerLine[]> {
  const of = recordsIn(root);
  const ledger = await read(of);
  const wanted = paths && (await touching(of, ledger.ended, paths));
  const later = await laterOf(of, ledger.ended);
  const known = new Map(ledger.ended.map((s) => [s.id, s]));
  return ledgerOf(wanted ? { ended: ledger.ended, open: [] } : ledger)
    .filter((e) => !wanted || wanted.has(e.id))
    .map((e) => ({
      ...e,
      later: later.get(e.id) ?? [],
      touched: [...(known.get(e.id)?.touched ?? [])],
      changes: [...(known.get(e.id)?.changes ?? [])],
    }));
}

/** The plan that undoes a ledger entry. */
export async function planUndoOf(of: Records, id: string): Promise<Plan> {
  const { ended } = await read(of);
  const record = await readJournal(of.tree, id, parseJournalLine);
  if (record === null) throw new AppError('not-found', `The ledger of ${of.root} has no entry ${id}.`);
  if (!isRecord(record))
    throw new AppError('undo-conflict', `The record of ${id} is ${record.why}; it cannot be undone.`);
  if (undoneIds(ended).has(id))
    throw new AppError('bad-request', `“${record.plan.title}” is undone already.`);
  const plan = await planUndo(of.tree, record, (await laterOf(of, ended)).get(id) ?? []);
  const notes = await notesOnLostCheckpoints(of.tree, plan);
  return notes.length === 0 ? plan : { ...plan, notes: [...plan.notes, ...notes] };
}

/** Blockers for checkpoints that the plan would list again although cleaning the store has removed their contents. */
async function notesOnLostCheckpoints(tree: FileTree, plan: Plan): Promise<Plan['notes']> {
  const notes: Plan['notes'][number][] = [];
  for (const step of plan.steps) {
    if (step.do !== 'put' || step.from.from !== 'store' || !isWithin(step.path, checkpointsFolder)) continue;
    if (!(await hasContent(tree, step.from.digest))) continue;
    const file = { path: step.path, size: step.size, modified: step.modified ?? 0, digest: step.from.digest };
    const stored = withStored(tree, [file]);
    const checkpoint = readCheckpoint(decodeText(await stored.read(step.path)).text);
    if (checkpoint === null || checkpoint === 'newer') continue;
    let missing = 0;
    for (const digest of new Set(checkpointContents(checkpoint)))
      if (!(await hasContent(tree, digest))) missing++;
    if (missing > 0)
      notes.push({
        level: 'blocker',
        code: 'lost',
        message: `The checkpoint “${checkpoint.name}” cannot be restored: cleaning the store removed ${missing} of its contents.`,
        path: step.path,
      });
  }
  return notes;
}
