// Archiving and restoring on a real disk: whatever is saved, made, damaged or cut off meanwhile, every file is here or in the archive as it was, and the
// same call again finishes it.

import { afterAll, describe, expect, test } from '@jest/globals';
import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { AppError } from '@/core/errors';
import type { CancelSignal } from '@/core/files/fileTree';
import { strideOf } from '@/core/files/testing/depth';
import { onFailingDisk } from '../disk/testing/failingCalls';
import { sameDisk } from '../disk/testing/wholeDisk';
import { takeFolderLock } from '../disk/folderLock';
import { withLock } from '../workspaces/changing';
import { archiveTo, bringBack, stubOf } from './archive';
import { openBackups } from './backupFolder';
import { byId, byRule, clearSnapshots, planClearing } from './clear';
import { takeSnapshot } from './takeSnapshot';
import { disksBelow } from './testing/workspaces';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-archive-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));
const { everything, fresh, noise, put, workspaceAt } = disksBelow(base);

const hull = 'textures/hull.png';
const placeholder = (root: string) => path.join(root, '.satchel/moved-off.json');
const failureOf = (work: Promise<unknown>) =>
  work.then(
    () => null,
    (cause: unknown) => cause as AppError,
  );
/** Does something once, as soon as the first file is about to be removed. */
function atRemoval(root: string, deed: () => void): CancelSignal {
  let isDone = false;
  return {
    aborted: false,
    throwIfAborted() {
      if (isDone || !fs.existsSync(path.join(root, 'where this is.txt'))) return;
      isDone = true;
      deed();
    },
  };
}
/** A workspace with a journal, as work has left it. */
function usedWorkspace(name = 'Boat'): string {
  const root = workspaceAt(name);
  put(root, {
    '.satchel/journal/20261127-180000-abc123.json': '{"format":2}',
    '.satchel/store/aa/x': noise(5000, 9),
  });
  return root;
}

