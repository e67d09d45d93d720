// A workspace in hand, as plans see it: its root, its files, what lies outside, and what it says of itself.

import type { FileTree, OutsideFiles } from '../files/fileTree';
import { isAbsolutePath, treePath, type TreePath } from '../files/treePath';
import type { FileState } from '../changes/plan';
import type { WorkspaceFile } from '../layouts/workspace';
import { foldName } from '../names/portable';
import { plainHead } from '../references/elsewhere';
import { Lookup } from '../references/lookup';
import type { Setting } from '../references/resolve';

export interface Workspace {
  /** Absolute, '/'-separated. */
  root: string;
  tree: FileTree;
  outside: OutsideFiles;
  file: Pick<WorkspaceFile, 'homes' | 'libraries' | 'places' | 'search' | 'versions'>;
  /** The name of who works on it, where several do: notes say it. */
  by?: string | undefined;
}

/** Where this workspace's references are judged, with fresh folder listings. */
export function settingOf(workspace: Workspace): Setting {
  const { root, tree, outside, file } = workspace;
  const search = (file.search ?? []).map((folder) => (isAbsolutePath(folder) ? folder : `${root}/${folder}`));
  return {
    root,
    lookup: new Lookup(tree, root),
    outside,
    libraries: file.libraries.map((l) => ({ name: l.name, path: plainHead(l.path) })),
    places: file.places.map((p) => ({ name: p.name, heads: p.heads.map(plainHead) })),
    search,
  };
}

// Up to this size a file's content id is taken at planning; beyond, size and time stand for it until it is applied.
const hashAtPlanning = 64 * 1024 * 1024;

/** The state of a file of the tree as a plan notes it; null when it is not there. */
export async function stateOf(tree: FileTree, path: TreePath): Promise<FileState | null> {
  const stat = await tree.stat(path);
  if (!stat) return null;
  return {
    size: stat.size,
    modified: stat.modified,
    digest: stat.size <= hashAtPlanning ? await tree.digest(path) : null,
  };
}

/** The names in a folder of the tree, folded: what a new name must not be like. */
export async function foldedNamesIn(tree: Pick<FileTree, 'entries'>, folder: string): Promise<Set<string>> {
  return new Set(((await tree.entries(treePath(folder))) ?? []).map((e) => foldName(e.name)));
}
