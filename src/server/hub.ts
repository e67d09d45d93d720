// What the one server process holds: the database, the running jobs, the plans that wait for review. On globalThis, since
// modules are not shared between routes in a build.

import { createHash, randomBytes } from 'node:crypto';
import fs from 'node:fs';
import type { ErrorShape } from '@/wire/jobs';
import type { Plan } from '@/core/changes/plan';
import type { NewFolder } from '@/wire/collect';
import { AppError } from '@/core/errors';
import { allowedPath, rightsOn } from './allowed';
import { dataFolder } from './dataFolder';
import { checkDataFormat, writeDataFormat } from './dataFormat';
import { ensureTrigrams } from './database/anywhereQueries';
import { openServer, type Database } from './database/database';
import { databaseFolder, openEmbedded } from './database/embeddedDatabase';
import { findWorkspace, type WorkspaceRow } from './database/queries';
import { takeFolderLock, type FolderLock } from './disk/folderLock';
import { fromSystem } from './disk/system';
import { Asker } from './asks/asker';
import type { Ask } from './asks/questions';
import { NetWatch } from './netWatch';
import { BackupWatch } from './backupWatch';
import { keepingKnown, recallKnown } from './known';
import { Jobs, type Work } from './jobs/jobs';
import { studio } from './studio/mode';
import { endWatching } from './watching';
import { Drops } from './workspaces/drops';
import type { HeldSheet } from './sheets';
import type { Who } from './who';

export interface WaitingPlan {
  id: string;
  /** Null: a plan on a folder that is no workspace yet, or that holds several. */
  workspace: string | null;
  /** The folder that it changes, and where its records lie when not in that folder's own hidden one. */
  root: string;
  records: string | null;
  /** Set where the root is a new folder that the plan makes, with what its report is to say. */
  makes: NewFolder | null;
  /** The unpacked second delivery that the plan copies files from. */
  arrived: string | null;
  plan: Plan;
  made: number;
}

/** The watch of a workspace's folder. */
export interface Watched {
  /** When its newest reading was asked for, in ms since 1970: what changed before is in it. */
  asked: number;
  close(): void;
}

/** A plan whose application was begun. */
export interface BegunPlan {
  title: string;
  workspace: string | null;
  root: string;
  /** How it ended; null: it is being applied. */
  end: { entry: string } | { error: ErrorShape } | null;
}

export interface Hub {
  db: Database;
  /** Who asks; null: the one user of this machine, or the server itself. */
  who: Who | null;
  jobs: Work;
  /** Asks the disk, in a thread. */
  ask: Ask;
  /** All this as somebody sees it who works here with others; and as the server itself does. */
  as(who: Who): Hub;
  asServer(): Hub;
  plans: Map<string, WaitingPlan>;
  /** Plans that wait no more, by their ids, the last ones. */
  begunPlans: Map<string, BegunPlan>;
  /** Workspaces whose folders are watched, those looked at last at the end. */
  watched: Map<string, Watched>;
  /** Tables of references, of the workspaces looked at last. */
  sheets: Map<string, HeldSheet>;
  drops: Drops;
  net: NetWatch;
  backups: BackupWatch;
  /** What the user has to know of how the server started. */
  notices: readonly string[];
  dataFolder: string;
  /** The lock on the data folder; null in tests. */
  lock: FolderLock | null;
  /** Ends the server's work, gives back what it holds. */
  end(): Promise<void>;
}

