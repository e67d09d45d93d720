// Listings of folders on disk: the names in one, and all files of a tree in one go. Links that lead where `keepLink` does not want, to nothing,
// or round in circles count as absent.

import fs from 'node:fs';
import path from 'node:path';
import type { CancelSignal } from '@/core/files/fileTree';
import { comparePaths, type TreePath } from '@/core/files/treePath';

/** Marks temporary files; scans and listings leave them out. */
export const temporaryMark = '.satchel-part';

/** Null where nothing is, or where it may not be seen. */
export function statOrNull(system: string): fs.Stats | null {
  try {
    return fs.statSync(system);
  } catch {
    return null;
  }
}

/** `real`: where a link leads, as the system writes it. */
export type Entry = { name: string; kind: 'file' | 'folder'; real?: string };

/** Names in a folder with their kinds, in code point order; null where there is no such folder. */
export function entriesAt(system: string, keepLink: (target: string) => boolean): Entry[] | null {
  return listedAt(system, keepLink)?.sort((a, b) => comparePaths(a.name, b.name)) ?? null;
}

/** The same in the order of the disk, which stays as long as the names do. */
function listedAt(system: string, keepLink: (target: string) => boolean): Entry[] | null {
  let listed: fs.Dirent[];
  try {
    listed = fs.readdirSync(system, { withFileTypes: true });
  } catch {
    return null;
  }
  const entries: Entry[] = [];
  for (const e of listed) {
    if (e.isFile()) {
      if (!e.name.includes(temporaryMark)) entries.push({ name: e.name, kind: 'file' });
    } else if (e.isDirectory()) entries.push({ name: e.name, kind: 'folder' });
    else if (e.isSymbolicLink()) {
      try {
        const real = fs.realpathSync(path.join(system, e.name));
        // A link to a folder around it would lead round in circles.
        const circles = `${fs.realpathSync(system)}${path.sep}`.startsWith(`${real}${path.sep}`);
        if (keepLink(real) && !circles)
          entries.push({ name: e.name, kind: fs.statSync(real).isDirectory() ? 'folder' : 'file', real });
      } catch {
        // A link to nothing is nothing.
      }
    }
  }
  return entries;
}

/** All files of a tree at one time, in the order of its folders: paths, sizes in bytes, times in ms since 1970 UTC, each at the same index. */
export interface Survey {
  paths: TreePath[];
  sizes: number[];
  times: number[];
  /** Folder → the names in it. */
  names: Map<string, string>;
}

/**
 * Every file of a tree with its size and time, for looking at a large tree again and again, and the names in each folder as one text that
 * changes when they do. `systemOf` gives the system's path of a tree path ('' is the root). Throws when cancelled.
 */
export function surveyFolder(
  systemOf: (folder: string) => string,
  skip: string,
  keepLink: (target: string) => boolean,
  signal?: CancelSignal,
): Survey {
  const found: Survey = { paths: [], sizes: [], times: [], names: new Map() };
  const waiting = [''];
  const linked = new Set<string>(); // folders reached by links: each once
  for (let folder = waiting.pop(); folder !== undefined; folder = waiting.pop()) {
    signal?.throwIfAborted();
    const system = systemOf(folder);
    const prefix = folder === '' ? '' : `${folder}/`;
    const listed: string[] = [];
    for (const { name, kind, real } of listedAt(system, keepLink) ?? []) {
      const at = prefix + name;
      if (at === skip || (real !== undefined && kind === 'folder' && linked.has(real))) continue;
      if (kind === 'folder') {
        if (real !== undefined) linked.add(real);
        waiting.push(at);
        listed.push(`${name}/`);
      } else {
        const stat = statOrNull(systemOf(at));
        if (!stat?.isFile()) continue;
        found.paths.push(at as TreePath);
        found.sizes.push(stat.size);
        found.times.push(Math.floor(stat.mtimeMs));
        listed.push(name);
      }
    }
    found.names.set(folder, listed.join('\n'));
  }
  return found;
}
