// A plain copy on a real disk: whole at every moment, never of two workspaces at once, and nothing of it is lost or passed over unsaid.

import { afterAll, expect, test } from '@jest/globals';
import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import type { AppError } from '@/core/errors';
import { onFailingDisk } from '../disk/testing/failingCalls';
import { sameDisk } from '../disk/testing/wholeDisk';
import { withLock } from '../workspaces/changing';
import { mirrorTo } from './mirror';
import { disksBelow } from './testing/workspaces';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-mirror-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));
const { everything, fresh, put, workspaceAt } = disksBelow(base);
const drive = () => {
  const folder = fresh('m');
  fs.mkdirSync(folder);
  return folder;
};
const failureOf = (work: Promise<unknown>) =>
  work.then(
    () => null,
    (cause: unknown) => cause as AppError,
  );

test('is kept up to date; what was changed or taken away lies aside', async () => {
  const [root, folder] = [workspaceAt(), drive()];
  await mirrorTo(root, folder);
  const hull = fs.readFileSync(path.join(root, 'textures/hull.png'));
  put(root, { 'textures/hull.png': 'other' });
  fs.rmSync(path.join(root, 'caches/sea.abc'));
  const now = new Date('2026-11-27T18:00:00Z');
  const done = await mirrorTo(root, folder, { now });
  expect([done.copied, done.same, done.aside]).toEqual([1, 4, 2]);
  const aside = path.join(folder, 'Boat (before)', '2026-11-27 18-00-00');
  expect(fs.readFileSync(path.join(aside, 'textures/hull.png')).equals(hull)).toBe(true);
  expect(fs.existsSync(path.join(folder, 'Boat/caches/sea.abc'))).toBe(false);
  expect(fs.readFileSync(path.join(folder, 'Boat/textures/hull.png'), 'utf8')).toBe('other');
});

test('holds everything: links, empty folders, rights and times; what it cannot hold is named', async () => {
  const [root, folder] = [workspaceAt(), drive()];
  const before = everything(root);
  spawnSync('mkfifo', [path.join(root, 'pipe')]);
  const done = await mirrorTo(root, folder);
  expect([done.unread, sameDisk(before, everything(path.join(folder, 'Boat')))]).toEqual([['pipe'], []]);
});

test('a file that became a folder, and the other way round', async () => {
  const [root, folder] = [workspaceAt(), drive()];
  put(root, { a: 'A', 'b/x': 'X' });
  await mirrorTo(root, folder);
  fs.rmSync(path.join(root, 'a'));
  fs.rmSync(path.join(root, 'b'), { recursive: true });
  put(root, { 'a/y': 'Y', b: 'B' });
  const done = await mirrorTo(root, folder);
  expect([sameDisk(everything(root), everything(path.join(folder, 'Boat'))), done.aside]).toEqual([[], 2]);
  const aside = done.asideIn!;
  expect([
    fs.readFileSync(path.join(aside, 'a'), 'utf8'),
    fs.readFileSync(path.join(aside, 'b/x'), 'utf8'),
  ]).toEqual(['A', 'X']);
});

test('is taken under the lock, and only one runs into a folder', async () => {
  const [root, folder] = [workspaceAt(), drive()];
  await withLock(root, async () => {
    expect((await failureOf(mirrorTo(root, folder)))!.code).toBe('busy');
  });
  const both = await Promise.all([
    failureOf(mirrorTo(root, folder)),
    failureOf(mirrorTo(workspaceAt('Pier'), folder)),
  ]);
  expect(both.map((f) => f?.code ?? 'done').sort()).toEqual(['busy', 'done']);
});

