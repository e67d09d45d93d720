// One step of a plan, made: checked, what it replaces kept, written down, done.

import { made } from '../convert/made';
import { AppError } from '../errors';
import type { ByteRange, ByteStream, OutsideFiles, WritableFileTree } from '../files/fileTree';
import { rootPath, treePath } from '../files/treePath';
import { checkContent, isKept, keepContent, openContent } from '../store/store';
import { checkLink, checkSource, checkStat, checkState, stale, type CheckContext } from './check';
import { writeLine, type About, type JournalRecord } from './journal';
import type { Source, Step } from './plan';
import { sameTime } from '../files/times';
import type { CancelSignal } from '../files/fileTree';
import { bytesOfText } from '../text/bytes';

interface StepContext extends CheckContext {
  signal?: CancelSignal | undefined;
}

type Write = (about: Partial<About>) => Promise<void>;

/** Makes step `i` of a record's plan. `onBytes` hears what was written. */
export async function makeStep(
  tree: WritableFileTree,
  step: Step,
  i: number,
  record: JournalRecord,
  context: StepContext,
  onBytes: (n: number) => void,
): Promise<void> {
  const about: Write = async (said) => {
    const known: About = { digest: null, kept: null, skip: false, ...said };
    const { skip, ...rest } = known;
    await writeLine(tree, record, { line: 'about', step: i, ...rest, ...(skip ? { skip } : {}) });
    record.about.set(i, known);
  };
  switch (step.do) {
    case 'make-folder':
      return makeFolder(tree, step, about);
    case 'remove-folder':
      return removeFolder(tree, step, about);
    case 'move':
      return move(tree, step, about);
    case 'move-folder': {
      if ((await tree.kind(step.path)) !== 'folder') throw stale(step.path, 'has gone');
      if (await isTaken(tree, step)) throw stale(step.to, 'has appeared');
      await about({});
      return tree.moveFolder(step.path, step.to);
    }
    case 'remove':
      return remove(tree, step, `${record.id}-${i}`, about);
    case 'link':
      return link(tree, step, about);
    case 'put':
      return put(tree, step, `${record.id}-${i}`, context, about, onBytes);
  }
}

/** A name in other letters is the same file on a disk that ignores case: the tree decides. */
async function isTaken(tree: WritableFileTree, step: { path: string; to: Step['path'] }): Promise<boolean> {
  return (await tree.kind(step.to)) !== null;
}

async function makeFolder(tree: WritableFileTree, step: Step & { do: 'make-folder' }, about: Write) {
  const kind = await tree.kind(step.path);
  if (kind !== null && step.fresh) throw stale(step.path, 'has appeared');
  // A link to a folder inside the root serves as one.
  const serves = kind === 'folder' || (kind === 'link' && (await tree.entries(step.path)) !== null);
  await about({ skip: serves });
  if (!serves) await tree.makeFolder(step.path, step.mode);
}

async function removeFolder(tree: WritableFileTree, step: Step & { do: 'remove-folder' }, about: Write) {
  const isFolder = (await tree.kind(step.path)) === 'folder';
  const entries = isFolder ? await tree.entries(step.path) : null;
  const skip = entries === null || entries.length > 0 || step.path === rootPath;
  const mode = skip ? undefined : await tree.folderMode(step.path);
  await about({ skip, ...(mode === undefined ? {} : { was: { modified: 0, mode } }) });
  if (!skip) await tree.removeFolder(step.path);
}

async function move(tree: WritableFileTree, step: Step & { do: 'move' }, about: Write) {
  const { content } = step;
  let digest: About['digest'] = null;
  // Only its name changes: where the plan has no content id, size and time tell the file.
  if (content.link !== undefined) await checkLink(tree, step.path, content.link);
  else if (content.digest === null) await checkStat(tree, step.path, content);
  else ({ digest } = await checkState(tree, step.path, content));
  if (await isTaken(tree, step)) throw stale(step.to, 'has appeared');
  await about({ digest });
  return tree.move(step.path, step.to);
}

