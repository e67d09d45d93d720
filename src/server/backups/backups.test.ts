// Backups on a real disk: every snapshot that is kept gives back its state to the byte, whatever was edited, thinned or spoilt since; damage of every
// kind of file is named with what it belongs to, and healed where somebody has it; killed, full, shared by two: earlier snapshots stay whole.

import { afterAll, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { spawn, spawnSync } from 'node:child_process';
import { createCipheriv } from 'node:crypto';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { AppError } from '@/core/errors';
import { strideOf } from '@/core/files/testing/depth';
import { recogniseArrival } from '../arrive/recognise';
import { takeIn } from '../arrive/takeIn';
import { pack } from '../bags/pack';
import { readWorkspace } from '../workspaces/open';
import { onFailingDisk } from '../disk/testing/failingCalls';
import { sameDisk, wholeDisk } from '../disk/testing/wholeDisk';
import { archiveTo, bringBack, stubOf } from './archive';
import { openBackups, readSnapshots } from './backupFolder';
import { byId, clearSnapshots, planClearing } from './clear';
import { giveBack } from './giveBack';
import { healBackups } from './heal';
import { mirrorTo } from './mirror';
import { proveBackups, readProofs } from './prove';
import { takeSnapshot } from './takeSnapshot';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-backups-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));
const satchel = path.resolve(import.meta.dirname, '../../../dist/satchel.mjs');
let count = 0;
const fresh = (name: string) => path.join(base, `${++count} ${name}`);

const marker = (name: string) =>
  JSON.stringify({
    format: 1,
    name,
    created: `2026-11-27T08:00:00.${String(++count).padStart(3, '0')}Z`,
    layout: 'x',
    folders: [],
    homes: {},
  });

function put(root: string, files: Record<string, string | Buffer>): void {
  for (const [name, content] of Object.entries(files)) {
    const file = path.join(root, name);
    fs.mkdirSync(path.dirname(file), { recursive: true });
    fs.writeFileSync(file, content);
    // Long ago, with a fraction of a second: what is saved within the clock's grain is read anew anyway.
    fs.utimesSync(file, 1_764_000_000.345 + count++, 1_764_000_000.345 + count);
  }
}
/** Bytes of which no two seeds share a stretch. */
const noise = (size: number, seed: number) => {
  const cipher = createCipheriv(
    'aes-128-ctr',
    Buffer.alloc(16, seed & 0xff),
    Buffer.alloc(16, (seed >> 8) + 1),
  );
  return cipher.update(Buffer.alloc(size));
};

function workspaceAt(name = 'Boat'): string {
  const root = fresh('w');
  put(root, {
    '.satchel/workspace.json': marker(name),
    'scenes/boat ü_v001.gltf': '{"images":[{"uri":"../textures/hull.png"}]}',
    'textures/hull.png': noise(120_000, 1),
    'textures/100% #1?.png': noise(30_000, 2),
    'caches/sea.abc': noise(400_000, 3),
    '.hidden/x': '',
  });
  fs.chmodSync(path.join(root, 'textures/hull.png'), 0o600);
  fs.symlinkSync('../textures/hull.png', path.join(root, 'scenes/latest.png'));
  fs.mkdirSync(path.join(root, 'renders'));
  return root;
}
const everything = (root: string) => ({
  ...wholeDisk(root),
  ...Object.fromEntries(
    Object.entries(
      fs.existsSync(path.join(root, '.satchel')) ? wholeDisk(path.join(root, '.satchel')) : {},
    ).map(([k, v]) => [`.satchel/${k}`, v]),
  ),
});

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
  expect([last.status, last.stderr]).toEqual([0, '']);
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

describe('a plain copy', () => {
  test('is kept up to date; what was changed or taken away lies aside', async () => {
    const [root, folder] = [workspaceAt(), fresh('m')];
    fs.mkdirSync(folder);
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
});

describe('finished work moved off', () => {
  test('is proven, removed here, told by a stub, and comes back to the byte', async () => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    const before = everything(root);
    const stub = await archiveTo(root, folder);
    expect(Object.keys(wholeDisk(root))).toEqual(['where this is.txt']);
    expect(await stubOf(root)).toEqual(stub);
    expect(fs.readFileSync(path.join(root, 'where this is.txt'), 'utf8')).toContain(folder);
    await bringBack(root);
    expect(sameDisk(before, everything(root))).toEqual([]);
  });
  test('nothing is removed where one byte there is wrong', async () => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    const before = everything(root);
    const failure = await onSpoilt(root, folder);
    expect(failure).toMatch(/nothing was removed here/);
    expect(sameDisk(before, everything(root))).toEqual([]);
    expect(await stubOf(root)).toBeNull();
  });
  test('what was made beside the stub is not overwritten', async () => {
    const [root, folder] = [workspaceAt(), fresh('b')];
    await archiveTo(root, folder);
    put(root, { 'new.gltf': '{}' });
    await expect(bringBack(root)).rejects.toThrow(/new\.gltf was made here meanwhile/);
    expect(fs.existsSync(path.join(root, 'new.gltf'))).toBe(true);
  });
});

/** Moves off while the drive spoils a byte after it was written: as soon as reading back begins. */
async function onSpoilt(root: string, folder: string): Promise<string> {
  let spoilt = false;
  const { snapshot } = await takeSnapshot(root, folder);
  try {
    await archiveTo(root, folder, {
      onProgress: () => {
        const pack = packOf(folder);
        if (
          spoilt ||
          snapshot.added === 0 ||
          !fs.existsSync(path.join(folder, 'snapshots', snapshot.workspace.key))
        )
          return;
        const records = fs.readdirSync(path.join(folder, 'snapshots', snapshot.workspace.key)).length;
        if (records < 4) return;
        spoilt = true;
        flip(pack, 300_000);
      },
    });
    return 'moved off';
  } catch (cause) {
    return (cause as Error).message;
  }
}
