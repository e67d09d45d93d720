// Backups on a real disk: every snapshot that is kept gives back its state to the byte, whatever was edited, thinned or spoilt since; damage of every
// kind of file is named with what it belongs to, and healed where somebody has it; killed, full, shared by two: earlier snapshots stay whole.

import { afterAll, describe, expect, jest, test } from '@jest/globals';
import fc from 'fast-check';
import { spawn, spawnSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { AppError } from '@/core/errors';
import { treePath } from '@/core/files/treePath';
import { strideOf } from '@/core/files/testing/depth';
import { recogniseArrival } from '../arrive/recognise';
import { takeIn } from '../arrive/takeIn';
import { pack } from '../bags/pack';
import { readWorkspace } from '../workspaces/open';
import { onFailingDisk } from '../disk/testing/failingCalls';
import { sameDisk, wholeDisk } from '../disk/testing/wholeDisk';
import { archiveTo } from './archive';
import { nextId, openBackups, readSnapshots, snapshotOf, writeRecord } from './backupFolder';
import { byId, byRule, clearSnapshots, planClearing } from './clear';
import { giveBack } from './giveBack';
import { healBackups } from './heal';
import { mirrorTo } from './mirror';
import { proveBackups, readProofs } from './prove';
import { seriesOf } from './series';
import { takeSnapshot } from './takeSnapshot';
import { disksBelow, marker } from './testing/workspaces';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-backups-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));
const satchel = path.resolve(import.meta.dirname, '../../../dist/satchel.mjs');
const { everything, fresh, noise, put, workspaceAt } = disksBelow(base);

async function gives(folder: string, id: string, state: Record<string, string>): Promise<void> {
  const to = fresh('back');
  const given = await giveBack(await openBackups(folder), id, [], to);
  expect(given.lost).toEqual([]);
  expect(sameDisk(state, everything(to))).toEqual([]);
  fs.rmSync(to, { recursive: true });
}

test('a snapshot gives back everything: hidden files, links, empty folders, rights and times', async () => {
  const [root, folder] = [workspaceAt(), fresh('b')];
  const before = everything(root);
  const { snapshot, read } = await takeSnapshot(root, folder);
  expect([snapshot.unread, read, sameDisk(before, everything(root))]).toEqual([[], 6, []]);
  await gives(folder, snapshot.id, before);
});

test('the next one reads and writes only what changed; workspaces share what is equal', async () => {
  const [root, folder] = [workspaceAt(), fresh('b')];
  await takeSnapshot(root, folder);
  const abc = fs.readFileSync(path.join(root, 'caches/sea.abc'));
  abc[200_000]! ^= 1;
  put(root, { 'caches/sea.abc': abc });
  const second = await takeSnapshot(root, folder);
  expect([second.read, second.snapshot.added < 200_000, second.snapshot.added > 0]).toEqual([1, true, true]);
  const other = workspaceAt('Pier');
  const shared = await takeSnapshot(other, folder);
  expect(shared.snapshot.added).toBeLessThan(200_000);
  const { all } = await readSnapshots(await openBackups(folder));
  expect(new Set(all.map((s) => s.workspace.key)).size).toBe(2);
});

test('a file that is saved within the same size and time is found by reading all', async () => {
  const [root, folder] = [workspaceAt(), fresh('b')];
  await takeSnapshot(root, folder);
  const file = path.join(root, 'textures/hull.png');
  const { mtime, atime } = fs.statSync(file);
  fs.writeFileSync(file, noise(120_000, 9));
  fs.utimesSync(file, atime, mtime);
  const { snapshot, read } = await takeSnapshot(root, folder, { readAll: true });
  expect(read).toBe(6);
  const to = fresh('back');
  await giveBack(await openBackups(folder), snapshot.id, ['textures/hull.png'], to);
  expect(fs.readFileSync(path.join(to, 'textures/hull.png')).equals(noise(120_000, 9))).toBe(true);
});

