// Who may ask for what on a server for several: every route times every role, against a table written by hand; and folders that are not everybody's, on the disk.

import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import fs from 'node:fs';
import { needs, roles, type Role } from '@/wire/routes/roles';
import { digestOf } from '@/core/files/digest';
import { utf8 } from '@/core/text/bytes';
import type { Who } from '../who';
import { addAllowed } from '../database/allowedQueries';
import { setFolderRoles } from '../studio/people';
import type { Door } from './door';
import { endpoints } from './endpoints';
import { startHere } from './testing/here';

// By the letters of a role: l, c, m.
const table = `
GET /api/state lcm
GET /api/me lcm
POST /api/me/password lcm
GET /api/workers m
GET /api/above lcm
GET /api/uses lcm
GET /api/keys m
POST /api/keys m
DELETE /api/keys/:key m
GET /api/hooks m
POST /api/hooks m
POST /api/hooks/:hook m
POST /api/hooks/:hook/try m
DELETE /api/hooks/:hook m
POST /api/hooks/messages/:message/again m
POST /api/verbs lcm
GET /api/jobs/:job lcm
GET /api/people m
POST /api/people/invite m
POST /api/people/:person m
POST /api/people/:person/reset m
DELETE /api/people/links/:link m
GET /api/allowed/roles m
POST /api/allowed/roles m
POST /api/allowed m
DELETE /api/allowed m
GET /api/allowed/choose m
GET /api/folders lcm
GET /api/jobs lcm
POST /api/jobs/:job/cancel lcm
GET /api/settings/:name lcm
POST /api/settings/:name m
GET /api/layouts lcm
POST /api/layouts m
DELETE /api/layouts m
POST /api/layouts/convert lcm
POST /api/layouts/from-folder lcm
POST /api/workspaces/many/preview lcm
POST /api/workspaces/many cm
POST /api/recognise lcm
POST /api/adopt cm
POST /api/find lcm
POST /api/relocate cm
GET /api/shelf lcm
POST /api/shelf/undo cm
POST /api/workspaces/preview lcm
POST /api/workspaces cm
POST /api/workspaces/open lcm
DELETE /api/workspaces/:id m
GET /api/workspaces/:id lcm
POST /api/workspaces/:id/put-back cm
POST /api/workspaces/:id/scan lcm
GET /api/place lcm
POST /api/place/probe cm
GET /api/workspaces/:id/settings lcm
POST /api/workspaces/:id/measure lcm
POST /api/workspaces/:id/loose lcm
GET /api/workspaces/:id/references lcm
GET /api/workspaces/:id/references/rows lcm
GET /api/workspaces/:id/references/keys lcm
POST /api/workspaces/:id/references/of lcm
POST /api/workspaces/:id/elsewhere lcm
GET /api/workspaces/:id/reference lcm
POST /api/workspaces/:id/try lcm
POST /api/workspaces/:id/suggest lcm
GET /api/workspaces/:id/preview lcm
GET /api/workspaces/:id/map lcm
GET /api/workspaces/:id/scene lcm
GET /api/workspaces/:id/content lcm
GET /api/workspaces/:id/files lcm
GET /api/workspaces/:id/room lcm
POST /api/workspaces/:id/duplicates lcm
GET /api/workspaces/:id/unused lcm
GET /api/workspaces/:id/file lcm
GET /api/workspaces/:id/picture lcm
GET /api/workspaces/:id/frame lcm
GET /api/workspaces/:id/scenes lcm
GET /api/workspaces/:id/ledger lcm
GET /api/workspaces/:id/ledger/seen lcm
GET /api/workspaces/:id/series lcm
GET /api/workspaces/:id/versions lcm
GET /api/workspaces/:id/net lcm
POST /api/workspaces/:id/net cm
GET /api/workspaces/:id/compare lcm
GET /api/workspaces/:id/state lcm
GET /api/workspaces/:id/holds lcm
POST /api/workspaces/:id/holds cm
GET /api/workspaces/:id/checkpoints lcm
POST /api/workspaces/:id/checkpoints cm
POST /api/workspaces/:id/complete lcm
POST /api/workspaces/:id/outputs lcm
POST /api/workspaces/:id/cost lcm
GET /api/workspaces/:id/checkpoint lcm
GET /api/workspaces/:id/intake lcm
GET /api/workspaces/:id/intake/files lcm
POST /api/workspaces/:id/alike lcm
POST /api/drops cm
DELETE /api/drops cm
POST /api/workspaces/:id/plans cm
GET /api/plans/:plan lcm
GET /api/plans/:plan/state lcm
POST /api/plans/:plan/apply cm
POST /api/workspaces/:id/collect/needs lcm
POST /api/workspaces/:id/collect/used lcm
POST /api/workspaces/:id/collect cm
POST /api/workspaces/:id/carry/assets lcm
POST /api/workspaces/:id/carry/look lcm
GET /api/collect/presets lcm
POST /api/collect/presets cm
DELETE /api/collect/presets cm
POST /api/workspaces/:id/nodes lcm
POST /api/workspaces/:id/nodes/look lcm
POST /api/workspaces/:id/beside lcm
POST /api/bags/pack cm
POST /api/bags/look lcm
POST /api/bags/verify lcm
POST /api/bags/unpack cm
POST /api/bags/rehearse lcm
POST /api/arrive/look cm
POST /api/arrive cm
POST /api/workspaces/:id/settle cm
POST /api/arrive/again cm
GET /api/heads lcm
POST /api/hand-in lcm
POST /api/hand-in/each lcm
GET /api/workspaces/:id/backups lcm
POST /api/workspaces/:id/backups m
POST /api/workspaces/:id/back-up cm
POST /api/backups/look lcm
POST /api/backups/inside lcm
POST /api/backups/judge lcm
GET /api/backups/file lcm
POST /api/backups/give-back cm
POST /api/backups/prove cm
POST /api/backups/heal cm
POST /api/backups/clearing lcm
POST /api/backups/clear m
POST /api/workspaces/:id/archive m
POST /api/workspaces/:id/bring-back cm
`
  .trim()
  .split('\n')
  .map((line) => {
    const [method, path, who] = line.split(' ') as [string, string, string];
    return { method, path, may: roles.filter((r) => who.includes(r[0]!)) };
  });

