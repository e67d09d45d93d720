// Which files are there to be used by a scene, so that one that no scene leads to, through whatever chain, lies idle.

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

/**
 * Files that something needs which is not idle itself. `usesOf`: what each scene and material file uses. A material file that nothing leads to
 * lies idle, and so does what only it uses.
 */
export function neededFiles(usesOf: ReadonlyMap<string, readonly string[]>, homes: Homes): Set<string> {
  const needed = new Set<string>();
  const waiting = [...usesOf.keys()].filter((path) => !isUnused(path, homes));
  for (let at = waiting.pop(); at !== undefined; at = waiting.pop())
    for (const file of usesOf.get(at) ?? []) {
      if (needed.has(file)) continue;
      needed.add(file);
      // What counts for itself was looked at from the beginning.
      if (isUnused(file, homes) && usesOf.has(file)) waiting.push(file);
    }
  return needed;
}
