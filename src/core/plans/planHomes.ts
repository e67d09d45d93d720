// Renames and moves with references kept, and changes of homes: the files of a kind follow, the marker says where they live.

import { markerPath, isOwn } from '../files/records';
import type { Note, Plan, Step } from '../changes/plan';
import { isWithin, join, nameOf, treePath } from '../files/treePath';
import type { FileKind, Homes } from '../layouts/homes';
import { eachFolder, keeper, readLayoutText, writeLayout, type Layout } from '../layouts/layout';
import { writeWorkspaceFile, type WorkspaceFile } from '../layouts/workspace';
import { checkNewName } from '../names/portable';
import { latin1, utf8 } from '../text/bytes';
import { moving, type MoveRequest } from './moving';
import { keeperStep } from './planCreate';
import { kindOfFile } from './planTidy';
import { stateOf, type Workspace } from './workspace';

/** A workspace with all its marker says. */
export type MarkedWorkspace = Workspace & { file: WorkspaceFile };

type Watched = Pick<MoveRequest, 'signal' | 'onScene'>;

/** The step that writes a new marker; null where it says the same. */
export async function markerStep(workspace: Workspace, file: WorkspaceFile): Promise<Step | null> {
  const text = utf8(writeWorkspaceFile(file));
  const before = await stateOf(workspace.tree, markerPath);
  if (before !== null && latin1(await workspace.tree.read(markerPath)) === latin1(text)) return null;
  return {
    do: 'put',
    path: markerPath,
    before,
    size: text.length,
    modified: null,
    from: { from: 'bytes', latin1: latin1(text) },
  };
}

/** What a marker says once folders have moved. */
export function markerAfter(
  file: WorkspaceFile,
  folders: readonly { path: string; to: string }[],
): WorkspaceFile {
  const place = (path: string) => {
    const m = folders.find((f) => isWithin(path, f.path));
    return m ? m.to + path.slice(m.path.length) : path;
  };
  const homes = Object.fromEntries(
    Object.entries(file.homes).map(([kind, home]) => [kind, place(home)]),
  ) as Homes;
  const parents = folders.flatMap((m) =>
    m.to.split('/').map((_, i, parts) => parts.slice(0, i + 1).join('/')),
  );
  return {
    ...file,
    homes,
    folders: [
      ...new Set([
        ...file.folders.map(place),
        ...(file.folders.some((f) => folders.some((m) => isWithin(f, m.path))) ? parents : []),
      ]),
    ].sort(),
    ...(file.search ? { search: file.search.map(place) } : {}),
  };
}

/** Renames or moves files and folders; homes in moved folders move along. */
export async function planMove(
  workspace: MarkedWorkspace,
  moves: readonly { path: string; to: string }[],
  watched: Watched = {},
): Promise<Plan> {
  const notes: Note[] = [];
  const files = new Map<string, string>();
  const folders: { path: string; to: string }[] = [];
  for (const { path, to } of moves) {
    const wrong = to.split('/').flatMap((part) => checkNewName(part));
    if (wrong.length > 0)
      notes.push({ level: 'blocker', code: 'bad-name', message: `${to}: ${wrong[0]!.message}`, path });
    const kind = isOwn(path) || isOwn(to) ? null : await workspace.tree.kind(treePath(path));
    if (kind === 'folder') folders.push({ path, to });
    else if (kind === 'file' || kind === 'link') files.set(path, to);
    else
      notes.push({
        level: 'blocker',
        code: 'not-found',
        message: `${path} is nothing that can be moved.`,
        path,
      });
  }
  const moved = await moving(workspace, { files, folders, clearEmptied: false, ...watched });
  const marker =
    folders.length > 0 && workspace.file.created !== ''
      ? await markerStep(workspace, markerAfter(workspace.file, folders))
      : null;
  const one = moves[0];
  const title =
    moves.length === 1 && one
      ? nameOf(one.path) === nameOf(one.to)
        ? `Move ${nameOf(one.path)}`
        : `Rename ${nameOf(one.path)} to ${nameOf(one.to)}`
      : `Move ${moves.length} files and folders`;
  return {
    kind: 'move',
    title,
    steps: [...moved.steps, ...(marker ? [marker] : [])],
    notes: [...notes, ...moved.notes],
    paths: moved.paths,
    readiness: null,
    basis: moved.basis,
  };
}

