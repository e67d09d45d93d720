// A PGlite for a test, in memory. It begins as a copy of the empty one that is built for the server's thread (scripts/setup.mjs): a fifth of the time.

import fs from 'node:fs';
import path from 'node:path';
import { PGlite, type PGliteOptions } from '@electric-sql/pglite';
import { overOneConnection, type Database, type Value } from '../database';

/** An empty PGlite; `dataDir` (the system's form): a folder that is not there yet, in memory where there is none. */
export function emptyPGlite(options: PGliteOptions = {}): Promise<PGlite> {
  const template = fs.readFileSync(path.join(process.env.SATCHEL_THREADS!, 'template.tar'));
  return PGlite.create({ parsers: { 20: Number }, loadDataDir: new Blob([template]), ...options });
}

/** As our own code asks it. */
export const over = (pglite: PGlite): Database =>
  overOneConnection(
    async <Row>(sql: string, values: readonly Value[]) =>
      (await pglite.query(sql, values as unknown[])).rows as Row[],
    () => pglite.close(),
  );

/** A database without tables, in memory. */
export const inMemory = async (): Promise<Database> => over(await emptyPGlite());
