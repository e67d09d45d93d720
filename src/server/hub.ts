// What the one server process holds: the database, the running jobs, the plans that wait for review. On globalThis, since
// modules are not shared between routes in a build.

import { createHash, randomBytes } from 'node:crypto';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import type { Plan } from '@/core/changes/plan';
import { AppError } from '@/core/errors';
import { isWithin } from '@/core/files/treePath';
import { dataFolder } from './dataFolder';
import { openEmbedded, openServer, type Database } from './database/database';
import { findWorkspace, listAllowed, type WorkspaceRow } from './database/queries';
import { takeFolderLock, type FolderLock } from './disk/folderLock';
import { fromSystem, isAbsolute, toSystem } from './disk/system';
import { Jobs } from './jobs/jobs';
import { Drops } from './workspaces/drops';
import { recordsIn, settleInPassing } from './workspaces/changing';
import type { HeldSheet } from './sheets';

export interface WaitingPlan {
  id: string;
  /** Null: a plan on a folder that is no workspace yet, or that holds several. */
  workspace: string | null;
  /** The folder that it changes, and where its records lie when not in that folder's own hidden one. */
  root: string;
  records: string | null;
  plan: Plan;
  made: number;
}

export interface Hub {
  db: Database;
  jobs: Jobs;
  plans: Map<string, WaitingPlan>;
  /** Workspaces whose folders are watched, those looked at last at the end. */
  watched: Map<string, { close(): void }>;
  /** The scan by which each workspace's index was made last: the thread that made it need send only what differs. */
  indexed: Map<string, string>;
  /** Tables of references, of the workspaces looked at last. */
  sheets: Map<string, HeldSheet>;
  drops: Drops;
  dataFolder: string;
  /** The lock on the data folder; null where the database is elsewhere. */
  lock: FolderLock | null;
}

async function open(): Promise<Hub> {
  const folder = dataFolder();
  fs.mkdirSync(folder, { recursive: true, mode: 0o700 });
  const url = process.env.SATCHEL_DATABASE_URL;
  const lock = url ? null : lockData(folder);
  const db = url ? await openServer(url) : await openEmbedded(path.join(folder, 'database'));
  return {
    db,
    jobs: new Jobs(),
    plans: new Map(),
    watched: new Map(),
    indexed: new Map(),
    sheets: new Map(),
    drops: new Drops(folder),
    dataFolder: folder,
    lock,
  };
}

/** Two processes on one embedded database destroy it. */
function lockData(folder: string): FolderLock {
  const taken = takeFolderLock(folder);
  if ('lock' in taken) return taken.lock;
  throw new AppError(
    'busy',
    `Another Loyal Satchel is running with the data in ${folder} (${taken.heldBy.host}, process ${taken.heldBy.pid}).`,
  );
}

const held = globalThis as { satchelHub?: Promise<Hub> };

/** The hub; opened at the first call. */
export function hub(): Promise<Hub> {
  return (held.satchelHub ??= open().catch((cause: unknown) => {
    held.satchelHub = undefined;
    throw cause;
  }));
}

/** Id of a workspace by its root: the same on every start. */
export function workspaceId(root: string): string {
  return createHash('sha256').update(root).digest('hex').slice(0, 12);
}

/** Keeps a plan for review; the oldest go beyond forty. */
export function keepPlan(
  h: Hub,
  of: { workspace: string | null; root: string; records?: string },
  plan: Plan,
): string {
  const id = randomBytes(8).toString('hex');
  h.plans.set(id, {
    id,
    workspace: of.workspace,
    root: of.root,
    records: of.records ?? null,
    plan,
    made: Date.now(),
  });
  while (h.plans.size > 40) h.plans.delete(h.plans.keys().next().value!);
  return id;
}

/** A path from the browser as the core writes it. Throws when it is not absolute. */
export function cleanPath(given: string): string {
  const trimmed = given.trim().replace(/^~(?=$|[\\/])/, os.homedir());
  if (trimmed.includes('\0') || !isAbsolute(trimmed))
    throw new AppError(
      'bad-request',
      `“${given}” is not a whole path; begin with ${process.platform === 'win32' ? 'a drive letter' : '/'}.`,
    );
  return fromSystem(trimmed);
}

/** The real path of what exists of a path, with the rest appended: links cannot lead out of a place unseen. */
function realPathOf(clean: string): string {
  let at = clean;
  const rest: string[] = [];
  for (;;) {
    if (fs.existsSync(toSystem(at)))
      return [fromSystem(fs.realpathSync(toSystem(at))), ...rest]
        .join('/')
        .replace(/\/{2,}/g, (m, i: number) => (i === 0 ? m : '/'));
    const slash = at.lastIndexOf('/');
    if (slash <= 0) return clean;
    rest.unshift(at.slice(slash + 1));
    at = at.slice(0, slash);
  }
}

/** Makes sure a path lies in a place the user has allowed; returns it clean. */
export async function allowedPath(h: Hub, given: string): Promise<string> {
  const clean = cleanPath(given);
  const real = realPathOf(clean);
  const allowed = await listAllowed(h.db);
  const inside = (p: string) =>
    allowed.some((folder) => folder === '/' || isWithin(p, folder) || isWithin(p, realPathOf(folder)));
  if (!inside(clean) || !inside(real))
    throw new AppError('not-allowed', `${clean} lies in no folder that you have allowed.`);
  return clean;
}

/** A workspace by id, still allowed. */
export async function workspaceOf(h: Hub, id: string): Promise<WorkspaceRow> {
  const row = await findWorkspace(h.db, id);
  if (!row)
    throw new AppError(
      'not-found',
      'This workspace is not known here any more. Open it again under Workspaces.',
    );
  await allowedPath(h, row.root);
  // Wherever a workspace is met, what a crash of our own left half way is put back first.
  await settleInPassing(recordsIn(row.root));
  return row;
}
