// The versions of a scene: files beside it that share its stem and differ in a number.

import { comparePaths, folderOf, nameOf, treePath, type TreePath } from '../files/treePath';
import { firstNumbered, parseNumbered, sameSeries, withNumber, type NumberedName } from '../names/counters';

/** One version. `number` null: the scene's file without a number. */
export interface VersionFile {
  path: TreePath;
  number: number | null;
}

/** A scene's series: how it is named, and the versions there are, by number. */
export interface Series {
  folder: TreePath;
  pattern: NumberedName;
  versions: VersionFile[];
}

/** The series a scene belongs to, from the names in its folder. */
export function seriesOf(scene: TreePath, namesInFolder: readonly string[]): Series {
  const folder = folderOf(scene);
  const name = nameOf(scene);
  const at = (n: string) => treePath(folder === '' ? n : `${folder}/${n}`);
  const own = parseNumbered(name);
  const versions: VersionFile[] = [];
  let pattern = own;
  if (!pattern) {
    // An unnumbered scene: the numbered files of its stem are its versions, in whatever padding they began.
    for (const other of [...namesInFolder].sort(comparePaths)) {
      const parsed = parseNumbered(other);
      const plain = firstNumbered(name);
      if (
        parsed &&
        parsed.stem === plain.stem &&
        parsed.extension.toLowerCase() === plain.extension.toLowerCase()
      )
        pattern ??= parsed;
    }
    pattern ??= firstNumbered(name);
    if (namesInFolder.includes(name)) versions.push({ path: at(name), number: null });
  } else {
    const plain = `${pattern.stem}${pattern.extension}`;
    if (namesInFolder.includes(plain)) versions.push({ path: at(plain), number: null });
  }
  for (const other of namesInFolder) {
    const parsed = parseNumbered(other);
    if (parsed && sameSeries(parsed, pattern)) versions.push({ path: at(other), number: parsed.number });
  }
  versions.sort((a, b) => (a.number ?? -1) - (b.number ?? -1) || comparePaths(a.path, b.path));
  return { folder, pattern: own ?? pattern, versions };
}

/** Name of the next version: one above the highest there is. */
export function nextVersion(series: Series): { path: TreePath; number: number } {
  const number = Math.max(0, ...series.versions.map((v) => v.number ?? 0)) + 1;
  const name = withNumber(series.pattern, number);
  return { path: treePath(series.folder === '' ? name : `${series.folder}/${name}`), number };
}
