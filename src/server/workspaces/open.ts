// Workspaces on disk: finding the root, reading the marker, opening (which repairs what a crash left), applying plans.

import { randomBytes } from 'node:crypto';
import fs from 'node:fs';
import { apply } from '@/core/changes/apply';
import { holding, laterPlans, touched, touches } from '@/core/changes/depends';
import { planUndo } from '@/core/changes/invert';
import { ledgerOf, readJournals, type JournalRecord, type LedgerEntry } from '@/core/changes/journal';
import { bytesToWrite, type Plan } from '@/core/changes/plan';
import { recover } from '@/core/changes/putBack';
import { AppError } from '@/core/errors';
import type { CancelSignal, WritableFileTree } from '@/core/files/fileTree';
import { treePath } from '@/core/files/treePath';
import { checkName } from '@/core/names/portable';
import type { Layout } from '@/core/layouts/layout';
import { findRoot, markerPath, type WorkspaceFile } from '@/core/layouts/workspace';
import { newWorkspaceFile, planCreate } from '@/core/plans/planCreate';
import type { Workspace } from '@/core/plans/workspace';
import { parseJournalLine } from '@/wire/plan';
import type { LedgerLine } from '@/wire/views';
import { parseWorkspaceFile } from '@/wire/workspace';
import { DiskTree, diskOutside } from '../disk/diskTree';
import { takeLock } from '../disk/processLock';
import { toSystem } from '../disk/system';
import { freeBytes } from '../disk/use';

/** A workspace on disk. */
export interface OpenWorkspace extends Workspace {
  tree: DiskTree;
  file: WorkspaceFile;
}

const now = () => new Date().toISOString();
const context = { outside: diskOutside, now };

/** True when the folder holds a marker. */
export async function hasMarker(folder: string): Promise<boolean> {
  return fs.existsSync(toSystem(`${folder === '/' ? '' : folder}/${markerPath}`));
}

/** The root that holds a path; null when it lies in no workspace. */
export function rootOf(path: string): Promise<string | null> {
  return findRoot(path, hasMarker);
}

/** A workspace by its root. Throws AppError where there is none or its marker is damaged. */
export async function readWorkspace(root: string): Promise<OpenWorkspace> {
  const tree = new DiskTree(root);
  if (!fs.existsSync(toSystem(root))) throw new AppError('offline', `${root} is not there just now.`);
  if ((await tree.kind(markerPath)) !== 'file')
    throw new AppError('not-a-workspace', `${root} is no workspace.`);
  const text = new TextDecoder().decode(await tree.read(markerPath));
  return { root, tree, outside: diskOutside, file: parseWorkspaceFile(text, `${root}/${markerPath}`) };
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
  return { root, tree: new DiskTree(root), outside: diskOutside, file };
}

/** Runs work while holding the workspace's write lock. Throws AppError('busy') when another process has it. */
export async function withLock<T>(root: string, work: () => Promise<T>): Promise<T> {
  const lock = await takeLock(
    `workspace:${fs.existsSync(toSystem(root)) ? fs.realpathSync(toSystem(root)) : root}`,
  );
  if (!lock) throw new AppError('busy', `Another program is changing ${root} just now.`);
  try {
    return await work();
  } finally {
    await lock.release();
  }
}

/** Puts back what a crash left unfinished; says what it did. Does nothing while another process is at work there. */
export function repairAfterCrash(root: string): Promise<{ id: string; title: string; left: string[] }[]> {
  return repairTree(root, new DiskTree(root));
}

/** The same for a tree whose records lie elsewhere. */
export async function repairTree(
  root: string,
  tree: WritableFileTree,
): Promise<{ id: string; title: string; left: string[] }[]> {
  if (!(await readJournals(tree, parseJournalLine)).some((r) => r.end === null)) return [];
  try {
    return await withLock(root, () => recover(tree, parseJournalLine, context));
  } catch (cause) {
    if (cause instanceof AppError && cause.code === 'busy') return [];
    throw cause;
  }
}

export interface ApplyOptions {
  signal?: CancelSignal | undefined;
  onProgress?: ((done: { steps: number; bytes: number; path: string }) => void) | undefined;
}

/** An id that sorts by time: 20261123-184500-3fa9c2. */
export function newId(): string {
  const time = now();
  return `${time.replace(/[-:]/g, '').replace('T', '-').slice(0, 15)}-${time.slice(20, 23)}${randomBytes(2).toString('hex')}`;
}

