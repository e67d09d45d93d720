// People of a server for several: invited by a link, given a role, sent away. Passwords are hashed by the accounts' package; what is kept of a link is a digest.

import { createHash, randomBytes } from 'node:crypto';
import { AppError } from '@/core/errors';
import type { PeopleView, PersonView } from '@/wire/routes/people';
import { roles, type Role } from '@/wire/routes/roles';
import { isWithin } from '@/core/files/treePath';
import type { Database, Queries } from '../database/database';
import { listAllowedRows, type AllowedRow } from '../database/allowedQueries';

/** Ways of hashing a password and of telling whether one is right. */
export interface Passwords {
  hash(password: string): Promise<string>;
  verify(of: { hash: string; password: string }): Promise<boolean>;
}

const day = 86_400_000; // ms
const invitationHolds = 7 * day;
const resetHolds = day;

const digestOf = (token: string) => createHash('sha256').update(token).digest('hex');
const newId = () => randomBytes(12).toString('hex');

const personColumns = `p."id", p."name", p."email", p."role", p."gone",
  (SELECT (extract(epoch from max(s."updatedAt")) * 1000)::float8 FROM person_session s WHERE s."userId" = p."id") AS "lastSeen"`;

/** Everybody, by name; and links that still hold. */
export async function listEverybody(db: Queries): Promise<PeopleView> {
  const people = await db.query<PersonView>(
    `SELECT ${personColumns} FROM person p ORDER BY p."gone", lower(p."name"), p."id"`,
  );
  const links = await db.query<PeopleView['links'][number]>(
    `SELECT id, CASE WHEN person IS NULL THEN 'invitation' ELSE 'password' END AS "for", about, role, made_by AS "madeBy",
       (extract(epoch from expires) * 1000)::float8 AS expires FROM way_in WHERE expires > now() ORDER BY made`,
  );
  return { people, links };
}

async function personById(db: Queries, id: string): Promise<PersonView> {
  const [found] = await db.query<PersonView>(`SELECT ${personColumns} FROM person p WHERE p."id" = $1`, [id]);
  if (!found) throw new AppError('not-found', 'There is no such person here.');
  return found;
}

interface Made {
  id: string;
  /** Told once. */
  token: string;
  expires: number;
}

async function makeLink(
  db: Queries,
  of: { role: Role; person: string | null; about: string; by: string },
): Promise<Made> {
  const made = { id: newId(), token: randomBytes(32).toString('base64url') };
  const expires = Date.now() + (of.person === null ? invitationHolds : resetHolds);
  await db.query('DELETE FROM way_in WHERE expires <= now()');
  await db.query(
    'INSERT INTO way_in (id, digest, role, person, about, made_by, expires) VALUES ($1, $2, $3, $4, $5, $6, to_timestamp($7::float8 / 1000))',
    [made.id, digestOf(made.token), of.role, of.person, of.about, of.by, expires],
  );
  return { ...made, expires };
}

/** A link for somebody new. */
export const inviteOne = (db: Queries, about: string, role: Role, by: string): Promise<Made> =>
  makeLink(db, { role, person: null, about, by });

/** A link for a new password; those made before hold no more. */
export async function resetOne(db: Queries, id: string, by: string): Promise<Made> {
  const { name, role } = await personById(db, id);
  await db.query('DELETE FROM way_in WHERE person = $1', [id]);
  return makeLink(db, { role, person: id, about: name, by });
}

export async function dropOne(db: Queries, id: string): Promise<void> {
  await db.query('DELETE FROM way_in WHERE id = $1', [id]);
}

const over = () =>
  new AppError('no-key', 'This link does not hold any more, or was used already.', 'Nobody was let in.');

interface WayIn {
  id: string;
  role: Role;
  person: string | null;
  about: string;
  email: string | null;
}