test('what cannot be in a backup is refused in words', async () => {
  const root = workspaceAt();
  const code = (work: Promise<unknown>) =>
    work.then(
      () => 'done',
      (e: unknown) => (e as AppError).code,
    );
  expect(await code(takeSnapshot(root, path.join(root, 'renders')))).toBe('bad-request');
  const full = fresh('others');
  put(full, { 'my tax.pdf': 'x' });
  expect(await code(takeSnapshot(root, full))).toBe('not-empty');
  expect(fs.readdirSync(full)).toEqual(['my tax.pdf']);
  expect(await code(takeSnapshot(root, path.join(base, 'no drive', 'b')))).toBe('offline');
  const folder = fresh('b');
  const { snapshot } = await takeSnapshot(root, folder);
  expect(await code(giveBack(await openBackups(folder), snapshot.id, [], full))).toBe('not-empty');
  expect(await code(giveBack(await openBackups(folder), snapshot.id, ['no such file'], fresh('x')))).toBe(
    'not-found',
  );
});

test('random edits, snapshots, clearings: every kept snapshot gives back its state to the byte', async () => {
  const edit = fc.record({
    file: fc.constantFrom('a.gltf', 'textures/b.png', 'caches/c 1.abc', 'd/e/f.txt'),
    do: fc.constantFrom('write', 'change', 'remove', 'move'),
    seed: fc.nat(50),
  });
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.record({ edits: fc.array(edit, { maxLength: 4 }), clears: fc.nat(3) }), {
        minLength: 2,
        maxLength: 5,
      }),
      async (rounds) => {
        const [root, folder] = [fresh('p'), fresh('pb')];
        put(root, {
          '.satchel/workspace.json': marker('P'),
          'a.gltf': '{}',
          'textures/b.png': noise(90_000, 1),
        });
        const states = new Map<string, Record<string, string>>();
        for (const { edits, clears } of rounds) {
          for (const e of edits) {
            const file = path.join(root, e.file);
            const there = fs.existsSync(file) ? fs.readFileSync(file) : null;
            if (e.do === 'remove') fs.rmSync(file, { force: true });
            else if (e.do === 'move' && there) fs.renameSync(file, `${file} ${e.seed}`);
            else if (e.do === 'change' && there && there.length > 0) {
              there[e.seed % there.length]! ^= 0xff;
              put(root, { [e.file]: there });
            } else put(root, { [e.file]: noise(70_000 + e.seed, e.seed) });
          }
          const { snapshot } = await takeSnapshot(root, folder);
          states.set(snapshot.id, everything(root));
          if (clears === 0 && states.size > 1) {
            const [oldest] = states.keys();
            await clearSnapshots(await openBackups(folder), [oldest!]);
            states.delete(oldest!);
          }
        }
        for (const [id, state] of states) await gives(folder, id, state);
        expect((await proveBackups(await openBackups(folder))).proof!.spoilt).toEqual([]);
      },
    ),
    { numRuns: 12 },
  );
}, 60_000);

describe('clearing', () => {
  test('is told before, frees what no other needs, and leaves the rest whole', async () => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    const first = (await takeSnapshot(root, folder)).snapshot;
    put(root, { 'caches/sea.abc': noise(400_000, 77) });
    const state = everything(root);
    const second = (await takeSnapshot(root, folder)).snapshot;
    const backups = await openBackups(folder);
    const plan = await planClearing(backups, byId([first.id]));
    expect([plan.going.map((s) => s.id), plan.staying, plan.frees]).toEqual([[first.id], 1, 400_000]);
    const swept = await clearSnapshots(backups, [first.id]);
    expect(swept.before - swept.after).toBeGreaterThan(300_000);
    await gives(folder, second.id, state);
  });
  test('nothing is cleared while a record cannot be read', async () => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    const { snapshot } = await takeSnapshot(root, folder);
    await takeSnapshot(root, folder);
    const at = path.join(folder, 'snapshots', snapshot.workspace.key);
    for (const n of [`${snapshot.id}.json`, `${snapshot.id}.copy.json`])
      fs.writeFileSync(path.join(at, n), 'spoilt');
    await expect(planClearing(await openBackups(folder), (all) => [...all])).rejects.toThrow(
      /nothing is cleared/,
    );
  });
});