async function open(): Promise<Hub> {
  const folder = dataFolder();
  fs.mkdirSync(folder, { recursive: true, mode: 0o700 });
  const lock = lockData(folder);
  try {
    checkDataFormat(folder);
    const { db, notices } = await openDatabase(folder);
    writeDataFormat(folder);
    const rights = rightsOn(db, folder);
    const settings = studio();
    const working = settings
      ? await (
          await import('./studio/open')
        ).openWorking(settings.databaseUrl, { db, dataFolder: folder, parts: partsFolder(folder), rights })
      : null;
    const jobs: Work = working?.work ?? new Jobs(partsFolder(folder), rights);
    const asker = new Asker((who) => rights.see(who));
    const h: Omit<Hub, 'net' | 'backups'> = {
      db,
      who: null,
      jobs,
      ask: asker.as(null),
      as(who) {
        const server = this as Hub;
        return { ...server, who, jobs: jobs.as(who), ask: asker.as(who), asServer: () => server };
      },
      asServer() {
        return this as Hub;
      },
      plans: new Map(),
      begunPlans: new Map(),
      watched: new Map(),
      sheets: new Map(),
      drops: new Drops(folder),
      notices,
      dataFolder: folder,
      lock,
      async end() {
        await endWatching();
        await working?.close();
        await db.close();
        lock.release();
      },
    };
    const isOurs = () => working?.work.isFirst() ?? Promise.resolve(true);
    return Object.assign(h, { net: new NetWatch(h, isOurs), backups: new BackupWatch(h, isOurs) });
  } catch (cause) {
    lock.release();
    throw cause;
  }
}

/** The database, with what the user has to know of how it was opened. */
async function openDatabase(folder: string): Promise<{ db: Database; notices: string[] }> {
  const url = process.env.SATCHEL_DATABASE_URL;
  if (url) {
    const db = await openServer(url);
    await ensureTrigrams(db);
    return { db, notices: [] };
  }
  const { db, setAside } = await openEmbedded(databaseFolder(folder));
  const notices: string[] = [];
  const recalled = await recallKnown(db, folder);
  if (setAside !== null)
    notices.push(
      `The index of Loyal Satchel could not be read. It lies in ${setAside} now, and a new one was made; your files are not affected. ${recalled ? 'Allowed folders, workspaces and settings were kept; workspaces are read again as they are opened.' : 'Allow your folders and open your workspaces again.'}`,
    );
  for (const notice of notices) process.stderr.write(`${notice}\n`);
  return { db: keepingKnown(db, folder), notices };
}

/** Where it is written down what jobs are making. */
export const partsFolder = (dataFolder: string): string => `${fromSystem(dataFolder)}/parts`;

/** Two processes on one embedded database destroy it; on one data folder they clear each other's parts away. */
export function lockData(folder: string): FolderLock {
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
  of: {
    workspace: string | null;
    root: string;
    records?: string;
    makes?: WaitingPlan['makes'];
    arrived?: string;
  },
  plan: Plan,
): string {
  const id = randomBytes(8).toString('hex');
  h.plans.set(id, {
    id,
    workspace: of.workspace,
    root: of.root,
    records: of.records ?? null,
    makes: of.makes ?? null,
    arrived: of.arrived ?? null,
    plan,
    made: Date.now(),
  });
  while (h.plans.size > 40) h.plans.delete(h.plans.keys().next().value!);
  return id;
}

/** Takes a plan from those that wait: it is being applied. Returns what its end is to be written into. */
export function beginPlan(h: Hub, { id, plan, workspace, root }: WaitingPlan): BegunPlan {
  h.plans.delete(id);
  const begun: BegunPlan = { title: plan.title, workspace, root, end: null };
  h.begunPlans.set(id, begun);
  while (h.begunPlans.size > 200) h.begunPlans.delete(h.begunPlans.keys().next().value!);
  return begun;
}

const settledFor = 1000; // ms within which a workspace that was met is not looked at again
const settled = new Map<string, number>();

/** A workspace by id, still allowed for who asks: to look at it, or to change it. */
export async function workspaceOf(h: Hub, id: string, to: 'look' | 'change' = 'look'): Promise<WorkspaceRow> {
  const row = await findWorkspace(h.db, id);
  if (!row)
    throw new AppError(
      'not-found',
      'This workspace is not known here any more. Open it again under Workspaces.',
    );
  await allowedPath(h, row.root, to);
  // Wherever a workspace is met, what a crash of our own left half way is put back first.
  if (Date.now() - (settled.get(row.root) ?? 0) > settledFor) {
    settled.set(row.root, Date.now());
    await h.ask('settleInPassing', row.root);
  }
  return row;
}
