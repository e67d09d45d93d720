// Puts back what a plan has done so far: after a failure, a cancel, or a crash. Needs only the plan and the journal's lines,
// and may itself be cut off and run again: every action looks at the file first.

import type { OutsideFiles, WritableFileTree } from '../files/fileTree';
import { folderOf } from '../files/treePath';
import {
  storePath,
  writeLine,
  readJournals,
  type About,
  type JournalRecord,
  type ParseLine,
} from './journal';
import type { Step } from './plan';

interface Context {
  outside: Pick<OutsideFiles, 'stat'>;
  now: () => string;
}

/** Undoes the steps that were begun, last first. Returns the paths that were in neither state and were left untouched. */
export async function putBack(
  tree: WritableFileTree,
  record: JournalRecord,
  context: Context,
): Promise<string[]> {
  const left: string[] = [];
  for (let i = record.plan.steps.length - 1; i >= 0; i--) {
    const step = record.plan.steps[i]!;
    if (step.do === 'put') await tree.clearTemporary(step.path, `${record.id}-${i}`);
    const about = record.about.get(i);
    if (!about || about.skip) continue;
    if (!(await putStepBack(tree, step, about, `${record.id}-${i}-back`, context))) left.push(step.path);
  }
  return left;
}

async function putStepBack(
  tree: WritableFileTree,
  step: Step,
  about: About,
  tag: string,
  context: Context,
): Promise<boolean> {
  const restore = async (replace: boolean, modified: number) => {
    await tree.clearTemporary(step.path, tag);
    await tree.write(step.path, tree.stream(storePath(about.kept!)), { replace, tag, modified });
    return true;
  };
  switch (step.do) {
    case 'make-folder':
      await tree.removeFolder(step.path);
      return true;
    case 'remove-folder':
      if ((await tree.kind(step.path)) === null) await tree.makeFolder(step.path);
      return true;
    case 'move': {
      if ((await tree.kind(step.path)) === 'file') return true;
      if (about.digest !== null && (await tree.digest(step.to)) !== about.digest) return false;
      const there = await tree.stat(step.to);
      if (
        !there ||
        there.size !== step.content.size ||
        (about.digest === null && there.modified !== step.content.modified)
      )
        return false;
      await tree.move(step.to, step.path);
      return true;
    }
    case 'move-folder': {
      if ((await tree.kind(step.path)) === 'folder') return true;
      if ((await tree.kind(step.to)) !== 'folder') return false;
      await tree.moveFolder(step.to, step.path);
      return true;
    }
    case 'remove':
      if ((await tree.kind(step.path)) !== null) return (await tree.digest(step.path)) === about.kept;
      return restore(false, step.before.modified);
    case 'put': {
      const now = await tree.digest(step.path);
      if (step.before === null) {
        if (now === null) return true;
        if (now !== about.digest) return false;
        if (!(await isStillAtSource(step, context))) {
          await tree.makeFolder(folderOf(storePath(now)));
          await tree.keep(step.path, storePath(now));
        }
        await tree.remove(step.path);
        return true;
      }
      if (now === about.kept) return true;
      if (now !== null && now !== about.digest) return false;
      return restore(now !== null, step.before.modified);
    }
  }
}

/** True when a fresh copy's original still lies where it came from, so that the copy may go without being kept. */
async function isStillAtSource(step: Step & { do: 'put' }, context: Context): Promise<boolean> {
  if (step.from.from !== 'outside' || step.from.pieces !== null) return false;
  const stat = await context.outside.stat(step.from.path);
  return stat !== null && stat.size === step.from.state.size && stat.modified === step.from.state.modified;
}

/** Finishes what a crash left: every unfinished plan of a tree is put back. Returns what was done about each. */
export async function recover(
  tree: WritableFileTree,
  parse: ParseLine,
  context: Context,
): Promise<{ id: string; title: string; left: string[] }[]> {
  const repaired: { id: string; title: string; left: string[] }[] = [];
  for (const record of (await readJournals(tree, parse)).reverse()) {
    if (record.end) continue;
    const left = await putBack(tree, record, context);
    await writeLine(tree, record.id, {
      line: 'put-back',
      time: context.now(),
      because: 'The program ended before the plan was done.',
      left,
    });
    repaired.push({ id: record.id, title: record.plan.title, left });
  }
  return repaired;
}