/** Turns one bit round, in the middle of a file. */
function flip(file: string, at?: number): void {
  const bytes = fs.readFileSync(file);
  bytes[at ?? bytes.length >> 1]! ^= 4;
  fs.writeFileSync(file, bytes);
}
const packOf = (folder: string) => path.join(folder, '.satchel/store/packs/000001.pack');

describe('a flipped bit', () => {
  test('in the store: named with its files, healed from the workspace', async () => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    const state = everything(root);
    const { snapshot } = await takeSnapshot(root, folder);
    // In the pack stands first what was kept first.
    flip(packOf(folder), 1000);
    const { proof } = await proveBackups(await openBackups(folder));
    expect(proof!.spoilt).toHaveLength(1);
    const [spoilt] = proof!.spoilt;
    expect([spoilt!.how, spoilt!.files[0]!.workspace, spoilt!.packs]).toEqual([
      'spoilt',
      'Boat',
      ['.satchel/store/packs/000001.pack'],
    ]);
    const given = await giveBack(await openBackups(folder), snapshot.id, [], fresh('part'));
    expect(given.lost.map((l) => l.path)).toEqual([spoilt!.files[0]!.path]);
    const healed = await healBackups(await openBackups(folder), proof!.spoilt);
    expect([healed.healed.map((h) => h.from), healed.left]).toEqual([[root], []]);
    expect((await proveBackups(await openBackups(folder))).proof!.spoilt).toEqual([]);
    await gives(folder, snapshot.id, state);
    expect((await readProofs(await openBackups(folder))).map((p) => p.spoilt.length)).toEqual([0, 1]);
  });

  test('healed from other backups where the workspace is gone; what nobody has is said', async () => {
    const [root, folder, other] = [workspaceAt(), fresh('b'), fresh('b2')];
    const { snapshot } = await takeSnapshot(root, folder);
    await takeSnapshot(root, other);
    const state = everything(root);
    fs.renameSync(root, `${root} away`);
    flip(packOf(folder), 1000);
    const { proof } = await proveBackups(await openBackups(folder));
    const none = await healBackups(await openBackups(folder), proof!.spoilt);
    expect([none.healed, none.left.length]).toEqual([[], 1]);
    const healed = await healBackups(await openBackups(folder), proof!.spoilt, { from: [other] });
    expect(healed.healed.map((h) => h.from)).toEqual([other]);
    await gives(folder, snapshot.id, state);
  });

  test('in the store’s own record: what it told of is missing, and healed', async () => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    const state = everything(root);
    const { snapshot } = await takeSnapshot(root, folder);
    flip(packOf(folder), fs.statSync(packOf(folder)).size - 40);
    const { proof } = await proveBackups(await openBackups(folder));
    expect(new Set(proof!.spoilt.map((s) => s.how))).toEqual(new Set(['missing']));
    await healBackups(await openBackups(folder), proof!.spoilt);
    expect((await proveBackups(await openBackups(folder))).proof!.spoilt).toEqual([]);
    await gives(folder, snapshot.id, state);
  });

  test.each(['.json', '.copy.json'])(
    'in one copy of a record (%s): the other counts, and heals it',
    async (which) => {
      const [root, folder] = [workspaceAt(), fresh('b')];
      const state = everything(root);
      const { snapshot } = await takeSnapshot(root, folder);
      flip(path.join(folder, 'snapshots', snapshot.workspace.key, `${snapshot.id}${which}`));
      expect((await readSnapshots(await openBackups(folder))).halves).toEqual([
        { key: snapshot.workspace.key, id: snapshot.id },
      ]);
      await gives(folder, snapshot.id, state);
      expect((await healBackups(await openBackups(folder), [])).records).toBe(1);
      expect((await readSnapshots(await openBackups(folder))).halves).toEqual([]);
    },
  );

  test('in both copies: the record is named, other snapshots stay', async () => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    const { snapshot } = await takeSnapshot(root, folder);
    const later = (await takeSnapshot(root, folder)).snapshot;
    for (const n of ['.json', '.copy.json'])
      flip(path.join(folder, 'snapshots', snapshot.workspace.key, `${snapshot.id}${n}`));
    const found = await readSnapshots(await openBackups(folder));
    expect([found.all.map((s) => s.id), found.damaged.map((d) => d.id)]).toEqual([[later.id], [snapshot.id]]);
    expect((await proveBackups(await openBackups(folder))).proof!.records).toHaveLength(1);
  });

  test.each(['loyal-satchel-backups.json', 'proofs/log.jsonl', 'proofs/running.json', 'read me.txt'])(
    'in %s: snapshots stay whole',
    async (name) => {
      const [root, folder] = [workspaceAt(), fresh('b')];
      const state = everything(root);
      const { snapshot } = await takeSnapshot(root, folder);
      await proveBackups(await openBackups(folder));
      if (name === 'proofs/running.json') await proveBackups(await openBackups(folder), { budget: 0 });
      flip(path.join(folder, name));
      await gives(folder, snapshot.id, state);
      expect((await proveBackups(await openBackups(folder))).proof!.spoilt).toEqual([]);
      await takeSnapshot(root, folder);
    },
  );
});

