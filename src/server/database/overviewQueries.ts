// What the overview asks of the index. Plain SQL that PGlite and PostgreSQL 15 both run.

import { states } from '@/core/references/states';
import type { Database } from './database';
import { rowColumns, shown, type ReferenceRow } from './queries';

/** Rows that need attention, worst first, for the overview. */
export function listAttention(db: Database, id: string, limit: number): Promise<ReferenceRow[]> {
  return db.query<ReferenceRow>(
    `SELECT ${rowColumns} FROM reference_row WHERE ${shown} AND NOT ready
     ORDER BY array_position($3::text[], state), scene, ord LIMIT $2`,
    [id, limit, [...states]],
  );
}

/** Of each kind of trouble one reference and how many there are: its state, or 'gaps' and 'odd' where it is found but for holes or its spelling. */
export function listTroubles(
  db: Database,
  id: string,
): Promise<{ trouble: string; n: number; scene: string; at: string; written: string }[]> {
  return db.query(
    `SELECT DISTINCT ON (trouble) trouble, count(*) OVER (PARTITION BY trouble) AS n, scene, at, written FROM (
       SELECT scene, ord, at, written, CASE WHEN state <> 'travels' THEN state WHEN gaps <> '' THEN 'gaps' ELSE 'odd' END AS trouble
       FROM reference_row WHERE ${shown} AND NOT ready) AS held ORDER BY trouble, scene, ord`,
    [id],
  );
}

export interface Totals {
  references: number;
  ready: number;
  scenes: number;
  byState: Record<string, number>;
  odd: number;
  /** Sequences and sets of tiles with holes. */
  gapped: number;
  /** How many open where the libraries are, too. */
  withLibraries: number;
  problems: { scene: string; code: string; message: string }[];
}

type Count = 'n' | 'ready' | 'odd' | 'gapped' | 'libraries';

/** Counts over the whole workspace. */
export async function readTotals(db: Database, id: string): Promise<Totals> {
  const states = await db.query<{ state: string } & Record<Count, number>>(
    `SELECT state, count(*) AS n, count(*) FILTER (WHERE ready) AS ready, count(*) FILTER (WHERE oddities <> '') AS odd, count(*) FILTER (WHERE gaps <> '') AS gapped, count(*) FILTER (WHERE state = 'library' AND oddities = '' AND gaps = '') AS libraries FROM reference_row WHERE ${shown} GROUP BY state`,
    [id],
  );
  const scenes = await db.query<{ n: number }>(
    `SELECT count(DISTINCT scene) AS n FROM reference_row WHERE ${shown}`,
    [id],
  );
  const problems = await db.query<{ scene: string; code: string; message: string }>(
    `SELECT scene, code, message FROM scene_problem WHERE ${shown} ORDER BY scene LIMIT 200`,
    [id],
  );
  const sum = (key: Count) => states.reduce((s, r) => s + r[key], 0);
  return {
    references: sum('n'),
    ready: sum('ready'),
    scenes: scenes[0]?.n ?? 0,
    byState: Object.fromEntries(states.map((r) => [r.state, r.n])),
    odd: sum('odd'),
    gapped: sum('gapped'),
    withLibraries: sum('ready') + sum('libraries'),
    problems,
  };
}