const people: Record<Role, Who> = {
  look: { id: 'l', name: 'Lena', role: 'look' },
  change: { id: 'c', name: 'Cem', role: 'change' },
  manage: { id: 'm', name: 'Marit', role: 'manage' },
};
/** Lets in by name: how somebody proves who they are is tried in studio/accounts.test.ts. */
const byName: Door = {
  refuse: () => null,
  who: ({ headers }) => Promise.resolve(people[headers.get('x-role') as Role] ?? 'nobody'),
  isForSeveral: true,
  origin: '',
};
let here: Awaited<ReturnType<typeof startHere>>;
beforeAll(async () => {
  here = await startHere(byName);
}, 60_000);
afterAll(() => here.close());

async function as(role: Role | 'nobody', method: string, at: string, body: unknown = {}) {
  const init = {
    method,
    headers: { 'x-role': role, 'content-type': 'application/json' },
    ...(method === 'GET' ? {} : { body: JSON.stringify(body) }),
  };
  const response = await here.send(at, init);
  const answer = (await response.json().catch(() => null)) as Record<string, unknown> | null;
  const code = (answer?.error as { code?: string } | undefined)?.code ?? null;
  return { status: response.status, code, answer: answer as never };
}
/** The last view of a job, once it has ended. */
async function ended(job: { id: string }) {
  await here.jobs.idle();
  return here.jobs.list().find((j) => j.id === job.id)!;
}

