// What the user has told the application and no folder knows: allowed folders, workspaces that were opened, settings. It stands in the database,
// and once more in a small file beside it, so that a database that is lost takes nothing along that cannot be read again.

import fs from 'node:fs';
import path from 'node:path';
import { z } from 'zod';
import type { Database, Value } from './database/database';
import { keepFile } from './keptFile';

const known = z.object({
  format: z.literal(1),
  allowed: z.array(z.string()),
  workspaces: z.array(z.object({ id: z.string(), root: z.string(), name: z.string() })),
  settings: z.array(z.object({ name: z.string(), value: z.string() })),
});

// So many questions, each with its answer of at most some hundred rows.
const mostRecalled = 500;

const fileIn = (dataFolder: string) => path.join(dataFolder, 'known.json');

/** Writes the small file anew, whole or not at all. */
export async function keepKnown(db: Database, dataFolder: string): Promise<void> {
  const content: z.input<typeof known> = {
    format: 1,
    allowed: (await db.query<{ path: string }>('SELECT path FROM place ORDER BY added, path')).map(
      (r) => r.path,
    ),
    // The latest last: they are opened again in that order.
    workspaces: await db.query('SELECT id, root, name FROM workspace ORDER BY opened'),
    settings: await db.query('SELECT name, value FROM setting ORDER BY name'),
  };
  keepFile(fileIn(dataFolder), `${JSON.stringify(content, null, 2)}\n`);
}

/** Fills a database that knows nothing from the small file; false where there is no need, or no file that can be read. */
export async function recallKnown(db: Database, dataFolder: string): Promise<boolean> {
  for (const table of ['place', 'workspace', 'setting'])
    if ((await db.query<{ n: number }>(`SELECT count(*) AS n FROM ${table}`))[0]!.n > 0) return false;
  const read = await fs.promises.readFile(fileIn(dataFolder), 'utf8').then(
    (text) => known.safeParse(parseOrNull(text)),
    () => null,
  );
  if (!read?.success) return false;
  const { allowed, workspaces, settings } = read.data;
  await db.transaction(async (queries) => {
    for (const at of allowed)
      await queries.query('INSERT INTO place (path) VALUES ($1) ON CONFLICT (path) DO NOTHING', [at]);
    for (const w of workspaces)
      await queries.query(
        'INSERT INTO workspace (id, root, name, opened) VALUES ($1, $2, $3, clock_timestamp()) ON CONFLICT (id) DO NOTHING',
        [w.id, w.root, w.name],
      );
    for (const s of settings)
      await queries.query('INSERT INTO setting (name, value) VALUES ($1, $2) ON CONFLICT (name) DO NOTHING', [
        s.name,
        s.value,
      ]);
  });
  return true;
}

function parseOrNull(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}

const tables = new Set(['place', 'workspace', 'setting']);
const changesKnown = (sql: string) =>
  tables.has(/^\s*(?:INSERT INTO|UPDATE|DELETE FROM) (\w+)/.exec(sql)?.[1] ?? '');
/** True for a question of these tables alone. Statements are ours: keywords stand in capitals. */
const readsKnown = (sql: string) =>
  /^\s*SELECT\b/.test(sql) &&
  [...sql.matchAll(/\b(?:FROM|JOIN) (\w+)/g)].every(([, table]) => tables.has(table!));

/**
 * A database of one process, which writes the small file anew after every statement that changes what is in it (several at once are written once), and answers
 * what is only read of it from memory until then: pages and watches ask for it all the time, and the database can rest meanwhile.
 */
export function keepingKnown(db: Database, dataFolder: string): Database {
  let isDue = false;
  let writing: Promise<void> = Promise.resolve();
  let answers = new Map<string, Promise<object[]>>();
  const changed = () => {
    answers = new Map();
    if (isDue) return;
    isDue = true;
    writing = writing.then(async () => {
      isDue = false;
      await keepKnown(db, dataFolder).catch((cause: unknown) => console.error(cause));
    });
  };
  async function recalled<Row>(sql: string, values: readonly Value[] = []): Promise<Row[]> {
    const mine = answers;
    const key = JSON.stringify([sql, values]);
    let answer = mine.get(key);
    if (!answer) {
      answer = db.query<object>(sql, values);
      mine.set(key, answer);
      answer.catch(() => mine.delete(key));
      if (mine.size > mostRecalled) mine.delete(mine.keys().next().value!);
    }
    // Whoever asks may do with its rows as it likes.
    return (await answer).map((row) => ({ ...row })) as Row[];
  }
  return {
    async query<Row>(sql: string, values?: readonly Value[]) {
      if (readsKnown(sql)) return recalled<Row>(sql, values);
      try {
        return await db.query<Row>(sql, values);
      } finally {
        if (changesKnown(sql)) changed();
      }
    },
    async transaction(work) {
      let changes = false;
      try {
        return await db.transaction((queries) =>
          work({
            query: (sql, values) => {
              changes ||= changesKnown(sql);
              return queries.query(sql, values);
            },
          }),
        );
      } finally {
        if (changes) changed();
      }
    },
    async close() {
      await writing;
      await db.close();
    },
  };
}
