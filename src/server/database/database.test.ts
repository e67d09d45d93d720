// The same statements on PGlite and, where its programs are on this machine, on a real PostgreSQL server started for the test.

import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { spawnSync } from 'node:child_process';
import net from 'node:net';
import type { IndexRow } from '@/wire/jobs';
import { migrate, openServer, type Database } from './database';
import { migrations } from './migrations';
import * as overview from './overviewQueries';
import { ensureTrigrams, whoUses } from './anywhereQueries';
import * as allowed from './allowedQueries';
import * as q from './queries';
import { inMemory } from './testing/inMemory';
import { postgresBin, postgresHere, type PostgresHere } from './testing/postgres';
import { deepTest } from '@/core/files/testing/depth';

const found = {
  references: 1,
  ready: 1,
  files: 2,
  bytes: 3,
  largest: [],
  lastVersion: null,
  unused: { files: 0, bytes: 0 },
};
const row = (scene: string, ord: number, more: Partial<IndexRow> = {}): IndexRow => ({
  scene,
  ord,
  format: 'gltf',
  at: `/images/${ord}/uri`,
  kind: 'texture',
  written: `../t/${ord}.png`,
  state: 'travels',
  target: `t/${ord}.png`,
  inside: true,
  ready: true,
  oddities: [],
  uses: ['hull › planks · base colour'],
  size: 12,
  targets: 1,
  gaps: [],
  ...more,
});

