// Takes over a folder that exists: its own folders serve as homes where they fit, the rest of the layout is made, and what lies about
// is filed if that is wanted. Nothing is renamed that need not be.

import { ownFolder, markerPath, isOwnAnywhere } from '../files/records';
import type { Note, Plan, Step } from '../changes/plan';
import type { CancelSignal } from '../files/fileTree';
import { folderOf, isWithin, treePath, type TreePath } from '../files/treePath';
import { fileKinds, type FileKind, type Homes } from '../layouts/homes';
import type { Layout } from '../layouts/layout';
import {
  contentsOf,
  homeSense,
  homesIn,
  isInPlace,
  kindInFolders,
  type FolderContent,
} from '../layouts/recognise';
import { type WorkspaceFile } from '../layouts/workspace';

import { newWorkspaceFile } from './planCreate';
import { markerStep } from './marker';
import { tidying } from './planTidy';
import type { Workspace } from './workspace';

/** What a folder holds, before it is a workspace. */
export interface Recognised {
  folders: FolderContent[];
  /** Folders of it that will serve as homes. */
  homes: Homes;
  /** Files that lie where their kind does not belong, by those homes and the layout's for the rest. */
  loose: number;
  files: number;
  bytes: number;
  /** Workspaces inside it, as tree paths. */
  nested: TreePath[];
}

export interface AdoptRequest {
  name: string;
  layout: Layout;
  /** Folders of the layout that are not wanted. */
  without: readonly string[];
  /** Homes chosen by hand, by kind; they come before those that were recognised. */
  homes: Homes;
  /** True: file what lies out of place. */
  tidy: boolean;
  /** True: the marker there is damaged, and a new one takes its place (what it held is kept for undo). */
  replacesMarker?: boolean | undefined;
  /** ISO time. */
  created: string;
  signal?: CancelSignal | undefined;
  onFile?: ((done: number, path: string) => void) | undefined;
}

const marker = `/${markerPath}`;

/** Looks through a folder: every file's kind by its name, folder by folder. */
export async function recognise(
  workspace: Pick<Workspace, 'tree'>,
  layout: Layout,
  options: Pick<AdoptRequest, 'signal' | 'onFile'> = {},
): Promise<Recognised> {
  const files: { path: string; size: number }[] = [];
  const nested: TreePath[] = [];
  const folders = new Set<string>();
  for await (const { path, size } of workspace.tree.list()) {
    options.signal?.throwIfAborted();
    if (files.length % 500 === 0) options.onFile?.(files.length, path);
    if (path.endsWith(marker)) nested.push(treePath(path.slice(0, -marker.length)));
    if (isOwnAnywhere(path)) continue;
    files.push({ path, size });
    for (let at = folderOf(path) as string; at !== '' && !folders.has(at); at = folderOf(at)) folders.add(at);
  }
  for (const e of (await workspace.tree.entries(treePath(''))) ?? [])
    if (e.kind === 'folder') folders.add(e.name);
  const contents = contentsOf(files, kindInFolders);
  const mayBeHome = homeSense(files);
  // A nested workspace keeps its own folders; they are no homes of this one.
  const own = [...folders]
    .filter(
      (f) =>
        !f.split('/').some((p) => p.startsWith('.')) &&
        !nested.some((n) => isWithin(f, n)) &&
        f.split('/').length <= 3 &&
        mayBeHome(f),
    )
    .sort();
  const homes = homesIn(contents, own, layout.homes);
  const all = { ...layout.homes, ...homes };
  return {
    folders: contents,
    homes,
    files: files.length,
    bytes: files.reduce((s, f) => s + f.size, 0),
    nested,
    loose: files.filter(
      (f) =>
        !nested.some((n) => isWithin(f.path, n)) &&
        !isInPlace(f.path, kindInFolders(f.path, undefined, all), all),
    ).length,
  };
}

/** The plan that makes a workspace of the tree. Folders that serve already are not made again under the layout's names. */
export async function planAdopt(
  workspace: Workspace,
  request: AdoptRequest,
): Promise<{ plan: Plan; file: WorkspaceFile; found: Recognised }> {
  const found = await recognise(workspace, request.layout, request);
  const notes: Note[] = [];
  const fresh = newWorkspaceFile(request);
  const homes: Homes = {};
  for (const kind of fileKinds) {
    const home = request.homes[kind] ?? found.homes[kind] ?? fresh.homes[kind];
    if (home !== undefined) homes[kind] = home;
  }
  // A folder of the layout whose kinds all live elsewhere already would stay empty.
  const replaced = fresh.folders.filter((f) => {
    const kinds = (Object.entries(fresh.homes) as [FileKind, string][]).filter(
      ([, home]) => home === f || isWithin(home, f),
    );
    return (
      kinds.length > 0 &&
      kinds.every(([kind, home]) => homes[kind] !== home && !isWithin(homes[kind] ?? '', f))
    );
  });
  const wanted = fresh.folders.filter((f) => !replaced.some((r) => isWithin(f, r)));
  const folders = [...new Set([...wanted, ...Object.values(homes)])].filter((f) => f !== '').sort();
  const file: WorkspaceFile = { ...fresh, homes, folders };
  const steps: Step[] = [];
  const made = new Set<string>();
  for (const folder of folders)
    for (const [i] of folder.split('/').entries()) {
      const at = folder
        .split('/')
        .slice(0, i + 1)
        .join('/');
      if (made.has(at)) continue;
      made.add(at);
      const kind = await workspace.tree.kind(treePath(at));
      if (kind === 'file')
        notes.push({
          level: 'blocker',
          code: 'in-the-way',
          message: `${at} is a file, where a folder is needed.`,
          path: at,
        });
      else if (kind === null) steps.push({ do: 'make-folder', path: treePath(at) });
    }
  for (const n of found.nested)
    notes.push({
      level: 'warning',
      code: 'nested',
      message: `${n} is a workspace of its own. It stays one; under Workspaces it can be merged, moved out or unmarked.`,
      path: n,
    });
  if (request.replacesMarker)
    notes.push({
      level: 'info',
      code: 'marker',
      message:
        'The marker there cannot be read; a new one takes its place. Libraries, places and units have to be said again.',
    });
  else if (await workspace.tree.kind(markerPath))
    notes.push({ level: 'blocker', code: 'exists', message: 'This folder is a workspace already.' });
  const put = await markerStep(workspace, file);
  if (put) steps.push({ do: 'make-folder', path: ownFolder }, put);
  let paths: Plan['paths'] = [];
  let basis: Plan['basis'];
  if (request.tidy) {
    const moved = await tidying({ ...workspace, file: { ...workspace.file, homes } }, homes, {
      only: null,
      signal: request.signal,
      onScene: (_, __, path) => request.onFile?.(found.files, path),
    });
    const there = new Set(made);
    steps.push(...moved.steps.filter((s) => s.do !== 'make-folder' || !there.has(s.path)));
    notes.push(...moved.notes);
    ({ paths, basis } = moved);
  } else if (found.loose > 0)
    notes.push({
      level: 'info',
      code: 'loose',
      message: `${found.loose} ${found.loose === 1 ? 'file lies' : 'files lie'} outside the home of their kind. They stay; Files can file them later.`,
    });
  return {
    plan: { kind: 'adopt', title: `Adopt ${request.name}`, steps, notes, paths, readiness: null, basis },
    file,
    found,
  };
}
