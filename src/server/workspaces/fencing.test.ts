// A program that has lost its lock writes nothing more: no file, no line of the journal, and it puts nothing back. Whoever holds the lock next settles.

import { afterAll, expect, test } from '@jest/globals';
import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { deepTest } from '@/core/files/testing/depth';
import type { AppError } from '@/core/errors';
import { treePath } from '@/core/files/treePath';
import { planMove } from '@/core/plans/planMove';
import { sameDisk, wholeDisk } from '../disk/testing/wholeDisk';
import { applyPlan, openEntries, recordsIn, settle, withLock } from './changing';
import { readWorkspace } from './open';

const project = path.resolve(import.meta.dirname, '../../..');
const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-fence-')));
const stopped = new Set<ChildProcess>();
afterAll(() => {
  for (const child of stopped) child.kill('SIGKILL');
  fs.rmSync(base, { recursive: true, force: true });
});

const scene = JSON.stringify({ asset: { version: '2.0' }, images: [{ uri: '../textures/hull.png' }] });

/** A workspace with so many scenes that all name one texture. */
function lay(name: string, scenes: number): string {
  const root = path.join(base, name);
  for (const folder of ['textures', 'scenes', '.satchel'])
    fs.mkdirSync(path.join(root, folder), { recursive: true });
  fs.writeFileSync(path.join(root, '.satchel', 'workspace.json'), markerOf(name));
  fs.writeFileSync(path.join(root, 'textures', 'hull.png'), 'HULL');
  for (let i = 0; i < scenes; i++) fs.writeFileSync(path.join(root, 'scenes', `s${i}.gltf`), scene);
  return root;
}
const markerOf = (name: string) =>
  JSON.stringify({
    ...{ format: 1, name, created: '2026-12-01T00:00:00.000Z', layout: '' },
    ...{ folders: ['scenes', 'textures'], homes: {}, libraries: [], places: [] },
  });

const lockOf = (root: string) => path.join(root, '.satchel', 'lock');

/** Another program holds the lock from now on. */
function takeOver(root: string): void {
  const owner = JSON.parse(fs.readFileSync(lockOf(root), 'utf8')) as object;
  fs.writeFileSync(lockOf(root), JSON.stringify({ ...owner, token: 'another', host: 'barn' }));
}

test.each([1, 4, 8])(
  'an apply that loses its lock at step %i leaves everything as it is then',
  async (at) => {
    const root = lay(`lost ${at}`, 8);
    const before = wholeDisk(root);
    const w = await readWorkspace(root);
    const plan = await planMove(w, [{ path: 'textures/hull.png', to: 'textures/new.png' }]);
    expect(plan.steps.length).toBe(9);
    let then: ReturnType<typeof wholeDisk> | null = null;
    const applied = applyPlan(root, plan, {
      onProgress: ({ steps }) => {
        if (steps !== at || then) return;
        takeOver(root);
        then = wholeDisk(root);
      },
    });
    await expect(applied).rejects.toMatchObject({ code: 'lock-lost' });
    expect(sameDisk(then!, wholeDisk(root))).toEqual([]);
    // The next holder, once that one has gone, too, puts all of it back.
    fs.unlinkSync(lockOf(root));
    expect((await settle(recordsIn(root))).map((r) => r.how)).toEqual(['put-back']);
    const users = (disk: ReturnType<typeof wholeDisk>) =>
      Object.fromEntries(Object.entries(disk).filter(([name]) => !name.startsWith('.satchel')));
    expect(sameDisk(users(before), users(wholeDisk(root)))).toEqual([]);
  },
);

test('an apply that loses its lock after its last step does not claim to be done', async () => {
  const root = lay('last', 2);
  const w = await readWorkspace(root);
  const plan = await planMove(w, [{ path: 'textures/hull.png', to: 'textures/new.png' }]);
  await expect(
    applyPlan(root, plan, {
      onProgress: ({ steps }) => void (steps === plan.steps.length && takeOver(root)),
    }),
  ).rejects.toMatchObject({ code: 'lock-lost' });
  fs.unlinkSync(lockOf(root));
  await settle(recordsIn(root));
  expect(await openEntries(recordsIn(root))).toEqual([]);
});

