// Statements about work of a server for several, and about the servers and workers that are there. Which work is next is the queue's to say.

import type { Queries } from './database';

/** How far a job is, as the table has it; JSON where a value is no plain one. */
export interface WorkRow {
  id: string;
  owner: string;
  work: string;
  title: string;
  workspace: string | null;
  who: string | null;
  quiet: boolean;
  state: 'waiting' | 'running' | 'done' | 'failed' | 'cancelled';
  ending: boolean;
  /** ms. */
  started: number;
  ended: number | null;
  progress: string | null;
  outcome: string | null;
  error: string | null;
  result: string | null;
}

const columns =
  'id, owner, work, title, workspace, who, quiet, state, ending, started, ended, progress, outcome, error, result';

/** The channel on which it is said that a job has changed, by its id; and that one is to end. */
export const workChannel = 'satchel_work';
export const endChannel = 'satchel_end';

const tell = (db: Queries, channel: string, id: string) =>
  db.query('SELECT pg_notify($1, $2)', [channel, id]);

export async function addWork(
  db: Queries,
  w: Pick<WorkRow, 'id' | 'owner' | 'work' | 'title' | 'workspace' | 'who' | 'quiet' | 'started'> & {
    order: string;
  },
): Promise<void> {
  await db.query(
    'INSERT INTO work (id, owner, work, title, workspace, who, quiet, work_order, started) VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9)',
    [w.id, w.owner, w.work, w.title, w.workspace, w.who, w.quiet, w.order, w.started],
  );
}

export async function findWork(db: Queries, id: string): Promise<WorkRow | null> {
  return (await db.query<WorkRow>(`SELECT ${columns} FROM work WHERE id = $1`, [id]))[0] ?? null;
}

/** The order of a job that has not ended, as JSON; null: it has. */
export async function orderOf(db: Queries, id: string): Promise<string | null> {
  const [found] = await db.query<{ order: string }>(
    'SELECT work_order AS "order" FROM work WHERE id = $1 AND ended IS NULL FOR UPDATE',
    [id],
  );
  return found?.order ?? null;
}

/** What goes on, and what ended lately: the oldest first. */
export async function listWork(db: Queries, ended: number): Promise<WorkRow[]> {
  const rows = await db.query<WorkRow>(
    `(SELECT ${columns} FROM work WHERE ended IS NULL) UNION ALL
     (SELECT ${columns} FROM work WHERE ended IS NOT NULL ORDER BY ended DESC LIMIT $1)`,
    [ended],
  );
  return rows.sort((a, b) => a.started - b.started);
}

/** Work that a worker has taken up. `tries`: how often it was, this time counted. */
export interface TakenWork {
  order: string;
  who: string | null;
  workspace: string | null;
  title: string;
  ending: boolean;
  tries: number;
  /** When it was asked for, ms. */
  started: number;
}

/** Work of this id, for a worker that takes it up; null: there is nothing left to do. */
export async function takeWork(db: Queries, id: string, worker: string): Promise<TakenWork | null> {
  const [taken] = await db.query<TakenWork>(
    `UPDATE work SET state = 'running', worker = $2, tries = tries + 1, progress = NULL
     WHERE id = $1 AND outcome IS NULL AND ended IS NULL RETURNING work_order AS "order", who, workspace, title, ending, tries, started`,
    [id, worker],
  );
  if (taken) await tell(db, workChannel, id);
  return taken ?? null;
}

/** How far it is, in words of JSON; only by the worker that has it. */
export async function sayProgress(db: Queries, id: string, worker: string, progress: string): Promise<void> {
  const said = await db.query(
    'UPDATE work SET progress = $3 WHERE id = $1 AND worker = $2 AND outcome IS NULL RETURNING id',
    [id, worker, progress],
  );
  if (said.length > 0) await tell(db, workChannel, id);
}

/** What it waits for, in words of JSON, as long as nobody has it. */
export async function sayWaiting(db: Queries, id: string, progress: string): Promise<void> {
  const said = await db.query(
    "UPDATE work SET progress = $2 WHERE id = $1 AND state = 'waiting' AND ended IS NULL RETURNING id",
    [id, progress],
  );
  if (said.length > 0) await tell(db, workChannel, id);
}

/**
 * Its end, by the worker that has it; false: it is somebody else's by now, or has ended. `worker` null: by whoever had it, since what changed something is
 * done, also where its worker was so slow that it was taken for gone.
 */
export async function sayOutcome(
  db: Queries,
  id: string,
  worker: string | null,
  outcome: string,
): Promise<boolean> {
  const said = await db.query(
    'UPDATE work SET outcome = $3 WHERE id = $1 AND ($2::text IS NULL OR worker = $2) AND outcome IS NULL AND ended IS NULL RETURNING id',
    [id, worker, outcome],
  );
  if (said.length > 0) await tell(db, workChannel, id);
  return said.length > 0;
}

/** Whether a worker may go on with work that it took up as the `tries`th: it has not ended, and nobody has taken it up since, or he gave it back. */
export async function isWorkOf(
  db: Queries,
  id: string,
  { worker, tries }: { worker: string; tries: number },
): Promise<boolean> {
  const rows = await db.query(
    `SELECT 1 AS one FROM work WHERE id = $1 AND ((worker = $2 AND tries = $3) OR worker IS NULL) AND outcome IS NULL AND ended IS NULL`,
    [id, worker, tries],
  );
  return rows.length > 0;
}

