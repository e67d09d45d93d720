// Web hooks of a server for several: who is told what, signed, tried again, and written down. A message is in its table in the very transaction in which the work
// it tells of is done: it is told of once, however servers end. Sending and trying again are the queue's (graphile-worker).
//
// Signed as "Standard Webhooks" has it (its specification, from memory; by its package): the headers webhook-id, webhook-timestamp and webhook-signature.

import { randomBytes } from 'node:crypto';
import dns from 'node:dns';
import http from 'node:http';
import https from 'node:https';
import net from 'node:net';
import { Webhook } from 'standardwebhooks';
import { AppError } from '@/core/errors';
import type { HookBody, HookEvent, HookMessage, HookView } from '@/wire/routes/pipelines';
import type { Queries } from '../database/database';

export const hookTask = 'satchel-hook';
/** The package waits e, e², e³ … seconds between tries, six hours at most: the last is three days after the first. */
export const mostTries = 20;
const patience = 10_000; // ms
const kept = 500;

const ms = (column: string) => `(extract(epoch from ${column}) * 1000)::float8`;
const newId = () => randomBytes(10).toString('hex');

interface HookRow extends Omit<HookView, 'events'> {
  events: string;
}

export async function listAllHooks(db: Queries): Promise<{ hooks: HookView[]; messages: HookMessage[] }> {
  const hooks = await db.query<HookRow>(
    'SELECT id, about, url, events, made_by AS "madeBy", paused FROM hook ORDER BY made, id',
  );
  const messages = await db.query<HookMessage>(
    `SELECT id, hook, event, body, ${ms('made')} AS made, state, tries, ${ms('tried')} AS tried, answer FROM hook_message ORDER BY made DESC, id LIMIT 100`,
  );
  return { hooks: hooks.map((h) => ({ ...h, events: h.events.split(' ') as HookEvent[] })), messages };
}

export async function makeOneHook(
  db: Queries,
  of: { about: string; url: string; events: readonly HookEvent[]; by: string },
): Promise<{ id: string; secret: string }> {
  const url = new URL(of.url);
  if (url.username !== '' || url.password !== '')
    throw new AppError('bad-request', 'An address with a password in it would stand in logs.');
  if (refusedHost(url.hostname))
    throw new AppError(
      'bad-request',
      `${url.hostname} is this machine itself, or no machine of a network.`,
      'No web hook was made.',
    );
  const id = newId();
  const secret = `whsec_${randomBytes(32).toString('base64')}`;
  await db.query(
    'INSERT INTO hook (id, about, url, events, secret, made_by) VALUES ($1, $2, $3, $4, $5, $6)',
    [id, of.about, of.url, of.events.join(' '), secret, of.by],
  );
  return { id, secret };
}

export async function pauseHook(db: Queries, id: string, paused: boolean): Promise<void> {
  const done = await db.query('UPDATE hook SET paused = $2 WHERE id = $1 RETURNING id', [id, paused]);
  if (done.length === 0) throw new AppError('not-found', 'There is no such web hook.');
}

export const dropOneHook = (db: Queries, id: string) => db.query('DELETE FROM hook WHERE id = $1', [id]);

/** Puts a message into its table and into the queue. */
async function send(db: Queries, hook: string, event: string, body: HookBody): Promise<void> {
  const id = `msg_${newId()}`;
  await db.query('INSERT INTO hook_message (id, hook, event, body) VALUES ($1, $2, $3, $4)', [
    id,
    hook,
    event,
    JSON.stringify(body),
  ]);
  await queue(db, id);
}

const queue = (db: Queries, id: string) =>
  db.query(
    `SELECT graphile_worker.add_job($1, json_build_object('id', $2::text), max_attempts := $3::int, job_key := $2, job_key_mode := 'replace')`,
    [hookTask, id, mostTries],
  );

const bodyOf = (type: HookBody['type'], data: Record<string, unknown>): HookBody => ({
  type,
  timestamp: new Date().toISOString(),
  data,
});

/** Tells every hook that waits for it of what happened; within the transaction in which it did. */
export async function tellHooks(db: Queries, event: HookEvent, data: Record<string, unknown>): Promise<void> {
  const hooks = await db.query<{ id: string }>(
    `SELECT id FROM hook WHERE NOT paused AND $1 = ANY (string_to_array(events, ' '))`,
    [event],
  );
  if (hooks.length === 0) return;
  for (const { id } of hooks) await send(db, id, event, bodyOf(event, data));
  await db.query(
    `DELETE FROM hook_message WHERE state <> 'waiting' AND id NOT IN (SELECT id FROM hook_message ORDER BY made DESC LIMIT ${kept})`,
  );
}

/** Tells that a workspace would open less complete elsewhere than it did; the first time only notes how it is. */
export async function tellReadiness(
  db: Queries,
  of: { workspace: string; lost: number; data: Record<string, unknown> },
): Promise<void> {
  const [before] = await db.query<{ lost: number }>(
    'SELECT lost FROM hook_told WHERE workspace = $1 FOR UPDATE',
    [of.workspace],
  );
  await db.query(
    'INSERT INTO hook_told (workspace, lost) VALUES ($1, $2) ON CONFLICT (workspace) DO UPDATE SET lost = excluded.lost',
    [of.workspace, of.lost],
  );
  if (before && of.lost > before.lost)
    await tellHooks(db, 'readiness.fallen', { ...of.data, before: before.lost, wouldNotOpen: of.lost });
}

