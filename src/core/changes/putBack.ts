// Puts back what a plan has done so far: after a failure, a cancel, or a crash. Needs only the plan and the journal's lines,
// and may itself be cut off and run again: every action looks at the file first. What fails at one file stops no other.

import { isLockLost } from '../errors';
import { fileError } from '../files/fileErrors';
import type { OutsideFiles, WritableFileTree } from '../files/fileTree';
import { sameTime } from '../files/times';
import type { TreePath } from '../files/treePath';
import { checkContent, clearKeeping, keepContent, openContent } from '../store/store';
import { writeLine, type About, type JournalRecord } from './journal';
import type { Step } from './plan';

export interface PutBackContext {
  outside: Pick<OutsideFiles, 'stat'>;
  now: () => string;
}

/** How putting back went: nothing in either list means that every file is as before. */
export interface PutBack {
  /** Files in neither state: somebody changed them meanwhile, and they were not touched. */
  left: string[];
  /** Files that could not be put back, and why; to be tried again. */
  stuck: { path: string; why: string }[];
}

/** Undoes the steps that were begun, last first. */
export async function putBack(
  tree: WritableFileTree,
  record: JournalRecord,
  context: PutBackContext,
): Promise<PutBack> {
  const done: PutBack = { left: [], stuck: [] };
  if (!record.isBeingPutBack && record.about.size > 0)
    try {
      await writeLine(tree, record, { line: 'putting-back' });
      record.isBeingPutBack = true;
    } catch (cause) {
      if (isLockLost(cause)) throw cause;
      // A full drive: what is put back then shows by itself, but for a second crash in the middle.
    }
  for (let i = record.plan.steps.length - 1; i >= 0; i--) {
    const step = record.plan.steps[i]!;
    try {
      const tag = `${record.id}-${i}`;
      if (step.do === 'put') await tree.clearTemporary(step.path, tag);
      if (step.do === 'put' || step.do === 'remove')
        for (const t of [`${tag}-keep`, `${tag}-back-keep`]) await clearKeeping(tree, t);
      const about = record.about.get(i);
      if (!about || about.skip) continue;
      if (!(await putStepBack(tree, step, about, `${tag}-back`, context))) done.left.push(step.path);
    } catch (cause) {
      if (isLockLost(cause)) throw cause;
      const why = fileError(step.path, cause);
      done.stuck.push({ path: step.path, why: why instanceof Error ? why.message : String(why) });
    }
  }
  return done;
}

/** False: the file is in neither state and was left. */
async function putStepBack(
  tree: WritableFileTree,
  step: Step,
  about: About,
  tag: string,
  context: PutBackContext,
): Promise<boolean> {
  switch (step.do) {
    case 'make-folder':
      await tree.removeFolder(step.path);
      return true;
    case 'remove-folder':
      if ((await tree.kind(step.path)) === null) await tree.makeFolder(step.path, about.was?.mode);
      return true;
    case 'move':
      return moveBack(tree, step, about);
    case 'move-folder': {
      if ((await tree.kind(step.path)) === 'folder') return true;
      if ((await tree.kind(step.to)) !== 'folder') return false;
      await tree.moveFolder(step.to, step.path);
      return true;
    }
    case 'link':
      return linkBack(tree, step);
    case 'remove':
      if ((await tree.kind(step.path)) !== null) return (await tree.digest(step.path)) === about.kept;
      return restore(tree, step.path, step.before.modified, about, tag, false);
    case 'put':
      return unPut(tree, step, about, tag, context);
  }
}

async function restore(
  tree: WritableFileTree,
  path: TreePath,
  planned: number,
  about: About,
  tag: string,
  replace: boolean,
): Promise<true> {
  await tree.clearTemporary(path, tag);
  await tree.write(path, openContent(tree, about.kept!), {
    replace,
    tag,
    modified: about.was?.modified ?? planned,
    mode: about.was?.mode,
    beforeCommit: async (written) => checkContent(about.kept!, written.digest, path),
  });
  return true;
}

async function moveBack(tree: WritableFileTree, step: Step & { do: 'move' }, about: About): Promise<boolean> {
  if ((await tree.kind(step.path)) !== null) return true;
  if (step.content.link !== undefined) {
    if ((await tree.readLink(step.to)) !== step.content.link) return false;
  } else {
    if ((await tree.kind(step.to)) !== 'file') return false;
    if (about.digest !== null && (await tree.digest(step.to)) !== about.digest) return false;
    const there = await tree.stat(step.to);
    if (!there || there.size !== step.content.size) return false;
    if (about.digest === null && !sameTime(there.modified, step.content.modified)) return false;
  }
  await tree.move(step.to, step.path);
  return true;
}

async function linkBack(tree: WritableFileTree, step: Step & { do: 'link' }): Promise<boolean> {
  const [kind, text] = [await tree.kind(step.path), await tree.readLink(step.path)];
  if (text === step.before && (text !== null || kind === null)) return true;
  // Between taking the old one away and making the new one there is nothing.
  if (kind !== null && text !== step.after) return false;
  if (kind !== null) await tree.remove(step.path);
  if (step.before !== null) await tree.makeLink(step.path, step.before);
  return true;
}

async function unPut(
  tree: WritableFileTree,
  step: Step & { do: 'put' },
  about: About,
  tag: string,
  context: PutBackContext,
): Promise<boolean> {
  const kind = await tree.kind(step.path);
  const now = kind === 'file' ? await tree.digest(step.path) : null;
  if (step.before === null) {
    if (kind === null) return true;
    if (now === null || now !== about.digest) return false;
    // What came from a file that is gone since is the last of its kind.
    if (await isOnlyCopy(step, context)) await keepContent(tree, step.path, now, `${tag}-keep`);
    await tree.remove(step.path);
    return true;
  }
  if (now !== null && now === about.kept) return true;
  if (kind !== null && now !== about.digest) return false;
  return restore(tree, step.path, step.before.modified, about, tag, kind !== null);
}

/** Whether a fresh copy's original no longer lies where it came from. */
async function isOnlyCopy(step: Step & { do: 'put' }, context: PutBackContext): Promise<boolean> {
  if (step.from.from !== 'outside') return false;
  const stat = await context.outside.stat(step.from.path);
  return !stat || stat.size !== step.from.state.size || !sameTime(stat.modified, step.from.state.modified);
}