describe('a proof', () => {
  test('goes on where it was left, and looks at one workspace alone', async () => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    await takeSnapshot(root, folder);
    const { snapshot } = await takeSnapshot(workspaceAt('Pier'), folder);
    const backups = await openBackups(folder);
    let turns = 0;
    let proof = null;
    while (proof === null && ++turns < 50)
      ({ proof } = await proveBackups(backups, { budget: 0 }).then(async (p) =>
        p.proof ? p : proveSome(folder),
      ));
    expect([proof!.spoilt, turns > 1 || proof!.contents > 0]).toEqual([[], true]);
    const one = await proveBackups(backups, { only: snapshot.workspace.key });
    expect(one.proof!.contents).toBeLessThan(proof!.contents);
  });
});
/** A proof that is stopped after its first content. */
async function proveSome(folder: string) {
  let seen = 0;
  const signal = {
    get aborted() {
      return seen > 0;
    },
    throwIfAborted() {},
  };
  return proveBackups(await openBackups(folder), { signal, onProgress: () => seen++ });
}

// A small drive, where the system lets us make one.
const small = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-small-')));
const isSmall = spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=3m', 'tmpfs', small]).status === 0;
afterAll(() => {
  if (isSmall) spawnSync('umount', [small]);
  fs.rmSync(small, { recursive: true, force: true });
});
(isSmall ? test : test.skip)(
  'a drive that is full: what did not fit takes no room, what is there is proven',
  async () => {
    const root = workspaceAt();
    put(root, { 'caches/a.vdb': noise(1_800_000, 1) });
    const before = everything(root);
    const folder = `${small}/b`;
    const { snapshot } = await takeSnapshot(root, folder);
    put(root, { 'caches/b.vdb': noise(2_000_000, 2) });
    await expect(takeSnapshot(root, folder)).rejects.toMatchObject({ code: 'disk-full' });
    fs.rmSync(`${root}/caches/b.vdb`);
    put(root, { 'caches/c.vdb': noise(400_000, 3) });
    const now = everything(root);
    const next = await takeSnapshot(root, folder);
    fs.writeFileSync(
      `${small}/filler`,
      Buffer.alloc(fs.statfsSync(small).bavail * fs.statfsSync(small).bsize),
    );
    const { proof, unkept } = await proveBackups(await openBackups(folder));
    expect([proof!.spoilt, unkept]).toEqual([[], expect.stringContaining('full')]);
    fs.rmSync(`${small}/filler`);
    await gives(folder, snapshot.id, before);
    await gives(folder, next.snapshot.id, now);
    // A drive that can only be read is proven, too.
    spawnSync('mount', ['-o', 'remount,ro', small]);
    const asRead = await proveBackups(await openBackups(folder));
    spawnSync('mount', ['-o', 'remount,rw', small]);
    expect([asRead.proof!.spoilt, asRead.unkept]).toEqual([[], expect.stringContaining('only be read')]);
  },
);

