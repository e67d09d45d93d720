// Every statement, one function each. Plain SQL that PGlite and PostgreSQL 15 both run.

import type { IndexFile, IndexProblem, IndexRow, ScanFound, ScanResult } from '@/wire/jobs';
import type { Database, Queries, Value } from './database';

export interface WorkspaceRow {
  id: string;
  root: string;
  name: string;
  /** ms since 1970 UTC. */
  opened: number;
  scanned: number | null;
  generation: number;
  /** What the last scan found, as JSON; null before the first. */
  found: string | null;
  /** The state that the index is in, as the scan named it that made it. */
  token: string | null;
}

const workspaceColumns = `id, root, name, generation, found, token, (extract(epoch from opened) * 1000)::float8 AS opened, (extract(epoch from scanned) * 1000)::float8 AS scanned`;

export function listWorkspaces(db: Database): Promise<WorkspaceRow[]> {
  return db.query<WorkspaceRow>(
    `SELECT ${workspaceColumns} FROM workspace ORDER BY opened DESC, name LIMIT 500`,
  );
}

export async function findWorkspace(db: Database, id: string): Promise<WorkspaceRow | null> {
  return (
    (await db.query<WorkspaceRow>(`SELECT ${workspaceColumns} FROM workspace WHERE id = $1`, [id]))[0] ?? null
  );
}

export async function rememberWorkspace(db: Database, id: string, root: string, name: string): Promise<void> {
  await db.query(
    'INSERT INTO workspace (id, root, name) VALUES ($1, $2, $3) ON CONFLICT (id) DO UPDATE SET name = excluded.name, opened = now()',
    [id, root, name],
  );
}

export function forgetWorkspace(db: Database, id: string): Promise<void> {
  return db.transaction(async (queries) => {
    for (const table of ['reference_row', 'scene_problem', 'file_row', 'seen_file'])
      await queries.query(`DELETE FROM ${table} WHERE workspace = $1`, [id]);
    await queries.query('DELETE FROM workspace WHERE id = $1', [id]);
  });
}

/** Takes a scan's number; rows under a number above the shown one are from a scan that was cut off, and go. */
export async function beginScan(db: Database, id: string): Promise<number> {
  await db.query(
    'DELETE FROM reference_row WHERE workspace = $1 AND generation <> (SELECT generation FROM workspace WHERE id = $1)',
    [id],
  );
  await db.query(
    'DELETE FROM scene_problem WHERE workspace = $1 AND generation <> (SELECT generation FROM workspace WHERE id = $1)',
    [id],
  );
  await db.query(
    'DELETE FROM file_row WHERE workspace = $1 AND generation <> (SELECT generation FROM workspace WHERE id = $1)',
    [id],
  );
  return (await findWorkspace(db, id))!.generation + 1;
}

export async function addRows(
  db: Database,
  id: string,
  generation: number,
  rows: readonly IndexRow[],
): Promise<void> {
  if (rows.length === 0) return;
  const column = <K extends keyof IndexRow>(key: K) => rows.map((r) => r[key]) as unknown as Value;
  await db.query(
    `INSERT INTO reference_row (workspace, generation, scene, ord, format, at, kind, written, state, target, inside, ready, oddities, uses, size, targets, gaps)
     SELECT $1, $2, * FROM unnest($3::text[], $4::int[], $5::text[], $6::text[], $7::text[], $8::text[], $9::text[], $10::text[], $11::boolean[], $12::boolean[], $13::text[], $14::text[], $15::float8[], $16::int[], $17::text[])`,
    [
      id,
      generation,
      column('scene'),
      column('ord'),
      column('format'),
      column('at'),
      column('kind'),
      column('written'),
      column('state'),
      column('target'),
      column('inside'),
      column('ready'),
      rows.map((r) => r.oddities.join(' ')),
      rows.map((r) => r.uses.join('\n')),
      column('size'),
      column('targets'),
      rows.map((r) => r.gaps.join(' ')),
    ],
  );
}

