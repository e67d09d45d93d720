// Applies a plan to users' files. The only code, with makeStep.ts and putBack.ts, by which they change.
//
// Invariants:
// 1. No content is replaced or removed before the store has it, read back and right.
// 2. A plan is durable in its journal before any of its files is touched.
// 3. Each step is one atomic, durable operation of the tree, and never goes through a link out of the root.
// 4. Before a step is made, the journal says what will be there after it; so a crash leaves at most one step in doubt, and
//    the file's own content settles the doubt.
// 5. A file in neither state is never touched: it is named, and the rest is put back. A step that cannot be put back stops no other: it is
//    named, its content stays in the store, and the journal stays open until it is settled.
// 6. What is written back is checked against its content id first. The store is never the cause of a wrong byte.
// 7. Who has lost the lock to another program writes nothing more: no step, no line of the journal, and puts nothing back. Settling is the next holder's.
// 8. Once every step is made the plan is done, whether or not that could still be written down.

import { AppError, isLockLost } from '../errors';
import { fileError } from '../files/fileErrors';
import type { CancelSignal, WritableFileTree } from '../files/fileTree';
import { journalFolder, ownFolder, storeFolder } from '../files/records';
import { checkAll, type CheckContext } from './check';
import { journalFormat, sealOf, writeLine, type Author, type Ending, type JournalRecord } from './journal';
import { makeStep } from './makeStep';
import { blockers, type Plan } from './plan';
import { putBack, type PutBack } from './putBack';
import { summarise, writeSummary } from './summary';

export interface ApplyContext extends CheckContext {
  id: string;
  /** Its number in the ledger: one more than the last. */
  seq: number;
  /** ISO 8601 time for the journal. */
  now: () => string;
  /** Signs what is begun here, so that recovery knows it again; null where nobody can. */
  sign: ((seal: string) => Author) | null;
  /** The folder that is changed, for the seal: its real absolute path. */
  root: string;
  signal?: CancelSignal | undefined;
  /** Steps and bytes done so far. */
  onProgress?: ((done: { steps: number; bytes: number; path: string }) => void) | undefined;
}

/** Applies all of a plan or nothing of it; resolves with its journal record. Throws AppError after everything was put back. */
export async function apply(
  tree: WritableFileTree,
  plan: Plan,
  context: ApplyContext,
): Promise<JournalRecord> {
  const blocking = blockers(plan);
  if (blocking.length > 0)
    throw new AppError(
      'blocked-plan',
      `The plan is blocked: ${blocking[0]!.message}`,
      'Nothing was changed.',
      blocking.map((n) => n.message),
    );
  context.signal?.throwIfAborted();
  await checkAll(tree, plan, context);
  const record = await begin(tree, plan, context);
  try {
    await makeSteps(tree, record, context);
  } catch (cause) {
    throw await giveUp(tree, record, context, cause);
  }
  await close(tree, record, { how: 'applied', time: context.now() });
  return record;
}

/** Writes the plan down. Nothing is touched before this is safe. */
async function begin(tree: WritableFileTree, plan: Plan, context: ApplyContext): Promise<JournalRecord> {
  for (const folder of [ownFolder, journalFolder, storeFolder]) await tree.makeFolder(folder);
  const { basis: _, ...kept } = plan;
  const { id, seq } = context;
  const by = context.sign?.(sealOf(context.root, { id, seq, plan: kept })) ?? null;
  const time = context.now();
  const record: JournalRecord = {
    id,
    seq,
    time,
    plan: kept,
    by,
    about: new Map(),
    isBeingPutBack: false,
    end: null,
    damaged: false,
    last: '',
  };
  await writeLine(tree, record, {
    line: 'plan',
    format: journalFormat,
    id,
    seq,
    time,
    ...(by ? { by } : {}),
    plan: kept,
  });
  return record;
}

async function makeSteps(
  tree: WritableFileTree,
  record: JournalRecord,
  context: ApplyContext,
): Promise<void> {
  let bytes = 0;
  for (const [i, step] of record.plan.steps.entries()) {
    context.signal?.throwIfAborted();
    await makeStep(tree, step, i, record, context, (count) => {
      bytes += count;
      context.onProgress?.({ steps: i, bytes, path: step.path });
    });
    context.onProgress?.({ steps: i + 1, bytes, path: step.path });
  }
}

/** Puts back what was done, unless the lock is lost; resolves with the error that says so. */
async function giveUp(
  tree: WritableFileTree,
  record: JournalRecord,
  context: ApplyContext,
  cause: unknown,
): Promise<unknown> {
  if (isLockLost(cause)) return cause;
  const done = await putBack(tree, record, context);
  const because = cause instanceof Error ? cause.message : String(cause);
  if (done.stuck.length === 0)
    await close(tree, record, { how: 'put-back', time: context.now(), because, left: done.left });
  return explain(cause, done);
}

/**
 * Writes the last line and the summary. Neither makes what was done undone where it cannot be written (a full drive): what lies on the disk
 * says the same, and the next recovery writes it.
 */
export async function close(tree: WritableFileTree, record: JournalRecord, end: Ending): Promise<void> {
  record.end = end;
  try {
    await writeLine(
      tree,
      record,
      end.how === 'applied'
        ? { line: 'applied', time: end.time }
        : { line: 'put-back', time: end.time, because: end.because, left: end.left },
    );
    await writeSummary(tree, summarise(record, end));
  } catch (cause) {
    // Whether it is done is then for the next holder of the lock to say.
    if (isLockLost(cause)) throw cause;
  }
}

/** What was left as it was, in words. */
function unchangedAfter({ left, stuck }: PutBack): string {
  if (left.length === 0 && stuck.length === 0)
    return 'What had been done was put back: every file is as before.';
  const said: string[] = [];
  if (left.length > 0)
    said.push(
      `What had been done was put back, but for files that were changed meanwhile: ${left.join(', ')}.`,
    );
  if (stuck.length > 0)
    said.push(
      `Not all of it could be put back: ${stuck.map((s) => s.path).join(', ')} (${stuck[0]!.why}). What they held is safe in the workspace's store, and is put back as soon as it can be.`,
    );
  return said.join(' ');
}

/** An error that says what was put back, and what was not. */
function explain(cause: unknown, done: PutBack): unknown {
  const unchanged = unchangedAfter(done);
  const details = done.stuck.map((s) => `${s.path}: ${s.why}`);
  const known = fileError('A file', cause);
  if (known instanceof AppError)
    return new AppError(known.code, known.message, unchanged, [...known.details, ...details]);
  if ((cause as { name?: string } | null)?.name === 'AbortError')
    return new AppError('cancelled', 'The work was cancelled.', unchanged, details);
  return new AppError(
    'apply-failed',
    cause instanceof Error ? cause.message : String(cause),
    unchanged,
    details,
  );
}