/** Gives work back that could not be begun. `progress`: why, in words of JSON; `isUntouched`: nobody has begun it, so this time does not count. */
export async function leaveWork(
  db: Queries,
  id: string,
  worker: string,
  of: { progress: string; isUntouched: boolean },
): Promise<void> {
  await db.query(
    `UPDATE work SET state = 'waiting', worker = NULL, tries = tries - $4, progress = $3 WHERE id = $1 AND worker = $2 AND outcome IS NULL`,
    [id, worker, of.progress, of.isUntouched ? 1 : 0],
  );
  await tell(db, workChannel, id);
}

/** What pages see of its end. */
export async function endWork(
  db: Queries,
  id: string,
  end: { state: WorkRow['state']; ended: number; error: string | null; result: string | null },
): Promise<boolean> {
  const done = await db.query(
    `UPDATE work SET state = $2, ended = $3, error = $4, result = $5, ending = false, outcome = NULL, work_order = '' WHERE id = $1 AND ended IS NULL RETURNING id`,
    [id, end.state, end.ended, end.error, end.result],
  );
  if (done.length > 0) await tell(db, workChannel, id);
  return done.length > 0;
}

/** Asks for its end: what nobody has begun is ended at once, what goes on is told to. */
export async function askForEnd(db: Queries, id: string, now: number): Promise<void> {
  const asked = await db.query(
    `UPDATE work SET ending = (state <> 'waiting'), ended = CASE WHEN state = 'waiting' THEN $2::float8 END,
       state = CASE WHEN state = 'waiting' THEN 'cancelled' ELSE state END
     WHERE id = $1 AND ended IS NULL AND outcome IS NULL RETURNING id`,
    [id, now],
  );
  if (asked.length === 0) return;
  await tell(db, endChannel, id);
  await tell(db, workChannel, id);
}

/** Takes over what servers that are gone would have heard the end of; returns the ids. */
export async function adoptWork(db: Queries, owner: string, seconds: number): Promise<string[]> {
  const rows = await db.query<{ id: string }>(
    `UPDATE work SET owner = $1 WHERE ended IS NULL AND owner <> $1
       AND NOT EXISTS (SELECT 1 FROM worker w WHERE w.id = work.owner AND w.seen > now() - make_interval(secs => $2::float8)) RETURNING id`,
    [owner, seconds],
  );
  return rows.map((r) => r.id);
}

/** Old ones go, but for so many. */
export async function forgetWork(db: Queries, but: number): Promise<void> {
  await db.query(
    'DELETE FROM work WHERE ended IS NOT NULL AND id NOT IN (SELECT id FROM work WHERE ended IS NOT NULL ORDER BY ended DESC LIMIT $1)',
    [but],
  );
}

/** One that is there: a server, or a worker with the allowed folders that it reaches. */
export async function beSeen(
  db: Queries,
  w: {
    id: string;
    name: string;
    kind: 'server' | 'worker';
    queueIds: readonly string[];
    reaches: readonly string[];
  },
): Promise<void> {
  await db.query(
    `INSERT INTO worker (id, name, kind, queue_ids, reaches) VALUES ($1, $2, $3, $4, $5)
     ON CONFLICT (id) DO UPDATE SET name = excluded.name, queue_ids = excluded.queue_ids, reaches = excluded.reaches, seen = now()`,
    [w.id, w.name, w.kind, w.queueIds.join(' '), JSON.stringify(w.reaches)],
  );
}

export async function beGone(db: Queries, id: string): Promise<void> {
  await db.query('DELETE FROM worker WHERE id = $1', [id]);
}

/**
 * Releases tasks of the queue that are locked by workers of this process and that none of them has in hand: the answer to a lock was lost with its connection, or
 * the end of a task could not be written down. Without this everything behind it in its workspace waits for the queue's own limit of four hours.
 * `ids`: workers that are not asking for a task just now; `inHand`: ids of tasks; `seconds`: locks younger than that are left alone. Returns how many.
 */
export async function releaseStrays(
  db: Queries,
  ids: readonly string[],
  inHand: readonly string[],
  seconds: number,
): Promise<number> {
  const released = await db.query(
    `UPDATE graphile_worker._private_jobs SET locked_by = NULL, locked_at = NULL
     WHERE locked_by = ANY($1::text[]) AND NOT (id = ANY($2::bigint[])) AND locked_at < now() - make_interval(secs => $3::float8) RETURNING id`,
    [ids, inHand, seconds],
  );
  const queues = await db.query(
    `UPDATE graphile_worker._private_job_queues AS q SET locked_by = NULL, locked_at = NULL
     WHERE q.locked_by = ANY($1::text[]) AND q.locked_at < now() - make_interval(secs => $2::float8)
       AND NOT EXISTS (SELECT 1 FROM graphile_worker._private_jobs AS j WHERE j.job_queue_id = q.id AND j.locked_by = q.locked_by) RETURNING id`,
    [ids, seconds],
  );
  return released.length + queues.length;
}

export interface WorkerRow {
  id: string;
  name: string;
  kind: 'server' | 'worker';
  reaches: string;
  /** ms. */
  seen: number;
}

export function listWorkers(db: Queries): Promise<WorkerRow[]> {
  return db.query(
    `SELECT id, name, kind, reaches, (extract(epoch from seen) * 1000)::float8 AS seen FROM worker ORDER BY kind, name, id`,
  );
}

/** Takes those out that were not seen for so long; returns the names under which the queue knew them. */
export async function buryWorkers(db: Queries, seconds: number): Promise<string[]> {
  const gone = await db.query<{ ids: string }>(
    'DELETE FROM worker WHERE seen <= now() - make_interval(secs => $1::float8) RETURNING queue_ids AS ids',
    [seconds],
  );
  return gone.flatMap(({ ids }) => ids.split(' ').filter((id) => id !== ''));
}