/** Applies a plan to a root, alone. Refuses at once when the drive has too little room. `tree`: where it is not the root's own. */
export function applyPlan(
  root: string,
  plan: Plan,
  options: ApplyOptions = {},
  tree: WritableFileTree = new DiskTree(root),
): Promise<JournalRecord> {
  return withLock(root, async () => {
    await recover(tree, parseJournalLine, context);
    const free = freeBytes(root);
    if (bytesToWrite(plan) > free)
      throw new AppError(
        'disk-full',
        `The plan writes ${bytesToWrite(plan)} bytes and the drive has ${free} free.`,
      );
    return apply(tree, plan, { ...context, ...options, id: newId() });
  });
}

/** Every plan applied to a root, newest first. */
export async function readLedger(root: string): Promise<LedgerEntry[]> {
  return ledgerOf(await readJournals(new DiskTree(root), parseJournalLine));
}

/** Entries that touch one of these files, or a folder they lie in, newest first. */
export async function readHistory(root: string, paths: readonly string[]): Promise<LedgerEntry[]> {
  return touching(await readJournals(new DiskTree(root), parseJournalLine), paths);
}

function touching(records: readonly JournalRecord[], paths: readonly string[] | null): LedgerEntry[] {
  const wanted = new Set(
    records.filter((r) => paths === null || paths.some((p) => touches(r.plan, p))).map((r) => r.id),
  );
  return ledgerOf(records).filter((e) => wanted.has(e.id));
}

/** The ledger in full: what each entry touches, and which later ones stand on it. `paths`: only entries that touch one of these. */
export async function readLedgerLong(root: string, paths: readonly string[] | null): Promise<LedgerLine[]> {
  const records = await readJournals(new DiskTree(root), parseJournalLine);
  const later = laterPlans(records);
  const plans = new Map(records.map((r) => [r.id, r.plan]));
  return touching(records, paths).map((e) => {
    const plan = plans.get(e.id)!;
    return {
      ...e,
      later: later.get(e.id) ?? [],
      touched: touched(plan).slice(0, mostTouched),
      changes: plan.paths.slice(0, mostTouched),
    };
  });
}
const mostTouched = 200;

/** The plan that undoes a ledger entry. */
export async function planUndoOf(root: string, id: string): Promise<Plan> {
  const tree = new DiskTree(root);
  const records = await readJournals(tree, parseJournalLine);
  const record = records.find((r) => r.id === id);
  if (!record) throw new AppError('not-found', `The ledger of ${root} has no entry ${id}.`);
  const entry = ledgerOf(records).find((e) => e.id === id)!;
  if (entry.state === 'undone') throw new AppError('bad-request', `“${entry.title}” is undone already.`);
  return planUndo(
    tree,
    record,
    holding(records).filter((r) => r.id > id),
  );
}

/** After a creation was undone: the root goes too when nothing but our own records is left in it. */
export async function removeEmptyRoot(root: string): Promise<boolean> {
  const tree = new DiskTree(root);
  const entries = (await tree.entries(treePath(''))) ?? [];
  if (entries.some((e) => e.name !== '.satchel') || (await tree.kind(markerPath)) !== null) return false;
  fs.rmSync(toSystem(root), { recursive: true });
  return true;
}

export interface CreateRequest {
  parent: string;
  name: string;
  layout: Layout;
  without: readonly string[];
}

/** What creating would make, checked: throws AppError with the reason where it must not be. */
export async function planNew(request: CreateRequest): Promise<{ root: string; plan: Plan }> {
  const wrong = checkName(request.name);
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
  const there = await diskOutside.entries(root);
  if (there === null && (await diskOutside.kind(root)) !== null)
    throw new AppError('exists', `${root} is a file.`);
  if (there !== null && there.length > 0)
    throw new AppError('exists', `${root} is there already and is not empty.`);
  return { root, plan: planCreate(newWorkspaceFile({ ...request, created: now() })) };
}

/** Creates a workspace. */
export async function createWorkspace(
  request: CreateRequest,
): Promise<{ root: string; record: JournalRecord }> {
  const { root, plan } = await planNew(request);
  const isNew = (await diskOutside.kind(root)) === null;
  if (isNew) fs.mkdirSync(toSystem(root));
  try {
    return { root, record: await applyPlan(root, plan) };
  } catch (cause) {
    if (isNew) await removeEmptyRoot(root);
    throw cause;
  }
}
