// The embedded database in its thread: damaged in every way we could think of, it is set aside and made anew, and what only it knew comes back from
// the small file; a thread that dies is replaced, and takes no half of a transaction along.

import { afterAll, beforeAll, describe, expect } from '@jest/globals';
import { spawnSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { checkDataFormat, ownFormat, writeDataFormat } from '../dataFormat';
import { keepingKnown, recallKnown } from '../known';
import { migrate, type Database } from './database';
import { openDatabasePool, openEmbedded, overPool } from './embeddedDatabase';
import { migrations } from './migrations';
import * as allowed from './allowedQueries';
import * as q from './queries';
import { emptyPGlite, over } from './testing/inMemory';
import { deepTest, test } from '@/core/files/testing/depth';

let base = '';
beforeAll(async () => {
  base = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-embedded-'));
  const { db: plain } = await openEmbedded(`${base}/whole/database`);
  const db = keepingKnown(plain, `${base}/whole`);
  await allowed.addAllowed(db, '/a/ä folder');
  await allowed.addAllowed(db, '/b');
  await q.rememberWorkspace(db, 'w1', '/a/ä folder/Harbour', 'Harbour');
  await q.writeSetting(db, 'theme', 'night');
  await db.close();
}, 60_000);
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));

const all = async (db: Database) => ({
  allowed: await allowed.listAllowed(db),
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
  deepTest.each<[string, (folder: string) => void]>([
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

// A small drive, where the system lets us make one.
const drive = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-small-')));
const sized = (how: string) =>
  spawnSync('mount', ['-t', 'tmpfs', '-o', how, 'tmpfs', drive], { stdio: 'ignore' }).status === 0;
const isSmall = sized('size=24m');
afterAll(() => {
  if (isSmall) spawnSync('umount', [drive]);
  fs.rmSync(drive, { recursive: true, force: true });
});
(isSmall ? describe : describe.skip)('a drive that is full', () => {
  /** Leaves so many bytes free. */
  const fill = (spare = 0) => {
    const { bavail, bsize } = fs.statfsSync(drive);
    fs.writeFileSync(`${drive}/filler`, Buffer.alloc(bavail * bsize - spare));
  };
  deepTest(
    'no new database is half made; it is once there is room',
    async () => {
      await expect(openEmbedded(`${drive}/new/database`)).rejects.toMatchObject({
        code: 'disk-full',
        message: expect.stringContaining('Make some (100 MB)'),
      });
      expect(fs.readdirSync(drive, { recursive: true })).toEqual(['new', 'new/database']);
      sized('remount,size=300m');
      const { db, setAside } = await openEmbedded(`${drive}/new/database`);
      expect([setAside, await q.listWorkspaces(db)]).toEqual([null, []]);
      await db.close();
      fs.rmSync(`${drive}/new`, { recursive: true });
    },
    60_000,
  );
  deepTest(
    'a whole one is opened or left, and never set aside; what does not fit any more is said, and the rest goes on',
    async () => {
      fs.cpSync(`${base}/whole`, `${drive}/whole`, { recursive: true });
      fill();
      const full = await openEmbedded(`${drive}/whole/database`).catch((cause: unknown) => cause);
      if (full instanceof Error) expect(full).toMatchObject({ code: 'disk-full' });
      else await (full as { db: Database }).db.close();
      expect(fs.readdirSync(`${drive}/whole`).sort()).toEqual(['database', 'known.json']);
      fs.rmSync(`${drive}/filler`);
      const { db, setAside } = await openEmbedded(`${drive}/whole/database`);
      expect([setAside, await all(db)]).toEqual([null, kept]);
      fill();
      const filling = async () => {
        for (let n = 0; n < 400; n++) await q.writeSetting(db, `s${n}`, randomBytes(50_000).toString('hex'));
      };
      await expect(filling()).rejects.toMatchObject({ code: 'disk-full', unchanged: 'No file was changed.' });
      fs.rmSync(`${drive}/filler`);
      expect(await all(db)).toEqual(kept);
      await db.close();
      const { db: again, setAside: none } = await openEmbedded(`${drive}/whole/database`);
      expect([none, await all(again)]).toEqual([null, kept]);
      // Of a newer version: that is said, and not that there is little room.
      await again.query('INSERT INTO migration (number) VALUES (900)');
      await again.close();
      fill(50e6);
      await expect(openEmbedded(`${drive}/whole/database`)).rejects.toMatchObject({ code: 'newer-format' });
      expect(fs.readdirSync(`${drive}/whole`).sort()).toEqual(['database', 'known.json']);
    },
    60_000,
  );
});

describe('a thread that dies', () => {
  test('is replaced: what was asked just then fails, what is asked next is answered', async () => {
    const folder = `${base}/dies`;
    fs.cpSync(`${base}/whole/database`, folder, { recursive: true });
    const pool = openDatabasePool();
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

describe('left alone', () => {
  test('the database is closed, its thread ends, and what is asked next is answered', async () => {
    const folder = `${base}/rests`;
    fs.cpSync(`${base}/whole/database`, folder, { recursive: true });
    const pool = openDatabasePool(40);
    const db = overPool(pool, folder, 40);
    const openings = new Set<string>();
    const opening = async () => openings.add((await pool.run({ folder, sql: 'SELECT 1' })).opening);
    for (let n = 0; n < 3; n++) {
      await q.writeSetting(db, 'n', String(n));
      await opening();
      await new Promise((wait) => setTimeout(wait, 200));
      // Several at once while it is closed or just being closed.
      const read = await Promise.all(Array.from({ length: 5 }, () => q.readSetting(db, 'n')));
      expect(new Set(read)).toEqual(new Set([String(n)]));
    }
    await opening();
    expect(openings.size).toBeGreaterThan(2);
    await db.close();
  }, 60_000);
  test('not in the middle of a transaction', async () => {
    const folder = `${base}/waits`;
    fs.cpSync(`${base}/whole/database`, folder, { recursive: true });
    const db = overPool(openDatabasePool(20), folder, 20);
    await db.transaction(async (queries) => {
      await queries.query("INSERT INTO setting (name, value) VALUES ('first', '1')");
      await new Promise((wait) => setTimeout(wait, 300));
      await queries.query("INSERT INTO setting (name, value) VALUES ('second', '2')");
    });
    expect([await q.readSetting(db, 'first'), await q.readSetting(db, 'second')]).toEqual(['1', '2']);
    await db.close();
  }, 60_000);
});

describe('what is known', () => {
  test('is answered from memory until it changes, also while it is changed', async () => {
    const asked: string[] = [];
    const rows = new Map<string, object[]>();
    const slow = { wait: Promise.resolve() };
    const plain: Database = {
      query: async <Row>(sql: string) => {
        asked.push(sql);
        const answer = structuredClone(rows.get(sql) ?? []);
        await slow.wait;
        return answer as Row[];
      },
      transaction: (work) => work(plain),
      close: () => Promise.resolve(),
    };
    const db = keepingKnown(plain, base);
    const places = 'SELECT path FROM place';
    rows.set(places, [{ path: '/a' }]);
    const first = await db.query<{ path: string }>(places);
    first[0]!.path = 'changed by who asked';
    expect(await db.query(places)).toEqual([{ path: '/a' }]);
    expect(asked).toEqual([places]);
    // An answer that was under way as something changed is not kept.
    await db.query('UPDATE place SET path = $1', ['/b']);
    let go = () => {};
    slow.wait = new Promise((done) => (go = done));
    const before = db.query(places);
    const changing = db.transaction((queries) => queries.query("INSERT INTO place (path) VALUES ('/c')"));
    rows.set(places, [{ path: '/c' }]);
    go();
    await Promise.all([before, changing]);
    expect(await db.query(places)).toEqual([{ path: '/c' }]);
    // Of other tables nothing is kept.
    const joined = 'SELECT f.path FROM file_row f JOIN workspace w ON w.id = f.workspace';
    asked.length = 0;
    await db.query(joined);
    await db.query(joined);
    // The small file of known folders may be written at the same time.
    expect(asked.filter((sql) => sql === joined)).toEqual([joined, joined]);
    await db.close();
  });
});

describe('of another version', () => {
  test('a newer database is refused and stays as it is', async () => {
    const folder = `${base}/newer`;
    fs.cpSync(`${base}/whole/database`, folder, { recursive: true });
    const { db } = await openEmbedded(folder);
    await db.query('INSERT INTO migration (number) VALUES (900)');
    await db.close();
    await expect(openEmbedded(folder)).rejects.toMatchObject({ code: 'newer-format' });
    expect(fs.readdirSync(base).filter((n) => n.startsWith('newer-damaged'))).toEqual([]);
  }, 120_000);

  deepTest(
    'tables of each older version are taken over with what is in them',
    async () => {
      const pglite = await emptyPGlite();
      const db = over(pglite);
      for (let version = 1; version <= migrations.length; version++) {
        // A place of its own for each, in one database.
        await pglite.exec(`CREATE SCHEMA of${version}; SET search_path TO of${version}`);
        await pglite.exec('CREATE TABLE migration (number int PRIMARY KEY)');
        for (const [i, sql] of migrations.slice(0, version).entries()) {
          await pglite.exec(`${sql}; INSERT INTO migration VALUES (${i + 1})`);
          await pglite.exec(`INSERT INTO place (path) VALUES ('/of ${i + 1}')`);
          if (i === 0) await pglite.exec("INSERT INTO workspace (id, root, name) VALUES ('w', '/w', 'W')");
        }
        await migrate(db);
        const places = Array.from({ length: version }, (_, n) => `/of ${n + 1}`);
        expect([(await allowed.listAllowed(db)).sort(), (await q.findWorkspace(db, 'w'))!.name]).toEqual([
          places.sort(),
          'W',
        ]);
        expect((await db.query('SELECT number FROM migration')).length).toBe(migrations.length);
      }
      await db.close();
    },
    60_000,
  );

  deepTest(
    'a data folder of the first version is opened by the server of today',
    async () => {
      const first = `${base}/first`;
      const pglite = await emptyPGlite({ dataDir: first });
      await pglite.exec(`CREATE TABLE migration (number int PRIMARY KEY); ${migrations[0]!}`);
      await pglite.exec(
        "INSERT INTO migration VALUES (1); INSERT INTO workspace (id, root, name) VALUES ('w', '/w', 'W')",
      );
      await pglite.close();
      const { db } = await openEmbedded(first);
      expect((await q.findWorkspace(db, 'w'))!.name).toBe('W');
      expect((await db.query('SELECT number FROM migration')).length).toBe(migrations.length);
      await db.close();
    },
    120_000,
  );
  test('a data folder that a newer version has used is refused before anything in it is opened', () => {
    const folder = fs.mkdtempSync(`${base}/data-`);
    checkDataFormat(folder); // of a version before the file was written
    writeDataFormat(folder);
    checkDataFormat(folder);
    for (const newer of [
      { ...ownFormat, format: ownFormat.format + 1 },
      { ...ownFormat, tables: ownFormat.tables + 1 },
      { format: 2, tables: 0, more: ['?'] },
    ]) {
      fs.writeFileSync(`${folder}/data.json`, JSON.stringify(newer));
      expect(() => checkDataFormat(folder)).toThrow('newer version');
    }
    fs.writeFileSync(`${folder}/data.json`, '{"form');
    checkDataFormat(folder); // torn: not by a newer version, which writes it whole or not at all
    writeDataFormat(folder);
    expect(JSON.parse(fs.readFileSync(`${folder}/data.json`, 'utf8'))).toEqual(ownFormat);
  });
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
