// Statements over the references of all workspaces: who uses a file anywhere. By whole names, by how they begin, and by what stands in them; the last is quick only
// where the server has trigrams (the extension pg_trgm): without them it is asked of small tables alone.

import { AppError } from '@/core/errors';
import { isWithin } from '@/core/files/treePath';
import type { Database, Queries } from './database';

/** The whole path of what it leads to; of what is missing, what is written. */
const whole = `CASE WHEN r.target IS NULL THEN translate(r.written, '\\', '/') WHEN r.inside THEN rtrim(w.root, '/') || '/' || r.target ELSE r.target END`;

export interface AnywhereRow {
  workspace: string;
  scene: string;
  at: string;
  kind: string;
  written: string;
  state: string;
  /** The whole path of what it leads to; what is written, where nothing is found. */
  path: string;
}

const columns = `r.workspace, r.scene, r.at, r.kind, r.written, r.state, ${whole} AS path`;
const from = `FROM reference_row r JOIN workspace w ON w.id = r.workspace AND w.generation = r.generation`;

/** So many references may be looked through one by one: about a quarter of a second in PGlite. */
const mostLooked = 300_000;
/** Fewer letters have no trigram. */
const leastTrigram = 3;

const trigramIndex = 'reference_trigram';

/**
 * Gives a PostgreSQL server the index for parts of names, where it may have one; returns whether it has. A server without the extension, or whose owner does not
 * allow it, goes without: names are then found by how they begin.
 */
export async function ensureTrigrams(db: Database): Promise<boolean> {
  try {
    await db.query('CREATE EXTENSION IF NOT EXISTS pg_trgm');
    await db.query(
      `CREATE INDEX IF NOT EXISTS ${trigramIndex} ON reference_row USING gin (name gin_trgm_ops)`,
    );
    return true;
  } catch (cause) {
    if (cause instanceof AppError) throw cause;
    return false;
  }
}

const hasTrigrams = async (db: Queries): Promise<boolean> =>
  (await db.query('SELECT 1 FROM pg_indexes WHERE indexname = $1', [trigramIndex])).length > 0;

/** How names were looked for: as a whole path or its end, by what stands in them, or only by how they begin. */
export type LookedBy = 'path' | 'part' | 'beginning';

const escaped = (text: string) => text.replace(/[\\%_]/g, (c) => `\\${c}`);
/** So many letters are looked up; each trigram more is one more list to go through, and few names share so much. */
const mostTold = 8;

/** The letters of a text that tell most: those with most figures among them. */
function tellingOf(text: string): string {
  const letters = [...text];
  const figures = (from: number) => letters.slice(from, from + mostTold).filter((c) => /\d/.test(c)).length;
  let best = 0;
  for (let from = 1; from + mostTold <= letters.length; from++)
    if (figures(from) > figures(best)) best = from;
  return letters.slice(best, best + mostTold).join('');
}
// No name goes on with a letter beyond this.
const last = '\u{10ffff}';

/** The texts under which a path may stand in the index: whole, and as each workspace that holds it calls it. */
const textsOf = (path: string, workspaces: readonly Rooted[]): string[] => [
  path,
  ...workspaces.filter((w) => isWithin(path, w.root)).map((w) => path.slice(w.root.length + 1)),
];

/** A workspace with how many references of it there are. */
export interface Rooted {
  id: string;
  root: string;
  references: number;
}

/**
 * References of these workspaces to files of a name, in no order; at most `limit`. `text`: a whole path or the end of one, where it holds a slash; a part of a name
 * otherwise. Letter case does not count.
 */
export async function whoUses(
  db: Queries,
  workspaces: readonly Rooted[],
  text: string,
  limit: number,
): Promise<{ by: LookedBy; rows: AnywhereRow[] }> {
  const asked = text.trim().replaceAll('\\', '/');
  const ids = workspaces.map((w) => w.id);
  const rows = (where: string, ...values: (string | readonly string[])[]) =>
    db.query<AnywhereRow>(
      `SELECT ${columns} ${from} WHERE w.id = ANY ($1::text[]) AND ${where} LIMIT ${limit}`,
      [ids, ...values],
    );
  if (asked.includes('/')) {
    const isWhole = /^(\/|[A-Za-z]:\/)/.test(asked);
    // The end of a path is made of whole names.
    const ends = escaped(isWhole ? asked : `/${asked}`);
    const isSo = `r.name COLLATE "C" = left(lower($2), 200) AND lower(${whole}) LIKE '%' || lower($3)`;
    const called = asked.slice(asked.lastIndexOf('/') + 1);
    // A name that everybody uses stands at one path only now and then.
    const found = isWhole
      ? await rows(
          `${isSo} AND left(r.target, 200) COLLATE "C" = ANY ($4::text[])`,
          ...[called, ends],
          textsOf(asked, workspaces).map((t) => [...t].slice(0, 200).join('')),
        )
      : [];
    return { by: 'path', rows: found.length > 0 ? found : await rows(isSo, called, ends) };
  }
  const isQuick = [...asked].length >= leastTrigram && (await hasTrigrams(db));
  const all = workspaces.reduce((n, w) => n + w.references, 0);
  if (isQuick || all <= mostLooked)
    return {
      by: 'part',
      rows: await rows(
        `r.name LIKE '%' || lower($2) || '%' AND position(lower($3) IN r.name) > 0`,
        ...[escaped(tellingOf(asked)), asked],
      ),
    };
  const begins = `r.name COLLATE "C" >= left(lower($2), 200) AND r.name COLLATE "C" < left(lower($2), 200) || $3`;
  return { by: 'beginning', rows: await rows(begins, asked, last) };
}
