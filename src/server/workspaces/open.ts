// Workspaces on disk: finding the root, reading the marker, making new ones. Changing them: changing.ts; what was done: ledger.ts.

import { ownFolder, markerPath } from '@/core/files/records';
import fs from 'node:fs';
import type { JournalRecord } from '@/core/changes/journal';
import type { Plan } from '@/core/changes/plan';
import { AppError } from '@/core/errors';
import { checkNewName, foldName } from '@/core/names/portable';
import type { Layout } from '@/core/layouts/layout';
import { findRoot, type WorkspaceFile } from '@/core/layouts/workspace';
import { newWorkspaceFile, planCreate } from '@/core/plans/planCreate';
import type { Workspace } from '@/core/plans/workspace';
import { parseWorkspaceFile } from '@/wire/workspace';
import type { OutsideFiles } from '@/core/files/fileTree';
import { diskOutside, outsideWithin } from '../disk/diskOutside';
import { currentLimits, namedPaths } from '../disk/limits';
import { DiskReading } from '../disk/diskReading';
import { toSystem } from '../disk/system';
import { applyPlan } from './changing';

/** A workspace on disk. */
export interface OpenWorkspace extends Workspace {
  /** Read-only. `withLock` (changing.ts) returns the writable tree. */
  tree: DiskReading;
  file: WorkspaceFile;
}

/** True when the folder holds a marker. */
export async function hasMarker(folder: string): Promise<boolean> {
  return fs.existsSync(toSystem(`${folder === '/' ? '' : folder}/${markerPath}`));
}

/** The root that holds a path; null when it lies in no workspace. */
export function rootOf(path: string): Promise<string | null> {
  return findRoot(path, hasMarker);
}

/** The outside of a workspace, as far as this thread may look. */
function outsideOf(root: string): OutsideFiles {
  const { bounds, signal } = currentLimits();
  return outsideWithin({
    allowed: bounds.allowed,
    asked: bounds.allowed ?? [root, ...namedPaths],
    signal: signal ?? undefined,
  });
}

/** A workspace by its root. Throws AppError where there is none or its marker is damaged. */
export async function readWorkspace(root: string): Promise<OpenWorkspace> {
  const tree = new DiskReading(root);
  if (!fs.existsSync(toSystem(root))) throw new AppError('offline', `${root} is not there just now.`);
  if ((await tree.kind(markerPath)) !== 'file')
    throw new AppError('not-a-workspace', `${root} is no workspace.`);
  const text = new TextDecoder().decode(await tree.read(markerPath));
  const { by } = currentLimits();
  return {
    root,
    tree,
    outside: outsideOf(root),
    file: parseWorkspaceFile(text, `${root}/${markerPath}`),
    ...(by === null ? {} : { by }),
  };
}

/** What is wrong with a folder's marker; null: nothing, or there is none. One of a newer version is not damaged. */
export async function markerDamage(root: string): Promise<string | null> {
  try {
    await readWorkspace(root);
    return null;
  } catch (cause) {
    if (cause instanceof AppError && cause.code === 'not-a-workspace' && (await hasMarker(root)))
      return cause.message;
    return null;
  }
}

/** Any folder as if it were a workspace: with no homes and nothing known of it. */
export function plainFolder(root: string): OpenWorkspace {
  const file: WorkspaceFile = {
    format: 1,
    name: root.slice(root.lastIndexOf('/') + 1),
    created: '',
    layout: '',
    folders: [],
    homes: {},
    libraries: [],
    places: [],
  };
  return { root, tree: new DiskReading(root), outside: outsideOf(root), file };
}

export interface CreateRequest {
  parent: string;
  name: string;
  layout: Layout;
  without: readonly string[];
}

/** Throws AppError('exists') where another name lies in a folder that other systems take for this one. */
export async function checkNoTwin(parent: string, name: string): Promise<void> {
  const twin = (await diskOutside.entries(parent))?.find(
    (e) => e.name !== name && foldName(e.name) === foldName(name),
  );
  if (twin)
    throw new AppError(
      'exists',
      `“${twin.name}” is there already; other systems take the two names for one.`,
    );
}

/** Works in a folder that is made where it is not there; where the work fails and nothing lies in it, it is taken away again. */
export async function inNewFolder<T>(root: string, work: () => Promise<T>): Promise<T> {
  const isNew = (await diskOutside.kind(root)) === null;
  if (isNew) fs.mkdirSync(toSystem(root));
  try {
    return await work();
  } catch (cause) {
    if (isNew)
      try {
        fs.rmdirSync(toSystem(root)); // only while nothing lies in it
      } catch {
        // Something does: it stays.
      }
    throw cause;
  }
}

/** What creating would make, checked: throws AppError with the reason where it must not be. */
export async function planNew(request: CreateRequest): Promise<{ root: string; plan: Plan }> {
  const wrong = checkNewName(request.name);
  if (wrong.length > 0)
    throw new AppError(
      'bad-name',
      `“${request.name}” cannot be the name. ${wrong[0]!.message}`,
      'Nothing was changed.',
      wrong.map((w) => w.message),
    );
  const parent = request.parent;
  if ((await diskOutside.kind(parent)) !== 'folder')
    throw new AppError('not-found', `${parent} is no folder.`);
  const holder = await rootOf(parent);
  if (holder !== null)
    throw new AppError(
      'inside-workspace',
      `${parent} lies inside the workspace ${holder}. A workspace inside a workspace would have two roots.`,
    );
  const root = `${parent === '/' ? '' : parent}/${request.name}`;
  await checkNoTwin(parent, request.name);
  const there = await diskOutside.entries(root);
  if (there === null && (await diskOutside.kind(root)) !== null)
    throw new AppError('exists', `${root} is a file.`);
  // Records of what was done and undone there may lie in it; a workspace it is only with its marker.
  if (there?.some((e) => e.name !== ownFolder) || (await hasMarker(root)))
    throw new AppError('exists', `${root} is there already and is not empty.`);
  return { root, plan: planCreate(newWorkspaceFile({ ...request, created: new Date().toISOString() })) };
}

/** Creates a workspace. */
export async function createWorkspace(
  request: CreateRequest,
): Promise<{ root: string; record: JournalRecord }> {
  const { root, plan } = await planNew(request);
  return inNewFolder(root, async () => ({ root, record: await applyPlan(root, plan) }));
}