describe('every route, every role', () => {
  test('the table has every route, and no other', () => {
    const named = (of: { method: string; path: string }) => `${of.method} ${of.path}`;
    expect(table.map(named).sort()).toEqual(endpoints.map((e) => named(e.route)).sort());
  });
  test('what a role is not enough for is refused before anything is done; nobody gets anything', async () => {
    for (const { route } of endpoints) {
      const { may } = table.find((t) => t.method === route.method && t.path === route.path)!;
      expect([route.path, needs(route)]).toEqual([route.path, may[0]]);
      const at = route.path.replace(/:\w+/g, 'x');
      for (const role of roles) {
        // Enough: whatever becomes of what was asked, it is not the role.
        const { status, code } = await as(role, route.method, at);
        expect([role, route.method, at, code === 'not-your-role' && status === 403]).toEqual([
          role,
          route.method,
          at,
          !may.includes(role),
        ]);
      }
      expect(await as('nobody', route.method, at)).toMatchObject({ status: 401, code: 'not-signed-in' });
    }
    for (const at of ['/api/upload?drop=x&file=0&offset=0', '/api/upload-many?drop=x&table=1'])
      expect([(await as('look', 'POST', at)).code, (await as('nobody', 'POST', at)).code]).toEqual([
        'not-your-role',
        'not-signed-in',
      ]);
    expect((await as('nobody', 'GET', '/api/events')).code).toBe('not-signed-in');
    expect((await as('nobody', 'GET', '/api/openapi.json')).code).toBe('not-signed-in');
  }, 60_000);
});

