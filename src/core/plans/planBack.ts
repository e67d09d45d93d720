// The way back to a checkpoint: what is gone comes back, what changed is as it was, what is new goes to the bin. What was only moved is moved back. And the
// plan that gives a checkpoint up.

import { foldersFor, type Note, type Plan, type Step } from '../changes/plan';
import { AppError } from '../errors';
import type { Digest } from '../files/digest';
import type { FileStat } from '../files/fileTree';
import { binAt, isOwnAnywhere, markerPath, versionsFolder } from '../files/records';
import { folderOf, isWithin, type TreePath } from '../files/treePath';
import { hasContent } from '../store/store';
import { checkpointPath, isInScope, type Checkpoint } from '../versions/checkpoint';
import { compareWithState, type KeptFile } from '../versions/folderState';
import { count } from '../text/figures';
import { stateOf, type Workspace } from './workspace';

/** Whether a checkpoint of a scope holds a file: users' files, and of our own records the marker and the notes about versions. */
export function holdsFile(scope: readonly string[], path: string): boolean {
  if (!isOwnAnywhere(path)) return isInScope(scope, path);
  return scope.length === 0 && (path === markerPath || isWithin(path, versionsFolder));
}

/** What there is now of what a checkpoint is of. */
export async function filesNow(workspace: Workspace, scope: readonly string[]): Promise<FileStat[]> {
  const found: FileStat[] = [];
  for await (const f of workspace.tree.list(undefined, () => undefined))
    if (holdsFile(scope, f.path)) found.push(f);
  return found;
}

/** The plan that goes back to a checkpoint. `now`: ISO time, which names the folder in the bin. */
export async function planBack(workspace: Workspace, checkpoint: Checkpoint, now: string): Promise<Plan> {
  const { tree } = workspace;
  const files = await filesNow(workspace, checkpoint.scope);
  const since = await compareWithState(checkpoint, files, (path) => tree.digest(path));
  const notes: Note[] = [];
  const moved = await movedFiles(workspace, since.gone, since.fresh);
  const steps: Step[] = [];
  const made = new Set<string>();
  const makeFolders = async (path: string) => {
    for (const step of foldersFor(path, (f) => made.has(f))) {
      made.add(step.path);
      if ((await tree.kind(step.path)) === null) steps.push(step);
    }
  };
  for (const folder of checkpoint.folders) await makeFolders(`${folder}/x`);
  const bin = binAt(now);
  for (const file of since.fresh) {
    const back = moved.get(file.path);
    const to = back ?? (`${bin}/${file.path}` as TreePath);
    await makeFolders(to);
    const content = await stateOf(tree, file.path);
    if (content) steps.push({ do: 'move', path: file.path, to, content });
  }
  const back = new Set<string>(moved.values());
  for (const file of [...since.gone.filter((f) => !back.has(f[0])), ...since.changed]) {
    await makeFolders(file[0]);
    const step = await putStep(workspace, file, notes);
    if (step) steps.push(step);
  }
  steps.push(...(await linkSteps(workspace, checkpoint, makeFolders, notes)));
  steps.push(...(await emptied(workspace, checkpoint, since.fresh)));
  if (steps.length === 0)
    notes.push({ level: 'info', code: 'nothing', message: 'Everything is as it was then.' });
  return {
    kind: 'back',
    title: `Go back to “${checkpoint.name}”`,
    steps,
    notes: [...notes, ...scopeNotes(checkpoint, since.fresh.length - moved.size)],
    paths: [],
    readiness: null,
  };
}

function scopeNotes(checkpoint: Checkpoint, fresh: number): Note[] {
  const notes: Note[] = checkpoint.unread.map((path) => ({
    level: 'warning',
    code: 'unread',
    message: `${path} could not be read then, and stays as it is.`,
    path,
  }));
  if (fresh > 0)
    notes.push({
      level: 'info',
      code: 'to-bin',
      message: `${count(fresh, 'file')} that came since ${fresh === 1 ? 'goes' : 'go'} to the bin.`,
    });
  return notes;
}