/** Moves that kinds' new homes ask for: a home of its own goes as one folder, of a shared one only the files of the kind. */
async function homeMoves(
  workspace: MarkedWorkspace,
  changes: Readonly<Partial<Record<FileKind, string | null>>>,
  notes: Note[],
): Promise<{
  files: Map<string, string>;
  folders: { path: string; to: string }[];
  homes: Homes;
  kinds: FileKind[];
}> {
  const old = workspace.file.homes;
  const homes: Homes = { ...old };
  const files = new Map<string, string>();
  const folders: { path: string; to: string }[] = [];
  const changed = (Object.entries(changes) as [FileKind, string | null][]).filter(
    ([kind, to]) => (old[kind] ?? null) !== to,
  );
  for (const [kind, to] of changed) {
    const from = old[kind];
    if (to === null) delete homes[kind];
    else homes[kind] = to;
    const wrong = to?.split('/').flatMap((part) => checkNewName(part)) ?? [];
    if (wrong.length > 0 || (to !== null && isOwn(to))) {
      notes.push({
        level: 'blocker',
        code: 'bad-name',
        message: `“${to}” cannot be a home. ${wrong[0]?.message ?? 'It is kept for the workspace itself.'}`,
        path: to ?? '',
      });
      continue;
    }
    if (to === null || from === undefined || (await workspace.tree.kind(treePath(from))) !== 'folder')
      continue;
    const isShared = (Object.entries(old) as [FileKind, string][]).some(
      ([k, f]) => k !== kind && f === from && changes[k] !== to,
    );
    const hasInner = Object.values(old).some((f) => f !== from && isWithin(f, from));
    if (!isShared && !hasInner && (await workspace.tree.kind(treePath(to))) === null && !isWithin(to, from)) {
      if (!folders.some((m) => m.path === from)) folders.push({ path: from, to });
      continue;
    }
    // Others live there too: only files of this kind go.
    for await (const f of workspace.tree.list(treePath(from))) {
      if (isWithin(f.path, to) || (await kindOfFile(workspace, f.path)) !== kind) continue;
      files.set(f.path, to + f.path.slice(from.length));
    }
  }
  return { files, folders, homes, kinds: changed.map(([kind]) => kind) };
}

/** Steps that make folders which are not there, parents first, beside what other steps make. */
async function makeSteps(
  workspace: Workspace,
  wanted: Iterable<string>,
  steps: readonly Step[],
): Promise<Step[]> {
  const made = new Set(
    steps.flatMap((s) =>
      s.do === 'make-folder' ? [s.path as string] : s.do === 'move-folder' ? [s.to as string] : [],
    ),
  );
  const moved = steps.flatMap((s) => (s.do === 'move-folder' ? [s] : []));
  const makes: Step[] = [];
  for (const path of wanted)
    for (const [i] of path.split('/').entries()) {
      const folder = path
        .split('/')
        .slice(0, i + 1)
        .join('/');
      if (folder === '' || made.has(folder)) continue;
      made.add(folder);
      const isThere =
        moved.some((m) => isWithin(folder, m.to)) ||
        ((await workspace.tree.kind(treePath(folder))) !== null &&
          !moved.some((m) => isWithin(folder, m.path)));
      if (!isThere) makes.push({ do: 'make-folder', path: treePath(folder) });
    }
  return makes;
}

/** Gives kinds other homes: their files move there with every reference kept, the marker says so. Null: the kind has no home any more. */
export async function planHomes(
  workspace: MarkedWorkspace,
  changes: Readonly<Partial<Record<FileKind, string | null>>>,
  watched: Watched = {},
): Promise<Plan> {
  const notes: Note[] = [];
  const { files, folders, homes, kinds } = await homeMoves(workspace, changes, notes);
  const moved = await moving(workspace, { files, folders, clearEmptied: true, ...watched });
  const after = markerAfter(workspace.file, folders);
  const wanted = Object.values(homes).filter((f) => f !== '');
  const file: WorkspaceFile = {
    ...after,
    homes,
    folders: [
      ...new Set([...after.folders.filter((f) => !folders.some((m) => f === m.path)), ...wanted]),
    ].sort(),
  };
  const makes = notes.some((n) => n.level === 'blocker')
    ? []
    : await makeSteps(workspace, wanted, moved.steps);
  const marker = await markerStep(workspace, file);
  const [one] = kinds;
  const title =
    kinds.length === 1
      ? homes[one!] === undefined
        ? `Take the home of ${one} files away`
        : `Let ${one} files live in ${homes[one!]}`
      : `Change ${kinds.length} homes`;
  return {
    kind: 'homes',
    title,
    steps: [...moved.steps, ...makes, ...(marker ? [marker] : [])],
    notes: [...notes, ...moved.notes],
    paths: moved.paths,
    readiness: null,
    basis: moved.basis,
  };
}

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

/** Changes what the marker says, and nothing else. */
export async function planSettings(
  workspace: MarkedWorkspace,
  file: WorkspaceFile,
  title: string,
): Promise<Plan> {
  const step = await markerStep(workspace, file);
  return {
    kind: 'settings',
    title,
    steps: step ? [step] : [],
    notes: step ? [] : [{ level: 'info', code: 'nothing', message: 'It is so already.' }],
    paths: [],
    readiness: null,
  };
}
