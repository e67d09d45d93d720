// Applies a plan to users' files. The only code, with putBack.ts, by which they change.
//
// Invariants:
// 1. No content is replaced or removed before the store has it.
// 2. A plan is durable in its journal before any of its files is touched.
// 3. Each step is one atomic, durable operation of the tree.
// 4. Before a step is made, the journal says what will be there after it; so a crash leaves at most one step in doubt, and
//    the file's own content settles the doubt.
// 5. A file in neither state is never touched: it is named, and the rest is put back.

import { AppError } from '../errors';
import type { Digest } from '../files/digest';
import type { ByteStream, CancelSignal, OutsideFiles, WritableFileTree } from '../files/fileTree';
import { folderOf, isWithin, rootPath, treePath, type TreePath } from '../files/treePath';
import { journalFolder, storeFolder, storePath, writeLine, type JournalRecord } from './journal';
import {
  blockers,
  bytesOfText,
  whereBefore,
  type FileState,
  type Plan,
  type Source,
  type Step,
} from './plan';
import { putBack } from './putBack';

export interface ApplyContext {
  id: string;
  /** ISO 8601 time for the journal. */
  now: () => string;
  outside: OutsideFiles;
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
  await checkAllQuickly(tree, plan);
  for (const folder of [treePath('.satchel'), journalFolder, storeFolder]) await tree.makeFolder(folder);
  const record: JournalRecord = { id: context.id, time: context.now(), plan, about: new Map(), end: null };
  await writeLine(tree, context.id, { line: 'plan', id: record.id, time: record.time, plan });
  try {
    let bytes = 0;
    for (const [i, step] of plan.steps.entries()) {
      context.signal?.throwIfAborted();
      await makeStep(tree, step, i, record, context, (count) => {
        bytes += count;
        context.onProgress?.({ steps: i, bytes, path: step.path });
      });
      context.onProgress?.({ steps: i + 1, bytes, path: step.path });
    }
  } catch (cause) {
    const why = cause instanceof Error ? cause.message : String(cause);
    const left = await putBack(tree, record, context);
    await writeLine(tree, context.id, { line: 'put-back', time: context.now(), because: why, left });
    throw explain(cause, left);
  }
  record.end = { how: 'applied', time: context.now() };
  await writeLine(tree, context.id, { line: 'applied', time: record.end.time });
  return record;
}

/** An error that says everything was put back, and what was not. */
function explain(cause: unknown, left: readonly string[]): AppError {
  const unchanged =
    left.length === 0
      ? 'What had been done was put back: every file is as before.'
      : `What had been done was put back, but for: ${left.join(', ')}.`;
  if (cause instanceof AppError) return new AppError(cause.code, cause.message, unchanged, cause.details);
  if ((cause as { name?: string } | null)?.name === 'AbortError')
    return new AppError('cancelled', 'The work was cancelled.', unchanged);
  const code = (cause as { code?: string }).code;
  if (code === 'ENOSPC' || code === 'EDQUOT')
    return new AppError('disk-full', 'The drive is full.', unchanged);
  if (code === 'EACCES' || code === 'EPERM' || code === 'EBUSY' || code === 'EROFS')
    return new AppError('no-access', `A file could not be written: ${(cause as Error).message}`, unchanged);
  return new AppError('apply-failed', cause instanceof Error ? cause.message : String(cause), unchanged);
}

function stale(path: string, what: string): AppError {
  return new AppError('stale-plan', `${path} ${what} since the plan was made.`);
}

/** Finds most stale plans before anything is begun: sizes and times only. */
async function checkAllQuickly(tree: WritableFileTree, plan: Plan): Promise<void> {
  const planned = new Set<string>();
  const moves: { path: TreePath; to: TreePath }[] = [];
  for (const step of plan.steps) {
    const at = whereBefore(moves, step.path);
    if (!planned.has(at)) {
      if (
        step.do === 'put' &&
        step.before === null &&
        (await tree.kind(at)) !== null &&
        !moves.some((m) => isWithin(at, m.path))
      )
        throw stale(step.path, 'has appeared');
      const before =
        step.do === 'put' || step.do === 'remove' ? step.before : step.do === 'move' ? step.content : null;
      if (before) {
        const stat = await tree.stat(at);
        if (!stat) throw stale(step.path, 'has gone');
        if (stat.size !== before.size) throw stale(step.path, 'was changed');
      }
    }
    planned.add(at);
    if (step.do === 'move' || step.do === 'move-folder') moves.push(step);
  }
}

/** Checks size, and time where there is no content id; returns the time. */
async function checkStat(tree: WritableFileTree, path: TreePath, before: FileState): Promise<number> {
  const stat = await tree.stat(path);
  if (!stat) throw stale(path, 'has gone');
  if (stat.size !== before.size || (before.digest === null && stat.modified !== before.modified))
    throw stale(path, 'was changed');
  return stat.modified;
}