/** New files that are gone ones under another name: by their size first, then by what they hold. */
async function movedFiles(
  { tree }: Workspace,
  gone: readonly KeptFile[],
  fresh: readonly FileStat[],
): Promise<Map<string, TreePath>> {
  const bySize = new Map<number, KeptFile[]>();
  for (const f of gone) if (f[1] > 0) bySize.set(f[1], [...(bySize.get(f[1]) ?? []), f]);
  const moved = new Map<string, TreePath>();
  for (const file of fresh) {
    const alike = bySize.get(file.size);
    if (!alike || alike.length === 0) continue;
    const digest = await tree.digest(file.path);
    const n = alike.findIndex((f) => f[4] === digest);
    if (n >= 0) moved.set(file.path, alike.splice(n, 1)[0]![0]);
  }
  return moved;
}

/** The step that makes a file what it was; null, with a note, where that cannot be. */
async function putStep({ tree }: Workspace, file: KeptFile, notes: Note[]): Promise<Step | null> {
  const [path, size, modified, mode, digest] = file;
  const kind = await tree.kind(path);
  if (kind !== null && kind !== 'file') {
    const message = `${path} is a ${kind === 'folder' ? 'folder' : 'link'} now; it stays.`;
    notes.push({ level: 'warning', code: 'in-the-way', message, path });
    return null;
  }
  if (!(await hasContent(tree, digest))) {
    const message = `What ${path} held is not in the store any more; it stays as it is.`;
    notes.push({ level: 'warning', code: 'not-kept', message, path });
    return null;
  }
  return {
    do: 'put',
    path,
    before: await stateOf(tree, path),
    size,
    modified,
    ...(mode >= 0 ? { mode } : {}),
    from: { from: 'store', digest },
  };
}

async function linkSteps(
  { tree }: Workspace,
  { links }: Checkpoint,
  makeFolders: (path: string) => Promise<void>,
  notes: Note[],
): Promise<Step[]> {
  const steps: Step[] = [];
  for (const [path, text] of links) {
    const kind = await tree.kind(path);
    const before = kind === 'link' ? await tree.readLink(path) : null;
    if (before === text) continue;
    if (kind !== null && kind !== 'link') {
      const message = `${path} was a link and is none any more; it stays.`;
      notes.push({ level: 'warning', code: 'in-the-way', message, path });
      continue;
    }
    await makeFolders(path);
    steps.push({ do: 'link', path, before, after: text });
  }
  return steps;
}

/** Folders that came since, and fall empty. */
async function emptied(
  { tree }: Workspace,
  { folders, files, scope }: Checkpoint,
  fresh: readonly FileStat[],
): Promise<Step[]> {
  const then = new Set<string>(['', ...folders]);
  for (const [path] of files) for (let f = folderOf(path); f !== ''; f = folderOf(f)) then.add(f);
  const going = new Set<TreePath>();
  for (const { path } of fresh)
    for (let f = folderOf(path); f !== '' && !then.has(f); f = folderOf(f)) going.add(f);
  const leaving = new Set<string>(fresh.map((f) => f.path));
  const steps: Step[] = [];
  for (const folder of [...going].sort((a, b) => b.length - a.length)) {
    if (isOwnAnywhere(folder) || !isInScope(scope, folder)) continue;
    const rest = ((await tree.entries(folder)) ?? []).filter((e) => !leaving.has(`${folder}/${e.name}`));
    if (rest.length > 0) continue;
    steps.push({ do: 'remove-folder', path: folder });
    leaving.add(folder);
  }
  return steps;
}

/** The plan that gives a checkpoint up. What it alone needs leaves the store with the next clearing. */
export async function planDrop(workspace: Workspace, id: string, name: string): Promise<Plan> {
  const path = checkpointPath(id);
  const before = await stateOf(workspace.tree, path);
  if (!before) throw new AppError('not-found', `There is no checkpoint ${id}.`);
  return {
    kind: 'drop',
    title: `Give up the checkpoint “${name}”`,
    steps: [{ do: 'remove', path, before }],
    notes: [
      {
        level: 'info',
        code: 'store',
        message: 'What it alone keeps leaves the store when that is cleared; until then this can be undone.',
      },
    ],
    paths: [],
    readiness: null,
  };
}

/** Content ids of a checkpoint. */
export const checkpointContents = ({ files }: Checkpoint): Digest[] => files.map((f) => f[4]);
