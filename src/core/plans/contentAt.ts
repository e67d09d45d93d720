// A file's content at another place: the same, or with its paths written for there.

import type { Note } from '../changes/plan';
import { readNeeded, type NeededFile, type Source } from '../collect/closure';
import { AppError } from '../errors';
import { isAbsolutePath, type TreePath } from '../files/treePath';
import type { JudgedReference } from '../references/scan';
import { isGuess, rewrite, writtenAbsolute, writtenRelative, type Rewriting } from './rewrite';

export type ContentAt = Awaited<ReturnType<typeof rewrite>>;

/**
 * What `file` says once it lies at `to`. `targetOf`: where what a reference leads to will lie then, as a tree path or
 * absolute; null: it stays as it is written. Throws AppError where the file was saved meanwhile.
 */
export async function contentAt(
  source: Source,
  file: NeededFile,
  to: TreePath,
  targetOf: (reference: JudgedReference) => string | null,
): Promise<ContentAt> {
  const asItIs = { size: file.state.size, pieces: null, paths: [], notes: [] };
  if (!file.references || file.references.length === 0) return asItIs;
  const reading = await readNeeded(source, file);
  if (!reading) return asItIs;
  const now = await source.outside.stat(file.from);
  if (now?.size !== file.state.size || now.modified !== file.state.modified)
    throw new AppError('stale-plan', `${file.from} was saved while the plan was being made.`);
  const guesses: Note[] = [];
  const wishes = file.references.flatMap((reference): Rewriting[] => {
    // What may be a path or not comes along, and is left as it is written.
    if (isGuess(reference, to, guesses)) return [];
    const target = targetOf(reference);
    if (target === null) return [];
    const written = isAbsolutePath(target)
      ? writtenAbsolute(reading, target, reference)
      : writtenRelative(reading, to, target, reference);
    return [{ reference, written }];
  });
  const done = await rewrite(reading, file.state.size, wishes, to, (range) =>
    source.outside.read(file.from, range),
  );
  return { ...done, notes: [...guesses, ...done.notes] };
}
