// Which files of a workspace are used, by how many references, and which are used by nothing though a scene would be expected to need them.

import type { TreePath } from '../files/treePath';
import { isSceneFormat, formatOfName } from '../formats/formats';
import { kindAtHome, kindOfName, type FileKind, type Homes } from '../layouts/homes';
import type { JudgedReference } from './scan';

/** Files inside the root that a reference stands for: its target, or all of its frames or tiles. */
export function filesOf(r: Pick<JudgedReference, 'target' | 'inside' | 'members'>): string[] {
  if (r.target === null || !r.inside) return [];
  if (!r.members) return [r.target];
  const folder = r.target.slice(0, r.target.lastIndexOf('/') + 1);
  return r.members.map((name) => folder + name);
}

// Kinds that are there to be used by a scene, and the homes whose files are results, sources or copies and wait for no scene.
const wanted: ReadonlySet<FileKind> = new Set(['texture', 'material', 'cache', 'model', 'audio', 'font']);
const apart: ReadonlySet<FileKind> = new Set(['render', 'export', 'backup', 'reference', 'video']);

/** Whether a file with no reference to it counts as unused: scenes do not, nor hidden files, nor what lies in a home for results. */
export function isUnused(path: TreePath | string, homes: Homes): boolean {
  if (path.split('/').some((part) => part.startsWith('.'))) return false;
  const format = formatOfName(path);
  // A model is a scene of its own, but for geometry and materials that are parts.
  if (format && isSceneFormat(format.id) && kindOfName(path) !== 'model') return false;
  const home = kindAtHome(path, homes);
  return wanted.has(kindOfName(path)) && (home === null || !apart.has(home));
}