function suite(open: () => Promise<Database>, hasTrigrams: boolean): void {
  let db: Database;
  beforeAll(async () => {
    db = await open();
  }, 60_000);
  afterAll(() => db.close());

  test('migrating twice changes nothing', async () => {
    await migrate(db);
    expect((await db.query<{ n: number }>('SELECT count(*) AS n FROM migration'))[0]!.n).toBe(
      migrations.length,
    );
  });
  test('places and settings', async () => {
    await allowed.addAllowed(db, '/a');
    await allowed.addAllowed(db, '/a');
    await allowed.addAllowed(db, '/b');
    await allowed.removeAllowed(db, '/b');
    expect(await allowed.listAllowed(db)).toEqual(['/a']);
    await q.writeSetting(db, 'x', '1');
    await q.writeSetting(db, 'x', '2');
    expect([await q.readSetting(db, 'x'), await q.readSetting(db, 'y')]).toEqual(['2', null]);
  });
  test('a scan is shown when it is whole; the one before goes; one that was cut off leaves nothing', async () => {
    await q.rememberWorkspace(db, 'w', '/w', 'W');
    const first = await q.beginScan(db, 'w');
    await q.addRows(db, 'w', first, [
      row('a.gltf', 0),
      row('a.gltf', 1, { state: 'missing', target: null, ready: false, size: null }),
      row('b.gltf', 0, { written: 'x_100%.png', oddities: ['backslash'], ready: false, uses: [] }),
    ]);
    await q.addProblems(db, 'w', first, [{ scene: 'b.gltf', code: 'backslash', message: 'm' }]);
    expect((await overview.readTotals(db, 'w')).references).toBe(0);
    await q.endScan(db, 'w', first, found);
    expect(await overview.readTotals(db, 'w')).toEqual({
      references: 3,
      ready: 1,
      scenes: 2,
      byState: { travels: 2, missing: 1 },
      odd: 1,
      gapped: 0,
      withLibraries: 1,
      problems: [{ scene: 'b.gltf', code: 'backslash', message: 'm' }],
    });
    const cut = await q.beginScan(db, 'w');
    await q.addRows(db, 'w', cut, [row('c.gltf', 0)]);
    expect(await q.beginScan(db, 'w')).toBe(cut);
    await q.addRows(db, 'w', cut, [row('c.gltf', 0)]);
    await q.endScan(db, 'w', cut, { ...found, files: 9 });
    expect(JSON.parse((await q.findWorkspace(db, 'w'))!.found!)).toEqual({ ...found, files: 9 });
    expect((await overview.readTotals(db, 'w')).references).toBe(1);
    expect((await q.findWorkspace(db, 'w'))!.scanned).toBeGreaterThan(1_700_000_000_000);
  });
  test('all rows, and those of some scenes', async () => {
    const g = await q.beginScan(db, 'w');
    const rows = Array.from({ length: 1200 }, (_, i) =>
      row(
        `s${String(i % 4)}.gltf`,
        i,
        i % 4 === 2 && i % 8 === 2 ? { state: 'missing', ready: false, written: `gone_${i}.png` } : {},
      ),
    );
    await q.addRows(db, 'w', g, rows);
    await q.endScan(db, 'w', g, found);
    const all = await q.listAllRows(db, 'w');
    expect(all.map((r) => `${r.scene} ${r.ord}`)).toEqual(
      rows
        .toSorted((a, b) => (a.scene < b.scene ? -1 : a.scene > b.scene ? 1 : a.ord - b.ord))
        .map((r) => `${r.scene} ${r.ord}`),
    );
    expect(all[0]).toMatchObject({ format: 'gltf', written: '../t/0.png' });
    expect((await q.listRowsOf(db, 'w', ['s1.gltf', 'gone'])).length).toBe(300);
    expect((await overview.listAttention(db, 'w', 5)).length).toBe(5);
    expect((await q.listUsers(db, 'w', 't/3.png')).map((u) => u.scene)).toEqual(['s3.gltf']);
    // One of each kind of trouble, the first by scene and order.
    const again = await q.beginScan(db, 'w');
    await q.addRows(db, 'w', again, [
      row('b.gltf', 0, { state: 'missing', ready: false }),
      row('a.gltf', 2, { state: 'missing', ready: false }),
      row('a.gltf', 1, { ready: false, gaps: [3] }),
      row('a.gltf', 0, { ready: false, oddities: ['backslash'] }),
      row('a.gltf', 3),
    ]);
    await q.endScan(db, 'w', again, found);
    expect(
      (await overview.listTroubles(db, 'w')).map((t) => [t.trouble, Number(t.n), t.scene, t.at]),
    ).toEqual([
      ['gaps', 1, 'a.gltf', row('a.gltf', 1).at],
      ['missing', 2, 'a.gltf', row('a.gltf', 2).at],
      ['odd', 1, 'a.gltf', row('a.gltf', 0).at],
    ]);
  });
  test('what differs is taken up; files are found by folder, by use, by name', async () => {
    const file = (path: string, uses = 0, size = 10) => ({
      path,
      kind: 'texture',
      size,
      modified: 1,
      uses,
      unused: uses === 0,
    });
    let g = await q.beginScan(db, 'w');
    await q.addRows(db, 'w', g, [
      row('a.gltf', 0),
      row('b.gltf', 0),
      row('c.gltf', 0, { targets: 3, target: 't/w.<UDIM>.png' }),
    ]);
    await q.addProblems(db, 'w', g, [{ scene: 'a.gltf', code: 'x', message: 'x' }]);
    await q.addFiles(db, 'w', g, [
      file('t/1.png'),
      file('t/2.png', 1),
      file('t/deep/3.png'),
      file('4.png', 0, 99),
    ]);
    await q.endScan(db, 'w', g, found);
    expect((await q.listFilesIn(db, 'w', 't/')).map((f) => f.path).sort()).toEqual(['t/1.png', 't/2.png']);
    expect((await q.listFilesIn(db, 'w', '')).map((f) => f.path)).toEqual(['4.png']);
    const sums = await q.sumFoldersIn(db, 'w', '');
    const below = (await q.listFilesBelow(db, 'w', 't', 100)).filter((f) => f.path.startsWith('t/'));
    expect(sums.find((f) => f.name === 't')).toEqual({
      name: 't',
      files: below.length,
      bytes: below.reduce((sum, f) => sum + f.size, 0),
      modified: Math.max(...below.map((f) => f.modified)),
    });
    expect(sums.map((f) => f.name)).not.toContain('4.png');
    expect((await q.listUnused(db, 'w', 0, 2)).map((f) => f.path)).toEqual(['4.png', 't/1.png']);
    expect((await q.listSequencesIn(db, 'w', 't/')).map((s) => s.target)).toEqual(['t/w.<UDIM>.png']);
    g = await q.beginScan(db, 'w');
    await q.addRows(db, 'w', g, [row('b.gltf', 0, { written: 'new.png' })]);
    await q.addFiles(db, 'w', g, [file('t/1.png', 2)]);
    await q.mergeScan(db, 'w', {
      found: { ...found, files: 7 },
      delta: { scenes: ['a.gltf', 'b.gltf'], files: ['t/1.png', '4.png'] },
    });
    const rows = await q.listAllRows(db, 'w');
    expect(rows.map((r) => [r.scene, r.written === 'new.png']).sort()).toEqual([
      ['b.gltf', true],
      ['c.gltf', false],
    ]);
    expect([
      (await overview.readTotals(db, 'w')).problems,
      await q.findFile(db, 'w', '4.png'),
      (await q.findFile(db, 'w', 't/1.png'))!.uses,
    ]).toEqual([[], null, 2]);
    expect(JSON.parse((await q.findWorkspace(db, 'w'))!.found!).files).toBe(7);
  });
  describe('who uses a file anywhere', () => {
    const [here, there] = [
      { id: 'here', root: '/s/here', references: 6 },
      { id: 'there', root: '/s/there', references: 3 },
    ];
    const long = `${'very long '.repeat(2000)}.png`;
    const outside = (ord: number, target: string) => row('far.gltf', ord, { target, inside: false });
    beforeAll(async () => {
      for (const [w, rows] of [
        [
          here,
          [
            row('a.gltf', 0, { target: 'tex/Rust_Albedo.PNG' }),
            row('a.gltf', 1, { target: 'tex/100%_rust.png' }),
            row('a.gltf', 2, { target: null, state: 'missing', written: 'D:\\old\\rust_old.png' }),
            row('a.gltf', 3, { target: null, state: 'missing', written: long }),
            row('a.gltf', 4, { target: 'lib/rust.png' }),
            row('a.gltf', 5, { target: 'other/lib/rust.png' }),
          ],
        ],
        [there, [outside(0, '/s/here/lib/rust.png'), outside(1, '/S/HERE/lib/rust.png'), row('b.gltf', 2)]],
      ] as const) {
        await q.rememberWorkspace(db, w.id, w.root, w.id);
        await q.addRows(db, w.id, await q.beginScan(db, w.id), rows);
        await q.endScan(db, w.id, 1, found);
        // Rows of a reading that is not whole yet are nobody's.
        await q.addRows(db, w.id, 2, [row('later.gltf', 0, { target: 'lib/rust.png' })]);
      }
    });
    afterAll(async () => {
      for (const { id } of [here, there]) await q.forgetWorkspace(db, id);
    });
    const asks = async (text: string, of = [here, there], references = 6) => {
      const all = of.map((w) => ({ ...w, references }));
      const { by, rows } = await whoUses(db, all, text, 100);
      return [by, ...rows.map((r) => `${r.workspace} ${r.path}`).sort()];
    };
    const oldOne = 'here D:/old/rust_old.png';
    const parts = async () => {
      expect(await asks('albedo')).toEqual(['part', 'here /s/here/tex/Rust_Albedo.PNG']);
      expect(await asks('RUST_')).toEqual(['part', 'here /s/here/tex/Rust_Albedo.PNG', oldOne]);
      expect(await asks('%_r')).toEqual(['part', 'here /s/here/tex/100%_rust.png']);
      expect(await asks('zz')).toEqual(['part']);
      // Longer than what is looked up of it: all of it counts.
      expect(await asks('ust_albedo.PNG')).toEqual(['part', 'here /s/here/tex/Rust_Albedo.PNG']);
      expect(await asks('ust_albedo.PNX')).toEqual(['part']);
    };
    test('by a part of a name, whatever stands in it', parts);
    test('by a path or its end, inside or from elsewhere; of a whole path the letters count where one is so', async () => {
      expect(await asks('lib/rust.png')).toEqual([
        'path',
        'here /s/here/lib/rust.png',
        'here /s/here/other/lib/rust.png',
        'there /S/HERE/lib/rust.png',
        'there /s/here/lib/rust.png',
      ]);
      expect(await asks('/s/here/lib/rust.png')).toEqual([
        'path',
        'here /s/here/lib/rust.png',
        'there /s/here/lib/rust.png',
      ]);
      expect(await asks('ib/rust.png')).toEqual(['path']);
      expect(await asks('old\\RUST_old.png')).toEqual(['path', oldOne]);
      expect(await asks('/s/here/lib/')).toEqual(['path']);
    });
    test('where there are very many, only by how names begin', async () => {
      expect(await asks('rust_', [here, there], 1_000_000)).toEqual([
        ...['beginning', 'here /s/here/tex/Rust_Albedo.PNG', oldOne],
      ]);
    });
    test('only of the workspaces that are asked for', async () => {
      expect(await asks('rust.png', [there])).toEqual([
        'part',
        'there /S/HERE/lib/rust.png',
        'there /s/here/lib/rust.png',
      ]);
    });
    test('with trigrams where the server has them: the same, of as many as there are', async () => {
      const has = await ensureTrigrams(db);
      expect(await ensureTrigrams(db)).toBe(has);
      expect(has).toBe(hasTrigrams);
      await parts();
      expect((await asks('albedo', [here], 1_000_000))[0]).toBe(has ? 'part' : 'beginning');
    });
  });
  test('forgetting a workspace forgets its rows', async () => {
    await q.forgetWorkspace(db, 'w');
    expect([
      (await db.query<{ n: number }>('SELECT count(*) AS n FROM reference_row'))[0]!.n,
      await q.findWorkspace(db, 'w'),
    ]).toEqual([0, null]);
  });
}