describe('folders that are not everybody’s', () => {
  let open = '';
  let closed = '';
  beforeAll(async () => {
    for (const [name, seenBy, changedBy] of [
      ['open', 'look', 'change'],
      ['closed', 'change', 'manage'],
    ] as const) {
      fs.mkdirSync(`${here.base}/work/${name}`);
      await addAllowed(here.db, `${here.base}/work/${name}`);
      await setFolderRoles(here.db, { path: `${here.base}/work/${name}`, seenBy, changedBy });
      const made = await as('manage', 'POST', '/api/workspaces', {
        parent: `${here.base}/work/${name}`,
        name: `Boat ${name}`,
        layout: { id: 'game-environment' },
        without: [],
      });
      expect(made.status).toBe(200);
      const { id } = made.answer as { id: string };
      if (name === 'open') open = id;
      else closed = id;
    }
    await here.jobs.idle();
  });
  const known = async (role: Role) =>
    ((await as(role, 'GET', '/api/state')).answer as { workspaces: { id: string }[] }).workspaces
      .map((w) => w.id)
      .sort();

  test('who may not see a folder knows nothing of what lies in it', async () => {
    expect(await known('look')).toEqual([open]);
    expect(await known('change')).toEqual([open, closed].sort());
    for (const at of ['', '/references', '/files?folder=', '/ledger', '/settings'])
      expect([at, (await as('look', 'GET', `/api/workspaces/${closed}${at}`)).code]).toEqual([
        at,
        'not-your-role',
      ]);
    const path = encodeURIComponent(`${here.base}/work/closed`);
    expect((await as('look', 'GET', `/api/folders?path=${path}`)).code).toBe('not-your-role');
    expect(
      (await as('look', 'POST', '/api/workspaces/open', { path: `${here.base}/work/closed/Boat closed` }))
        .code,
    ).toBe('not-your-role');
    const jobs = (await as('look', 'GET', '/api/jobs')).answer as { workspace: string }[];
    expect(jobs.filter((j) => j.workspace === closed)).toEqual([]);
  });

  test('who may see it and not change it makes a plan, and cannot apply it: the disk stays as it is', async () => {
    const files = () => fs.readdirSync(`${here.base}/work/closed`, { recursive: true }).sort();
    const before = files();
    const job = (
      await as('change', 'POST', `/api/workspaces/${closed}/plans`, {
        kind: 'settings',
        change: { name: 'Mine now' },
      })
    ).answer as { id: string };
    const { plan } = (await ended(job)).result as { plan: string };
    const applied = await ended(
      (await as('change', 'POST', `/api/plans/${plan}/apply`)).answer as { id: string },
    );
    expect([applied.state, applied.error?.code]).toEqual(['failed', 'not-your-role']);
    const checkpoint = await ended(
      (await as('change', 'POST', `/api/workspaces/${closed}/checkpoints`, { name: 'x', scope: [] }))
        .answer as {
        id: string;
      },
    );
    expect(checkpoint.error?.code).toBe('not-your-role');
    expect(
      (
        await as('change', 'POST', '/api/workspaces', {
          parent: `${here.base}/work/closed`,
          name: 'Another',
          layout: { id: 'game-environment' },
          without: [],
        })
      ).code,
    ).toBe('not-your-role');
    for (const [at, body] of [
      ['put-back', { id: 'x' }],
      ['net', {}],
    ] as const)
      expect([at, (await as('change', 'POST', `/api/workspaces/${closed}/${at}`, body)).code]).toEqual([
        at,
        'not-your-role',
      ]);
    expect(files()).toEqual(before);
  });

  test('what is allowed in a folder is allowed below it: none in it is stricter', async () => {
    const at = (name: string) => `${here.base}/work/${name}`;
    for (const name of ['open/inner', 'closed/inner', 'wide', 'wide/strict'])
      fs.mkdirSync(at(name), { recursive: true });
    const allow = (name: string) => as('manage', 'POST', '/api/allowed', { path: at(name) });
    const set = (name: string, seenBy: Role, changedBy: Role) =>
      as('manage', 'POST', '/api/allowed/roles', { path: at(name), seenBy, changedBy });
    const roleOf = async (name: string) => {
      const all = (await as('manage', 'GET', '/api/allowed/roles')).answer as {
        path: string;
        seenBy: Role;
        changedBy: Role;
      }[];
      const { seenBy, changedBy } = all.find((r) => r.path === at(name))!;
      return [seenBy, changedBy];
    };
    await allow('open/inner');
    expect((await set('open/inner', 'manage', 'manage')).code).toBe('bad-request');
    // One that lies in a strict one begins as strict, and may be opened.
    await allow('closed/inner');
    expect(await roleOf('closed/inner')).toEqual(['change', 'manage']);
    expect((await set('closed/inner', 'look', 'change')).status).toBe(200);
    // One around a strict one begins as strict as that, and cannot be opened over it.
    await allow('wide/strict');
    expect((await set('wide/strict', 'manage', 'manage')).status).toBe(200);
    await allow('wide');
    expect(await roleOf('wide')).toEqual(['manage', 'manage']);
    expect((await set('wide', 'look', 'change')).code).toBe('bad-request');
    // Allowed once more, it stays as it was.
    await allow('wide/strict');
    expect(await roleOf('wide/strict')).toEqual(['manage', 'manage']);
    // Who changes what lies there sees it.
    expect((await set('open', 'manage', 'change')).code).toBe(null);
    expect(await roleOf('open')).toEqual(['change', 'change']);
    expect((await set('open', 'look', 'change')).status).toBe(200);
    const path = (name: string) => `/api/folders?path=${encodeURIComponent(at(name))}`;
    expect([
      (await as('look', 'GET', path('closed/inner'))).status,
      (await as('look', 'GET', path('closed'))).code,
      (await as('change', 'GET', path('wide/strict'))).code,
    ]).toEqual([200, 'not-your-role', 'not-your-role']);
  });

  test('who changes something is named in the ledger, in the note of a version and in a checkpoint', async () => {
    const root = `${here.base}/work/open/Boat open`;
    fs.writeFileSync(`${root}/scenes/boat.gltf`, '{"asset":{"version":"2.0"}}');
    const planned = await as('change', 'POST', `/api/workspaces/${open}/plans`, {
      kind: 'save',
      scenes: ['scenes/boat.gltf'],
      note: 'rigged',
    });
    const { plan } = (await ended(planned.answer as { id: string })).result as { plan: string };
    await ended((await as('change', 'POST', `/api/plans/${plan}/apply`)).answer as { id: string });
    await ended(
      (await as('manage', 'POST', `/api/workspaces/${open}/checkpoints`, { name: 'whole', scope: [] }))
        .answer as { id: string },
    );
    const ledger = (await as('look', 'GET', `/api/workspaces/${open}/ledger`)).answer as {
      title: string;
      by: string | null;
    }[];
    expect(ledger.map((l) => l.by)).toEqual(['Cem', 'Marit']);
    const { versions } = (
      await as(
        'look',
        'GET',
        `/api/workspaces/${open}/versions?scene=${encodeURIComponent('scenes/boat.gltf')}`,
      )
    ).answer as { versions: { note: string; by: string | null }[] };
    // The scene that it was saved from has no note.
    expect(versions.map((v) => [v.note, v.by])).toEqual([
      ['rigged', 'Cem'],
      ['', null],
    ]);
    const [checkpoint] = (await as('look', 'GET', `/api/workspaces/${open}/checkpoints`)).answer as {
      by: string | null;
    }[];
    expect(checkpoint!.by).toBe('Marit');
  });
});