/** Checks that a file is in the state the plan saw; returns its content id. */
async function checkState(
  tree: WritableFileTree,
  path: TreePath,
  before: FileState,
): Promise<{ digest: Digest; modified: number }> {
  const modified = await checkStat(tree, path, before);
  const digest = await tree.digest(path);
  if (digest === null) throw stale(path, 'has gone');
  if (before.digest !== null && digest !== before.digest) throw stale(path, 'was changed');
  return { digest, modified };
}

/** Puts a file's content into the store under its content id. */
export async function keepInStore(tree: WritableFileTree, path: TreePath, digest: Digest): Promise<void> {
  const kept = storePath(digest);
  await tree.makeFolder(folderOf(kept));
  // What lies there under this id may have been spoilt since, by a program writing into a file that shared its content.
  if ((await tree.kind(kept)) === 'file' && (await tree.digest(kept)) !== digest) await tree.remove(kept);
  await tree.keep(path, kept);
}

async function makeStep(
  tree: WritableFileTree,
  step: Step,
  i: number,
  record: JournalRecord,
  context: ApplyContext,
  onBytes: (n: number) => void,
): Promise<void> {
  const about = async (digest: Digest | null, kept: Digest | null, skip = false) => {
    await writeLine(tree, record.id, { line: 'about', step: i, digest, kept, ...(skip ? { skip } : {}) });
    record.about.set(i, { digest, kept, skip });
  };
  switch (step.do) {
    case 'make-folder':
      await about(null, null, (await tree.kind(step.path)) === 'folder');
      return tree.makeFolder(step.path);
    case 'remove-folder': {
      const entries = await tree.entries(step.path);
      const skip = entries === null || entries.length > 0 || step.path === rootPath;
      await about(null, null, skip);
      if (!skip) await tree.removeFolder(step.path);
      return;
    }
    case 'move': {
      // Only its name changes: where the plan has no content id, size and time tell the file.
      const digest =
        step.content.digest === null ? null : (await checkState(tree, step.path, step.content)).digest;
      if (digest === null) await checkStat(tree, step.path, step.content);
      if ((await tree.kind(step.to)) !== null) throw stale(step.to, 'has appeared');
      await about(digest, null);
      return tree.move(step.path, step.to);
    }
    case 'move-folder': {
      if ((await tree.kind(step.path)) !== 'folder') throw stale(step.path, 'has gone');
      if ((await tree.kind(step.to)) !== null) throw stale(step.to, 'has appeared');
      await about(null, null);
      return tree.moveFolder(step.path, step.to);
    }
    case 'remove': {
      const { digest, modified } = await checkState(tree, step.path, step.before);
      await keepInStore(tree, step.path, digest);
      await about(null, digest);
      const now = await tree.stat(step.path);
      if (now && now.modified !== modified) throw stale(step.path, 'was changed');
      return tree.remove(step.path);
    }
    case 'put': {
      let kept: Digest | null = null;
      let modified = 0;
      if (step.before !== null) {
        ({ digest: kept, modified } = await checkState(tree, step.path, step.before));
        await keepInStore(tree, step.path, kept);
      }
      await tree.write(step.path, contentOf(tree, step.from, context.outside), {
        replace: step.before !== null,
        tag: `${record.id}-${i}`,
        signal: context.signal,
        onBytes,
        modified: step.modified ?? undefined,
        beforeCommit: async (written) => {
          if (written.size !== step.size)
            throw stale(
              step.from.from === 'outside' || step.from.from === 'tree' ? step.from.path : step.path,
              'was changed',
            );
          if (step.from.from === 'store' && written.digest !== step.from.digest)
            throw new AppError('apply-failed', `What was kept of ${step.path} is damaged.`);
          await checkSource(tree, step.from, context.outside);
          if (step.before !== null) {
            const now = await tree.stat(step.path);
            if (!now || now.modified !== modified || now.size !== step.before.size)
              throw stale(step.path, 'was changed');
          }
          await about(written.digest, kept);
        },
      });
    }
  }
}

/** A source must be, after it was read, what the plan saw. */
async function checkSource(tree: WritableFileTree, source: Source, outside: OutsideFiles): Promise<void> {
  if (source.from !== 'outside' && source.from !== 'tree') return;
  const stat = source.from === 'outside' ? await outside.stat(source.path) : await tree.stat(source.path);
  if (!stat) throw stale(source.path, 'has gone');
  if (stat.size !== source.state.size || stat.modified !== source.state.modified)
    throw stale(source.path, 'was changed');
}

async function* contentOf(tree: WritableFileTree, source: Source, outside: OutsideFiles): ByteStream {
  if (source.from === 'bytes') {
    yield bytesOfText(source.latin1);
    return;
  }
  if (source.from === 'store') {
    yield* tree.stream(storePath(source.digest));
    return;
  }
  const stream = (range?: readonly [number, number]) =>
    source.from === 'outside' ? outside.stream(source.path, range) : tree.stream(source.path, range);
  if (source.pieces === null) yield* stream();
  else
    for (const piece of source.pieces) {
      if ('latin1' in piece) yield bytesOfText(piece.latin1);
      else yield* stream(piece.copy);
    }
}
