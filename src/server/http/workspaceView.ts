// Workspaces and layouts as the browser sees them, and the opening of a root.

import { AppError } from '@/core/errors';
import type { WorkspaceFile } from '@/core/layouts/workspace';
import { readLayout, shippedLayouts, writeLayout, type Layout } from '@/core/layouts/layout';
import type { LayoutView, WorkspaceView } from '@/wire/views';
import { scanFound } from '@/wire/jobs';
import { findWorkspace, listWorkspaces, rememberWorkspace, type WorkspaceRow } from '../database/queries';
import { allowedAmong } from '../allowed';
import { isThere } from '../disk/asking';
import { thereLately } from '../disk/lately';
import { workspaceId, type Hub } from '../hub';
import { startScan } from '../scans';
import { allTargets, lastBackup, lastOf } from '../backups/targets';
import { findLayout, ownLayouts } from '../workspaces/layoutLibrary';

/** Workspaces that who asks may look at; the one user of a machine sees all that were opened. */
export async function workspacesSeen(h: Pick<Hub, 'db' | 'who'>): Promise<WorkspaceRow[]> {
  const rows = await listWorkspaces(h.db);
  return h.who === null ? rows : allowedAmong(h, rows);
}

/** A known workspace. */
export async function workspaceView(h: Pick<Hub, 'ask' | 'db'>, row: WorkspaceRow): Promise<WorkspaceView> {
  const there = await isThere(row.root);
  const file = there ? await h.ask('workspace', row.root).catch(() => null) : null;
  return viewOf(row, { there, file, backedUp: await lastBackup(h, row.id) });
}

/** All that who asks may look at: the disk is asked once for all of them. */
export async function workspaceViews(h: Hub): Promise<WorkspaceView[]> {
  const rows = await workspacesSeen(h);
  const [targets, there] = await Promise.all([
    allTargets(h),
    Promise.all(rows.map(({ root }) => (h.who === null ? isThere(root) : thereLately(root)))),
  ]);
  const roots = rows.flatMap(({ root }, i) => (there[i] ? [root] : []));
  // A drive that does not answer any more takes nobody's list along.
  const read = await h.ask('workspaces', roots).catch(() => []);
  const files = new Map(roots.map((root, i) => [root, read[i] ?? null]));
  return rows.map((row, i) =>
    viewOf(row, {
      there: there[i]!,
      file: files.get(row.root) ?? null,
      backedUp: lastOf(targets.get(row.id) ?? []),
    }),
  );
}

/** What it is filed under stands in its own marker. */
function viewOf(
  row: WorkspaceRow,
  { there, file, backedUp }: { there: boolean; file: WorkspaceFile | null; backedUp: number | null },
): WorkspaceView {
  return {
    id: row.id,
    name: file?.name ?? row.name,
    root: row.root,
    opened: row.opened,
    there,
    category: file?.category ?? null,
    archived: file?.archived ?? null,
    backedUp,
    seen: seenOf(row),
  };
}

/** What the last reading of a workspace found, also while its drive is away. */
export function seenOf({ found, scanned }: WorkspaceRow): WorkspaceView['seen'] {
  if (found === null) return null;
  const read = scanFound.safeParse(JSON.parse(found));
  if (!read.success) return null;
  const { references, ready, files, bytes, lastVersion } = read.data;
  return { references, ready, files, bytes, lastVersion, scanned };
}

/** Opens a root: puts back what a crash of our own left, remembers it, reads it. */
export async function openRoot(h: Hub, root: string): Promise<WorkspaceView> {
  await h.ask('settleInPassing', root);
  const file = await h.ask('workspace', root);
  const id = workspaceId(root);
  await rememberWorkspace(h.db, id, root, file.name);
  await startScan(h, id, root, file.name);
  return workspaceView(h, (await findWorkspace(h.db, id))!);
}

/** The layout that was chosen: by id, or as a text. Throws AppError('bad-layout'). */
export function layoutOf(
  h: Pick<Hub, 'dataFolder'>,
  choice: { id?: string | undefined; text?: string | undefined },
): Layout {
  if (choice.text !== undefined) return readLayout(choice.text, choice.id ?? 'own', 'Own layout');
  const found = findLayout(h.dataFolder, choice.id ?? '');
  if (!found) throw new AppError('bad-layout', `There is no layout “${choice.id ?? ''}”.`);
  return found;
}

/** A layout as it goes to a work thread. */
export function layoutSource(layout: Layout): { id: string; text: string } {
  return { id: layout.id, text: writeLayout(layout) };
}

/** All layouts that can be chosen, the user's own first. */
export function layoutViews(h: Pick<Hub, 'dataFolder'>): LayoutView[] {
  const view =
    (own: boolean) =>
    (l: Layout): LayoutView => ({
      id: l.id,
      name: l.name,
      about: l.about,
      folders: [...l.folders],
      homes: l.homes as Record<string, string>,
      text: writeLayout(l),
      own,
    });
  return [...ownLayouts(h.dataFolder).map(view(true)), ...shippedLayouts.map(view(false))];
}
