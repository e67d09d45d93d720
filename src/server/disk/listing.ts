// Listings of folders on disk: the names in one, and all files of a tree in one go. Links are named, not followed.

import { randomBytes } from 'node:crypto';
import fs from 'node:fs';
import path from 'node:path';
import type { CancelSignal, PassedOver } from '@/core/files/fileTree';
import { isAbsence } from '@/core/files/fileErrors';
import { comparePaths, type TreePath } from '@/core/files/treePath';
import { nodeCalls, type DiskCalls } from './calls';

/** Ends the names of temporary files. */
export const temporaryMark = '.satchel-part';

/** A name that nobody has, for what is made in a folder (the system's form) until it is whole. */
export function temporaryIn(folder: string): string {
  return path.join(folder, `.${process.pid}-${randomBytes(5).toString('hex')}${temporaryMark}`);
}

/** True for a name that this application gives what is not whole yet. */
export const isTemporary = (name: string): boolean =>
  /^\.(\d+-[0-9a-f]{10}|filling)\.satchel-part$/.test(name);

// Entries that systems create on a drive when it is formatted or mounted. Common practice, no source.
const ofDrive = new Set([
  'lost+found',
  'System Volume Information',
  '$RECYCLE.BIN',
  '.Spotlight-V100',
  '.Trashes',
  '.fseventsd',
  '.TemporaryItems',
  '.DocumentRevisions-V100',
  '.DS_Store',
]);

/** True for an entry that a system creates in the root of a drive. */
export const isOfDrive = (name: string): boolean => ofDrive.has(name) || /^\.Trash-\d+$/.test(name);

// Only names that we make ourselves are left out of listings: a user's `notes.satchel-part.png` is a file like any other.
const temporaryName = /^\.(?:\d{8}-\d{6}-[0-9a-f]{7}-\d+(?:-back)?(?:-keep)?|t)\.satchel-part$/;

/** Marks an allowed folder of a studio (studio/places.ts): nothing that a workspace there holds. */
export const placeFile = '.satchel-place';

/** What lies at a path, links not followed; null where nothing does. Throws what the system throws where it may not be seen. */
export function lookAt(system: string, calls: DiskCalls = nodeCalls): fs.Stats | null {
  try {
    return calls.lstat(system);
  } catch (cause) {
    if (isAbsence(cause)) return null;
    throw cause;
  }
}

/** The same with links followed, and null also where it may not be seen: for what lies outside any root. */
export function statOrNull(system: string): fs.Stats | null {
  try {
    return fs.statSync(system);
  } catch {
    return null;
  }
}

/** A name in a folder, and what it is itself. 'name': the disk has it in bytes that are no text, so it cannot be asked for. */
export interface Listed {
  name: string;
  kind: 'file' | 'folder' | 'link' | 'other' | 'name';
}

/** Names in a folder, in the order of the disk, which stays as long as the names do. Null where there is no such folder; throws where it may not be read. */
export function listedAt(system: string, calls: DiskCalls = nodeCalls): Listed[] | null {
  let listed: fs.Dirent[];
  try {
    listed = calls.readdir(system);
  } catch (cause) {
    if (isAbsence(cause)) return null;
    throw cause;
  }
  const entries: Listed[] = [];
  for (const e of listed) {
    const { name } = e;
    if (name.includes('\ufffd') && lookAt(path.join(system, name), calls) === null)
      entries.push({ name, kind: 'name' });
    else if (e.isFile()) {
      if (!temporaryName.test(name) && name !== placeFile) entries.push({ name, kind: 'file' });
    } else if (e.isDirectory()) entries.push({ name, kind: 'folder' });
    else if (e.isSymbolicLink()) entries.push({ name, kind: 'link' });
    else entries.push({ name, kind: kindByLook(path.join(system, name), calls) });
  }
  return entries;
}

/** Some drives do not tell a name's kind when they list it. */
function kindByLook(system: string, calls: DiskCalls): Listed['kind'] {
  const stat = lookAt(system, calls);
  return stat?.isFile() ? 'file' : stat?.isDirectory() ? 'folder' : stat?.isSymbolicLink() ? 'link' : 'other';
}

/** Why a listing passes something over that is no file and no folder. */
export function passedBy(kind: Listed['kind']): PassedOver {
  return kind === 'link' ? 'link' : kind === 'name' ? 'name' : 'not-a-file';
}

/** All files of a tree at one time, in the order of its folders: paths, sizes in bytes, times in ms since 1970 UTC, each at the same index. */
export interface Survey {
  paths: TreePath[];
  sizes: number[];
  times: number[];
  /** `FileStat.changed`. */
  changes: number[];
  /** Permission bits. */
  modes: number[];
  /** Folder → the names in it. */
  names: Map<string, string>;
  /** What could not be read or is no file. */
  passedOver: { path: string; why: PassedOver }[];
}

/**
 * Every file of a tree with its size and time, for looking at a large tree again and again, and the names in each folder as one text that
 * changes when they do. `systemOf` gives the system's path of a tree path ('' is the root). Throws when cancelled.
 */
export function surveyFolder(
  systemOf: (folder: string) => string,
  skip: string,
  calls: DiskCalls,
  signal?: CancelSignal,
): Survey {
  const found: Survey = {
    paths: [],
    sizes: [],
    times: [],
    changes: [],
    modes: [],
    names: new Map(),
    passedOver: [],
  };
  const waiting = [''];
  for (let folder = waiting.pop(); folder !== undefined; folder = waiting.pop()) {
    signal?.throwIfAborted();
    const system = systemOf(folder);
    const prefix = folder === '' ? '' : `${folder}/`;
    const listed: string[] = [];
    for (const { name, kind } of listedOr(system, calls, () =>
      found.passedOver.push({ path: folder, why: 'unreadable' }),
    )) {
      const at = prefix + name;
      if (at === skip) continue;
      if (kind === 'folder') {
        waiting.push(at);
        listed.push(`${name}/`);
      } else if (kind === 'file') {
        const stat = lookAt(systemOf(at), calls);
        if (!stat?.isFile()) continue;
        found.paths.push(at as TreePath);
        found.sizes.push(stat.size);
        found.times.push(stat.mtimeMs);
        found.changes.push(stat.ctimeMs);
        found.modes.push(stat.mode & 0o7777);
        listed.push(name);
      } else {
        found.passedOver.push({ path: at, why: passedBy(kind) });
        listed.push(kind === 'link' ? `${name}@${calls.readlink(systemOf(at))}` : `${name}|`);
      }
    }
    found.names.set(folder, listed.join('\n'));
  }
  return found;
}

function listedOr(system: string, calls: DiskCalls, unreadable: () => void): Listed[] {
  try {
    return listedAt(system, calls) ?? [];
  } catch {
    unreadable();
    return [];
  }
}

/** Sorts by code point: the same order on every system. */
export function byName(a: { name: string }, b: { name: string }): number {
  return comparePaths(a.name, b.name);
}
