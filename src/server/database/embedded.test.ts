// The embedded database in its thread: damaged in every way we could think of, it is set aside and made anew, and what only it knew comes back from
// the small file; a thread that dies is replaced, and takes no half of a transaction along.

import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { keepingKnown, recallKnown } from '../known';
import { openPool } from '../threads/pool';
import type { Database } from './database';
import type { Question, Reply } from './embedded';
import { openEmbedded, overPool } from './embeddedDatabase';
import * as q from './queries';

let base = '';
beforeAll(async () => {
  base = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-embedded-'));
  const { db: plain } = await openEmbedded(`${base}/whole/database`);
  const db = keepingKnown(plain, `${base}/whole`);
  await q.addAllowed(db, '/a/ä folder');
  await q.addAllowed(db, '/b');
  await q.rememberWorkspace(db, 'w1', '/a/ä folder/Harbour', 'Harbour');
  await q.writeSetting(db, 'theme', 'night');
  await db.close();
}, 60_000);
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));

const all = async (db: Database) => ({
  allowed: await q.listAllowed(db),
  workspaces: (await q.listWorkspaces(db)).map((w) => [w.id, w.root, w.scanned]),
  theme: await q.readSetting(db, 'theme'),
});
const kept = {
  allowed: ['/a/ä folder', '/b'],
  workspaces: [['w1', '/a/ä folder/Harbour', null]],
  theme: 'night',
};
/** A copy of the whole one, damaged; then opened as the server does. */
async function opened(name: string, damage: (folder: string) => void) {
  const home = `${base}/${name}`;
  fs.cpSync(`${base}/whole`, home, { recursive: true });
  damage(`${home}/database`);
  const { db, setAside } = await openEmbedded(`${home}/database`);
  await recallKnown(db, home);
  const found = await all(db);
  await db.close();
  const names = fs.readdirSync(home).map((n) => n.replace(/-damaged-.*/, '-damaged'));
  return { found, setAside: setAside !== null, names: names.sort() };
}
const largest = (folder: string): string[] =>
  fs
    .readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((e) => e.isFile())
    .map((e) => path.join(e.parentPath, e.name))
    .sort((a, b) => fs.statSync(b).size - fs.statSync(a).size);
const overwrite = (file: string, at: number, bytes: Buffer) => {
  const fd = fs.openSync(file, 'r+');
  fs.writeSync(fd, bytes, 0, bytes.length, at);
  fs.closeSync(fd);
};
const inBase = (folder: string) => largest(path.join(folder, 'base'));

describe('damaged', () => {
  test.each<[string, (folder: string) => void]>([
    ['no-version', (f) => fs.rmSync(path.join(f, 'PG_VERSION'))],
    ['other-version', (f) => fs.writeFileSync(path.join(f, 'PG_VERSION'), '99\n')],
    ['no-control', (f) => fs.rmSync(path.join(f, 'global', 'pg_control'))],
    ['torn-control', (f) => overwrite(path.join(f, 'global', 'pg_control'), 0, Buffer.alloc(300, 0xa5))],
    ['no-log', (f) => fs.rmSync(path.join(f, 'pg_wal'), { recursive: true })],
    [
      'torn-log',
      (f) => largest(path.join(f, 'pg_wal')).forEach((w) => overwrite(w, 0, Buffer.alloc(65536, 0x5a))),
    ],
    ['no-base', (f) => fs.rmSync(path.join(f, 'base'), { recursive: true })],
    ['empty-files', (f) => inBase(f).forEach((w) => fs.truncateSync(w, 0))],
    ['torn-files', (f) => inBase(f).forEach((w) => overwrite(w, 100, Buffer.alloc(600, 0xff)))],
    ['cut-files', (f) => inBase(f).forEach((w) => fs.truncateSync(w, Math.floor(fs.statSync(w).size / 3)))],
    ['no-catalogue', (f) => fs.rmSync(path.join(f, 'global'), { recursive: true })],
    ['a-file', (f) => (fs.rmSync(f, { recursive: true }), fs.writeFileSync(f, 'no folder'))],
    ['emptied', (f) => fs.readdirSync(f).forEach((n) => fs.rmSync(path.join(f, n), { recursive: true }))],
  ])(
    '%s: it opens, and nothing that only it knew is lost',
    async (name, damage) => {
      const { found, setAside, names } = await opened(name, damage);
      expect([name, found]).toEqual([name, kept]);
      // Some are repaired by the database itself; whatever was set aside is there whole.
      expect(names).toEqual(
        setAside ? ['database', 'database-damaged', 'known.json'] : ['database', 'known.json'],
      );
    },
    60_000,
  );
});

describe('a thread that dies', () => {
  test('is replaced: what was asked just then fails, what is asked next is answered', async () => {
    const folder = `${base}/dies`;
    fs.cpSync(`${base}/whole/database`, folder, { recursive: true });
    const pool = openPool<Question, Reply>('database', { least: 1, most: 1, together: 1000 });
    const db = overPool(pool, folder);
    await db.query("INSERT INTO setting (name, value) VALUES ('before', '1')");
    const kill = async () => {
      await expect(
        pool.run({ folder, sql: 'SELECT pg_sleep(20)' }, { signal: AbortSignal.timeout(50) }),
      ).rejects.toThrow();
    };
    await kill();
    expect(await q.readSetting(db, 'before')).toBe('1');
    // In the middle of a transaction: none of it counts, and its rest is not taken for statements of their own.
    await expect(
      db.transaction(async (queries) => {
        await queries.query("INSERT INTO setting (name, value) VALUES ('half', '1')");
        await kill();
        await queries.query("INSERT INTO setting (name, value) VALUES ('other half', '1')");
      }),
    ).rejects.toThrow('started anew');
    expect([await q.readSetting(db, 'half'), await q.readSetting(db, 'other half')]).toEqual([null, null]);
    await db.transaction((queries) =>
      queries.query("INSERT INTO setting (name, value) VALUES ('after', '1')"),
    );
    expect(await q.readSetting(db, 'after')).toBe('1');
    await db.close();
  }, 60_000);
});

test('a statement that fails in a transaction takes back those before it', async () => {
  fs.cpSync(`${base}/whole`, `${base}/fails`, { recursive: true });
  const { db } = await openEmbedded(`${base}/fails/database`);
  await expect(
    db.transaction(async (queries) => {
      await queries.query("INSERT INTO setting (name, value) VALUES ('x', '1')");
      await queries.query('SELECT nothing FROM nowhere');
    }),
  ).rejects.toThrow();
  // What others ask meanwhile is no part of it.
  const [inside, beside] = await Promise.all([
    db.transaction(async (queries) => {
      await queries.query("INSERT INTO setting (name, value) VALUES ('y', '1')");
      return (await queries.query<{ n: number }>('SELECT count(*) AS n FROM setting')).at(0)!.n;
    }),
    db.query<{ n: number }>('SELECT count(*) AS n FROM setting'),
  ]);
  expect([inside, beside[0]!.n, await q.readSetting(db, 'x')]).toEqual([2, 2, null]);
  await db.close();
}, 60_000);

test('the small file that is damaged is passed over', async () => {
  const home = `${base}/spoilt`;
  fs.cpSync(`${base}/whole`, home, { recursive: true });
  fs.writeFileSync(`${home}/known.json`, '{"format":1,"allowed":[');
  const { db } = await openEmbedded(`${home}/database`);
  expect(await recallKnown(db, home)).toBe(false);
  expect(await all(db)).toEqual(kept);
  await db.close();
}, 60_000);
