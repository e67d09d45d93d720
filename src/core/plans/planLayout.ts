// Another layout for a workspace, or its own after a change.

import type { Note, Plan, Step } from '../changes/plan';
import { isWithin, join, treePath } from '../files/treePath';
import { eachFolder, keeper, readLayoutText, writeLayout, type Layout } from '../layouts/layout';
import type { WorkspaceFile } from '../layouts/workspace';
import { homeMoves, makeSteps } from './homeMoves';
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
  const old = workspace.file.layoutText ? readLayoutText(workspace.file.layoutText) : null;
  const { files, folders, homes } = await homeMoves(workspace, layout.homes, notes);
  // Folders of both layouts under other prefixes.
  const before = new Map(
    old && old.problems.length === 0 ? [...eachFolder(old.tree)].map((f) => [f.bare, f.path]) : [],
  );
  for (const { bare, path } of eachFolder(layout.tree)) {
    const was = before.get(bare);
    if (
      was === undefined ||
      was === path ||
      folders.some((m) => isWithin(was, m.path)) ||
      (await workspace.tree.kind(treePath(was))) !== 'folder' ||
      (await workspace.tree.kind(treePath(path))) !== null
    )
      continue;
    if (!folders.some((m) => isWithin(m.path, was)) && ![...files.keys()].some((f) => isWithin(f, was)))
      folders.push({ path: was, to: path });
  }
  const moved = await moving(workspace, { files, folders, clearEmptied: true, ...watched });
  const wanted = [...new Set([...layout.folders, ...Object.values(homes)])].filter((f) => f !== '');
  const makes = notes.some((n) => n.level === 'blocker')
    ? []
    : await makeSteps(workspace, wanted, moved.steps);
  const keeps: Step[] = [];
  for (const f of layout.kept)
    if ((await workspace.tree.kind(join(f, keeper))) === null && !folders.some((m) => isWithin(f, m.to)))
      keeps.push(keeperStep(f));
  const gone: Step[] = [];
  for (const f of workspace.file.folders.toSorted((a, b) => b.length - a.length)) {
    if (
      wanted.some((w) => isWithin(w, f)) ||
      folders.some((m) => isWithin(f, m.path)) ||
      moved.steps.some((s) => s.do === 'remove-folder' && s.path === f)
    )
      continue;
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