describe('archived', () => {
  test('is proven, removed here, told by a placeholder, and restored to the byte', async () => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    const before = everything(root);
    const stub = await archiveTo(root, folder);
    expect(Object.keys(everything(root))).toEqual([
      'where this is.txt',
      '.satchel/moved-off.json',
      '.satchel/workspace.json',
    ]);
    expect(await stubOf(root)).toEqual(stub);
    expect(fs.readFileSync(path.join(root, 'where this is.txt'), 'utf8')).toContain(folder);
    const given = await bringBack(root);
    expect([given.files, given.lost, sameDisk(before, everything(root))]).toEqual([6, [], []]);
  });

  test('nothing is removed where one byte there is wrong', async () => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    const before = everything(root);
    await takeSnapshot(root, folder);
    let isDamaged = false;
    const failure = await failureOf(
      archiveTo(root, folder, {
        onProgress: () => {
          const key = fs.readdirSync(path.join(folder, 'snapshots'))[0]!;
          const records = fs.readdirSync(path.join(folder, 'snapshots', key));
          if (isDamaged || !records.some((n) => n.endsWith('.archived.json'))) return;
          isDamaged = true;
          const pack = path.join(folder, '.satchel/store/packs/000001.pack');
          const bytes = fs.readFileSync(pack);
          bytes[300_000]! ^= 4;
          fs.writeFileSync(pack, bytes);
        },
      }),
    );
    expect([isDamaged, failure?.message]).toEqual([
      true,
      expect.stringContaining('nothing was removed here'),
    ]);
    expect([sameDisk(before, everything(root)), await stubOf(root)]).toEqual([[], null]);
    // It is no archive, so it may be cleared.
    const plan = await planClearing(await openBackups(folder), (all) => [...all]);
    expect([plan.going.length, plan.archived.length]).toEqual([2, 0]);
  });

  test.each([
    ['another size', () => noise(7, 4), false],
    ['the same size and time', () => noise(120_000, 5), true],
  ])('a file that is saved while files go stays, with %s', async (_, content, keepsTime) => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    const before = everything(root);
    const file = path.join(root, hull);
    const { atime, mtime } = fs.statSync(file);
    const signal = atRemoval(root, () => {
      fs.writeFileSync(file, content());
      if (keepsTime) fs.utimesSync(file, atime, mtime);
    });
    const failure = await failureOf(archiveTo(root, folder, { signal }));
    expect([failure!.code, failure!.details, failure!.unchanged]).toEqual([
      'stale-plan',
      [hull],
      expect.stringMatching(/^4 files were removed here\. All files as they were are in /),
    ]);
    expect(fs.readFileSync(file).equals(content())).toBe(true);
    // It is in the way of the one in the archive: that is said, and nothing is written.
    const blocked = await failureOf(bringBack(root));
    expect([blocked!.code, blocked!.details]).toEqual(['not-empty', [hull]]);
    fs.renameSync(file, path.join(root, 'my hull.png'));
    await bringBack(root);
    const after = everything(root);
    expect(Object.keys(after).filter((k) => !(k in before))).toEqual(['my hull.png']);
    delete after['my hull.png'];
    expect(sameDisk(before, after)).toEqual([]);
  });

  test('a file that is made or saved before the first one goes ends it: nothing is removed', async () => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    let isDone = false;
    const failure = await failureOf(
      archiveTo(root, folder, {
        onProgress: () => {
          if (isDone) return;
          isDone = true;
          put(root, { 'scenes/new.gltf': '{}' });
          fs.symlinkSync('new.gltf', path.join(root, 'scenes/now.gltf'));
        },
      }),
    );
    expect(failure!.code).toBe('stale-plan');
    expect([failure!.details, failure!.unchanged]).toEqual([
      ['scenes/new.gltf', 'scenes/now.gltf'],
      'Everything is here as it was.',
    ]);
    expect([await stubOf(root), fs.existsSync(path.join(root, hull))]).toEqual([null, true]);
  });

  test('does not continue while another process writes to the backup folder', async () => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    const before = everything(root);
    const stop = atRemoval(root, () => {
      throw new AppError('cancelled', 'stopped before the first file was removed');
    });
    await failureOf(archiveTo(root, folder, { signal: stop }));
    const halfway = everything(root);
    const taken = takeFolderLock(path.join(folder, '.satchel'));
    if ('heldBy' in taken) throw new Error('the lock was not free');
    expect((await failureOf(archiveTo(root, folder)))!.code).toBe('busy');
    expect(everything(root)).toEqual(halfway);
    taken.lock.release();
    await archiveTo(root, folder);
    await bringBack(root);
    expect(everything(root)).toMatchObject(before);
  });

  test('nobody else changes it meanwhile, nor as long as it is archived', async () => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    const codes: unknown[] = [];
    const tryIt = () =>
      void failureOf(withLock(root, () => Promise.resolve())).then((cause) => codes.push(cause?.code));
    await archiveTo(root, folder, { onProgress: () => codes.length === 0 && tryIt() });
    expect(new Set(codes)).toEqual(new Set(['busy']));
    expect((await failureOf(withLock(root, () => Promise.resolve())))!.code).toBe('archived');
    expect((await failureOf(takeSnapshot(root, folder)))!.code).toBe('archived');
    await bringBack(root);
    expect(await failureOf(withLock(root, () => Promise.resolve()))).toBeNull();
  });

  test('what cannot be kept is named, and nothing is removed', async () => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    fs.writeFileSync(Buffer.from(`${root}/sc\xe9ne.gltf`, 'latin1'), '{}');
    spawnSync('mkfifo', [path.join(root, 'pipe')]);
    const before = everything(root);
    const failure = await failureOf(archiveTo(root, folder));
    expect([failure!.code, failure!.details.length]).toEqual(['no-access', 2]);
    expect(sameDisk(before, everything(root))).toEqual([]);
  });

  test('the journal is the last to go', async () => {
    const [root, folder] = [usedWorkspace(), fresh('b')];
    const journal = path.join(root, '.satchel/journal/20261127-180000-abc123.json');
    const others = [hull, 'caches/sea.abc', '.hidden/x', '.satchel/store/aa/x'];
    let calls = 0;
    const signal: CancelSignal = {
      aborted: false,
      throwIfAborted() {
        calls++;
        if (!fs.existsSync(journal))
          expect(others.filter((f) => fs.existsSync(path.join(root, f)))).toEqual([]);
      },
    };
    await archiveTo(root, folder, { signal });
    expect([calls > 10, fs.existsSync(journal)]).toEqual([true, false]);
  });

  test.each([true, false])('cancelled half way it says how far it came (goes on: %s)', async (goesOn) => {
    const [root, folder] = [usedWorkspace(), fresh('b')];
    const before = everything(root);
    let left = 3;
    const signal: CancelSignal = {
      aborted: false,
      throwIfAborted() {
        if (fs.existsSync(placeholder(root)) && left-- === 0)
          throw new AppError('cancelled', 'Archiving was cancelled.');
      },
    };
    const failure = await failureOf(archiveTo(root, folder, { signal }));
    expect([failure!.code, failure!.unchanged]).toEqual([
      'cancelled',
      expect.stringMatching(/^3 files were removed here\. .* Archive it again to go on, or restore it\.$/),
    ]);
    if (goesOn) await archiveTo(root, folder);
    await bringBack(root);
    expect(sameDisk(before, everything(root))).toEqual([]);
  });

  test('gone on with after the archive was damaged: nothing more is removed', async () => {
    const [root, folder] = [usedWorkspace(), fresh('b')];
    let left = 2;
    const signal: CancelSignal = {
      aborted: false,
      throwIfAborted() {
        if (fs.existsSync(placeholder(root)) && left-- === 0) throw new AppError('cancelled', '');
      },
    };
    await failureOf(archiveTo(root, folder, { signal }));
    const pack = path.join(folder, '.satchel/store/packs/000001.pack');
    fs.writeFileSync(pack, Buffer.alloc(fs.statSync(pack).size));
    const before = everything(root);
    expect((await failureOf(archiveTo(root, folder)))!.message).toContain('nothing was removed here');
    expect(sameDisk(before, everything(root))).toEqual([]);
  });

  test('a user’s file with the name of the placeholder page stays a user’s file', async () => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    put(root, { 'where this is.txt': 'in the attic' });
    const before = everything(root);
    await archiveTo(root, folder);
    await bringBack(root);
    expect(sameDisk(before, everything(root))).toEqual([]);
  });
});

