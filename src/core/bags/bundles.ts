// Many small files as one: which files would make a bundle, how such a file is told, and what stands in it. A bundle is a plain ZIP, nothing packed, whose
// first entry lists the files with their exact times and digests; any program that reads ZIP gives the files back, this one to the byte and the time.

import type { Digest } from '../files/digest';
import { folderOf, isTreePath, isWithin, nameOf } from '../files/treePath';
import { isOwn } from '../files/records';

/** The first entry of a bundle. */
export const bundleList = 'bundle.json';
const ending = '.bundle.zip';

export const isBundleName = (path: string) => path.toLowerCase().endsWith(ending);

const numbered = /^(.*?)(\d{1,9})((?:\.[a-z][a-z0-9]*)*)$/is;

/** A numbered file's series, 'caches/fog_#.vdb'; null where its name has no number. */
export function seriesKey(path: string): string | null {
  const parts = numbered.exec(nameOf(path));
  if (!parts) return null;
  const folder = folderOf(path);
  return `${folder === '' ? '' : `${folder}/`}${parts[1]!}#${parts[3]!}`;
}

/** Whether a file is of a series (`fog_#.vdb`) or lies in a folder. */
export const isOfBundle = (path: string, of: string) =>
  !isOwn(path) && !isBundleName(path) && (seriesKey(path) === of || (isWithin(path, of) && path !== of));

/** Where the bundle lies: beside what goes into it. `part`: of several, from 1. */
export function bundlePath(of: string, part: number | null): string {
  const name = nameOf(of);
  const folder = folderOf(of);
  const before = name.includes('#') ? name.slice(0, name.lastIndexOf('#')).replace(/[._ -]*v?$/i, '') : name;
  const stem = before === '' ? 'files' : before;
  return `${folder === '' ? '' : `${folder}/`}${stem}${part === null ? '' : ` ${part}`}${ending}`;
}

/** What could go into one file. */
export interface BundleGroup {
  /** A series 'caches/fog_#.vdb', or a folder. */
  of: string;
  files: number;
  bytes: number;
}

const fewest = 20;

/** Series of at least 20 files, and folders that hold many small ones that are no series; the most files first. */
export function bundleGroups(
  files: readonly { path: string; size: number; class?: string }[],
  { least = fewest }: { least?: number } = {},
): BundleGroup[] {
  const series = new Map<string, BundleGroup>();
  const folders = new Map<string, BundleGroup>();
  const add = (to: Map<string, BundleGroup>, of: string, size: number) => {
    const group = to.get(of) ?? { of, files: 0, bytes: 0 };
    to.set(of, group);
    group.files++;
    group.bytes += size;
  };
  const loose: { path: string; size: number }[] = [];
  for (const f of files) {
    if (isOwn(f.path) || isBundleName(f.path) || f.class === 'scenes' || f.class === 'history') continue;
    const key = seriesKey(f.path);
    if (key === null) loose.push(f);
    else add(series, key, f.size);
  }
  for (const f of loose) if (folderOf(f.path) !== '') add(folders, folderOf(f.path), f.size);
  const isWorth = (g: BundleGroup) => g.files >= least && g.bytes / g.files <= 32 * 1024 * 1024;
  const isSmall = (g: BundleGroup) => isWorth(g) && g.files >= 4 * least && g.bytes / g.files <= 1024 * 1024;
  return [...[...series.values()].filter(isWorth), ...[...folders.values()].filter(isSmall)].sort(
    (a, b) => b.files - a.files || (a.of < b.of ? -1 : 1),
  );
}

/** A file of a bundle: its path from the folder of the bundle, ms since 1970 UTC, content, permission bits. */
export type BundledFile = readonly [path: string, modified: number, digest: Digest, mode?: number];

/** The list, as it is written. */
export const writeBundleList = (files: readonly BundledFile[]): string =>
  `${JSON.stringify({ format: 1, what: 'Files that were put into one; take it apart where it lies.', files })}\n`;

/** Reads the list; null: it is none, or leads out of its folder. */
export function readBundleList(text: string): BundledFile[] | null {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return null;
  }
  const { format, files } = (value ?? {}) as { format?: unknown; files?: unknown };
  if (format !== 1 || !Array.isArray(files)) return null;
  const read: BundledFile[] = [];
  for (const f of files as unknown[]) {
    if (!Array.isArray(f)) return null;
    const [path, modified, digest, mode] = f as unknown[];
    if (typeof path !== 'string' || path === '' || !isTreePath(path) || isOwn(path)) return null;
    if (typeof modified !== 'number' || !Number.isFinite(modified) || typeof digest !== 'string') return null;
    if (
      mode !== undefined &&
      (typeof mode !== 'number' || !Number.isInteger(mode) || mode < 0 || mode > 0o777)
    )
      return null;
    const file = [path, modified, digest as Digest] as const;
    read.push(mode === undefined ? file : [...file, mode as number]);
  }
  return read;
}
