// The embedded database: PGlite in a thread of its own, with its files in the data folder. It is an index of folders that can be made again, so
// one that cannot be opened or read is set aside, whole, and a new one is made: nobody is kept from working by it.

import fs from 'node:fs';
import path from 'node:path';
import { AppError } from '@/core/errors';
import { fromSystem } from '../disk/system';
import { freeBytes } from '../disk/use';
import { openPool, type Pool } from '../threads/pool';
import { migrate, overOneConnection, told, type Database, type Value } from './database';
import type { Question, Reply } from './embedded';

/** A database, and what had to be done to open it. */
export interface Opened {
  db: Database;
  /** The folder (the system's form) to which a damaged one was moved; null: it was in order. */
  setAside: string | null;
}

// More than the slowest machine takes to open a whole one; what is damaged may hang.
const patience = 90_000;

/** So much must be free, in bytes: a new database is 40 MB, and its log grows by 16 MB at a time. */
const room = 100e6;

/** Opens the database in `folder` (the system's form). Only one process may have it open: take a lock first. */
export async function openEmbedded(folder: string): Promise<Opened> {
  const first = await openChecked(folder).catch((cause: unknown) => ({ cause }));
  if (!('cause' in first)) return { db: first, setAside: null };
  const { cause } = first;
  // Of a newer version: whole, and not ours to set aside.
  if (cause instanceof AppError && cause.code === 'newer-format') throw cause;
  // What a full drive keeps from being opened is not damaged.
  if (freeBytes(fromSystem(folder)) < room)
    throw new AppError(
      'disk-full',
      `The index of Loyal Satchel could not be opened: too little room is left on the drive of ${folder}. Make some (${room / 1e6} MB) and start it again; nothing was lost.`,
    );
  if (!fs.existsSync(folder)) throw cause;
  const aside = `${folder}-damaged-${new Date().toISOString().replace(/[:.]/g, '-')}`;
  fs.renameSync(folder, aside);
  try {
    return { db: await openChecked(folder), setAside: aside };
  } catch (again) {
    // It was not the folder's fault: it gets its name back.
    fs.rmSync(folder, { recursive: true, force: true });
    fs.renameSync(aside, folder);
    throw again;
  }
}

// Read whole at each start; of the large ones every page is counted through, not taken apart.
const small = ['migration', 'place', 'workspace', 'setting'];
const large = ['reference_row', 'scene_problem', 'file_row', 'seen_file'];

/** Opens it, brings its tables up to date, and reads each once from end to end: damage is met here, not in the middle of work. */
async function openChecked(folder: string): Promise<Database> {
  fs.mkdirSync(folder, { recursive: true, mode: 0o700 });
  const pool = openDatabasePool();
  try {
    const db = overPool(pool, folder);
    await pool.run({ folder }, { signal: AbortSignal.timeout(patience) });
    await migrate(db);
    for (const table of small) await db.query(`SELECT count(t::text) FROM ${table} AS t`);
    for (const table of large) await db.query(`SELECT count(*) FROM ${table}`);
    return db;
  } catch (cause) {
    await pool.close().catch(() => undefined);
    throw cause;
  }
}

// Asked nothing for so long (ms), it is closed, and 120 MB are free; the next question opens it again, in some 0.4 s.
const restsAfter = 120_000;

/** The thread for a database; it ends a while after the database in it was closed. */
export const openDatabasePool = (rest = restsAfter): Pool<Question, Reply> =>
  openPool<Question, Reply>('database', { most: 1, together: 1000, idle: rest + 5000 });

/** The database in a folder, by a pool with one thread. A thread that dies is replaced; what it was asked just then fails, and nothing else does. */
export function overPool(pool: Pool<Question, Reply>, folder: string, rest = restsAfter): Database {
  const closeIt = async () => void (await pool.run({ folder, close: true }).catch(() => undefined));
  const ask = inOneOpening(pool, folder);
  let resting: NodeJS.Timeout | undefined;
  return overOneConnection(
    async <Row>(sql: string, values: readonly Value[]) => {
      clearTimeout(resting);
      const { rows, isBetween } = await ask<Row>(sql, values);
      if (!isBetween) resting = setTimeout(() => void closeIt(), rest).unref();
      return rows;
    },
    async () => {
      clearTimeout(resting);
      await closeIt();
      await pool.close();
    },
  );
}

/** Statements of one transaction are answered by one opening, or fail: a thread started anew knows nothing of what was begun. `isBetween`: its end is still to come. */
function inOneOpening(pool: Pool<Question, Reply>, folder: string) {
  let opening: string | undefined;
  return async <Row>(sql: string, values: readonly Value[]): Promise<{ rows: Row[]; isBetween: boolean }> => {
    if (sql === 'BEGIN') opening = undefined;
    try {
      const reply = await pool.run({ folder, sql, values, opening });
      if (sql === 'BEGIN') ({ opening } = reply);
      else if (sql === 'COMMIT' || sql === 'ROLLBACK') opening = undefined;
      return { rows: reply.rows as Row[], isBetween: opening !== undefined };
    } catch (cause) {
      if (sql === 'COMMIT' || sql === 'ROLLBACK') opening = undefined;
      if (/worker exited|Worker terminated|terminated/.test(String((cause as Error).message)))
        throw new AppError('no-database', 'The database of Loyal Satchel ended and is being started anew.');
      throw told(cause);
    }
  };
}

/** The folder of the database in a data folder. */
export const databaseFolder = (dataFolder: string): string => path.join(dataFolder, 'database');