export async function addProblems(
  db: Database,
  id: string,
  generation: number,
  problems: readonly IndexProblem[],
): Promise<void> {
  if (problems.length === 0) return;
  await db.query(
    'INSERT INTO scene_problem (workspace, generation, scene, code, message) SELECT $1, $2, * FROM unnest($3::text[], $4::text[], $5::text[])',
    [
      id,
      generation,
      problems.map((p) => p.scene),
      problems.map((p) => p.code),
      problems.map((p) => p.message),
    ],
  );
}

export async function addFiles(
  db: Database,
  id: string,
  generation: number,
  files: readonly IndexFile[],
): Promise<void> {
  if (files.length === 0) return;
  const column = <K extends keyof IndexFile>(key: K) => files.map((f) => f[key]) as unknown as Value;
  await db.query(
    'INSERT INTO file_row (workspace, generation, path, kind, size, modified, uses, unused) SELECT $1, $2, * FROM unnest($3::text[], $4::text[], $5::float8[], $6::float8[], $7::int[], $8::boolean[])',
    [
      id,
      generation,
      column('path'),
      column('kind'),
      column('size'),
      column('modified'),
      column('uses'),
      column('unused'),
    ],
  );
}

/** Keeps what was seen of files that references led to, out of rows that are about to go. */
const keepSeen = (
  which: string,
) => `INSERT INTO seen_file (workspace, path, size, modified) SELECT workspace, path, size, modified FROM file_row WHERE workspace = $1 AND uses > 0 AND ${which}
  ON CONFLICT (workspace, path) DO UPDATE SET size = excluded.size, modified = excluded.modified`;

/** What was last seen of files that have gone, by path: bytes. */
export function listSeen(db: Database, id: string): Promise<{ path: string; size: number }[]> {
  return db.query('SELECT path, size FROM seen_file WHERE workspace = $1 ORDER BY path LIMIT 100000', [id]);
}

/** Shows a whole scan; the one before goes. `token`: what the state is called. */
export function endScan(
  db: Database,
  id: string,
  generation: number,
  found: ScanFound,
  token: string | null = null,
): Promise<void> {
  return db.transaction(async (queries) => {
    await queries.query(keepSeen('generation <> $2'), [id, generation]);
    await queries.query(
      'UPDATE workspace SET generation = $2, found = $3, token = $4, scanned = now() WHERE id = $1',
      [id, generation, JSON.stringify(found), token],
    );
    for (const table of ['reference_row', 'scene_problem', 'file_row'])
      await queries.query(`DELETE FROM ${table} WHERE workspace = $1 AND generation <> $2`, [id, generation]);
  });
}

/** Takes up what differs from the shown scan, its rows being under the next number. */
export function mergeScan(
  db: Database,
  id: string,
  scan: { found: ScanFound; delta: NonNullable<ScanResult['delta']>; token?: string },
): Promise<void> {
  return db.transaction((queries) => mergeIn(queries, id, scan));
}

async function mergeIn(
  db: Queries,
  id: string,
  { found, delta, token }: { found: ScanFound; delta: NonNullable<ScanResult['delta']>; token?: string },
): Promise<void> {
  const current = '(SELECT generation FROM workspace WHERE id = $1)';
  for (const [table, key, gone] of [
    ['reference_row', 'scene', delta.scenes],
    ['scene_problem', 'scene', delta.scenes],
    ['file_row', 'path', delta.files],
  ] as const) {
    if (gone.length === 0) continue;
    if (table === 'file_row')
      await db.query(keepSeen(`generation = ${current} AND path = ANY ($2::text[])`), [id, gone]);
    await db.query(
      `DELETE FROM ${table} WHERE workspace = $1 AND generation = ${current} AND ${key} = ANY ($2::text[])`,
      [id, gone],
    );
    await db.query(
      `UPDATE ${table} SET generation = ${current} WHERE workspace = $1 AND generation = ${current} + 1`,
      [id],
    );
  }
  await db.query('UPDATE workspace SET found = $2, token = $3, scanned = now() WHERE id = $1', [
    id,
    JSON.stringify(found),
    token ?? null,
  ]);
}

/** Rows of the generation that is shown, of the workspace `$1`. */
export const shown = `workspace = $1 AND generation = (SELECT generation FROM workspace WHERE id = $1)`;

