// Who uses a file anywhere: the index of five million references of 200 workspaces on a PostgreSQL server, and of fewer in PGlite, beside `grep` over the same
// paths as text, a file a workspace. Needs Debian's PostgreSQL.

import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { PGlite } from '@electric-sql/pglite';
import { ensureTrigrams, whoUses, type Rooted } from '@/server/database/anywhereQueries';
import {
  migrate,
  openServer,
  overOneConnection,
  type Database,
  type Value,
} from '@/server/database/database';
import { postgresBin, postgresHere } from '@/server/database/testing/postgres';

const since = (start: number) => (performance.now() - start) / 1000;

/** References of so many workspaces: every tenth leads to a library that all have in common; names as people give them. */
async function fill(db: Database, many: number, each: number): Promise<Rooted[]> {
  const workspaces = Array.from({ length: many }, (_, w) => ({
    ...{ id: `w${w}`, root: `/share/show_${w}` },
    references: each,
  }));
  for (const [w, { id, root }] of workspaces.entries()) {
    await db.query('INSERT INTO workspace (id, root, name, generation) VALUES ($1, $2, $1, 1)', [id, root]);
    await db.query(
      `INSERT INTO reference_row (workspace, generation, scene, ord, format, at, kind, written, state, target, inside, ready, oddities, uses, size)
       SELECT $1, 1, 'scenes/' || (n / 50) || '/shot_v003.gltf', n, 'gltf', '/images/' || n || '/uri', 'texture', '../../textures/' || name,
         CASE WHEN n % 97 = 0 THEN 'missing' ELSE 'travels' END,
         CASE WHEN n % 97 = 0 THEN NULL WHEN n % 10 = 0 THEN '/share/library/' || name ELSE 'textures/' || name END, n % 10 <> 0, true, '', '', 1
       FROM (SELECT n, (ARRAY['hull','pier','rope','lantern','rock','kelp','brass','plank','gull','crate'])[1 + (n * 7 + $2::int) % 10] || '_' || (n * 31 + $2::int) % 9000
         || (ARRAY['_albedo','_normal','_rough','_metal'])[1 + n % 4] || '.png' AS name FROM generate_series(0, ${each - 1}) AS n) AS made`,
      [id, w],
    );
  }
  await db.query('ANALYZE');
  return workspaces;
}

/** The same as text: a file a workspace, a reference a line. */
async function write(db: Database, workspaces: readonly Rooted[], folder: string): Promise<void> {
  for (const { id, root } of workspaces) {
    const rows = await db.query<{ line: string }>(
      `SELECT scene || ' ' || CASE WHEN inside THEN $2 || '/' || target ELSE coalesce(target, written) END AS line FROM reference_row WHERE workspace = $1`,
      [id, root],
    );
    fs.writeFileSync(path.join(folder, `${id}.txt`), rows.map((r) => `${r.line}\n`).join(''));
  }
}

async function measure(db: Database, workspaces: readonly Rooted[], folder: string): Promise<void> {
  const [library] = await db.query<{ target: string }>(
    "SELECT target FROM reference_row WHERE target LIKE '/share/library/rope%' LIMIT 1",
  );
  const asks = [library!.target, 'textures/kelp_300_normal.png', 'lantern_4711_rough.png'];
  for (const asked of [...asks, 'lantern_47', 'rass_88', 'albedo', 'no such name', 'ro']) {
    const times = [];
    let found = '';
    for (let n = 0; n < 7; n++) {
      const start = performance.now();
      const { by, rows } = await whoUses(db, workspaces, asked, 1001);
      times.push(since(start));
      found = `${rows.length} by ${by}`;
    }
    const start = performance.now();
    spawnSync('grep', ['-ricF', asked, folder]);
    const grep = since(start);
    const [first, median] = [times[0]!, times.toSorted((a, b) => a - b)[3]!];
    console.log(
      `${asked.padEnd(40)} ${(median * 1000).toFixed(0)} ms (first ${(first * 1000).toFixed(0)}), grep ${(grep * 1000).toFixed(0)} ms: ${(median / grep).toFixed(3)}   ${found}`,
    );
  }
}

const bin = postgresBin();
if (!bin) throw new Error('No PostgreSQL is installed here.');
const pg = postgresHere(bin);
const folder = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-anywhere-'));
try {
  const server = await openServer(pg.url('anywhere'));
  const five = await fill(server, 200, 25_000);
  const start = performance.now();
  console.log(
    `5,000,000 on PostgreSQL; trigrams: ${await ensureTrigrams(server)}, in ${since(start).toFixed(0)} s`,
  );
  await server.query('VACUUM ANALYZE');
  await write(server, five, folder);
  await measure(server, five, folder);
  await server.close();

  const lite = await PGlite.create({ parsers: { 20: Number } });
  const db = overOneConnection(
    async <Row>(sql: string, values: readonly Value[]) =>
      (await lite.query(sql, values as unknown[])).rows as Row[],
    () => lite.close(),
  );
  await migrate(db);
  for (const each of [20_000, 50_000]) {
    await db.query('TRUNCATE reference_row, workspace');
    fs.rmSync(folder, { recursive: true });
    fs.mkdirSync(folder);
    const some = await fill(db, 20, each);
    console.log(`${20 * each} on PGlite`);
    await write(db, some, folder);
    await measure(db, some, folder);
  }
  await db.close();
} finally {
  pg.close();
  fs.rmSync(folder, { recursive: true, force: true });
}