test('two writers at once: one is told to wait, nothing is lost', async () => {
  const [root, other, folder] = [workspaceAt(), workspaceAt('Pier'), fresh('b')];
  await takeSnapshot(root, folder);
  const [a, b] = await Promise.allSettled([takeSnapshot(root, folder), takeSnapshot(other, folder)]);
  const failed = [a, b].filter((r) => r.status === 'rejected').map((r) => (r.reason as AppError).code);
  expect(failed.every((c) => c === 'busy')).toBe(true);
  expect((await proveBackups(await openBackups(folder))).proof!.spoilt).toEqual([]);
});

test.each(['ENOSPC', 'EIO'])(
  'a drive that fails at a call (%s): the snapshot before stays whole, the next one is',
  async (code) => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    const before = everything(root);
    const { snapshot } = await takeSnapshot(root, folder);
    let made = 0;
    for (let n = 1; ; n += strideOf(13, 26)) {
      put(root, { 'caches/sea.abc': noise(300_000, n) });
      const now = everything(root);
      const { done, error, calls } = await onFailingDisk(n, code, () => takeSnapshot(root, folder));
      if (error) expect([String(error), error instanceof AppError]).toEqual([String(error), true]);
      else if (done!.snapshot.unread.length === 0) {
        made++;
        await gives(folder, done!.snapshot.id, now);
      }
      if (calls < n) break;
    }
    await gives(folder, snapshot.id, before);
    expect(made).toBeGreaterThan(0);
    expect((await proveBackups(await openBackups(folder))).proof!.spoilt).toEqual([]);
  },
  60_000,
);

test('killed at random moments: earlier snapshots stay whole, and the next one is', async () => {
  const [root, folder] = [workspaceAt(), fresh('b')];
  put(root, { 'caches/large.abc': noise(3_000_000, 5) });
  const before = everything(root);
  const { snapshot } = await takeSnapshot(root, folder);
  for (let round = 0; round < 6; round++) {
    put(root, {
      'caches/large.abc': noise(3_000_000, 100 + round),
      'caches/sea.abc': noise(400_000, 200 + round),
    });
    const child = spawn(process.execPath, [satchel, 'backup', root, '--to', folder], { stdio: 'ignore' });
    const ended = new Promise((resolve) => child.on('close', resolve));
    setTimeout(() => child.kill('SIGKILL'), 120 + round * 60);
    await ended;
  }
  const last = spawnSync(process.execPath, [satchel, 'backup', root, '--to', folder, '--json'], {
    encoding: 'utf8',
  });
  // A killed process may leave its lock, and the next one reports that it took it over.
  const said = last.stderr.split('\n').filter((line) => line !== '' && !line.startsWith('The lock on '));
  expect([last.status, said]).toEqual([0, []]);
  await gives(folder, (JSON.parse(last.stdout) as { id: string }).id, everything(root));
  await gives(folder, snapshot.id, before);
  expect((await proveBackups(await openBackups(folder))).proof!.spoilt).toEqual([]);
}, 60_000);

test('nothing is backed up, packed or moved off into itself, also by way of a link', async () => {
  const root = workspaceAt();
  const link = fresh('link');
  fs.symlinkSync(path.join(root, 'caches'), link);
  const before = everything(root);
  const inside = [`${root}/b`, `${root}/new/b`, `${link}/b`, `${link}/not/there/b`, link];
  for (const folder of inside) {
    await expect(takeSnapshot(root, folder)).rejects.toMatchObject({ code: 'bad-request' });
    await expect(mirrorTo(root, folder)).rejects.toMatchObject({ code: 'bad-request' });
    await expect(archiveTo(root, folder)).rejects.toMatchObject({ code: 'bad-request' });
    await expect(pack(root, `${folder}/bag.zip`)).rejects.toMatchObject({ code: 'bad-request' });
    const what = await recogniseArrival(root);
    await expect(takeIn(what, `${folder}/there`)).rejects.toMatchObject({ code: 'bad-request' });
  }
  // The place the copy would have is a link to the workspace.
  const drive = fresh('drive');
  fs.mkdirSync(drive);
  fs.symlinkSync(root, path.join(drive, (await readWorkspace(root)).file.name));
  await expect(mirrorTo(root, drive)).rejects.toMatchObject({ code: 'bad-request' });
  // A folder of backups cannot back itself up.
  const folder = fresh('b');
  await takeSnapshot(root, folder);
  fs.mkdirSync(`${folder}/w`);
  await expect(takeSnapshot(`${folder}/w`, folder)).rejects.toMatchObject({ code: 'bad-request' });
  expect(everything(root)).toEqual(before);
});