/** A row as the database has it: oddities and gaps in one text with blanks between, uses in one with line feeds. */
export interface ReferenceRow extends Omit<IndexRow, 'format' | 'oddities' | 'uses' | 'gaps'> {
  oddities: string;
  uses: string;
  gaps: string;
}

export interface SheetRowData extends ReferenceRow {
  format: string;
}

export const rowColumns =
  'scene, ord, at, kind, written, state, target, inside, ready, oddities, uses, size, targets, gaps';
const sheetColumns = `${rowColumns}, format`;
const atOnce = 20_000;

/** Every row, by scene and its order in it. */
export async function listAllRows(db: Database, id: string): Promise<SheetRowData[]> {
  const rows: SheetRowData[] = [];
  for (;;) {
    const last = rows.at(-1);
    const more = await db.query<SheetRowData>(
      `SELECT ${sheetColumns} FROM reference_row WHERE ${shown} AND (scene, ord) > ($2, $3) ORDER BY scene, ord LIMIT ${atOnce}`,
      [id, last?.scene ?? '', last?.ord ?? -1],
    );
    rows.push(...more);
    if (more.length < atOnce) return rows;
  }
}

/** The rows of some scenes. */
export function listRowsOf(db: Database, id: string, scenes: readonly string[]): Promise<SheetRowData[]> {
  return db.query(
    `SELECT ${sheetColumns} FROM reference_row WHERE ${shown} AND scene = ANY ($2::text[]) ORDER BY scene, ord`,
    [id, scenes],
  );
}

/** One reference of the shown generation; null when it is not there. */
export async function findReference(
  db: Database,
  id: string,
  scene: string,
  at: string,
): Promise<ReferenceRow | null> {
  return (
    (
      await db.query<ReferenceRow>(
        `SELECT ${rowColumns} FROM reference_row WHERE ${shown} AND scene = $2 AND at = $3 LIMIT 1`,
        [id, scene, at],
      )
    )[0] ?? null
  );
}

/** All references that point to one file inside the root: who uses it. */
export function listUsers(
  db: Database,
  id: string,
  target: string,
): Promise<{ scene: string; at: string }[]> {
  return db.query(
    `SELECT scene, at FROM reference_row WHERE ${shown} AND target = $2 ORDER BY scene, ord LIMIT 200`,
    [id, target],
  );
}

/** References to sequences and tiles in one folder inside the root: one of them may stand for a file there. */
export function listSequencesIn(
  db: Database,
  id: string,
  folder: string,
): Promise<{ scene: string; at: string; target: string }[]> {
  return db.query(
    `SELECT scene, at, target FROM reference_row WHERE ${shown} AND targets > 1 AND inside AND left(target, length($2)) = $2 ORDER BY scene, ord LIMIT 2000`,
    [id, folder],
  );
}

export type FileRow = IndexFile;
const fileColumns = 'path, kind, size, modified, uses, unused';

/** What the index knows of files directly in a folder ('' or ending in '/'). */
export function listFilesIn(db: Database, id: string, folder: string): Promise<FileRow[]> {
  return db.query(
    `SELECT ${fileColumns} FROM file_row WHERE ${shown} AND left(path, length($2)) = $2 AND position('/' in substr(path, length($2) + 1)) = 0`,
    [id, folder],
  );
}

/** What the index knows of the folders directly in a folder ('' or ending in '/'): files in each and below, their bytes, and when the latest of them changed, in ms. */
export function sumFoldersIn(
  db: Database,
  id: string,
  folder: string,
): Promise<{ name: string; files: number; bytes: number; modified: number }[]> {
  return db.query(
    `SELECT split_part(substr(path, length($2) + 1), '/', 1) AS name, count(*) AS files, sum(size)::int8 AS bytes, max(modified) AS modified
     FROM file_row WHERE ${shown} AND left(path, length($2)) = $2 AND position('/' in substr(path, length($2) + 1)) > 0 GROUP BY 1`,
    [id, folder],
  );
}

/** Files below a folder, in path order; of the folder's path itself where that is a file. */
export function listFilesBelow(db: Database, id: string, path: string, limit: number): Promise<FileRow[]> {
  return db.query(
    `SELECT ${fileColumns} FROM file_row WHERE ${shown} AND (path = $2 OR left(path, length($2) + 1) = $2 || '/') ORDER BY path LIMIT $3`,
    [id, path, limit],
  );
}

