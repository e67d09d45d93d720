// Collects what scenes need into a new folder: copied to where the placement says, paths written for there. The sources stay as they are.

import { foldersFor, type Note, type PathChange, type Plan, type Step } from '../changes/plan';
import type { Closure, LeftOut, Source } from '../collect/closure';
import { placedTarget, type Placement } from '../collect/placement';
import type { CancelSignal } from '../files/fileTree';
import { join, nameOf, type TreePath } from '../files/treePath';
import { count } from '../text/figures';
import { contentAt } from './contentAt';

export interface CollectRequest {
  closure: Closure;
  placement: Placement;
  /** What it is called in the ledger: 'harbour_v007 and 2 more'. */
  name: string;
  signal?: CancelSignal | undefined;
  onFile?: ((done: number, of: number) => void) | undefined;
}

/** The plan, for the tree of the new folder, which is empty. */
export async function planCollect(source: Source, request: CollectRequest): Promise<Plan> {
  const { closure, placement } = request;
  const steps: Step[] = [];
  const paths: PathChange[] = [];
  const notes: Note[] = [...closure.notes, ...leftNotes(closure.left), ...placedNotes(placement)];
  const made = new Set<string>();
  const makeFolders = (path: TreePath) => {
    for (const step of foldersFor(path, (f) => made.has(f))) {
      made.add(step.path);
      steps.push(step);
    }
  };
  // A folder that is made though nothing lies in it: as if something did.
  for (const path of placement.folders) makeFolders(join(path, 'x'));
  let done = 0;
  // Where a hand put something that cannot lie there, no step is made of any of it.
  for (const file of placement.clashes.length > 0 ? [] : closure.files.values()) {
    request.signal?.throwIfAborted();
    const to = placement.files.get(file.from)!.to;
    makeFolders(to);
    const content = await contentAt(source, file, to, (r) =>
      placedTarget(source.root, file.from, r, closure, placement),
    );
    paths.push(...content.paths);
    notes.push(...content.notes);
    steps.push({
      do: 'put',
      path: to,
      before: null,
      size: content.size,
      modified: file.state.modified,
      from: { from: 'outside', path: file.from, state: file.state, pieces: content.pieces },
    });
    request.onFile?.(++done, closure.files.size);
  }
  return {
    kind: 'collect',
    title: `Collect ${request.name}: ${count(closure.files.size, 'file')}`,
    steps,
    notes,
    paths,
    readiness: null,
  };
}

const becauseOf: Record<LeftOut['why'], string> = {
  missing: 'is missing',
  offline: 'lies on a place that is not connected',
  remote: 'is a web address',
  'not-allowed': 'lies in a folder you have not allowed',
  excluded: 'lies in an excluded folder',
  unticked: 'is left out',
  'not-used': 'is not used',
};

/** What is needed and stays behind: each once, with who needs it. */
export function leftNotes(left: readonly LeftOut[]): Note[] {
  return left.map((l) => {
    const scenes = [...new Set(l.neededBy.map((n) => nameOf(n.scene)))];
    const who =
      scenes.length === 0
        ? ''
        : ` ${scenes.slice(0, 3).join(', ')}${scenes.length > 3 ? ` and ${scenes.length - 3} more` : ''} ${scenes.length === 1 ? 'needs' : 'need'} it.`;
    const where = l.path ?? l.neededBy[0]!.written;
    const what = l.files === 1 ? where : `${count(l.files, 'file')} of ${where}`;
    const because = l.files === 1 ? becauseOf[l.why] : becauseOf[l.why].replace(/^is /, 'are ');
    const via = l.via === null ? because : `${because} (${l.via})`;
    return {
      level: l.why === 'remote' || l.why === 'not-used' ? 'info' : 'warning',
      code: l.why,
      message: `${what} ${via}.${who}`,
      path: l.path ?? l.neededBy[0]!.scene,
    };
  });
}

function placedNotes(placement: Placement): Note[] {
  const notes: Note[] = placement.clashes.map((c) => ({
    level: 'blocker',
    code: 'clash',
    message: `${c.to}: ${c.why}`,
    path: c.to,
  }));
  for (const { to, instead } of placement.files.values())
    if (instead)
      notes.push({
        level: 'info',
        code: 'renamed',
        message: `${instead.name} will be ${to}: ${instead.why === 'taken' ? 'another file of that name lies there' : 'its name is not legal on every system'}.`,
        path: to,
      });
  return notes;
}
