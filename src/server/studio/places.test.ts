// An allowed folder is known by its mark: not by its path, nor by what somebody else laid there.

import { afterAll, beforeAll, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { addAllowed, listTokens, removeAllowed } from '../database/allowedQueries';
import { migrate, type Database } from '../database/database';
import { inMemory } from '../database/testing/inMemory';
import { DiskTree } from '../disk/diskTree';
import { mark, placesHere } from './places';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-places-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));
let db: Database;
beforeAll(async () => {
  db = await inMemory();
  await migrate(db);
}, 60_000);
afterAll(() => db.close());

const isHere = async (folder: string) => (await placesHere(db, false)).find((p) => p.path === folder)?.isHere;
const token = async (folder: string) => (await listTokens(db)).find((p) => p.path === folder)?.token ?? null;

test('is marked once something lies in it, and after that known by the mark alone', async () => {
  const show = `${base}/show`;
  await addAllowed(db, show);
  expect([await isHere(show), await token(show)]).toEqual([false, null]); // not there
  fs.mkdirSync(show);
  expect([await isHere(show), await token(show)]).toEqual([false, null]); // what a share would be mounted on
  // On the server's own machine it was allowed so.
  expect((await placesHere(db, true)).map((p) => p.isHere)).toEqual([true]);
  expect([await token(show), fs.readdirSync(show)]).toEqual([null, []]);
  fs.writeFileSync(`${show}/a.txt`, 'A');
  expect([await isHere(show), await token(show)]).toEqual([true, expect.stringMatching(/^[0-9a-f]{32}$/)]);
  fs.renameSync(show, `${show} away`);
  fs.mkdirSync(show);
  fs.writeFileSync(`${show}/b.txt`, 'B');
  expect(await isHere(show)).toBe(false);
  // Nobody marks it anew: the mark that counts is elsewhere.
  expect(fs.readdirSync(show)).toEqual(['b.txt']);
  fs.rmSync(show, { recursive: true });
  fs.renameSync(`${show} away`, show);
  expect(await isHere(show)).toBe(true);
  // Allowed anew, or by another server, it keeps its mark.
  const before = await token(show);
  await removeAllowed(db, show);
  await addAllowed(db, show);
  expect([await mark(db, show), await isHere(show)]).toEqual([before, true]);
  // It is nothing that lies in a workspace.
  const names: string[] = [];
  for await (const f of new DiskTree(show).list()) names.push(f.path);
  expect(names).toEqual(['a.txt']);
});

test('of two that mark it at once one counts for both; a damaged mark is none', async () => {
  const lib = `${base}/lib`;
  fs.mkdirSync(lib);
  fs.writeFileSync(`${lib}/a.txt`, 'A');
  await addAllowed(db, lib);
  const tokens = await Promise.all(Array.from({ length: 8 }, () => mark(db, lib)));
  expect(new Set(tokens.filter((t) => t !== null)).size).toBe(1);
  expect(await isHere(lib)).toBe(true);
  fs.writeFileSync(`${lib}/.satchel-place`, 'of another');
  expect(await isHere(lib)).toBe(false);
});
