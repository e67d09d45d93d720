// People on a real PostgreSQL server (where Debian's package is installed) and real accounts: links that hold once, passwords, sessions, the limit to guessing;
// the tables against what the accounts' package would make itself. Rules after the OWASP cheat sheets "Authentication", "Session Management", "Forgot
// Password" (from memory).

import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { betterAuth } from 'better-auth';
import { getMigrations } from 'better-auth/db/migration';
import { Pool } from 'pg';
import { openServer, type Database } from '../database/database';
import { postgresBin, postgresHere, type PostgresHere } from '../database/testing/postgres';
import { refuse } from '../http/guard';
import { accountOptions, accounts, personOf } from './accounts';
import {
  changeOne,
  changeOwnPassword,
  comeIn,
  dropOne,
  firstLink,
  inviteOne,
  listEverybody,
  lookAtLink,
  resetOne,
  type Passwords,
} from './people';

const origin = 'https://satchel.studio.example';
const bin = postgresBin();
(bin ? describe : describe.skip)('people, on a PostgreSQL server', () => {
  let server: PostgresHere;
  let db: Database;
  let passwords: Passwords;
  const before = { ...process.env };
  beforeAll(async () => {
    server = postgresHere(bin!, 28000 + (process.pid % 4000));
    Object.assign(process.env, {
      SATCHEL_MODE: 'studio',
      SATCHEL_DATABASE_URL: server.url(),
      SATCHEL_SECRET: 'c2VjcmV0LW9mLXRoZS1oYXJib3VyLW1hcmtldA==',
      SATCHEL_ORIGIN: origin,
    });
    db = await openServer(server.url());
    passwords = (await accounts().auth.$context).password;
  }, 60_000);
  afterAll(async () => {
    await accounts().pool.end();
    await db.close();
    server.close();
    process.env = before;
  });

  const code = (work: Promise<unknown>) =>
    work.then(
      () => 'done',
      (cause: { code?: string }) => cause.code,
    );
  const sign = (email: string, password: string, from = '10.0.0.1') =>
    accounts().auth.handler(
      new Request(`${origin}/api/account/sign-in/email`, {
        method: 'POST',
        headers: { 'content-type': 'application/json', origin, 'x-forwarded-for': from },
        body: JSON.stringify({ email, password }),
      }),
    );
  const cookieOf = (response: Response) =>
    new Headers({
      cookie: response.headers
        .getSetCookie()
        .map((c) => c.split(';')[0])
        .join('; '),
    });
  const everybody = async () => (await listEverybody(db)).people;
  const called = async (name: string) => (await everybody()).find((p) => p.name === name)!;

  test('the tables are those that the accounts’ package would make', async () => {
    const pool = new Pool({ connectionString: server.url() });
    const { toBeCreated, toBeAdded } = await getMigrations(
      betterAuth(accountOptions({ secret: 'x'.repeat(40), origins: [origin] }, pool)).options,
    );
    expect([toBeCreated, toBeAdded]).toEqual([[], []]);
    await pool.end();
  });

  test('the first who manages comes in by the link that the server shows, and then it shows none', async () => {
    const old = (await firstLink(db))!;
    const link = (await firstLink(db))!;
    // The one of the start before holds no more.
    expect(await code(lookAtLink(db, old.token))).toBe('no-key');
    expect(
      (await db.query<{ digest: string }>('SELECT digest FROM way_in')).map((w) => w.digest),
    ).not.toContain(link.token);
    await comeIn(db, passwords, {
      token: link.token,
      name: 'Marit',
      email: ' Marit@Studio.example',
      password: 'the first lantern',
    });
    expect(await everybody()).toMatchObject([
      { name: 'Marit', email: 'marit@studio.example', role: 'manage', gone: false, lastSeen: null },
    ]);
    expect(await firstLink(db)).toBeNull();
  });

  test('a link holds once, also for two who open it at the same moment; one that is over or was taken back, never', async () => {
    const { token } = await inviteOne(db, 'Aya', 'change', 'Marit');
    const come = (name: string) =>
      code(
        comeIn(db, passwords, {
          token,
          name,
          email: `${name}@studio.example`,
          password: 'a boat in the harbour',
        }),
      );
    const both = await Promise.all([come('aya'), come('eve')]);
    expect(both.sort()).toEqual(['done', 'no-key']);
    const late = await inviteOne(db, 'Late', 'manage', 'Marit');
    await db.query("UPDATE way_in SET expires = now() - interval '1 second' WHERE id = $1", [late.id]);
    expect(await code(lookAtLink(db, late.token))).toBe('no-key');
    const back = await inviteOne(db, 'Back', 'look', 'Marit');
    expect((await listEverybody(db)).links.map((l) => [l.about, l.for, l.madeBy])).toEqual([
      ['Back', 'invitation', 'Marit'],
    ]);
    await dropOne(db, back.id);
    expect(await code(lookAtLink(db, back.token))).toBe('no-key');
    expect(await code(lookAtLink(db, 'x'.repeat(43)))).toBe('no-key');
  });

  test('an address is one person’s; a link is not lost over that', async () => {
    const { token } = await inviteOne(db, 'Twice', 'look', 'Marit');
    const come = (email: string) =>
      code(comeIn(db, passwords, { token, name: 'Twice', email, password: 'a boat in the harbour' }));
    expect(await come('MARIT@studio.example')).toBe('exists');
    expect(await come('twice@studio.example')).toBe('done');
  });

  test('signed in by a cookie that scripts do not see and that goes by TLS alone; the role is the server’s', async () => {
    const response = await sign('marit@studio.example', 'the first lantern');
    expect(response.status).toBe(200);
    for (const cookie of response.headers.getSetCookie())
      expect(cookie).toMatch(/^__Secure-satchel\..*HttpOnly.*Secure|^__Secure-satchel\..*Secure.*HttpOnly/);
    expect(response.headers.getSetCookie().join(' ')).toMatch(/SameSite=Strict/i);
    const headers = cookieOf(response);
    expect(await personOf(headers)).toMatchObject({ name: 'Marit', role: 'manage' });
    // Another signature: nobody.
    const forged = new Headers({
      cookie: headers.get('cookie')!.replace(/.(?=;|$)/, (c) => (c === 'A' ? 'B' : 'A')),
    });
    expect(await personOf(forged)).toBeNull();
    expect(await personOf(new Headers())).toBeNull();
    // A new session at each signing in.
    const again = cookieOf(await sign('marit@studio.example', 'the first lantern', '10.0.0.2'));
    expect(again.get('cookie')).not.toBe(headers.get('cookie'));
  });

  test('the door: this server’s own name and pages, in any letter case, and nobody else’s', () => {
    const asked = (method: string, more: Record<string, string>) => ({
      method,
      headers: new Headers({ host: 'satchel.studio.example', ...more }),
    });
    const at = (method: string, more: Record<string, string> = {}) =>
      refuse(asked(method, more), [origin, 'https://other.example:8443'])?.status ?? 200;
    expect(at('GET')).toBe(200);
    expect(at('GET', { host: 'SATCHEL.studio.example' })).toBe(200);
    expect(at('POST', { origin })).toBe(200);
    expect(at('POST', { host: 'other.example:8443', origin: 'https://other.example:8443' })).toBe(200);
    for (const more of [
      { host: '127.0.0.1' },
      { host: 'evil.example' },
      { host: 'satchel.studio.example.evil.example' },
      { host: 'other.example' },
      { origin: 'https://evil.example' },
      { origin: 'http://satchel.studio.example' },
      { origin: 'null' },
      { 'sec-fetch-site': 'cross-site' },
      { 'sec-fetch-site': 'same-site' },
    ])
      expect([more, at('POST', more as never)]).toEqual([more, 'host' in more ? 421 : 403]);
    // What comes from no page needs the header that no form can send.
    expect([at('POST'), at('POST', { 'x-satchel': '1' })]).toEqual([403, 200]);
  });

  test('nobody makes an account by asking', async () => {
    const response = await accounts().auth.handler(
      new Request(`${origin}/api/account/sign-up/email`, {
        method: 'POST',
        headers: { 'content-type': 'application/json', origin },
        body: JSON.stringify({
          email: 'eve@evil.example',
          password: 'let me in, please',
          name: 'Eve',
          role: 'manage',
        }),
      }),
    );
    expect(response.status).toBeGreaterThanOrEqual(400);
    expect((await everybody()).map((p) => p.email)).not.toContain('eve@evil.example');
  });

  test('a wrong password and an unknown address are told alike, and guessing is slowed down', async () => {
    const wrong = await sign('marit@studio.example', 'the last lantern!', '10.9.9.9');
    const unknown = await sign('nobody@studio.example', 'the last lantern!', '10.9.9.9');
    expect([wrong.status, await wrong.text()]).toEqual([unknown.status, await unknown.text()]);
    const statuses = [];
    for (let n = 0; n < 15; n++)
      statuses.push((await sign('marit@studio.example', `guess number ${n}!!`, '10.9.9.9')).status);
    expect(statuses.filter((s) => s === 429).length).toBeGreaterThanOrEqual(5);
    // Somebody elsewhere is not kept out by it.
    expect((await sign('marit@studio.example', 'the first lantern', '10.8.8.8')).status).toBe(200);
  }, 30_000);

  test('a new password by a link, or by the old one: every session ends', async () => {
    const one = cookieOf(await sign('twice@studio.example', 'a boat in the harbour', '10.1.0.1'));
    expect(await personOf(one)).toMatchObject({ name: 'Twice', role: 'look' });
    const { id } = await called('Twice');
    const first = await resetOne(db, id, 'Marit');
    const { token } = await resetOne(db, id, 'Marit');
    expect(await code(lookAtLink(db, first.token))).toBe('no-key');
    expect(await lookAtLink(db, token)).toMatchObject({ email: 'twice@studio.example', person: id });
    await comeIn(db, passwords, { token, password: 'a quieter harbour' });
    expect(await personOf(one)).toBeNull();
    expect(await code(lookAtLink(db, token))).toBe('no-key');
    expect((await sign('twice@studio.example', 'a boat in the harbour', '10.1.0.2')).status).toBe(401);
    const two = cookieOf(await sign('twice@studio.example', 'a quieter harbour', '10.1.0.3'));
    const change = (old: string) =>
      code(changeOwnPassword(db, passwords, { id, session: null }, { old, fresh: 'the quietest harbour' }));
    expect([await change('not this one, sorry'), await change('a quieter harbour')]).toEqual([
      'bad-request',
      'done',
    ]);
    expect(await personOf(two)).toBeNull();
  }, 30_000);

  test('who is sent away is out at once, and keeps no way in; who manages alone stays', async () => {
    const headers = cookieOf(await sign('twice@studio.example', 'the quietest harbour', '10.2.0.1'));
    const { id } = await called('Twice');
    const { token } = await resetOne(db, id, 'Marit');
    await changeOne(db, id, { gone: true });
    expect(await personOf(headers)).toBeNull();
    expect(await code(lookAtLink(db, token))).toBe('no-key');
    const back = await sign('twice@studio.example', 'the quietest harbour', '10.2.0.2');
    // The password is right, and it does not help.
    expect(back.status === 200 ? await personOf(cookieOf(back)) : null).toBeNull();
    const marit = await called('Marit');
    expect(await code(changeOne(db, marit.id, { gone: true }))).toBe('bad-request');
    expect(await code(changeOne(db, marit.id, { role: 'change' }))).toBe('bad-request');
    // Two who manage, and send each other away at the same moment: one stays.
    const other = (await everybody()).find((p) => p.role === 'change')!;
    await changeOne(db, other.id, { role: 'manage' });
    await Promise.all([
      code(changeOne(db, marit.id, { role: 'look' })),
      code(changeOne(db, other.id, { role: 'look' })),
    ]);
    expect((await everybody()).filter((p) => p.role === 'manage' && !p.gone).length).toBe(1);
  }, 30_000);

  test('another role holds from the next request on', async () => {
    const [managing] = (await everybody()).filter((p) => p.role === 'manage');
    const lower = (await everybody()).find((p) => p.role === 'look' && !p.gone)!;
    await db.query('DELETE FROM person_rate');
    const password = lower.name === 'Marit' ? 'the first lantern' : 'a boat in the harbour';
    const headers = cookieOf(await sign(lower.email, password, '10.3.0.1'));
    expect((await personOf(headers))!.role).toBe('look');
    await changeOne(db, lower.id, { role: 'change' });
    expect((await personOf(headers))!.role).toBe('change');
    expect(managing!.role).toBe('manage');
  });
});
