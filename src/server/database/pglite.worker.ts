// The embedded database's thread: one query after another.

import { parentPort, workerData } from 'node:worker_threads';
import { PGlite } from '@electric-sql/pglite';

const port = parentPort!;
const { folder } = workerData as { folder: string };
// int8, and with it count(), as a number: JavaScript's are exact up to 2^53.
const opened = PGlite.create({ dataDir: folder, parsers: { 20: Number } });

port.on('message', async (m: { n: number; sql?: string; values?: unknown[]; close?: boolean }) => {
  try {
    const db = await opened;
    if (m.close) await db.close();
    port.postMessage({ n: m.n, rows: m.sql === undefined ? [] : (await db.query(m.sql, m.values)).rows });
  } catch (cause) {
    port.postMessage({ n: m.n, error: cause instanceof Error ? cause.message : String(cause) });
  }
});
