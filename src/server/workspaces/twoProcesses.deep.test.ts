// Two processes on one workspace: the command line, killed at random moments and looked at by another meanwhile. Looking never puts back
// another's running work; after every kill the next change finds all as before or all as meant.

import { afterAll, expect, test } from '@jest/globals';
import { spawn, spawnSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import type { AppError } from '@/core/errors';
import { planMove } from '@/core/plans/planMove';
import { applyPlan } from './changing';
import { readWorkspace } from './open';

const project = path.resolve(import.meta.dirname, '../../..');
const satchel = path.join(project, 'dist', 'satchel.mjs');
const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-two-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));
const env = { ...process.env, SATCHEL_DATA: path.join(base, 'app') };
const run = (...args: string[]) => spawnSync(process.execPath, [satchel, ...args], { env, encoding: 'utf8' });

/** A folder with so many scenes that all name one texture. */
function lay(root: string, scenes: number): void {
  fs.mkdirSync(path.join(root, 'textures'), { recursive: true });
  fs.mkdirSync(path.join(root, 'scenes'));
  fs.writeFileSync(path.join(root, 'textures', 'hull.png'), 'HULL');
  for (let i = 0; i < scenes; i++)
    fs.writeFileSync(
      path.join(root, 'scenes', `s${i}.gltf`),
      JSON.stringify({ asset: { version: '2.0' }, images: [{ uri: '../textures/hull.png' }] }),
    );
}

const names = (root: string) =>
  fs
    .readdirSync(path.join(root, 'scenes'))
    .filter((f) => !f.startsWith('.'))
    .map((f) => /textures\/(\w+)\.png/.exec(fs.readFileSync(path.join(root, 'scenes', f), 'utf8'))![1]);

test('killed wherever it is while another looks: every scene and its texture agree after the next change', async () => {
  const laid = path.join(base, 'laid');
  lay(laid, 60);
  expect(run('adopt', laid, '--yes').status).toBeLessThan(2);
  let middle = 0;
  // Killed as soon as it holds the lock; then when so many of the sixty scenes name the new file.
  const moments = [0, 1, 2, 20, 45, 59];
  // On a machine that is busy a kill may come late: then there are more of them.
  for (let round = 0; round < moments.length || (middle < 2 && round < 24); round++) {
    const many = moments[round % moments.length]!;
    const root = path.join(base, `w${round}`);
    fs.cpSync(laid, root, { recursive: true });
    const child = spawn(
      process.execPath,
      [satchel, 'rename', path.join(root, 'textures/hull.png'), 'new.png', '--yes'],
      { env, stdio: 'ignore' },
    );
    let over = false;
    const ended = new Promise<void>((resolve) =>
      child.on('close', () => {
        over = true;
        resolve();
      }),
    );
    // What was rewritten is another file with its name: that is seen sooner than sixty are read.
    const files = () =>
      fs.readdirSync(path.join(root, 'scenes')).map((f) => {
        const stat = fs.statSync(path.join(root, 'scenes', f), { throwIfNoEntry: false });
        return `${f} ${stat?.ino}`;
      });
    const first = new Set(files());
    const isThere = () =>
      many === 0
        ? fs.existsSync(path.join(root, '.satchel/lock'))
        : files().filter((f) => !f.startsWith('.') && !first.has(f)).length >= many;
    while (!over && !isThere()) await new Promise((r) => setTimeout(r, 1));
    const looked = round % 2 === 0 ? run('refs', root, '--json') : null;
    child.kill('SIGKILL');
    await ended;
    const [now, isNew] = [new Set(names(root)), fs.existsSync(path.join(root, 'textures/new.png'))];
    if (now.size > 1 || now.has('new') !== isNew) middle++;
    if (looked) expect(looked.status).toBeLessThan(2);
    expect(run('put-back', root, '--yes').status).toBe(0);
    const whole = fs.existsSync(path.join(root, 'textures/new.png')) ? 'new' : 'hull';
    expect([
      round,
      [...new Set(names(root))],
      fs.existsSync(path.join(root, `textures/${whole}.png`)),
    ]).toEqual([round, [whole], true]);
    if (round % 2 === 0)
      expect(JSON.parse(run('refs', root, '--json').stdout).summary.byState).toEqual({ travels: 60 });
    expect(run('rename', path.join(root, `textures/${whole}.png`), 'last.png', '--yes').status).toBe(0);
    expect(new Set(names(root))).toEqual(new Set(['last']));
  }
  // The kills landed in the middle, or this proves nothing.
  expect(middle).toBeGreaterThan(1);
}, 300_000);

