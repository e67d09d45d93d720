// What moves when kinds get other homes, and the folders that have to be made beside it.

import { isOwn } from '../files/records';
import type { Note, Step } from '../changes/plan';
import { isWithin, treePath, type TreePath } from '../files/treePath';
import type { FileKind, Homes } from '../layouts/homes';
import { checkNewName } from '../names/portable';
import type { MarkedWorkspace } from './marker';
import { kindOfFile } from './planTidy';
import type { Workspace } from './workspace';

/** Moves that kinds' new homes ask for: a home of its own goes as one folder, of a shared one only the files of the kind. */
export async function homeMoves(
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

/** What lies at a path once folders have moved; in the order of the steps. */
export async function kindAfter(
  tree: Workspace['tree'],
  steps: readonly Step[],
  path: TreePath,
): Promise<Awaited<ReturnType<Workspace['tree']['kind']>>> {
  let at: TreePath = path;
  for (const s of steps.toReversed()) {
    if (s.do === 'remove-folder' && isWithin(at, s.path)) return null;
    if (s.do !== 'move-folder') continue;
    if (isWithin(at, s.to)) at = treePath(s.path + at.slice(s.to.length));
    else if (isWithin(at, s.path)) return null;
  }
  return tree.kind(at);
}

/** Steps that make folders which are not there, parents first, beside what other steps make. */
export async function makeSteps(
  workspace: Workspace,
  wanted: Iterable<string>,
  steps: readonly Step[],
): Promise<Step[]> {
  const made = new Set(
    steps.flatMap((s) =>
      s.do === 'make-folder' ? [s.path as string] : s.do === 'move-folder' ? [s.to as string] : [],
    ),
  );
  const makes: Step[] = [];
  for (const path of wanted)
    for (const [i] of path.split('/').entries()) {
      const folder = path
        .split('/')
        .slice(0, i + 1)
        .join('/');
      if (folder === '' || made.has(folder)) continue;
      made.add(folder);
      if ((await kindAfter(workspace.tree, steps, treePath(folder))) === null)
        makes.push({ do: 'make-folder', path: treePath(folder) });
    }
  return makes;
}
