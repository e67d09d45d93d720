// The door to the user's folders: nothing outside the allowed folders, not by links, not by '..', not by a name that begins alike.

import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import type { Database } from './database/database';
import { Drops } from './workspaces/drops';
import { keepPlan, workspaceId, type Hub } from './hub';
import { allowedPath, cleanPath } from './allowed';

let base = '';
let hub: Hub;

beforeAll(() => {
  base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-hub-')));
  for (const f of ['work/boat/textures', 'works', 'secret'])
    fs.mkdirSync(path.join(base, f), { recursive: true });
  fs.writeFileSync(path.join(base, 'secret', 'key'), '');
  fs.symlinkSync(path.join(base, 'secret'), path.join(base, 'work', 'way-out'));
  fs.symlinkSync(path.join(base, 'work', 'boat'), path.join(base, 'work', 'way-in'));
  fs.symlinkSync(path.join(base, 'work'), path.join(base, 'linked-place'));
  const places = [`${base}/work`, `${base}/linked-place`];
  const db: Database = {
    query: async <Row>() => places.map((p) => ({ path: p, seenBy: 'change', changedBy: 'manage' })) as Row[],
    transaction: () => Promise.reject(new Error('none is made here')),
    close: async () => {},
  };
  hub = {
    db,
    who: null,
    as: (who) => ({ ...hub, who }),
    asServer: () => hub,
    jobs: {} as Hub['jobs'],
    plans: new Map(),
    begunPlans: new Map(),
    watched: new Map(),
    sheets: new Map(),
    ask: () => Promise.reject(new Error('nothing is asked here')),
    drops: new Drops(path.join(base, 'app')),
    net: {} as Hub['net'],
    backups: {} as Hub['backups'],
    notices: [],
    dataFolder: path.join(base, 'app'),
    lock: null,
    end: () => Promise.resolve(),
  };
});
afterAll(() => fs.rmSync(base, { recursive: true }));

describe('allowed paths', () => {
  test.each([
    'work',
    'work/boat/textures',
    'work/not/there/yet.png',
    'work/way-in/textures',
    'work/./boat/../boat',
    'linked-place/boat',
  ])('%s', async (p) => {
    expect(await allowedPath(hub, path.join(base, p))).toBe(cleanPath(path.join(base, p)));
  });
  test.each([
    'works',
    'secret/key',
    'work/way-out',
    'work/way-out/key',
    'work/way-out/not/there',
    'work/../secret/key',
    '',
  ])('not %j', async (p) => {
    await expect(allowedPath(hub, `${base}/${p}`)).rejects.toMatchObject({ code: 'not-allowed' });
  });
  test.each(['relative/x', '', 'work\0/x'])('%j is no whole path', async (p) => {
    await expect(allowedPath(hub, p)).rejects.toMatchObject({ code: 'bad-request' });
  });
  test('~ is the home folder, where it stands alone at the beginning', () => {
    expect(cleanPath('~/x')).toBe(cleanPath(path.join(os.homedir(), 'x')));
    expect(() => cleanPath('~other/x')).toThrow('whole path');
  });
});

test('a workspace has the same id at every start, and another one than its neighbour', () => {
  expect(workspaceId('/a/boat')).toBe(workspaceId('/a/boat'));
  expect(workspaceId('/a/boat')).not.toBe(workspaceId('/a/boat2'));
});

test('of plans that wait, the oldest go beyond forty', () => {
  const plan = { kind: 'travel' } as unknown as Parameters<typeof keepPlan>[2];
  const first = keepPlan(hub, { workspace: 'w', root: '/w' }, plan);
  const ids = Array.from({ length: 40 }, () => keepPlan(hub, { workspace: 'w', root: '/w' }, plan));
  expect(hub.plans.has(first)).toBe(false);
  expect(ids.every((id) => hub.plans.has(id))).toBe(true);
});