/** What a link is for. Throws AppError('no-key') where it does not hold. */
export async function lookAtLink(db: Queries, token: string): Promise<WayIn> {
  const [found] = await db.query<WayIn>(
    `SELECT w.id, w.role, w.person, w.about, p."email" AS email FROM way_in w LEFT JOIN person p ON p."id" = w.person
     WHERE w.digest = $1 AND w.expires > now() AND p."gone" IS NOT TRUE`,
    [digestOf(token)],
  );
  if (!found) throw over();
  return found;
}

/** Comes in by a link, which is used up: a new person, or a new password of one. Returns the address to sign in with. */
export async function comeIn(
  db: Database,
  passwords: Passwords,
  given: { token: string; name?: string | undefined; email?: string | undefined; password: string },
): Promise<{ email: string }> {
  // A password is not hashed for somebody without a link.
  await lookAtLink(db, given.token);
  const hash = await passwords.hash(given.password);
  return db.transaction(async (queries) => {
    const link = await lookAtLink(queries, given.token);
    // Of two at once one takes it away.
    const taken = await queries.query('DELETE FROM way_in WHERE id = $1 RETURNING id', [link.id]);
    if (taken.length === 0) throw over();
    if (link.person !== null) {
      await setPassword(queries, link.person, hash, null);
      return { email: link.email! };
    }
    const email = (given.email ?? '').trim().toLowerCase();
    const name = (given.name ?? '').trim();
    if (email === '' || name === '')
      throw new AppError('bad-request', 'A name and an e-mail address are needed.');
    const [there] = await queries.query('SELECT 1 FROM person WHERE "email" = $1', [email]);
    if (there)
      throw new AppError(
        'exists',
        `Somebody comes in with ${email} already. Use another address, or ask for a link for a new password.`,
      );
    const id = newId();
    await queries.query(
      'INSERT INTO person ("id", "name", "email", "emailVerified", "role") VALUES ($1, $2, $3, false, $4)',
      [id, name, email, link.role],
    );
    await queries.query(
      `INSERT INTO person_account ("id", "accountId", "providerId", "userId", "password", "updatedAt") VALUES ($1, $2, 'credential', $2, $3, now())`,
      [newId(), id, hash],
    );
    return { email };
  });
}

/** Another password; every session ends but `but` (its token). */
async function setPassword(db: Queries, id: string, hash: string, but: string | null): Promise<void> {
  await db.query(
    `UPDATE person_account SET "password" = $2, "updatedAt" = now() WHERE "userId" = $1 AND "providerId" = 'credential'`,
    [id, hash],
  );
  await db.query('DELETE FROM person_session WHERE "userId" = $1 AND "token" IS DISTINCT FROM $2', [id, but]);
  await db.query('DELETE FROM way_in WHERE person = $1', [id]);
}

/** One's own password, where the old one is right. */
export async function changeOwnPassword(
  db: Database,
  passwords: Passwords,
  of: { id: string; session: string | null },
  given: { old: string; fresh: string },
): Promise<void> {
  const [account] = await db.query<{ password: string }>(
    `SELECT "password" FROM person_account WHERE "userId" = $1 AND "providerId" = 'credential'`,
    [of.id],
  );
  if (!account || !(await passwords.verify({ hash: account.password, password: given.old })))
    throw new AppError('bad-request', 'The old password is not right.', 'The password stays as it was.');
  const hash = await passwords.hash(given.fresh);
  await db.transaction((queries) => setPassword(queries, of.id, hash, of.session));
}

