// Where the rows of a scan go: into the index, by whoever has the rows: the server on one's own machine, a worker on its own.

import { scanResult, type IndexFile, type IndexProblem, type IndexRow } from '@/wire/jobs';
import type { Database } from '../database/database';
import { addFiles, addProblems, addRows, beginScan, endScan, mergeScan } from '../database/queries';

/** Rows go under the next number of a workspace, and are shown once all of them are there. `next`: what that state is called. */
export function scanStore(db: Database, id: string, next: string) {
  let generation: Promise<number> | null = null;
  const number = () => (generation ??= beginScan(db, id));
  return {
    async onRows(rows: IndexRow[], problems: IndexProblem[], files: IndexFile[]): Promise<void> {
      await addRows(db, id, await number(), rows);
      await addProblems(db, id, await number(), problems);
      await addFiles(db, id, await number(), files);
    },
    async commit(given: unknown): Promise<void> {
      const { found, delta } = scanResult.parse(given);
      if (delta) await mergeScan(db, id, { found, delta, token: next });
      else await endScan(db, id, await number(), found, next);
    },
  };
}
