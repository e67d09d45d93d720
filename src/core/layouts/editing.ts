// Changes of a layout's tree, each giving a new tree. A folder is named by its place: the numbers of the folders on the way to it.

import type { LayoutFolder, LayoutTree } from './layout';

/** '2' the third folder at the top, '2.0' the first in it. */
export type FolderPlace = string;

const numbers = (place: FolderPlace) => (place === '' ? [] : place.split('.').map(Number));

/** The folder at a place; null where there is none. */
export function folderAt(tree: LayoutTree, place: FolderPlace): LayoutFolder | null {
  let list: readonly LayoutFolder[] = tree.folders;
  let folder: LayoutFolder | null = null;
  for (const n of numbers(place)) {
    folder = list[n] ?? null;
    if (!folder) return null;
    list = folder.folders;
  }
  return folder;
}

function withList(
  folders: readonly LayoutFolder[],
  way: readonly number[],
  change: (list: readonly LayoutFolder[]) => LayoutFolder[],
): LayoutFolder[] {
  const [n, ...rest] = way;
  if (n === undefined) return change(folders);
  return folders.map((f, i) => (i === n ? { ...f, folders: withList(f.folders, rest, change) } : f));
}

/** Changes what is said of one folder. */
export function changeFolder(
  tree: LayoutTree,
  place: FolderPlace,
  change: Partial<LayoutFolder>,
): LayoutTree {
  const way = numbers(place);
  const last = way.pop();
  return {
    ...tree,
    folders: withList(tree.folders, way, (list) =>
      list.map((f, i) => (i === last ? { ...f, ...change } : f)),
    ),
  };
}

/** Puts a folder into the one at `parent` ('' for the top), before the n-th. */
export function insertFolder(
  tree: LayoutTree,
  parent: FolderPlace,
  at: number,
  folder: LayoutFolder,
): LayoutTree {
  return {
    ...tree,
    folders: withList(tree.folders, numbers(parent), (list) => [
      ...list.slice(0, at),
      folder,
      ...list.slice(at),
    ]),
  };
}

/** Takes a folder out, with all in it. */
export function removeFolder(tree: LayoutTree, place: FolderPlace): LayoutTree {
  const way = numbers(place);
  const last = way.pop();
  return { ...tree, folders: withList(tree.folders, way, (list) => list.filter((_, i) => i !== last)) };
}

/** Moves a folder into the one at `parent`, before its n-th as counted before the move. Null where that would put it into itself. */
export function moveFolder(
  tree: LayoutTree,
  from: FolderPlace,
  parent: FolderPlace,
  at: number,
): LayoutTree | null {
  const folder = folderAt(tree, from);
  if (!folder || parent === from || parent.startsWith(`${from}.`)) return null;
  // A hole where it stood, so that the places of the others still count while it is put in.
  const way = numbers(from);
  const last = way.pop();
  const holed: LayoutTree = {
    ...tree,
    folders: withList(tree.folders, way, (list) => list.map((f, i) => (i === last ? hole : f))),
  };
  const put = insertFolder(holed, parent, at, folder);
  const fill = (list: readonly LayoutFolder[]): LayoutFolder[] =>
    list.filter((f) => f !== hole).map((f) => (f === folder ? f : { ...f, folders: fill(f.folders) }));
  return { ...put, folders: fill(put.folders) };
}

const hole: LayoutFolder = { name: '', kinds: [], flow: null, keep: false, pin: null, note: '', folders: [] };
