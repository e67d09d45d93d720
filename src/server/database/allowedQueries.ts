// Statements about the folders that are allowed, and about who may do what in them.

import { isEnough, type Role } from '@/wire/routes/roles';
import type { Queries } from './database';

/** An allowed folder: the least role that may look into it, and the least that may change what lies there. */
export interface AllowedRow {
  path: string;
  seenBy: Role;
  changedBy: Role;
}

export function listAllowedRows(db: Queries): Promise<AllowedRow[]> {
  return db.query<AllowedRow>(
    'SELECT path, seen_by AS "seenBy", changed_by AS "changedBy" FROM place ORDER BY added, path',
  );
}

/** Folders that are allowed; with a role, those that it may look into, or change what lies there. */
export async function listAllowed(
  db: Queries,
  role?: Role,
  to: 'look' | 'change' = 'look',
): Promise<string[]> {
  const rows = await listAllowedRows(db);
  return rows
    .filter((r) => role === undefined || isEnough(role, to === 'look' ? r.seenBy : r.changedBy))
    .map((r) => r.path);
}

/** Allowed folders with their tokens (studio/places.ts). */
export function listTokens(db: Queries): Promise<{ path: string; token: string | null }[]> {
  return db.query('SELECT path, token FROM place ORDER BY added, path');
}

/** Says what the token of a folder is, unless it has one; returns the one that counts. */
export async function setToken(db: Queries, path: string, token: string): Promise<string | null> {
  const rows = await db.query<{ token: string }>(
    'UPDATE place SET token = coalesce(token, $2) WHERE path = $1 RETURNING token',
    [path, token],
  );
  return rows[0]?.token ?? null;
}

export async function addAllowed(db: Queries, path: string): Promise<void> {
  await db.query('INSERT INTO place (path) VALUES ($1) ON CONFLICT (path) DO NOTHING', [path]);
}

export async function removeAllowed(db: Queries, path: string): Promise<void> {
  await db.query('DELETE FROM place WHERE path = $1', [path]);
}