describe('what was dropped', () => {
  const other: Who = { id: 'c2', name: 'Caro', role: 'change' };
  let workspace = '';
  let drop = { drop: '', folder: '', files: [''] };
  const upload = (role: Role) =>
    here.send(`/api/upload?drop=${drop.drop}&file=0&offset=0&digest=${digestOf(utf8('SECRET'))}`, {
      method: 'POST',
      headers: { 'x-role': role },
      body: 'SECRET',
    });
  beforeAll(async () => {
    fs.mkdirSync(`${here.base}/work/drops`);
    await addAllowed(here.db, `${here.base}/work/drops`);
    const made = await as('manage', 'POST', '/api/workspaces', {
      parent: `${here.base}/work/drops`,
      name: 'Drops',
      layout: { id: 'game-environment' },
      without: [],
    });
    expect(made).toMatchObject({ status: 200 });
    workspace = (made.answer as { id: string }).id;
    const begun = await as('change', 'POST', '/api/drops', { files: [{ path: 'mine/a.png', size: 6 }] });
    drop = begun.answer;
    people.look = { ...other };
  });
  afterAll(() => {
    people.look = { id: 'l', name: 'Lena', role: 'look' };
  });

  test('belongs to who sent it: nobody else adds to it, takes it or ends it', async () => {
    for (const role of ['look', 'manage'] as const) {
      const sent = await upload(role);
      expect([role, sent.status]).toEqual([role, 404]);
      for (const [method, at, body] of [
        ['DELETE', '/api/drops', { drop: drop.drop }],
        ['POST', `/api/workspaces/${workspace}/plans`, { kind: 'intake', from: `${drop.folder}/mine` }],
        ['POST', `/api/workspaces/${workspace}/plans`, { kind: 'bring', files: drop.files, into: '' }],
        ['POST', '/api/arrive/look', { path: `${drop.folder}/mine` }],
      ] as const)
        expect([role, at, (await as(role, method, at, body)).code]).toEqual([role, at, 'not-found']);
    }
    expect((await upload('change')).status).toBe(200);
    const plan = { kind: 'intake', from: `${drop.folder}/mine` };
    const job = (await as('change', 'POST', `/api/workspaces/${workspace}/plans`, plan)).answer;
    expect((await ended(job)).state).toBe('done');
  });

  test('is told and taken by its id, never by where the server keeps it; so are all other folders of the application', async () => {
    expect(JSON.stringify(drop)).not.toContain(here.base);
    const own = `${here.base}/app`;
    const kept = drop.folder.replace(/^drop:/, `${own}/incoming/`);
    fs.mkdirSync(`${own}/shelves`, { recursive: true });
    const link = `${here.base}/work/way`;
    fs.symlinkSync(own, link);
    // As if somebody had allowed the folder around it.
    await addAllowed(here.db, here.base);
    for (const at of [kept, `${kept}/mine`, `${own}/incoming`, own, `${own}/shelves`, `${link}/incoming`])
      for (const [path, body] of [
        [`/api/workspaces/${workspace}/plans`, { kind: 'intake', from: at }],
        [`/api/workspaces/${workspace}/plans`, { kind: 'bring', files: [`${at}/a.png`], into: '' }],
        [`/api/workspaces/${workspace}/plans`, { kind: 'carry', from: at, assets: ['x'], flat: false }],
        [`/api/workspaces/${workspace}/back-up`, { folder: `${at}/b`, as: 'snapshots' }],
        ['/api/arrive/look', { path: at }],
        ['/api/bags/verify', { bag: `${at}/x.zip` }],
        ['/api/backups/look', { folder: at }],
        ['/api/workspaces/open', { path: at }],
        ['/api/recognise', { path: at, layout: { id: 'game-environment' } }],
        ['/api/find', { path: at }],
      ] as const) {
        const { code } = await as('manage', 'POST', path, body);
        expect([at, path, code]).toEqual([at, path, 'not-allowed']);
      }
    for (const name of [
      `drop:${drop.drop}`,
      `drop:${drop.drop}/../x`,
      'drop:',
      'drop:/',
      `drop:${drop.drop}/`,
    ])
      expect([name, (await as('change', 'POST', '/api/arrive/look', { path: name })).code]).toEqual([
        name,
        'not-found',
      ]);
  });
});
