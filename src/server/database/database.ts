// One database, behind one small interface: PGlite in a thread (embeddedDatabase.ts), or a PostgreSQL server when SATCHEL_DATABASE_URL names one.
// The same SQL runs on both. What belongs together is one transaction: it is there whole or not at all.

import type { PoolClient } from 'pg';
import { AppError } from '@/core/errors';
import { newer } from '../dataFormat';
import { migrations } from './migrations';

export type Value = string | number | boolean | null | readonly (string | number | boolean | null)[];

/** What statements are asked of: the database, or a transaction in it. */
export interface Queries {
  query<Row>(sql: string, values?: readonly Value[]): Promise<Row[]>;
}

export interface Database extends Queries {
  /** Runs work whose statements count all or not at all. Only the queries that it is given belong to it. */
  transaction<T>(work: (queries: Queries) => Promise<T>): Promise<T>;
  close(): Promise<void>;
}

/** One connection as a database: statements in turn, and while a transaction is under way all others wait for its end. */
export function overOneConnection(
  ask: <Row>(sql: string, values: readonly Value[]) => Promise<Row[]>,
  close: () => Promise<void>,
): Database {
  let turn: Promise<unknown> = Promise.resolve();
  const inTurn = <T>(work: () => Promise<T>): Promise<T> => {
    const mine = turn.then(work);
    turn = mine.catch(() => undefined);
    return mine;
  };
  return {
    query: <Row>(sql: string, values: readonly Value[] = []) => inTurn(() => ask<Row>(sql, values)),
    transaction: (work) => inTurn(() => between(ask, work)),
    close: () => inTurn(close),
  };
}

/** BEGIN, the work, COMMIT; ROLLBACK where it fails. */
async function between<T>(
  ask: <Row>(sql: string, values: readonly Value[]) => Promise<Row[]>,
  work: (queries: Queries) => Promise<T>,
): Promise<T> {
  await ask('BEGIN', []);
  try {
    const result = await work({
      query: <Row>(sql: string, values: readonly Value[] = []) => ask<Row>(sql, values),
    });
    await ask('COMMIT', []);
    return result;
  } catch (cause) {
    await ask('ROLLBACK', []).catch(() => undefined);
    throw cause;
  }
}

// Class 08 and 57P: the connection or the server is gone (PostgreSQL, "Error Codes"); the rest are the system's.
const isAway = (cause: unknown) =>
  /^(08...|57P0.|ECONN.*|EPIPE|ETIMEDOUT|ENOTFOUND|EHOSTUNREACH|EAI_AGAIN)$/.test(
    String((cause as { code?: unknown } | null)?.code ?? ''),
  ) ||
  /Connection terminated|not queryable|timeout exceeded when trying to connect/.test(
    String((cause as Error)?.message),
  );

// 53100, disk_full (PostgreSQL, "Error Codes"); from a thread only the message comes.
const isFull = (cause: unknown) =>
  (cause as { code?: unknown } | null)?.code === '53100' ||
  /No space left on device/.test(String((cause as Error | null)?.message));

/** An error of the database itself in words; any other as it is. */
export function told(cause: unknown): unknown {
  if (isFull(cause))
    return new AppError(
      'disk-full',
      'The drive is full on which Loyal Satchel keeps its index.',
      'No file was changed.',
    );
  return isAway(cause)
    ? new AppError('no-database', 'The database of Loyal Satchel does not answer.', 'No file was changed.')
    : cause;
}

/** A PostgreSQL server by its URL. */
export async function openServer(url: string): Promise<Database> {
  const { default: pg } = await import('pg');
  const { connectionsTo } = await import('./connections');
  pg.types.setTypeParser(20, Number);
  // Of the hundred that a server lends (its default), a studio's server and workers take a part each.
  const most = 10;
  const pool = connectionsTo(url, most);
  /**
   * Lends a connection. One that was lost while it lay idle, and whose loss is only seen by its first use, is
   * let go and another taken, as long as nothing can have been done: `unmade` says so. A server that cannot be
   * connected to at all is asked once.
   */
  async function lent<T>(work: (client: PoolClient) => Promise<T>, unmade: () => boolean): Promise<T> {
    for (let tries = 0; ; tries++) {
      const client = await pool.connect().catch((cause: unknown) => {
        throw told(cause);
      });
      let failed: unknown = null;
      try {
        return await work(client);
      } catch (cause) {
        failed = cause;
        if (!isAway(cause) || !unmade() || tries === most) throw told(cause);
      } finally {
        // One whose connection is lost is not lent again.
        client.release(isAway(failed));
      }
    }
  }
  const database: Database = {
    query: <Row>(sql: string, values: readonly Value[] = []) =>
      lent(
        async (client) => (await client.query(sql, values as unknown[])).rows as Row[],
        // What only reads may be asked twice.
        () => /^\s*SELECT\b/i.test(sql),
      ),
    transaction: (work) => {
      let begun = false;
      return lent(
        (client) =>
          between(async <Row>(sql: string, values: readonly Value[]) => {
            const { rows } = await client.query(sql, values as unknown[]);
            begun = true;
            return rows as Row[];
          }, work),
        () => !begun,
      );
    },
    close: () => pool.end(),
  };
  await migrate(database);
  return database;
}

// Any number, the same for all: who holds it changes the tables.
const migrating = 4680_0001;

/**
 * Runs the numbered SQL files that have not run yet, each whole or not at all; of several processes that open one server at once, one does. Statements end with
 * ';' at a line's end. Throws AppError('newer-format') where a newer version has changed the tables.
 */
export async function migrate(database: Database): Promise<void> {
  const alone = <T>(work: (queries: Queries) => Promise<T>) =>
    database.transaction(async (queries) => {
      await queries.query(`SELECT pg_advisory_xact_lock(${migrating})`);
      return work(queries);
    });
  const numbers = async (queries: Queries) =>
    new Set((await queries.query<{ number: number }>('SELECT number FROM migration')).map((r) => r.number));
  const done = await alone(async (queries) => {
    await queries.query('CREATE TABLE IF NOT EXISTS migration (number int PRIMARY KEY)');
    return numbers(queries);
  });
  if (Math.max(0, ...done) > migrations.length) throw newer('The database');
  for (const [i, sql] of migrations.entries()) {
    if (done.has(i + 1)) continue;
    await alone(async (queries) => {
      if ((await numbers(queries)).has(i + 1)) return;
      for (const statement of sql.replace(/^\s*--.*$/gm, '').split(/;\s*$/m))
        if (statement.trim() !== '') await queries.query(statement);
      await queries.query('INSERT INTO migration (number) VALUES ($1)', [i + 1]);
    });
  }
}
