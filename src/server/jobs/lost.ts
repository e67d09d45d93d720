// What is reported, and done, when work ends before its end: its thread was lost (killed, out of memory, a fault of ours), its machine is gone, or it was
// cancelled. Every kind of work has its sentence here; a new kind does not compile without.

import { AppError } from '@/core/errors';
import type { Recovered } from '@/core/changes/recover';
import type { ErrorShape, WorkOrder } from '@/wire/jobs';
import { releaseLocksOf } from '../disk/folderLock';
import type { WorkEnd } from '../threads/work.thread';

const nothing = 'Nothing was changed.';
const removed = 'The files written so far were removed.';

/** What is true of the disk after each kind of work was stopped anywhere. 'settle': it is found out, by settling what was begun. */
const stoppedAnywhere: { [W in WorkOrder['work']]: string } = {
  apply: 'settle',
  settle: 'What was not undone yet is still listed as unfinished in the ledger. Continue it there.',
  pack: removed,
  unpack: removed,
  verb: 'The ledger shows whether its change was made. A change that was begun is undone with the next one.',
  'find-entry': nothing,
  scan: nothing,
  plan: nothing,
  adopt: nothing,
  'create-many': nothing,
  relocate: nothing,
  recognise: nothing,
  suggest: nothing,
  find: nothing,
  measure: nothing,
  loose: nothing,
  alike: nothing,
  duplicates: nothing,
  needs: nothing,
  used: nothing,
  'carry-assets': nothing,
  'carry-look': nothing,
  nodes: nothing,
  'nodes-look': nothing,
  beside: nothing,
  collect: nothing,
  complete: nothing,
  cost: nothing,
  outputs: nothing,
  'travel-look': nothing,
  'arrive-look': nothing,
  'arrive-again': nothing,
  'hand-in': nothing,
  'hand-ins': nothing,
  'backups-look': nothing,
  'snapshot-judge': nothing,
  'snapshot-look': nothing,
  'clearing-look': nothing,
  verify: nothing,
  rehearse: nothing,
  probe: 'A test file may be left in the folder. Your own files were not changed.',
  net: 'No scene was changed. The autosaves of this round may be missing.',
  checkpoint: 'No file was changed. Unless the checkpoint is in the list, it was not created.',
  arrive:
    'Part of the delivery may be in the target folder. Remove that folder, then receive the delivery again.',
  'settle-in':
    'The ledger shows whether the references were fixed. A change that was begun is undone with the next one.',
  backup: 'Earlier snapshots are complete. This snapshot was not created; the next one uses what was copied.',
  'give-back': 'Part of the snapshot may be in the target folder. The snapshot itself was not changed.',
  prove: 'No backup was changed. Verification continues where it stopped.',
  heal: 'Contents repaired so far stay repaired. Repair again for the rest.',
  'clear-snapshots': 'Some of these snapshots may be gone already: see the list. All others are complete.',
  archive: 'Files may already have been moved to the archive. Archive the workspace again to finish.',
  'bring-back': 'Files may already have been restored. Restore the workspace again to finish.',
};

/** What is true of the disk after work was stopped that settles nothing, in a sentence. */
export const unchangedAfterStop = ({ work }: WorkOrder): string => stoppedAnywhere[work];

/** What became of a job whose end was lost: its result where it was done all the same, else the error to end it with. */
export type LostEnd = { result: unknown } | { error: ErrorShape };

/** Work that was lost. `since`: when it was begun, ms. */
interface Lost {
  order: WorkOrder;
  why: string;
  since: number;
}

/**
 * What to end a job with. The locks of its thread are released, whatever it did. What an apply left half way is undone, in another thread (`run`);
 * the error reports what was found.
 */
export async function afterLoss(
  lost: Lost,
  thread: number,
  run: (order: WorkOrder) => Promise<WorkEnd>,
): Promise<LostEnd> {
  await releaseLocksOf(thread);
  return settledAfterLoss(lost, run);
}

// Clocks of two machines may differ by so much, ms.
const skew = 5000;

/** The same where not a thread but the whole machine was lost: its locks are taken over as any of a process that is gone. */
export async function settledAfterLoss(
  { order, why, since }: Lost,
  run: (order: WorkOrder) => Promise<WorkEnd>,
): Promise<LostEnd> {
  const lost = (unchanged: string, details: readonly string[] = []): { error: ErrorShape } => {
    const { code, message, next } = new AppError('lost-work', `The work ended before its time: ${why}`);
    return { error: { code, message, next, unchanged, details: [...details] } };
  };
  if (order.work !== 'apply') return lost(unchangedAfterStop(order));
  const { root, records, plan, makes } = order;
  try {
    const ended = await run({ work: 'settle', root, records });
    if ('error' in ended)
      return lost(`It is not known how far it came: ${ended.error.message}`, ended.error.details);
    // The ledger decides: what is in it as done is done, whoever did not live to say so.
    const entry = makes ? null : await run({ work: 'find-entry', root, records, plan, since: since - skew });
    const isAsked = entry !== null && 'result' in entry;
    if (isAsked && entry.result !== null) return { result: entry.result };
    return told(ended.result as Recovered[], isAsked, lost);
  } catch (cause) {
    return lost(`It is not known how far it came: ${(cause as Error).message}`);
  }
}

/** `isAsked`: the ledger was asked, and has no entry of it. */
function told<T>(
  recovered: readonly Recovered[],
  isAsked: boolean,
  lost: (unchanged: string, details?: readonly string[]) => T,
): T {
  const [first] = recovered;
  if (!first)
    return lost(
      isAsked
        ? 'Nothing had been changed.'
        : 'Nothing had been changed yet, or all of it is done: the ledger shows which.',
    );
  const details = recovered.flatMap((r) => [
    ...r.left.map((p) => `${p} was changed by somebody else meanwhile and was left as it is.`),
    ...r.stuck.map((s) => `${s.path} could not be put back yet: ${s.why}`),
  ]);
  if (recovered.some((r) => r.how !== 'put-back' && r.how !== 'done'))
    return lost('Not all of it could be put back; what is unfinished stands on the overview.', details);
  if (first.how === 'done') return lost('All of it had been done; only its end was missing.', details);
  return lost('What it had done was put back.', details);
}