describe('whose a snapshot is', () => {
  const keyIn = async (folder: string, root: string) =>
    (await takeSnapshot(root, folder)).snapshot.workspace.key;

  test('a copied workspace has its own series, a moved one stays in its own: clearing by rule thins each by itself', async () => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    const key = await keyIn(folder, root);
    const copied = fresh('copied');
    fs.cpSync(root, copied, { recursive: true, preserveTimestamps: true, verbatimSymlinks: true });
    const other = await keyIn(folder, copied);
    expect(other).not.toBe(key);
    expect([await keyIn(folder, root), await keyIn(folder, copied)]).toEqual([key, other]);
    const moved = fresh('moved');
    fs.renameSync(root, moved);
    expect(await keyIn(folder, moved)).toBe(key);
    // A copy in the place where it was is another folder.
    fs.cpSync(copied, root, { recursive: true, preserveTimestamps: true, verbatimSymlinks: true });
    const backups = await openBackups(folder);
    const rule = { all: 0, days: 0, weeks: 0, months: 0 };
    const plan = await planClearing(backups, byRule(rule, Date.now() + 1e12));
    await clearSnapshots(
      backups,
      plan.going.map((s) => s.id),
    );
    expect(new Set((await readSnapshots(backups)).all.map((s) => s.workspace.key))).toEqual(
      new Set([key, other]),
    );
  });

  test('of a version that named no folder: one whose old place is still there, or cannot be looked at, is not taken for moved', async () => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    const { snapshot } = await takeSnapshot(root, folder);
    const backups = await openBackups(folder);
    const asOld = async (place: string) => {
      const { folderId: _, ...workspace } = snapshot.workspace;
      await writeRecord(backups, { ...snapshot, workspace: { ...workspace, root: place } });
    };
    const series = async () => (await seriesOf(backups, await readWorkspace(root))).key;
    await asOld(fresh('gone'));
    expect(await series()).toBe(snapshot.workspace.key);
    await asOld(`${fresh('no drive')}/w`);
    expect(await series()).not.toBe(snapshot.workspace.key);
  });
});

test('the order of snapshots is that in which they were taken, also where the clock was set back', async () => {
  const [root, folder] = [workspaceAt(), fresh('b')];
  await takeSnapshot(root, folder);
  put(root, { 'caches/sea.abc': noise(1000, 8) });
  const now = Date.now;
  const backups = await openBackups(folder);
  // Yesterday, says the clock.
  expect(
    (await nextId(backups, new Date(now() - 86_400_000))) > (await readSnapshots(backups)).all[0]!.id,
  ).toBe(true);
  jest.useFakeTimers({
    now: now() - 86_400_000,
    doNotFake: ['nextTick', 'setImmediate', 'setTimeout', 'setInterval'],
  });
  const { snapshot } = await takeSnapshot(root, folder).finally(() => jest.useRealTimers());
  expect(Date.parse(snapshot.time)).toBeLessThan(now() - 80_000_000);
  expect((await readSnapshots(backups)).all[0]!.id).toBe(snapshot.id);
  expect((await snapshotOf(backups, 'latest')).id).toBe(snapshot.id);
  const plan = await planClearing(backups, byRule({ all: 0, days: 0, weeks: 0, months: 0 }, now() + 1e12));
  expect(plan.going.map((s) => s.id)).not.toContain(snapshot.id);
});

