// The working half of a server for several: the queue that its requests ask, and a worker of its own. And a worker by itself, for another machine.

import os from 'node:os';
import type { Database } from '../database/database';
import { listAllowed } from '../database/allowedQueries';
import { fromSystem } from '../disk/system';
import { Jobs, type Rights } from '../jobs/jobs';
import { Queue } from './queue';
import { shareIdentity } from './shared';
import { tellOf } from './tell';
import { Worker } from './worker';

export interface Working {
  work: Queue;
  close(): Promise<void>;
}

/** Opens both for a server. */
export async function openWorking(
  url: string,
  of: { db: Database; dataFolder: string; parts: string; rights: Rights },
): Promise<Working> {
  const { db, dataFolder, parts, rights } = of;
  await shareIdentity(db);
  const folder = fromSystem(dataFolder);
  const name = os.hostname();
  // Shorter for tests.
  const lease = process.env.SATCHEL_LEASE ? { lease: Number(process.env.SATCHEL_LEASE) } : {};
  const queue = new Queue(db, {
    url,
    dataFolder: folder,
    places: () => listAllowed(db),
    name,
    onDone: tellOf,
    ...lease,
  });
  await queue.open();
  const own = await openWorker(url, {
    db,
    dataFolder,
    parts,
    rights,
    name,
    heads: [],
    of: queue.id,
    ...lease,
  });
  return {
    work: queue,
    async close() {
      await own.close();
      await queue.close();
    },
  };
}

/** Opens a worker. `heads`: what it keeps to; empty: all that is allowed and there. `of`: the server in whose process it is; null: none. */
export async function openWorker(
  url: string,
  of: {
    db: Database;
    dataFolder: string;
    parts: string;
    rights: Rights;
    name: string;
    heads: readonly string[];
    of: string | null;
    atOnce?: number;
    /** s. */
    lease?: number;
  },
): Promise<{ id: string; close(): Promise<void> }> {
  const jobs = new Jobs(of.parts, of.rights);
  const worker = new Worker({ ...of, url, jobs, dataFolder: fromSystem(of.dataFolder) });
  await worker.open();
  return {
    id: worker.id,
    async close() {
      await worker.close();
      await jobs.close();
    },
  };
}