describe('restored', () => {
  test('what was made here meanwhile stays, of whatever kind', async () => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    const before = everything(root);
    await archiveTo(root, folder);
    put(root, { 'new.gltf': '{}', 'textures/mine.png': 'M' });
    fs.writeFileSync(Buffer.from(`${root}/sc\xe9ne.gltf`, 'latin1'), '{}');
    fs.symlinkSync('/nowhere', path.join(root, 'link'));
    fs.mkdirSync(path.join(root, 'empty'));
    spawnSync('mkfifo', [path.join(root, 'pipe')]);
    const made = Object.entries(everything(root)).filter(([k]) => !/where this|satchel/.test(k));
    await bringBack(root);
    const after = everything(root);
    for (const [name, what] of made) {
      expect([name, after[name]]).toEqual([name, what]);
      if (!(name in before)) delete after[name];
    }
    expect(sameDisk(before, after)).toEqual([]);
  });

  test('through a link, in a drive’s own root, and where a folder beside has a likely name', async () => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    const before = everything(root);
    const link = fresh('link');
    fs.symlinkSync(root, link);
    fs.mkdirSync(`${link} stub`);
    fs.mkdirSync(`${link} coming back`);
    const { ino } = fs.statSync(root);
    await archiveTo(link, folder);
    await bringBack(link);
    expect([fs.lstatSync(link).isSymbolicLink(), fs.statSync(root).ino]).toEqual([true, ino]);
    expect(sameDisk(before, everything(root))).toEqual([]);
  });

  test('from a backup folder that is mounted elsewhere', async () => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    const before = everything(root);
    await archiveTo(root, folder);
    fs.renameSync(folder, `${folder} elsewhere`);
    expect((await failureOf(bringBack(root)))!.code).toBe('offline');
    await bringBack(root, { from: `${folder} elsewhere` });
    expect(sameDisk(before, everything(root))).toEqual([]);
  });

  test('what the archive has lost is named; the rest is here, and the archive stays', async () => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    await archiveTo(root, folder);
    const pack = path.join(folder, '.satchel/store/packs/000001.pack');
    const bytes = fs.readFileSync(pack);
    bytes[1000]! ^= 4;
    fs.writeFileSync(pack, bytes);
    const failure = await failureOf(bringBack(root));
    expect([failure!.code, failure!.details.length]).toEqual(['disk-error', 1]);
    expect(failure!.unchanged).toMatch(/^5 of 6 files are here\. The archive .* stays/);
    bytes[1000]! ^= 4;
    fs.writeFileSync(pack, bytes);
    await bringBack(root);
    expect(fs.existsSync(placeholder(root))).toBe(false);
  });
});

