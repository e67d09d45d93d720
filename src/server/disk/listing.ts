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
        if (keepLink(real) && !circles) entries.push({ name: e.name, kind: fs.statSync(real).isDirectory() ? 'folder' : 'file', real });
      } catch {
        // A link to nothing is nothing.
      }
    }
  }
  return entries.sort((a, b) => comparePaths(a.name, b.name));
}

/** All of a tree at one time. Sizes in bytes, times in ms since 1970 UTC. */
export interface Survey {
  files: Map<TreePath, { size: number; modified: number }>;
  names: Map<string, string>;
}

/**
 * Every file of a tree with its size and time, for looking at a large tree again and again, and the names in each folder as one text that
 * changes when they do. `systemOf` gives the system's path of a tree path ('' is the root). Throws when cancelled.
 */
export function surveyFolder(systemOf: (folder: string) => string, skip: string, keepLink: (target: string) => boolean, signal?: CancelSignal): Survey {
  const files: Survey['files'] = new Map();
  const names: Survey['names'] = new Map();
  const waiting = [''];
  const linked = new Set<string>(); // folders reached by links: each once
  for (let folder = waiting.pop(); folder !== undefined; folder = waiting.pop()) {
    signal?.throwIfAborted();
    const system = systemOf(folder);
    const prefix = folder === '' ? '' : `${folder}/`;
    const listed: string[] = [];
    for (const { name, kind, real } of entriesAt(system, keepLink) ?? []) {
      const at = prefix + name;
      if (at === skip || (real !== undefined && kind === 'folder' && linked.has(real))) continue;
      if (kind === 'folder') {
        if (real !== undefined) linked.add(real);
        waiting.push(at);
        listed.push(`${name}/`);
      } else {
        const stat = statOrNull(systemOf(at));
        if (!stat?.isFile()) continue;
        files.set(at as TreePath, { size: stat.size, modified: Math.floor(stat.mtimeMs) });
        listed.push(name);
      }
    }
    names.set(folder, listed.join('\n'));
  }
  return { files, names };
}
