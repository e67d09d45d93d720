// Keys by which programs come in to a server for several: told once, kept as a digest, with a role and an end. A key of somebody who was sent away holds no more.

import { createHash, randomBytes } from 'node:crypto';
import type { KeyView } from '@/wire/routes/pipelines';
import type { Role } from '@/wire/routes/roles';
import type { Queries } from '../database/database';
import { idOfKey, type Who } from '../who';

const day = 86_400_000; // ms
const digestOf = (key: string) => createHash('sha256').update(key).digest('hex');
/** By this a key is known where it was left lying about. */
const head = 'satchel_';
const ms = (column: string) => `(extract(epoch from ${column}) * 1000)::float8`;

export function listAllKeys(db: Queries): Promise<KeyView[]> {
  return db.query<KeyView>(
    `SELECT k.id, k.about, k.role, p."name" AS "madeBy", ${ms('k.made')} AS made, ${ms('k.expires')} AS expires, ${ms('k.used')} AS used
     FROM api_key k JOIN person p ON p."id" = k.made_by AND NOT p."gone" WHERE k.expires > now() ORDER BY k.made, k.id`,
  );
}

/** Makes a key that holds for so many days. */
export async function makeOneKey(
  db: Queries,
  of: { about: string; role: Role; days: number; by: string },
): Promise<{ id: string; key: string; expires: number }> {
  const id = randomBytes(8).toString('hex');
  // 256 bits: nobody guesses it, so that a plain digest is enough (OWASP, "Cryptographic Storage Cheat Sheet", from memory).
  const key = head + randomBytes(32).toString('base64url');
  const expires = Date.now() + of.days * day;
  await db.query('DELETE FROM api_key WHERE expires <= now()');
  await db.query(
    'INSERT INTO api_key (id, digest, about, role, made_by, expires) VALUES ($1, $2, $3, $4, $5, to_timestamp($6::float8 / 1000))',
    [id, digestOf(key), of.about, of.role, of.by, expires],
  );
  return { id, key, expires };
}

export const dropOneKey = (db: Queries, id: string) => db.query('DELETE FROM api_key WHERE id = $1', [id]);

/** The key that a request brings; null: none. */
export function keyIn(headers: { get(name: string): string | null }): string | null {
  return /^Bearer ([\w-]{20,200})$/.exec(headers.get('authorization') ?? '')?.[1] ?? null;
}

/** Who comes in by a key; null: it holds no more, or never did. */
export async function whoByKey(db: Queries, key: string): Promise<Who | null> {
  const [found] = await db.query<{ id: string; about: string; role: Role; isDue: boolean }>(
    `SELECT k.id, k.about, k.role, (k.used IS NULL OR k.used < now() - interval '1 minute') AS "isDue"
     FROM api_key k JOIN person p ON p."id" = k.made_by AND NOT p."gone" WHERE k.digest = $1 AND k.expires > now()`,
    [digestOf(key)],
  );
  if (!found) return null;
  if (found.isDue) await db.query('UPDATE api_key SET used = now() WHERE id = $1', [found.id]);
  return { id: idOfKey(found.id), name: found.about, role: found.role };
}
