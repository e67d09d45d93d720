// Connections to a PostgreSQL server, for all who ask it: our own statements, the accounts, the queue, its workers.

import { Pool } from 'pg';

/** At most so many, opened when they are needed. What is lost is opened anew by whoever asks next; no loss ends the process. */
export function connectionsTo(url: string, most: number): Pool {
  const pool = new Pool({
    connectionString: url,
    max: most,
    connectionTimeoutMillis: 5000,
    keepAlive: true,
  });
  pool.on('error', () => undefined);
  // One that is lent has no listener of the pool. It has this one before anybody has it: what says that it is cut off may come in the same packet as
  // what says that it is made.
  pool.on('connect', (client) => client.on('error', () => undefined));
  return pool;
}