describe('clearing', () => {
  test('keeps the only copy of archived work until it is restored, or given up by name', async () => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    const { snapshot } = await archiveTo(root, folder);
    const other = workspaceAt('Pier');
    for (let n = 0; n < 3; n++) await takeSnapshot(other, folder);
    const backups = await openBackups(folder);
    const later = Date.now() + 3000 * 86_400_000;
    const byTheRule = await planClearing(backups, byRule({ all: 0, days: 0, weeks: 0, months: 0 }, later));
    expect([byTheRule.going.length, byTheRule.archived]).toEqual([2, []]);
    const named = await planClearing(backups, byId([snapshot]));
    expect([named.going, named.archived.map((s) => s.id)]).toEqual([[], [snapshot]]);
    expect((await failureOf(clearSnapshots(backups, [snapshot])))!.code).toBe('archived');
    // Without its mark, which version 0.1.0 did not leave: the placeholder tells.
    const key = named.archived[0]!.key;
    const pin = path.join(folder, 'snapshots', key, `${snapshot}.archived.json`);
    fs.renameSync(pin, `${pin}.away`);
    expect((await planClearing(backups, byId([snapshot]))).archived).toHaveLength(1);
    fs.renameSync(`${pin}.away`, pin);
    await bringBack(root);
    expect((await planClearing(backups, byId([snapshot]))).going).toHaveLength(1);
    await archiveTo(root, folder);
    const again = (await stubOf(root))!.snapshot;
    await clearSnapshots(backups, [again], [again]);
    expect((await planClearing(backups, byId([again]))).going).toEqual([]);
  });
});

test.each(['archived', 'restored'])(
  'a program that dies at any call of the disk while work is %s: the same call again finishes it',
  async (which) => {
    for (let n = 1; ; n += strideOf(7, 61)) {
      const [root, folder] = [usedWorkspace(), fresh('b')];
      const before = everything(root);
      if (which === 'restored') await archiveTo(root, folder);
      const once = () => (which === 'archived' ? archiveTo(root, folder) : bringBack(root));
      const { calls } = await onFailingDisk<unknown>(n, 'EIO', once, { forGood: true });
      // Whoever comes next finds the lock of a program that is gone.
      fs.rmSync(path.join(root, '.satchel/lock'), { force: true });
      fs.rmSync(path.join(folder, '.satchel/lock'), { force: true });
      if (which === 'archived') await archiveTo(root, folder);
      if (fs.existsSync(placeholder(root))) await bringBack(root);
      expect([n, sameDisk(before, everything(root))]).toEqual([n, []]);
      fs.rmSync(root, { recursive: true });
      fs.rmSync(folder, { recursive: true });
      if (calls < n) break;
    }
  },
  120_000,
);