test('two changes at once: one is done, the other is refused or follows; looking meanwhile leaves it alone', async () => {
  const root = path.join(base, 'both');
  lay(root, 80);
  expect(run('adopt', root, '--yes').status).toBeLessThan(2);
  const start = (to: string) =>
    new Promise<{ code: number | null; out: string }>((resolve) => {
      const child = spawn(
        process.execPath,
        [satchel, 'rename', path.join(root, 'textures/hull.png'), to, '--yes'],
        { env },
      );
      let out = '';
      child.stderr.on('data', (d) => (out += String(d)));
      child.on('close', (code) => resolve({ code, out }));
    });
  const all = await Promise.all([start('one.png'), start('two.png'), (async () => run('refs', root))()]);
  const done = all.slice(0, 2).filter((r) => (r as { code?: number | null }).code === 0).length;
  expect(done).toBe(1);
  const [name] = names(root);
  expect(['one', 'two']).toContain(name);
  expect([new Set(names(root)).size, fs.existsSync(path.join(root, `textures/${name}.png`))]).toEqual([
    1,
    true,
  ]);
  expect(run('refs', root).status).toBe(0);
}, 120_000);

test('the application and the command line on one workspace: whoever comes second is refused or finds what the first made', async () => {
  const root = path.join(base, 'application');
  lay(root, 40);
  expect(run('adopt', root, '--yes').status).toBeLessThan(2);
  const textures = () => fs.readdirSync(path.join(root, 'textures')).filter((f) => f.endsWith('.png'));
  let [applied, refused] = [0, 0];
  const here = (async () => {
    for (let n = 0; n < 12; n++) {
      try {
        const workspace = await readWorkspace(root);
        const plan = await planMove(workspace, [
          { path: `textures/${textures()[0]}`, to: `textures/here${n}.png` },
        ]);
        await applyPlan(root, plan);
        applied++;
      } catch (cause) {
        expect(['busy', 'stale-plan', 'blocked-plan', 'not-found']).toContain((cause as AppError).code);
        refused++;
      }
      await new Promise((r) => setTimeout(r, 20 + n * 7));
    }
  })();
  const there = (async () => {
    for (let n = 0; n < 6; n++) {
      const name = textures()[0];
      if (!name) continue;
      const child = spawn(
        process.execPath,
        [satchel, 'rename', path.join(root, 'textures', name), `there${n}.png`, '--yes'],
        { env, stdio: 'ignore' },
      );
      const code = await new Promise((resolve) => child.on('close', resolve));
      if (code === 0) applied++;
      else refused++;
    }
  })();
  await Promise.all([here, there]);
  // Both got to work, and whatever they did fits together.
  expect([applied > 2, applied + refused]).toEqual([true, 18]);
  const [name, ...more] = textures();
  expect([more, new Set(names(root))]).toEqual([[], new Set([name!.replace('.png', '')])]);
  expect(fs.readFileSync(path.join(root, 'textures', name!), 'utf8')).toBe('HULL');
  expect(JSON.parse(run('refs', root, '--json').stdout).summary.byState).toEqual({ travels: 40 });
  expect(fs.existsSync(path.join(root, '.satchel/lock'))).toBe(false);
}, 120_000);