test('a folder that is not there, or whose drive is not mounted, is no state to keep; and a first backup that fails leaves nothing', async () => {
  const folder = fresh('b');
  const empty = fresh('mount');
  fs.mkdirSync(empty);
  for (const root of [fresh('nowhere'), empty])
    await expect(takeSnapshot(root, folder)).rejects.toMatchObject({ code: 'offline' });
  expect(fs.existsSync(folder)).toBe(false);
  for (let n = 1; ; n += strideOf(11, 37)) {
    const root = workspaceAt();
    const { error, calls } = await onFailingDisk(n, 'ENOSPC', () => takeSnapshot(root, folder));
    const isThere = fs.existsSync(folder) && fs.existsSync(path.join(folder, 'snapshots'));
    if (error && !isThere) expect([n, fs.existsSync(folder)]).toEqual([n, false]);
    fs.rmSync(folder, { recursive: true, force: true });
    if (calls < n) break;
  }
}, 60_000);

test('what is taken while others rename is of one moment: the last look is under the lock', async () => {
  const [root, folder] = [workspaceAt(), fresh('b')];
  let isDone = false;
  const { snapshot } = await takeSnapshot(root, folder, {
    onFile: () => {
      if (isDone) return;
      isDone = true;
      fs.renameSync(path.join(root, 'textures/hull.png'), path.join(root, 'textures/z.png'));
      put(root, { 'scenes/boat ü_v001.gltf': '{"images":[{"uri":"../textures/z.png"}]}' });
    },
  });
  await gives(folder, snapshot.id, everything(root));
});

describe('a part of a snapshot', () => {
  test('may be a link, an empty folder, a name with a backslash', async () => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    put(root, { 'notes/a\\b.txt': 'N' });
    const { snapshot } = await takeSnapshot(root, folder);
    for (const [part, is] of [
      ['scenes/latest.png', 'isSymbolicLink'],
      ['renders', 'isDirectory'],
      ['notes/a\\b.txt', 'isFile'],
    ] as const) {
      const to = fresh('part');
      const done = spawnSync(process.execPath, [satchel, 'give-back', folder, snapshot.id, part, '--to', to]);
      expect([part, done.status, String(done.stderr)]).toEqual([part, 0, '']);
      expect(fs.lstatSync(path.join(to, part))[is]()).toBe(true);
      expect(wholeDisk(to)).toHaveProperty([part === 'renders' ? 'renders/' : part]);
    }
  });
  test('has its rights, with those that the group passes on', async () => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    fs.chmodSync(path.join(root, 'caches/sea.abc'), 0o2755);
    const { snapshot } = await takeSnapshot(root, folder);
    await gives(folder, snapshot.id, everything(root));
  });
  test('has its holes: a file that takes little room takes little again', async () => {
    const [root, folder, to] = [workspaceAt(), fresh('b'), fresh('part')];
    const file = path.join(root, 'caches/sparse.vdb');
    fs.writeFileSync(file, noise(100_000, 4));
    fs.truncateSync(file, 40_000_000);
    fs.appendFileSync(file, noise(70_001, 5));
    const { snapshot } = await takeSnapshot(root, folder);
    await giveBack(await openBackups(folder), snapshot.id, ['caches/sparse.vdb'], to);
    const back = path.join(to, 'caches/sparse.vdb');
    expect(fs.readFileSync(back).equals(fs.readFileSync(file))).toBe(true);
    expect(fs.statSync(back).blocks * 512).toBeLessThan(2_000_000);
  });
  test('a record that leads out through a link writes nothing elsewhere', async () => {
    const [root, folder, elsewhere] = [workspaceAt(), fresh('b'), fresh('elsewhere')];
    fs.mkdirSync(elsewhere);
    const { snapshot } = await takeSnapshot(root, folder);
    await writeRecord(await openBackups(folder), {
      ...snapshot,
      links: [
        [treePath('a'), elsewhere],
        [treePath('a/x'), '/etc'],
        [treePath('a/y/z'), '/etc'],
      ],
      folders: [treePath('renders'), treePath('a/f')],
    });
    const given = await giveBack(await openBackups(folder), snapshot.id, [], fresh('back'));
    expect([given.lost.map((l) => l.path), fs.readdirSync(elsewhere)]).toEqual([['a'], []]);
  });
});
