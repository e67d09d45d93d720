// Another layout for a workspace, or its own after a change.

import type { Note, Plan, Step } from '../changes/plan';
import { isWithin, join, treePath } from '../files/treePath';
import { eachFolder, keeper, readLayoutText, writeLayout, type Layout } from '../layouts/layout';
import type { WorkspaceFile } from '../layouts/workspace';
import { homeMoves, kindAfter, makeSteps } from './homeMoves';
import { markerAfter, markerStep, type MarkedWorkspace } from './marker';
import { moving, type MoveRequest } from './moving';
import { keeperStep } from './planCreate';

type Watched = Pick<MoveRequest, 'signal' | 'onScene'>;

/**
 * Gives a workspace another layout, or its own after a change: homes move with what lives there, folders that got another prefix are renamed,
 * new ones are made, old ones that are empty go. Homes that the new layout does not speak of stay.
 */
export async function planLayout(
  workspace: MarkedWorkspace,
  layout: Layout,
  watched: Watched = {},
): Promise<Plan> {
  const notes: Note[] = [];
  const { files, folders, homes } = await homeMoves(workspace, layout.homes, notes);
  folders.push(...(await renamedFolders(workspace, layout, { files, folders })));
  const moved = await moving(workspace, { files, folders, clearEmptied: true, ...watched });
  const wanted = [...new Set([...layout.folders, ...Object.values(homes)])].filter((f) => f !== '');
  const makes = notes.some((n) => n.level === 'blocker')
    ? []
    : await makeSteps(workspace, wanted, moved.steps);
  const keeps: Step[] = [];
  for (const f of layout.kept)
    if ((await kindAfter(workspace.tree, moved.steps, join(treePath(f), keeper))) === null)
      keeps.push(keeperStep(f));
  const isGoing = (f: string) =>
    folders.some((m) => isWithin(f, m.path)) ||
    moved.steps.some((s) => s.do === 'remove-folder' && s.path === f);
  const gone = await clearedFolders(
    workspace,
    workspace.file.folders.filter((f) => !wanted.some((w) => isWithin(w, f)) && !isGoing(f)),
    notes,
  );
  const file: WorkspaceFile = {
    ...markerAfter(workspace.file, folders),
    layout: layout.id,
    layoutText: writeLayout(layout),
    homes,
    folders: wanted,
    kept: [...layout.kept],
  };
  const marker = await markerStep(workspace, file);
  const steps = [...moved.steps, ...makes, ...keeps, ...gone, ...(marker ? [marker] : [])];
  if (steps.length === 0)
    notes.push({ level: 'info', code: 'nothing', message: 'It has this layout already.' });
  return {
    kind: 'layout',
    title: `Lay out as ${layout.name}`,
    steps,
    notes: [...notes, ...moved.notes],
    paths: moved.paths,
    readiness: null,
    basis: moved.basis,
  };
}

/** Folders of the old layout and the new one that are the same but for their prefixes. */
async function renamedFolders(
  workspace: MarkedWorkspace,
  layout: Layout,
  {
    files,
    folders,
  }: { files: ReadonlyMap<string, string>; folders: readonly { path: string; to: string }[] },
): Promise<{ path: string; to: string }[]> {
  const old = workspace.file.layoutText ? readLayoutText(workspace.file.layoutText) : null;
  if (!old || old.problems.length > 0) return [];
  const before = new Map([...eachFolder(old.tree)].map((f) => [f.bare, f.path]));
  const found: { path: string; to: string }[] = [];
  for (const { bare, path } of eachFolder(layout.tree)) {
    const was = before.get(bare);
    if (was === undefined || was === path) continue;
    const isMoved = [...folders, ...found].some((m) => isWithin(was, m.path) || isWithin(m.path, was));
    if (isMoved || [...files.keys()].some((f) => isWithin(f, was))) continue;
    const isFree = (await workspace.tree.kind(treePath(path))) === null;
    if (isFree && (await workspace.tree.kind(treePath(was))) === 'folder')
      found.push({ path: was, to: path });
  }
  return found;
}

/** Steps that take folders away which hold nothing; of the others a note says that they stay. */
async function clearedFolders(
  workspace: MarkedWorkspace,
  folders: readonly string[],
  notes: Note[],
): Promise<Step[]> {
  const gone: Step[] = [];
  for (const f of folders.toSorted((a, b) => b.length - a.length)) {
    const entries = await workspace.tree.entries(treePath(f));
    if (entries?.every((e) => gone.some((g) => g.path === `${f}/${e.name}`)))
      gone.push({ do: 'remove-folder', path: treePath(f) });
    else if (entries)
      notes.push({
        level: 'info',
        code: 'not-empty',
        message: `${f} is not in the layout any more, but holds files; it stays.`,
        path: f,
      });
  }
  return gone;
}
