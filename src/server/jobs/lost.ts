// What is said, and done, when a thread ends before its work: killed, out of memory, or by a fault of ours.

import { AppError } from '@/core/errors';
import type { Recovered } from '@/core/changes/recover';
import type { ErrorShape, WorkOrder } from '@/wire/jobs';
import { dropLockOfThread } from '../disk/folderLock';
import { lockedFolders } from '../workspaces/changing';
import type { WorkEnd } from '../threads/work.thread';

/**
 * The error to end a job with. Of an apply, the locks of the lost thread are dropped and what lies half way is put back by `settle`, in another
 * thread; the error tells what was found. Everything else changes nothing but what is taken away with its parts.
 */
export async function afterLoss(
  order: WorkOrder,
  thread: number,
  why: string,
  settle: (order: WorkOrder) => Promise<WorkEnd>,
): Promise<ErrorShape> {
  if (order.work === 'apply')
    for (const folder of lockedFolders(order.root, order.records, order.plan.steps))
      dropLockOfThread(folder, thread);
  return settledAfterLoss(order, why, settle);
}

/** The same where not a thread but the whole machine was lost: its locks are taken over as any of a process that is gone. */
export async function settledAfterLoss(
  order: WorkOrder,
  why: string,
  settle: (order: WorkOrder) => Promise<WorkEnd>,
): Promise<ErrorShape> {
  const lost = (unchanged: string, details: readonly string[] = []): ErrorShape => {
    const { code, message, next } = new AppError('lost-work', `The work ended before its time: ${why}`);
    return { code, message, next, unchanged, details: [...details] };
  };
  if (order.work === 'pack' || order.work === 'unpack')
    return lost('What was written so far was taken away again.');
  if (order.work === 'verb')
    return lost('What it had begun is done, or is put back with the next change: the ledger tells.');
  if (order.work !== 'apply') return lost('Nothing was changed.');
  const { root, records } = order;
  try {
    const ended = await settle({ work: 'settle', root, records });
    if ('error' in ended)
      return lost(`It is not known how far it came: ${ended.error.message}`, ended.error.details);
    return told(ended.result as Recovered[], lost);
  } catch (cause) {
    return lost(`It is not known how far it came: ${(cause as Error).message}`);
  }
}

function told(
  recovered: readonly Recovered[],
  lost: (unchanged: string, details?: readonly string[]) => ErrorShape,
): ErrorShape {
  const [first] = recovered;
  if (!first) return lost('Nothing had been changed yet, or all of it is done: the ledger tells.');
  const details = recovered.flatMap((r) => [
    ...r.left.map((p) => `${p} was changed by somebody else meanwhile and was left as it is.`),
    ...r.stuck.map((s) => `${s.path} could not be put back yet: ${s.why}`),
  ]);
  if (recovered.some((r) => r.how !== 'put-back' && r.how !== 'done'))
    return lost('Not all of it could be put back; what is unfinished stands on the overview.', details);
  if (first.how === 'done') return lost('All of it had been done; only its end was missing.', details);
  return lost('What it had done was put back.', details);
}