describe('PGlite', () =>
  suite(async () => {
    const db = await inMemory();
    await migrate(db);
    return db;
  }, false));

// PostgreSQL 15 documentation, "Message Formats": a byte for the kind, the length with itself, what it says.
const message = (kind: string, ...said: Buffer[]) => {
  const body = Buffer.concat(said);
  const head = Buffer.alloc(5);
  head.write(kind);
  head.writeInt32BE(4 + body.length, 1);
  return Buffer.concat([head, body]);
};

test('a server that says in one packet that one is in and is cut off: it is away, and no process ends by it', async () => {
  const ready = [message('R', Buffer.alloc(4)), message('Z', Buffer.from('I'))];
  const cut = message('E', Buffer.from('SFATAL\0C57P01\0Mterminating connection\0\0'));
  let met = 0;
  const server = net
    .createServer((socket) => {
      socket.on('error', () => undefined);
      socket.once('data', () => {
        met++;
        socket.end(Buffer.concat([...ready, cut]));
      });
    })
    .listen(0, '127.0.0.1');
  await new Promise((listening) => server.once('listening', listening));
  const { port } = server.address() as net.AddressInfo;
  await expect(openServer(`postgres://any@127.0.0.1:${port}/any`)).rejects.toMatchObject({
    code: 'no-database',
  });
  expect(met).toBeGreaterThan(0);
  await new Promise((closed) => server.close(closed));
});

