// The versions of a scene, told by the names that lie beside it or in its folder of versions.

import { comparePaths, folderOf, join, nameOf, type TreePath } from '../files/treePath';
import { firstNumbered, parseNumbered, sameSeries, withNumber, type NumberedName } from '../names/counters';
import { patternFolder, readVersionName, versionPath, type Habit } from './habit';

/** One version. `number` null: the scene's file without a number. `compact`: it lies in the store and no more on the disk. */
export interface VersionFile {
  path: TreePath;
  number: number | null;
  compact?: boolean | undefined;
}

/** A scene's series: the versions there are, by number, and what the next one is called. */
export interface Series {
  habit: Habit;
  /** The file that is worked on. */
  scene: TreePath;
  versions: VersionFile[];
  next: { path: TreePath; number: number };
}

/** Names that lie somewhere, and of those the ones that are kept compact. */
export interface Names {
  there: readonly string[];
  compact: readonly string[];
}

const none: Names = { there: [], compact: [] };

/** The folder of versions of a scene. */
export function filedIn(habit: Habit, scene: TreePath): TreePath {
  return join(folderOf(scene), patternFolder(habit.pattern));
}

/** The scene that a file in a folder of versions is a version of; any other file itself. */
export function sceneOfVersion(habit: Habit, path: TreePath): TreePath {
  const inside = patternFolder(habit.pattern);
  const folder = folderOf(path);
  const read = readVersionName(habit.pattern, nameOf(path));
  if (!read || (folder !== inside && !folder.endsWith(`/${inside}`))) return path;
  return join(folder.slice(0, Math.max(0, folder.length - inside.length - 1)), read.scene);
}

/**
 * The series a scene belongs to, in whichever habit its versions were kept. `beside`: names in its folder; `filed`: those in its folder of versions.
 * With numbered files the highest is the present one; else the one without a number, as long as there is one.
 */
export function seriesOf(habit: Habit, asked: TreePath, beside: Names, filed: Names = none): Series {
  const folder = folderOf(asked);
  const own = parseNumbered(nameOf(asked));
  const pattern = own ?? patternOf(nameOf(asked), [...beside.there, ...beside.compact]);
  const plain = own ? `${own.stem}${own.extension}` : nameOf(asked);
  const isCurrent = habit.kind === 'folder' && (beside.there.includes(plain) || !own);
  const numbered = found(beside, folder, (name) => {
    if (name === plain) return null;
    const parsed = parseNumbered(name);
    return parsed && sameSeries(parsed, pattern) ? parsed.number : undefined;
  });
  const inFolder = found(filed, filedIn(habit, asked), (name) => {
    const read = readVersionName(habit.pattern, name);
    return read?.scene === plain ? read.number : undefined;
  });
  const versions = [...numbered, ...inFolder]
    .filter((v) => !(isCurrent && v.number === null))
    .sort((a, b) => (a.number ?? -1) - (b.number ?? -1) || comparePaths(a.path, b.path));
  const number = Math.max(0, ...versions.map((v) => v.number ?? 0)) + 1;
  const highest = numbered
    .filter((v) => !v.compact)
    .sort((a, b) => (a.number ?? -1) - (b.number ?? -1))
    .at(-1);
  return {
    habit,
    scene: isCurrent ? join(folder, plain) : (highest?.path ?? asked),
    versions,
    next: {
      number,
      path: isCurrent
        ? join(folder, versionPath(habit.pattern, plain, number))
        : join(folder, withNumber(pattern, number)),
    },
  };
}

/** How the versions of an unnumbered scene are numbered: as they began, else in the usual way. */
function patternOf(name: string, names: readonly string[]): NumberedName {
  const plain = firstNumbered(name);
  for (const other of [...names].sort(comparePaths)) {
    const parsed = parseNumbered(other);
    if (parsed?.stem === plain.stem && parsed.extension.toLowerCase() === plain.extension.toLowerCase())
      return parsed;
  }
  return plain;
}

/** The versions among names; `numberOf`: undefined for what is none. */
function found(
  names: Names,
  folder: TreePath,
  numberOf: (name: string) => number | null | undefined,
): VersionFile[] {
  const of = (list: readonly string[], compact: boolean): VersionFile[] =>
    list.flatMap((name) => {
      const number = numberOf(name);
      return number === undefined
        ? []
        : [{ path: join(folder, name), number, ...(compact ? { compact } : {}) }];
    });
  return [...of(names.there, false), ...of(names.compact, true)];
}
