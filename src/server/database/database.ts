// One database, behind one small interface: PGlite in a worker thread (it blocks while a query runs), or a PostgreSQL server
// when SATCHEL_DATABASE_URL names one. The same SQL runs on both.

import { Worker } from 'node:worker_threads';
import { migrations } from './migrations';

export type Value = string | number | boolean | null | readonly (string | number | boolean | null)[];

export interface Database {
  query<Row>(sql: string, values?: readonly Value[]): Promise<Row[]>;
  close(): Promise<void>;
}

interface Answer {
  n: number;
  rows?: unknown[];
  error?: string;
}

/** PGlite with its files in `folder`, in a thread of its own. Only one process may have a folder open: take a lock first. */
export async function openEmbedded(folder: string): Promise<Database> {
  const worker = new Worker(new URL('./pglite.worker.ts', import.meta.url), { workerData: { folder } });
  const waiting = new Map<number, { resolve: (rows: unknown[]) => void; reject: (cause: Error) => void }>();
  let n = 0;
  worker.on('message', (m: Answer) => {
    const call = waiting.get(m.n);
    waiting.delete(m.n);
    if (m.error !== undefined) call?.reject(new Error(m.error));
    else call?.resolve(m.rows ?? []);
  });
  const failAll = (cause: Error) => {
    for (const call of waiting.values()) call.reject(cause);
    waiting.clear();
  };
  worker.on('error', failAll);
  worker.on('exit', () => failAll(new Error('The database has ended.')));
  const ask = (message: object) =>
    new Promise<unknown[]>((resolve, reject) => {
      waiting.set(++n, { resolve, reject });
      worker.postMessage({ ...message, n });
    });
  const database: Database = {
    query: <Row>(sql: string, values: readonly Value[] = []) => ask({ sql, values }) as Promise<Row[]>,
    async close() {
      await ask({ close: true });
      await worker.terminate();
    },
  };
  await migrate(database);
  return database;
}

/** A PostgreSQL server by its URL. */
export async function openServer(url: string): Promise<Database> {
  const { default: pg } = await import('pg');
  pg.types.setTypeParser(20, Number);
  const pool = new pg.Pool({ connectionString: url, max: 4 });
  const database: Database = {
    async query<Row>(sql: string, values: readonly Value[] = []) {
      return (await pool.query(sql, values as unknown[])).rows as Row[];
    },
    close: () => pool.end(),
  };
  await migrate(database);
  return database;
}

/** Runs the numbered SQL files that have not run yet. Statements end with ';' at a line's end. */
export async function migrate(database: Database): Promise<void> {
  await database.query('CREATE TABLE IF NOT EXISTS migration (number int PRIMARY KEY)');
  const done = new Set(
    (await database.query<{ number: number }>('SELECT number FROM migration')).map((r) => r.number),
  );
  for (const [i, sql] of migrations.entries()) {
    if (done.has(i + 1)) continue;
    for (const statement of sql.replace(/^\s*--.*$/gm, '').split(/;\s*$/m))
      if (statement.trim() !== '') await database.query(statement);
    await database.query('INSERT INTO migration (number) VALUES ($1)', [i + 1]);
  }
}