const bin = postgresBin();
(bin ? describe : describe.skip)('PostgreSQL', () => {
  let server!: PostgresHere;
  let url = '';
  afterAll(() => server.close());
  suite(async () => {
    server = postgresHere(bin!);
    url = server.url();
    return openServer(url);
  }, true);

  /** Cuts every connection but its own, as a failing network or a careless administrator does. */
  async function cutAll(): Promise<void> {
    const { default: pg } = await import('pg');
    const other = new pg.Client({ connectionString: url });
    await other.connect();
    await other.query('SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE pid <> pg_backend_pid()');
    await other.end();
  }
  const codeOf = (work: Promise<unknown>) =>
    work.then(
      () => 'done',
      (cause: { code?: string }) => cause.code,
    );

  deepTest(
    'cut off at any moment of a merge: the index is as before or as after, never between',
    async () => {
      const db = await openServer(url);
      await q.rememberWorkspace(db, 'cut', '/cut', 'Cut');
      const rows = (n: number) => Array.from({ length: n }, (_, i) => row(`s${i % 50}.gltf`, i));
      await q.addRows(db, 'cut', await q.beginScan(db, 'cut'), rows(1500));
      await q.endScan(db, 'cut', 1, found);
      let held = 1500;
      const seen = new Set<string>();
      for (let n = 0; n < 24; n++) {
        const next = held === 1500 ? 1700 : 1500;
        const generation = await q.beginScan(db, 'cut');
        await q.addRows(db, 'cut', generation, rows(next));
        const scenes = Array.from({ length: 50 }, (_, i) => `s${i}.gltf`);
        const merging = codeOf(q.mergeScan(db, 'cut', { found, delta: { scenes, files: [] } }));
        await new Promise((wait) => setTimeout(wait, n));
        await cutAll();
        const how = await merging;
        seen.add(String(how));
        expect(['done', 'no-database']).toContain(how);
        const { references } = await overview.readTotals(db, 'cut');
        // Where the answer was lost on its way back, it may be done all the same.
        expect(how === 'done' ? [next] : [held, next]).toContain(references);
        held = references;
      }
      expect(seen.has('no-database')).toBe(true);
      await db.close();
    },
    60_000,
  );

  test('connections that were lost while they lay idle: what is asked next is answered all the same', async () => {
    const db = await openServer(url);
    await q.rememberWorkspace(db, 'idle', '/idle', 'Idle');
    // While another process ends them nothing is read here, so that nobody knows of the loss before it asks.
    const idleAndLost = async () => {
      await Promise.all(Array.from({ length: 4 }, () => db.query('SELECT pg_sleep(0.05)')));
      const ended = spawnSync('su', [
        'postgres',
        '-c',
        `${bin}/psql -h 127.0.0.1 -p ${server.port} -Atc "SELECT count(pg_terminate_backend(pid)) FROM pg_stat_activity WHERE pid <> pg_backend_pid() AND backend_type = 'client backend'"`,
      ]);
      expect(Number(ended.stdout.toString())).toBeGreaterThanOrEqual(4);
    };
    await idleAndLost();
    expect(await db.query('SELECT name FROM workspace WHERE id = $1', ['idle'])).toEqual([{ name: 'Idle' }]);
    await idleAndLost();
    await db.transaction((queries) =>
      queries.query('UPDATE workspace SET name = $1 WHERE id = $2', ['Idle again', 'idle']),
    );
    expect(await db.query('SELECT name FROM workspace WHERE id = $1', ['idle'])).toEqual([
      { name: 'Idle again' },
    ]);
    await db.close();
  });

  test('cut off in the first migration: it starts again', async () => {
    const fresh = server.url('fresh');
    for (let n = 0; n < 12; n++) {
      const opening = codeOf(openServer(fresh).then((db) => db.close()));
      await new Promise((wait) => setTimeout(wait, n * 4));
      await cutAll();
      expect(['done', 'no-database']).toContain(await opening);
    }
    const db = await openServer(fresh);
    expect((await db.query<{ n: number }>('SELECT count(*) AS n FROM migration'))[0]!.n).toBe(
      migrations.length,
    );
    await db.close();
  }, 60_000);

  test('a server that is away is said, and waited for by nobody; once it is back all goes on', async () => {
    const db = await openServer(url);
    server.kill();
    expect(await codeOf(allowed.listAllowed(db))).toBe('no-database');
    expect(await codeOf(db.transaction((queries) => queries.query('SELECT 1')))).toBe('no-database');
    server.start();
    expect(await codeOf(allowed.listAllowed(db))).toBe('done');
    await db.close();
  }, 60_000);
});
