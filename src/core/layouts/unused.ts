// Which files are there to be used by a scene, so that one that no scene leads to lies idle.

import { kindAtHome, kindOfName, type FileKind, type Homes } from './homes';

// Kinds that are there to be used by a scene (a model may be what is shown, as a scene is), and the homes whose files are results, sources or copies and wait for no scene.
const wanted: ReadonlySet<FileKind> = new Set(['texture', 'material', 'cache', 'audio', 'font']);
const apart: ReadonlySet<FileKind> = new Set(['render', 'export', 'backup', 'reference', 'video']);

/** Whether a file with no reference to it counts as unused: scenes do not, nor hidden files, nor what lies in a home for results. */
export function isUnused(path: string, homes: Homes): boolean {
  if (path.split('/').some((part) => part.startsWith('.'))) return false;
  const home = kindAtHome(path, homes);
  return wanted.has(kindOfName(path)) && (home === null || !apart.has(home));
}
