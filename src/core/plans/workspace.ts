// A workspace in hand, as plans see it: its root, its files, what lies outside, and what it says of itself.

import type { FileTree, OutsideFiles } from '../files/fileTree';
import { treePath, type TreePath } from '../files/treePath';
import type { FileState } from '../changes/plan';
import type { WorkspaceFile } from '../layouts/workspace';
import { Lookup } from '../references/lookup';
import type { Setting } from '../references/resolve';

export interface Workspace {
  /** Absolute, '/'-separated. */
  root: string;
  tree: FileTree;
  outside: OutsideFiles;
  file: Pick<WorkspaceFile, 'homes' | 'libraries' | 'places'>;
}

/** Where this workspace's references are judged, with fresh folder listings. */
export function settingOf(workspace: Workspace): Setting {
  return { root: workspace.root, lookup: new Lookup(workspace.tree), outside: workspace.outside, libraries: workspace.file.libraries, places: workspace.file.places };
}

// Up to this size a file's content id is taken at planning; beyond, size and time stand for it until it is applied.
const hashAtPlanning = 64 * 1024 * 1024;

/** The state of a file of the tree as a plan notes it; null when it is not there. */
export async function stateOf(tree: FileTree, path: TreePath): Promise<FileState | null> {
  const stat = await tree.stat(path);
  if (!stat) return null;
  return { size: stat.size, modified: stat.modified, digest: stat.size <= hashAtPlanning ? await tree.digest(path) : null };
}

/** An outside folder as a tree, for reading scenes that lie there and judging what they reference. */
export function outsideTree(outside: OutsideFiles, root: string): Pick<FileTree, 'entries' | 'stat' | 'read'> {
  const full = (path: string) => (path === '' ? root || '/' : `${root}/${path}`);
  return {
    entries: (folder) => outside.entries(full(folder)),
    read: (path, range) => outside.read(full(path), range),
    async stat(path) {
      const stat = await outside.stat(full(path));
      return stat ? { path, ...stat } : null;
    },
  };
}

/** The tree path of an absolute path that lies inside the root; null for others. */
export function insideRoot(workspace: Pick<Workspace, 'root'>, absolute: string): TreePath | null {
  return absolute.startsWith(`${workspace.root}/`) ? treePath(absolute.slice(workspace.root.length + 1)) : null;
}