test('two workspaces of one name, a copied one, and a stranger’s folder are told apart', async () => {
  const [root, folder] = [workspaceAt(), drive()];
  await mirrorTo(root, folder);
  const state = everything(path.join(folder, 'Boat'));
  const copied = fresh('copied');
  fs.cpSync(root, copied, { recursive: true, preserveTimestamps: true, verbatimSymlinks: true });
  for (const other of [workspaceAt('Boat'), copied])
    expect(await failureOf(mirrorTo(other, folder))).toMatchObject({
      code: 'exists',
      message: expect.stringContaining(`the copy of ${root}`),
    });
  expect(sameDisk(state, everything(path.join(folder, 'Boat')))).toEqual([]);
  // Moved, it is the same one.
  fs.rmSync(copied, { recursive: true });
  fs.renameSync(root, copied);
  expect((await mirrorTo(copied, folder)).copied).toBe(0);
  const strange = drive();
  put(strange, { 'Boat/holiday.jpg': 'H' });
  expect((await failureOf(mirrorTo(copied, strange)))!.code).toBe('exists');
  expect(everything(path.join(strange, 'Boat'))).toHaveProperty(['holiday.jpg']);
  // A note that cannot be read is neither trusted nor replaced.
  const [note] = fs.readdirSync(path.join(folder, '.satchel-copies')).filter((f) => f.endsWith('.json'));
  const noteFile = path.join(folder, '.satchel-copies', note!);
  for (const damaged of ['', '{"format":2,"key":"k"}', '\0\0']) {
    fs.writeFileSync(noteFile, damaged);
    expect(await failureOf(mirrorTo(copied, folder))).toMatchObject({
      code: 'exists',
      message: expect.stringContaining('damaged'),
    });
    expect(fs.readFileSync(noteFile, 'utf8')).toBe(damaged);
  }
  // A copy that version 0.1.0 made has no note beside it.
  fs.rmSync(path.join(folder, '.satchel-copies'), { recursive: true });
  expect((await mirrorTo(copied, folder)).aside).toBe(0);
});

test('a folder that is empty, gone or cannot be read moves nothing aside', async () => {
  const [root, folder] = [fresh('plain'), drive()];
  put(root, { 'a/x': 'X', y: 'Y' });
  await mirrorTo(root, folder);
  const copy = path.join(folder, path.basename(root));
  const state = everything(copy);
  fs.renameSync(root, `${root} away`);
  expect((await failureOf(mirrorTo(root, folder)))!.code).toBe('offline');
  fs.mkdirSync(root); // as a place where no drive is mounted
  expect((await failureOf(mirrorTo(root, folder)))!.code).toBe('offline');
  fs.rmdirSync(root);
  fs.renameSync(`${root} away`, root);
  const { error } = await onFailingDisk(0, 'EACCES', async () => {
    const real = fs.readdirSync;
    const patched = fs as { readdirSync: unknown };
    patched.readdirSync = (...args: Parameters<typeof real>) => {
      if (String(args[0]) === path.join(root, 'a')) throw Object.assign(new Error('no'), { code: 'EACCES' });
      return real(...args);
    };
    try {
      expect((await mirrorTo(root, folder)).unread).toEqual(['a']);
    } finally {
      patched.readdirSync = real;
    }
  });
  expect([error, sameDisk(state, everything(copy))]).toEqual([null, []]);
});

test('a drive that fails on the way: it says how many were copied, and the next run finishes', async () => {
  let hasSaid = 0;
  for (let n = 1; ; n += 23) {
    const [root, folder] = [workspaceAt(), drive()];
    const { error, calls } = await onFailingDisk(n, 'ENOSPC', () => mirrorTo(root, folder));
    const files = fs.existsSync(path.join(folder, 'Boat'))
      ? Object.values(everything(path.join(folder, 'Boat'))).filter((what) => what.startsWith('file'))
      : [];
    if (error && files.length > 0) {
      expect((error as AppError).unchanged).toMatch(/^\d files? were copied before/);
      hasSaid++;
    }
    await mirrorTo(root, folder);
    expect([n, sameDisk(everything(root), everything(path.join(folder, 'Boat')))]).toEqual([n, []]);
    if (calls < n) break;
  }
  expect(hasSaid).toBeGreaterThan(3);
}, 60_000);