export async function tryOneHook(db: Queries, id: string, by: string): Promise<void> {
  const [hook] = await db.query('SELECT 1 FROM hook WHERE id = $1', [id]);
  if (!hook) throw new AppError('not-found', 'There is no such web hook.');
  await send(db, id, 'try', bodyOf('try', { by }));
}

/** Sends a message again that was given up. */
export async function sendOneAgain(db: Queries, id: string): Promise<void> {
  const done = await db.query(
    `UPDATE hook_message SET state = 'waiting', tries = 0 WHERE id = $1 AND state = 'given up' RETURNING id`,
    [id],
  );
  if (done.length === 0) throw new AppError('not-found', 'No such message was given up.');
  await queue(db, id);
}

/** Hosts that no hook leads to (OWASP, "Server-Side Request Forgery Prevention Cheat Sheet", from memory): this machine, and addresses of one link alone, where clouds keep their secrets. A studio's own network is what hooks are for. */
const refused = new net.BlockList();
for (const [at, bits] of [
  ['127.0.0.0', 8],
  ['0.0.0.0', 8],
  ['169.254.0.0', 16],
  ['224.0.0.0', 4],
] as const)
  refused.addSubnet(at, bits, 'ipv4');
for (const [at, bits] of [
  ['::', 127],
  ['fe80::', 10],
  ['ff00::', 8],
] as const)
  refused.addSubnet(at, bits, 'ipv6');

const mayLocal = () => process.env.SATCHEL_HOOKS_TO_THIS_MACHINE === '1';

function refusedAddress(address: string): boolean {
  if (mayLocal()) return false;
  const plain = address.replace(/^\[|\]$/g, '');
  // An address of the fourth version in one of the sixth.
  const four = /^::ffff:([\d.]+)$/i.exec(plain)?.[1] ?? plain;
  return net.isIPv4(four) ? refused.check(four) : net.isIPv6(plain) && refused.check(plain, 'ipv6');
}
const refusedHost = (host: string): boolean =>
  !mayLocal() && (/(^|\.)localhost\.?$/i.test(host) || refusedAddress(host));

/** Looks a name up; one that leads where no hook may is not there. What was looked up is what is connected to: a name cannot change its mind between. */
const lookup: net.LookupFunction = (host, options, done) =>
  dns.lookup(host, { ...options, all: true }, (cause, found) => {
    const addresses = found?.filter(({ address }) => !refusedAddress(address)) ?? [];
    const first = addresses[0];
    if (cause || !first)
      return done(
        cause ?? Object.assign(new Error(`${host} leads where no web hook may`), { code: 'EACCES' }),
        '',
        0,
      );
    return options.all
      ? (done as unknown as (e: null, all: dns.LookupAddress[]) => void)(null, addresses)
      : done(null, first.address, first.family);
  });

/** Sends a body; resolves with the status of the answer. No redirect is followed, and nothing of the answer is read. */
function post(url: string, headers: Record<string, string>, body: string): Promise<number> {
  return new Promise((resolve, reject) => {
    const { protocol, hostname } = new URL(url);
    // Of an address nothing is looked up.
    if (refusedHost(hostname)) return reject(new Error(`${hostname} is where no web hook may lead`));
    const request = (protocol === 'https:' ? https : http).request(
      url,
      { method: 'POST', headers, lookup, agent: false, signal: AbortSignal.timeout(patience) },
      (answer) => {
        answer.destroy();
        resolve(answer.statusCode ?? 0);
      },
    );
    request.on('error', (cause: NodeJS.ErrnoException) =>
      reject(cause.name === 'AbortError' ? new Error(`no answer in ${patience / 1000} s`) : cause),
    );
    request.end(body);
  });
}

/** Sends one message, from the queue. Throws where it was not taken: the queue tries again. */
export async function deliver(db: Queries, id: string): Promise<void> {
  const [message] = await db.query<{ body: string; tries: number; url: string; secret: string }>(
    `SELECT m.body, m.tries, h.url, h.secret FROM hook_message m JOIN hook h ON h.id = m.hook WHERE m.id = $1 AND m.state = 'waiting'`,
    [id],
  );
  if (!message) return;
  const now = new Date();
  const { body, url, secret } = message;
  const headers = {
    'content-type': 'application/json',
    'user-agent': 'LoyalSatchel',
    'webhook-id': id,
    'webhook-timestamp': String(Math.floor(now.getTime() / 1000)),
    'webhook-signature': new Webhook(secret).sign(id, now, body),
  };
  const tries = message.tries + 1;
  const say = (state: HookMessage['state'], answer: string) =>
    db.query('UPDATE hook_message SET state = $2, tries = $3, tried = now(), answer = $4 WHERE id = $1', [
      id,
      state,
      tries,
      answer,
    ]);
  const isLast = tries >= mostTries;
  let answer: string;
  try {
    const status = await post(url, headers, body);
    if (status >= 200 && status < 300) return void (await say('delivered', String(status)));
    answer = String(status);
    // Gone (RFC 9110 §15.5.11): whoever answers so does not want to be asked again.
    if (status === 410) return void (await say('given up', answer));
  } catch (cause) {
    answer = (cause as Error).message;
  }
  await say(isLast ? 'given up' : 'waiting', answer);
  if (!isLast) throw new Error(answer);
}