test('a drive that goes away is reported as that, not as a lock that was lost', async () => {
  const root = lay('away', 8);
  const w = await readWorkspace(root);
  const plan = await planMove(w, [{ path: 'textures/hull.png', to: 'textures/new.png' }]);
  const before = fs.readFileSync(path.join(root, 'scenes', 's0.gltf'), 'utf8');
  const error = await applyPlan(root, plan, {
    onProgress: ({ steps }) =>
      void (steps === 4 && fs.existsSync(root) && fs.renameSync(root, `${root} away`)),
  }).then(
    () => null,
    (cause: AppError) => cause,
  );
  expect([error!.code, error!.unchanged]).not.toContain('lock-lost');
  expect(error!.unchanged).toContain('put back');
  fs.renameSync(`${root} away`, root);
  fs.rmSync(lockOf(root), { force: true });
  await settle(recordsIn(root));
  expect(fs.readFileSync(path.join(root, 'scenes', 's0.gltf'), 'utf8')).toBe(before);
});

test('every call that commits is refused once the lock is lost, and none before', async () => {
  const root = lay('calls', 0);
  await withLock(root, async (locked) => {
    const once = async function* () {
      yield Buffer.from('LATE');
    };
    const write = (name: string) => locked.tree.write(treePath(name), once(), { replace: false, tag: 't' });
    await write('textures/early.png');
    takeOver(root);
    const before = fs.readdirSync(path.join(root, 'textures')).filter((f) => !f.startsWith('.'));
    for (const late of [
      () => write('textures/late.png'),
      () => locked.tree.move(treePath('textures/hull.png'), treePath('textures/other.png')),
      () => locked.tree.remove(treePath('textures/hull.png')),
      () => locked.tree.makeFolder(treePath('more')),
    ])
      await expect(late()).rejects.toMatchObject({ code: 'lock-lost' });
    expect(fs.readdirSync(path.join(root, 'textures')).filter((f) => !f.startsWith('.'))).toEqual(before);
    expect(fs.existsSync(path.join(root, 'more'))).toBe(false);
  });
  // A lock that was taken over is not taken away by the one that lost it.
  expect(fs.existsSync(lockOf(root))).toBe(true);
});

deepTest(
  'a process that is stopped in the middle of an apply, and wakes after another has worked, changes nothing',
  async () => {
    const root = lay('stopped', 400);
    const satchel = path.join(project, 'dist', 'satchel.mjs');
    const env = { ...process.env, SATCHEL_DATA: path.join(base, 'app') };
    const texture = path.join(root, 'textures', 'hull.png');
    const first = spawn(process.execPath, [satchel, 'rename', texture, 'first.png', '--yes'], {
      env,
      stdio: ['ignore', 'ignore', 'pipe'],
    });
    let said = '';
    first.stderr.on('data', (part: Buffer) => (said += part.toString()));
    const ended = new Promise<number | null>((done) => first.once('close', done));
    stopped.add(first);
    const changed = () =>
      fs
        .readdirSync(path.join(root, 'scenes'))
        .filter(
          (f) =>
            !f.startsWith('.') && fs.readFileSync(path.join(root, 'scenes', f), 'utf8').includes('first.png'),
        ).length;
    for (const until = Date.now() + 60_000; changed() < 40;) {
      if (Date.now() > until || first.exitCode !== null)
        throw new Error(`the rename never came to its middle: ${said}`);
      await new Promise((done) => setTimeout(done, 2));
    }
    first.kill('SIGSTOP');
    expect(changed()).toBeLessThan(400);
    // Another machine finds no sign of life, takes the lock over, settles, and does something else.
    fs.unlinkSync(lockOf(root));
    for (const args of [
      ['put-back', root, '--yes'],
      ['rename', texture, 'second.png', '--yes'],
    ]) {
      const second = spawnSync(process.execPath, [satchel, ...args], { env, encoding: 'utf8' });
      expect([second.stdout, second.stderr, second.status! < 2]).toEqual([
        second.stdout,
        second.stderr,
        true,
      ]);
    }
    const then = wholeDisk(root);
    first.kill('SIGCONT');
    expect(await ended).toBe(2);
    expect(said).toContain('took over');
    expect(sameDisk(then, wholeDisk(root))).toEqual([]);
    expect(changed()).toBe(0);
    expect(fs.readdirSync(path.join(root, 'textures')).filter((f) => !f.startsWith('.'))).toEqual([
      'second.png',
    ]);
  },
  180_000,
);