async function remove(tree: WritableFileTree, step: Step & { do: 'remove' }, tag: string, about: Write) {
  const { digest, stat } = await checkState(tree, step.path, step.before);
  await keepContent(tree, step.path, digest, `${tag}-keep`);
  await about({ kept: digest, was: { modified: stat.modified, mode: stat.mode } });
  const now = await tree.stat(step.path);
  if (now && now.modified !== stat.modified) throw stale(step.path, 'was changed');
  return tree.remove(step.path);
}

async function link(tree: WritableFileTree, step: Step & { do: 'link' }, about: Write) {
  if (step.before !== null) await checkLink(tree, step.path, step.before);
  else if ((await tree.kind(step.path)) !== null) throw stale(step.path, 'has appeared');
  await about({});
  if (step.before !== null) await tree.remove(step.path);
  if (step.after !== null) await tree.makeLink(step.path, step.after);
}

async function put(
  tree: WritableFileTree,
  step: Step & { do: 'put' },
  tag: string,
  context: StepContext,
  about: Write,
  onBytes: (n: number) => void,
) {
  const found = step.before === null ? null : await checkState(tree, step.path, step.before);
  if (found) await keepContent(tree, step.path, found.digest, `${tag}-keep`);
  await tree.write(step.path, contentOf(tree, step.from, context.outside), {
    replace: step.before !== null,
    tag,
    signal: context.signal,
    onBytes,
    modified: step.modified ?? undefined,
    mode: step.mode,
    beforeCommit: async (written) => {
      const { from } = step;
      if (written.size !== step.size)
        throw stale(from.from === 'outside' || from.from === 'tree' ? from.path : step.path, 'was changed');
      if (from.from === 'made' && written.digest !== from.digest) throw stale(from.path, 'was changed');
      if (from.from === 'store' && !from.pieces) checkContent(from.digest, written.digest, step.path);
      await checkSource(tree, from, context.outside);
      if (found) {
        const now = await tree.stat(step.path);
        if (!now || !sameTime(now.modified, found.stat.modified) || now.size !== found.stat.size)
          throw stale(step.path, 'was changed');
      }
      await about({
        digest: written.digest,
        kept: found?.digest ?? null,
        modified: written.modified,
        ...(found ? { was: { modified: found.stat.modified, mode: found.stat.mode } } : {}),
      });
    },
  });
}

async function* contentOf(tree: WritableFileTree, source: Source, outside: OutsideFiles): ByteStream {
  if (source.from === 'bytes') {
    yield bytesOfText(source.latin1);
    return;
  }
  if (source.from === 'made') {
    const { path, making } = source;
    const bytes = source.outside ? outside.read(path, making.span) : tree.read(treePath(path), making.span);
    const content = await made(making, await bytes);
    if ('refused' in content) throw stale(source.path, 'was changed');
    yield content;
    return;
  }
  if (source.from === 'files') {
    for (const piece of source.pieces) {
      if ('latin1' in piece) {
        yield bytesOfText(piece.latin1);
        continue;
      }
      const { path, outside: isOutside } = source.files[piece.file]!;
      yield* isOutside ? outside.stream(path, piece.copy) : tree.stream(treePath(path), piece.copy);
    }
    return;
  }
  if (source.from === 'store' && !source.pieces) {
    yield* openContent(tree, source.digest);
    return;
  }
  // Of a part of kept content nobody could tell afterwards whether it is right.
  if (source.from === 'store' && !(await isKept(tree, source.digest)))
    throw new AppError('disk-error', 'What was kept is spoilt: it is not what it was when it was kept.');
  const stream = (range?: ByteRange) => {
    if (source.from === 'store') return openContent(tree, source.digest, range);
    return source.from === 'outside' ? outside.stream(source.path, range) : tree.stream(source.path, range);
  };
  if (!source.pieces) yield* stream();
  else
    for (const piece of source.pieces) {
      if ('latin1' in piece) yield bytesOfText(piece.latin1);
      else yield* stream(piece.copy);
    }
}
