// Checkpoints on a real disk: whatever is done to a folder afterwards, the way back gives every byte, time, mode and link as it was, and undoing that
// gives what there was before it.

import { afterAll, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { blockers } from '@/core/changes/plan';
import { planBack, planDrop } from '@/core/plans/planBack';
import { treePath } from '@/core/files/treePath';
import { packPath } from '@/core/store/packIndex';
import { readCheckpoint } from '@/core/versions/checkpoint';
import { DiskTree } from '../disk/diskTree';
import { sameDisk, wholeDisk } from '../disk/testing/wholeDisk';
import { applyPlan, recordsIn } from './changing';
import { checkpointOf, makeCheckpoint, readCheckpoints, sinceCheckpoint } from './checkpoints';
import { planUndoOf } from './ledger';
import { plainFolder, type OpenWorkspace } from './open';
import { sweepStore } from './storeOwners';
import { howMany } from '@/core/files/testing/depth';
import { pastTick } from '@/core/files/testing/tick';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-checkpoints-')));
afterAll(() => fs.rmSync(base, { recursive: true }));
let n = 0;
const now = () =>
  `2026-11-26T10:00:${String(n++ % 60).padStart(2, '0')}.${String(n % 1000).padStart(3, '0')}Z`;

function begin(files: Record<string, string>): {
  root: string;
  put: (at: string, content: string) => void;
  open: () => OpenWorkspace;
} {
  const root = path.join(base, `w${++n}`);
  fs.mkdirSync(root);
  const put = (at: string, content: string) => {
    fs.mkdirSync(path.dirname(path.join(root, at)), { recursive: true });
    fs.writeFileSync(path.join(root, at), content);
  };
  for (const [at, content] of Object.entries(files)) {
    put(at, content);
    // Of a while ago, with a fraction that a double can hardly hold.
    fs.utimesSync(path.join(root, at), new Date(), Date.now() / 1000 - 3600.123 + n++ / 977);
  }
  return { root, put, open: () => plainFolder(root) };
}

const start = {
  'scenes/boat.gltf': '{"boat":1}',
  'textures/a b ü.png': 'A',
  'textures/same.png': 'twice',
  'textures/again.png': 'twice',
  'empty.txt': '',
  'deep/er/still/x.bin': 'x'.repeat(5000),
};

test('deleted, changed, new, renamed, a link, a mode, a folder: all of it goes back, and that can be undone', async () => {
  const { root, put, open } = begin(start);
  fs.symlinkSync('scenes/boat.gltf', path.join(root, 'the boat'));
  fs.mkdirSync(path.join(root, 'empty folder'));
  fs.chmodSync(path.join(root, 'scenes/boat.gltf'), 0o640);
  const made = await makeCheckpoint(open(), { name: 'before', scope: [] });
  const then = wholeDisk(root);
  fs.rmSync(path.join(root, 'textures/a b ü.png'));
  put('scenes/boat.gltf', '{"boat":2}');
  put('new/one.txt', 'new');
  put('scenes/another.gltf', '{}');
  fs.renameSync(path.join(root, 'deep/er/still/x.bin'), path.join(root, 'y.bin'));
  fs.rmSync(path.join(root, 'deep'), { recursive: true });
  fs.rmSync(path.join(root, 'the boat'));
  fs.symlinkSync('textures', path.join(root, 'the boat'));
  fs.rmdirSync(path.join(root, 'empty folder'));
  const later = wholeDisk(root);
  expect(await sinceCheckpoint(open(), await checkpointOf(open().tree, made.id))).toMatchObject({
    changed: { count: 1 },
    gone: { count: 2 },
    fresh: { count: 3 },
    same: 3,
  });
  const plan = await planBack(open(), await checkpointOf(open().tree, made.id), now());
  expect(
    plan.steps
      .filter((s) => s.do === 'move')
      .map((s) => [s.path, s.do === 'move' ? s.to.replace(/bin\/[^/]+\//, 'bin/…/') : '']),
  ).toEqual(
    expect.arrayContaining([
      ['y.bin', 'deep/er/still/x.bin'],
      ['new/one.txt', '.satchel/bin/…/new/one.txt'],
    ]),
  );
  const record = await applyPlan(root, plan);
  expect(sameDisk(then, wholeDisk(root))).toEqual([]);
  await applyPlan(root, await planUndoOf(recordsIn(root), record.id));
  expect(sameDisk(later, wholeDisk(root))).toEqual([]);
});

test('any changes at all', async () => {
  const names = ['a.txt', 'b/c.txt', 'b/d.txt', 'e f/ü.txt', 'g'];
  const change = fc.record({
    what: fc.constantFrom('write', 'remove', 'move', 'touch'),
    at: fc.constantFrom(...names),
    to: fc.constantFrom(...names, 'new/h.txt', 'b/i.txt'),
    content: fc.string({ maxLength: 6 }),
  });
  await fc.assert(
    fc.asyncProperty(fc.subarray(names), fc.array(change, { maxLength: 12 }), async (first, changes) => {
      const { root, put, open } = begin(Object.fromEntries(first.map((name) => [name, `first ${name}`])));
      const made = await makeCheckpoint(open(), { name: '', scope: [] });
      const then = wholeDisk(root, { times: false });
      for (const { what, at, to, content } of changes) {
        const [from, place] = [path.join(root, at), path.join(root, to)];
        if (what === 'write') put(at, content);
        else if (!fs.existsSync(from)) continue;
        else if (what === 'remove') fs.rmSync(from);
        else if (what === 'touch') fs.utimesSync(from, new Date(), new Date(n++ * 1000));
        else if (!fs.existsSync(place)) {
          fs.mkdirSync(path.dirname(place), { recursive: true });
          fs.renameSync(from, place);
        }
      }
      const later = wholeDisk(root, { times: false });
      const plan = await planBack(open(), await checkpointOf(open().tree, made.id), now());
      // A time alone is no change; a folder that nothing lies in is nothing to go back to.
      const files = (disk: Record<string, string>) =>
        Object.fromEntries(Object.entries(disk).filter(([p]) => !p.endsWith('/')));
      if (plan.steps.length > 0) {
        const record = await applyPlan(root, plan);
        expect(files(wholeDisk(root, { times: false }))).toEqual(files(then));
        await applyPlan(root, await planUndoOf(recordsIn(root), record.id));
      }
      expect(files(wholeDisk(root, { times: false }))).toEqual(files(later));
    }),
    { numRuns: howMany(40) },
  );
});

test('what is unchanged is not read again; what only has its old time is not taken for unchanged', async () => {
  const { root, put, open } = begin(start);
  await pastTick();
  expect(await makeCheckpoint(open(), { name: '1', scope: [] })).toMatchObject({ read: 6, files: 6 });
  put('new.txt', 'new');
  // However slow the machine: written within the grain of the clock.
  fs.utimesSync(path.join(root, 'new.txt'), new Date(), new Date(Date.now() + 1000));
  expect(await makeCheckpoint(open(), { name: '2', scope: [] })).toMatchObject({ read: 1, files: 7 });
  // Just written: a change within the grain of the clock would not show.
  expect(await makeCheckpoint(open(), { name: '3', scope: [] })).toMatchObject({ read: 1, added: 0 });
  // Without its pack nothing is known.
  fs.rmSync(path.join(root, packPath(1)));
  expect(await makeCheckpoint(open(), { name: '4', scope: [] })).toMatchObject({ read: 7 });
});

test('of a folder and a file: the rest is left alone', async () => {
  const { root, put, open } = begin(start);
  const scope = [treePath('textures'), treePath('empty.txt')];
  const made = await makeCheckpoint(open(), { name: 'some', scope });
  expect(made.files).toBe(4);
  put('scenes/boat.gltf', 'later');
  put('textures/new.png', 'N');
  put('textures/same.png', 'changed');
  put('empty.txt', 'filled');
  await applyPlan(root, await planBack(open(), await checkpointOf(open().tree, made.id), now()));
  const read = (at: string) => fs.readFileSync(path.join(root, at), 'utf8');
  expect([read('scenes/boat.gltf'), read('textures/same.png'), read('empty.txt')]).toEqual([
    'later',
    'twice',
    '',
  ]);
  expect(fs.existsSync(path.join(root, 'textures/new.png'))).toBe(false);
});

test('what could not be read then stays where it is: nobody knows what it was', async () => {
  const { root, put, open } = begin(start);
  const made = await makeCheckpoint(open(), { name: 'x', scope: [] });
  const checkpoint = await checkpointOf(open().tree, made.id);
  const files = checkpoint.files.filter(([path]) => path !== 'scenes/boat.gltf' && !path.startsWith('deep/'));
  put('deep/er/one more.txt', 'under a folder that could not be read');
  const plan = await planBack(open(), { ...checkpoint, files, unread: ['scenes/boat.gltf', 'deep'] }, now());
  expect(plan.steps.filter((s) => s.do === 'move')).toEqual([]);
  expect(plan.notes.map((note) => note.code).sort()).toEqual(['nothing', 'unread', 'unread']);
  expect(fs.existsSync(path.join(root, 'scenes/boat.gltf'))).toBe(true);
});

describe('what goes wrong', () => {
  test('a checkpoint that is damaged is none; a newer one is told; the store is not cleared then', async () => {
    const { root, open } = begin(start);
    const made = await makeCheckpoint(open(), { name: 'x', scope: [] });
    const file = path.join(root, '.satchel/checkpoints', `${made.id}.json`);
    const text = fs.readFileSync(file, 'utf8');
    for (const bad of [
      '{',
      'null',
      text.slice(0, -40),
      text.replace('"files":[[', '"files":[["../out",1,1,1,"x"],['),
    ])
      expect(readCheckpoint(bad)).toBeNull();
    expect(readCheckpoint(text.replace('"format":1', '"format":2'))).toBe('newer');
    fs.writeFileSync(file, text.slice(0, 100));
    expect(await readCheckpoints(new DiskTree(root))).toEqual([]);
    await expect(checkpointOf(new DiskTree(root), made.id)).rejects.toMatchObject({ code: 'disk-error' });
    await expect(sweepStore({ root, tree: new DiskTree(root) })).rejects.toMatchObject({
      code: 'disk-error',
    });
    await expect(checkpointOf(new DiskTree(root), '../../x')).rejects.toMatchObject({ code: 'not-found' });
  });

  test('a folder where a file was, content that is gone from the store: told, and the rest goes back', async () => {
    const { root, put, open } = begin(start);
    const made = await makeCheckpoint(open(), { name: 'x', scope: [] });
    fs.rmSync(path.join(root, 'empty.txt'));
    fs.mkdirSync(path.join(root, 'empty.txt'));
    put('scenes/boat.gltf', '{"boat":3}');
    const plan = await planBack(open(), await checkpointOf(open().tree, made.id), now());
    expect(plan.notes).toContainEqual(expect.objectContaining({ code: 'in-the-way', path: 'empty.txt' }));
    await applyPlan(root, plan);
    expect(fs.readFileSync(path.join(root, 'scenes/boat.gltf'), 'utf8')).toBe('{"boat":1}');
    fs.rmSync(path.join(root, packPath(1)));
    put('scenes/boat.gltf', '{"boat":4}');
    const lost = await planBack(open(), await checkpointOf(open().tree, made.id), now());
    expect(lost.notes).toContainEqual(
      expect.objectContaining({ code: 'not-kept', path: 'scenes/boat.gltf' }),
    );
  });

  test('one that was given up frees the store at the next clearing, unless that is undone', async () => {
    const { root, open } = begin({
      'big.bin': Array.from({ length: 40_000 }, (_, i) => `${i * i}`).join(' '),
    });
    const made = await makeCheckpoint(open(), { name: 'x', scope: [] });
    const tree = new DiskTree(root);
    fs.rmSync(path.join(root, 'big.bin'));
    const dropped = await applyPlan(root, await planDrop(open(), made.id, 'x'));
    expect(await readCheckpoints(tree)).toEqual([]);
    const blocked = async () => blockers(await planUndoOf(recordsIn(root), dropped.id)).map((n) => n.code);
    expect(await blocked()).toEqual([]);
    const { before, after } = await sweepStore({ root, tree });
    expect(after).toBeLessThan(before / 2);
    // Its contents are gone: an undo would list a checkpoint that cannot be restored.
    expect(await blocked()).toEqual(['lost']);
  });
});
