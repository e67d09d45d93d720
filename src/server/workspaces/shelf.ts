// The folder that holds workspaces, and plans on it. Its records lie in the application's data folder, so that no hidden folder appears
// among the user's projects.

import { createHash } from 'node:crypto';
import fs from 'node:fs';
import path from 'node:path';
import type { LedgerEntry } from '@/core/changes/summary';
import type { Plan } from '@/core/changes/plan';
import type { WritableFileTree } from '@/core/files/fileTree';
import { recordsElsewhere } from '@/core/files/recordsElsewhere';
import { isAbsolutePath, isWithin, treePath } from '@/core/files/treePath';
import type { Shelved } from '@/core/plans/planRelocate';
import type { Workspace } from '@/core/plans/workspace';
import { diskOutside } from '../disk/diskOutside';
import type { DiskCalls } from '../disk/calls';
import { DiskTree } from '../disk/diskTree';
import { fromSystem, toSystem } from '../disk/system';
import { keepFile } from '../keptFile';
import { recordsIn, settleInPassing, type Records } from './changing';
import { planUndoOf, readLedger } from './ledger';
import { hasMarker, readWorkspace } from './open';

/** Where the records of all shelves lie, '/'-separated. */
export const shelvesFolder = (dataFolder: string): string => fromSystem(path.join(dataFolder, 'shelves'));

/** Where the records of a shelf lie, '/'-separated. */
export function recordsOf(dataFolder: string, container: string): string {
  return `${shelvesFolder(dataFolder)}/${createHash('sha256').update(container).digest('hex').slice(0, 12)}`;
}

/** The tree of a shelf; its records' folder is made where it is not there yet. */
export function shelfTree(container: string, records: string): WritableFileTree {
  const place = path.join(toSystem(records), 'place.txt');
  if (!fs.existsSync(place)) keepFile(place, container);
  return treeOfShelf(container, records);
}

const treeOfShelf = (container: string, records: string, calls?: DiskCalls) =>
  recordsElsewhere(new DiskTree(container, calls), new DiskTree(records, calls));

/** The records of a shelf. */
export function shelfRecords(container: string, records: string): Records {
  return {
    root: container,
    records,
    tree: shelfTree(container, records),
    treeBy: (calls) => treeOfShelf(container, records, calls),
  };
}

/** Every place where what was done in a folder is recorded: in it, and in the application's own folder for what was collected into it. */
export async function recordsAbout(root: string, dataFolder: string): Promise<Records[]> {
  const apart = recordsOf(dataFolder, root);
  const isApart = fs.existsSync(toSystem(`${apart}/place.txt`));
  return [recordsIn(root), ...(isApart ? [shelfRecords(root, apart)] : [])];
}

/** A shelf as plans see it: what all its workspaces know of places outside. */
export function shelfOf(container: string, records: string, known: readonly Shelved[]): Workspace {
  const all = <T>(of: (k: Shelved) => readonly T[]) => known.flatMap((k) => [...of(k)]);
  const search = all((k) =>
    (k.file.search ?? []).map((f) => (isAbsolutePath(f) ? f : `${container}/${k.root}/${f}`)),
  );
  return {
    root: container,
    tree: shelfTree(container, records),
    outside: diskOutside,
    file: { homes: {}, libraries: all((k) => k.file.libraries), places: all((k) => k.file.places), search },
  };
}

/** Known workspaces that lie on a shelf, with their markers; those that cannot be read are left out. */
export async function shelved(container: string, roots: readonly string[]): Promise<Shelved[]> {
  const found: Shelved[] = [];
  for (const root of roots) {
    if (!isWithin(root, container) || root === container || !(await hasMarker(root))) continue;
    try {
      found.push({
        root: treePath(root.slice(container === '/' ? 1 : container.length + 1)),
        file: (await readWorkspace(root)).file,
      });
    } catch {
      // A damaged marker: its scenes are not looked at.
    }
  }
  return found;
}

/** The folder around all the given ones. */
export function commonFolder(paths: readonly string[]): string {
  const parts = paths.map((p) => p.split('/').slice(0, -1));
  let n = 0;
  while (parts[0]![n] !== undefined && parts.every((p) => p[n] === parts[0]![n])) n++;
  const common = parts[0]!.slice(0, n).join('/');
  return common === '' ? '/' : common;
}

export interface ShelfEntry extends LedgerEntry {
  container: string;
}

/** Every shelf that something was done on. */
function* shelves(dataFolder: string): Iterable<Records> {
  const folder = toSystem(shelvesFolder(dataFolder));
  if (!fs.existsSync(folder)) return;
  for (const name of fs.readdirSync(folder)) {
    const place = path.join(folder, name, 'place.txt');
    if (!fs.existsSync(place)) continue;
    const container = fs.readFileSync(place, 'utf8');
    if (fs.existsSync(toSystem(container)))
      yield shelfRecords(container, fromSystem(path.join(folder, name)));
  }
}

/** Everything done above the workspaces, newest first. */
export async function readShelfLedger(dataFolder: string): Promise<ShelfEntry[]> {
  const entries: ShelfEntry[] = [];
  for (const of of shelves(dataFolder))
    for (const e of await readLedger(of)) entries.push({ ...e, container: of.root });
  return entries.sort((a, b) => (a.id < b.id ? 1 : -1));
}

/** The plan that undoes an entry. */
export function planShelfUndo(dataFolder: string, container: string, id: string): Promise<Plan> {
  return planUndoOf(shelfRecords(container, recordsOf(dataFolder, container)), id);
}

/** Puts back what a crash left unfinished on any shelf. */
export async function repairShelves(dataFolder: string): Promise<void> {
  for (const of of shelves(dataFolder)) await settleInPassing(of);
}