/** Targets below a folder that scenes elsewhere lead to. */
export async function listUsersOutside(db: Database, id: string, path: string): Promise<string[]> {
  const rows = await db.query<{ target: string }>(
    `SELECT DISTINCT target FROM reference_row WHERE ${shown} AND inside AND (target = $2 OR left(target, length($2) + 1) = $2 || '/') AND NOT (scene = $2 OR left(scene, length($2) + 1) = $2 || '/') ORDER BY target`,
    [id, path],
  );
  return rows.map((r) => r.target);
}

/** A scene, as it was when it was read, and one file outside of its workspace that it leads to; null: it leads to none. */
export interface LeadRow {
  workspace: string;
  scene: string;
  size: number;
  modified: number;
  target: string | null;
}

const leads = `SELECT DISTINCT f.workspace, f.path AS scene, f.size, f.modified`;
const ofScenes = `FROM reference_row r JOIN workspace w ON w.id = r.workspace AND w.generation = r.generation
     JOIN file_row f ON f.workspace = r.workspace AND f.generation = r.generation AND f.path = r.scene
     WHERE r.workspace = ANY(string_to_array($1, ' '))`;

/** Every scene of these workspaces that holds references, with where it leads out of its workspace. */
export function listLeads(db: Queries, ids: readonly string[]): Promise<LeadRow[]> {
  return db.query(`${leads}, CASE WHEN r.inside THEN NULL ELSE r.target END AS target ${ofScenes}`, [
    ids.join(' '),
  ]);
}

/** As listLeads, of those scenes alone that lead out: a few of all, found by an index of their own. */
export function listWaysOut(db: Queries, ids: readonly string[]): Promise<LeadRow[]> {
  return db.query(`${leads}, r.target ${ofScenes} AND NOT r.inside AND r.target IS NOT NULL`, [
    ids.join(' '),
  ]);
}

/** How many references stand in each scene below a folder, and how many of them are missing. */
export function countReferences(
  db: Database,
  id: string,
  path: string,
): Promise<{ scene: string; all: number; missing: number }[]> {
  return db.query(
    `SELECT scene, count(*)::int AS "all", sum(CASE WHEN state = 'missing' THEN 1 ELSE 0 END)::int AS missing FROM reference_row WHERE ${shown} AND (scene = $2 OR left(scene, length($2) + 1) = $2 || '/') GROUP BY scene`,
    [id, path],
  );
}

/** Every file, in path order. */
export function listAllFiles(db: Database, id: string): Promise<FileRow[]> {
  return db.query(`SELECT ${fileColumns} FROM file_row WHERE ${shown} ORDER BY path`, [id]);
}

/** Files used by nothing, largest first. */
export function listUnused(db: Database, id: string, offset: number, limit: number): Promise<FileRow[]> {
  return db.query(
    `SELECT ${fileColumns} FROM file_row WHERE ${shown} AND unused ORDER BY size DESC, path LIMIT $2 OFFSET $3`,
    [id, limit, offset],
  );
}

export async function findFile(db: Database, id: string, path: string): Promise<FileRow | null> {
  return (
    (
      await db.query<FileRow>(`SELECT ${fileColumns} FROM file_row WHERE ${shown} AND path = $2`, [id, path])
    )[0] ?? null
  );
}

export async function readSetting(db: Database, name: string): Promise<string | null> {
  return (
    (await db.query<{ value: string }>('SELECT value FROM setting WHERE name = $1', [name]))[0]?.value ?? null
  );
}

/** Settings whose names begin so. */
export const listSettings = (db: Database, beginning: string): Promise<{ name: string; value: string }[]> =>
  db.query('SELECT name, value FROM setting WHERE left(name, length($1)) = $1 ORDER BY name', [beginning]);

export async function writeSetting(db: Database, name: string, value: string): Promise<void> {
  await db.query(
    'INSERT INTO setting (name, value) VALUES ($1, $2) ON CONFLICT (name) DO UPDATE SET value = excluded.value',
    [name, value],
  );
}