/** Another role, or gone, or back. The last one who manages stays. */
export function changeOne(
  db: Database,
  id: string,
  change: { role?: Role | undefined; gone?: boolean | undefined },
): Promise<PersonView> {
  return db.transaction(async (queries) => {
    // Two managers who send each other away: one after the other, and the second is refused.
    await queries.query('LOCK TABLE person IN SHARE ROW EXCLUSIVE MODE');
    const before = await personById(queries, id);
    const after = { role: change.role ?? before.role, gone: change.gone ?? before.gone };
    const [{ n }] = (await queries.query<{ n: number }>(
      `SELECT count(*) AS n FROM person WHERE "role" = 'manage' AND NOT "gone" AND "id" <> $1`,
      [id],
    )) as [{ n: number }];
    if (n === 0 && (after.role !== 'manage' || after.gone))
      throw new AppError(
        'bad-request',
        `${before.name} is the only one who manages. Let somebody else manage first.`,
        'Nobody’s role was changed.',
      );
    await queries.query('UPDATE person SET "role" = $2, "gone" = $3, "updatedAt" = now() WHERE "id" = $1', [
      id,
      after.role,
      after.gone,
    ]);
    if (after.gone) {
      await queries.query('DELETE FROM person_session WHERE "userId" = $1', [id]);
      await queries.query('DELETE FROM way_in WHERE person = $1', [id]);
    }
    return personById(queries, id);
  });
}

/** A link for the first who manages; null: somebody does. Those made before hold no more. */
export async function firstLink(db: Queries): Promise<Made | null> {
  const [{ n }] = (await db.query<{ n: number }>(
    `SELECT count(*) AS n FROM person WHERE "role" = 'manage' AND NOT "gone"`,
  )) as [{ n: number }];
  if (n > 0) return null;
  await db.query('DELETE FROM way_in WHERE made_by = $1', [firstBy]);
  return makeLink(db, { role: roles[2], person: null, about: 'Whoever sets this server up', by: firstBy });
}
const firstBy = 'the server';

const rank = (role: Role) => roles.indexOf(role);
const isStricter = (a: AllowedRow, b: AllowedRow) =>
  rank(a.seenBy) > rank(b.seenBy) || rank(a.changedBy) > rank(b.changedBy);

/**
 * Says who may look into an allowed folder, and who may change what lies there. What is allowed in a folder is allowed in all that lies below it: one that lies in
 * another cannot be stricter than that. Throws AppError('bad-request') where it would be.
 */
export async function setFolderRoles(db: Queries, of: AllowedRow): Promise<void> {
  // Who may change what lies there sees it.
  const seenBy = roles[Math.min(rank(of.seenBy), rank(of.changedBy))]!;
  const to = { ...of, seenBy };
  const others = (await listAllowedRows(db)).filter((r) => r.path !== of.path);
  for (const other of others) {
    const [outer, inner] = isWithin(to.path, other.path)
      ? [other, to]
      : isWithin(other.path, to.path)
        ? [to, other]
        : [null, null];
    if (outer && isStricter(inner, outer))
      throw new AppError(
        'bad-request',
        `${inner.path} lies in ${outer.path}, which more people may see or change: what is allowed there holds for all that lies in it. Allow the folders beside each other instead, or make the outer one as strict.`,
        'Nobody’s rights were changed.',
      );
  }
  const done = await db.query(
    'UPDATE place SET seen_by = $2, changed_by = $3 WHERE path = $1 RETURNING path',
    [to.path, to.seenBy, to.changedBy],
  );
  if (done.length === 0) throw new AppError('not-found', `${of.path} is no allowed folder.`);
}

/** Roles of a folder that was just allowed: as strict as what lies in it, and no stricter than what it lies in. */
export async function beginFolderRoles(db: Queries, path: string): Promise<void> {
  const all = await listAllowedRows(db);
  const fresh = all.find((r) => r.path === path);
  if (!fresh) return;
  const others = all.filter((r) => r.path !== path);
  const outer = others.filter((r) => isWithin(path, r.path)).sort((a, b) => b.path.length - a.path.length)[0];
  let { seenBy, changedBy } = outer ?? fresh;
  for (const inner of others.filter((r) => isWithin(r.path, path))) {
    if (rank(inner.seenBy) > rank(seenBy)) ({ seenBy } = inner);
    if (rank(inner.changedBy) > rank(changedBy)) ({ changedBy } = inner);
  }
  await db.query('UPDATE place SET seen_by = $2, changed_by = $3 WHERE path = $1', [path, seenBy, changedBy]);
}
