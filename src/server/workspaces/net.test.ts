// The net on a real disk, with a clock that the test moves: what is kept and when, holes and their reasons, programs that write in place or replace, and
// the way back.

import { afterAll, describe, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { planNet } from '@/core/plans/planNet';
import { treePath, type TreePath } from '@/core/files/treePath';
import { readLayout, shippedLayouts } from '@/core/layouts/layout';
import { openContent } from '@/core/store/store';
import {
  blindStretches,
  reachesBack,
  sceneNets,
  statesToKeep,
  thinned,
  usualNet,
  writeNetLines,
  readNetLog,
  type KeptState,
  type NetLine,
  type NetSettings,
} from '@/core/versions/net';
import type { Digest } from '@/core/files/digest';
import { DiskTree } from '../disk/diskTree';
import { applyPlan } from './changing';
import { netLines, netRound, type NetClock } from './net';
import { createWorkspace, readWorkspace } from './open';
import { otherSaves } from './otherSaves';
import { readSeries } from '@/core/plans/versionFiles';
import { storeHeld, sweepStore } from './storeOwners';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-net-')));
afterAll(() => fs.rmSync(base, { recursive: true }));
let count = 0;
const minute = 60_000;
const scene = 'scenes/boat_v001.gltf' as TreePath;
const gltf = (name: string, buffer?: string) =>
  JSON.stringify({
    asset: { version: '2.0' },
    nodes: [{ name }],
    ...(buffer ? { buffers: [{ uri: buffer, byteLength: 3 }] } : {}),
  });

/** A workspace with one scene, and a clock that moves by hand. */
async function begin() {
  const layout = readLayout('scenes = scene\ntextures = texture\nbackups = backup\n', 'test', 'test');
  const name = `w${++count}`;
  const { root } = await createWorkspace({
    parent: base,
    name,
    layout: layout ?? shippedLayouts[0]!,
    without: [],
  });
  const put = (at: string, content: string | Buffer) => {
    fs.mkdirSync(path.dirname(path.join(root, at)), { recursive: true });
    fs.writeFileSync(path.join(root, at), content);
  };
  put(scene, gltf('first'));
  const time = { now: Date.parse('2026-11-26T09:00:00.123Z') };
  const clock = (run: string, onWait: (n: number) => void = () => undefined): NetClock => {
    let waits = 0;
    const from = time.now;
    return { now: () => time.now, wait: async () => onWait(++waits), run: { id: run, from } };
  };
  const look = async () => {
    const lines = await netLines((await readWorkspace(root)).tree);
    const net = sceneNets(lines);
    return { lines, states: net.get(scene)?.states ?? [], holes: net.get(scene)?.holes ?? [] };
  };
  return { root, put, time, clock, look };
}

async function contentOf(root: string, state: KeptState): Promise<string> {
  const { tree } = await readWorkspace(root);
  const parts: Uint8Array[] = [];
  for await (const part of openContent(tree, state.files.at(-1)!.digest)) parts.push(new Uint8Array(part));
  return Buffer.concat(parts).toString();
}

test('what changed is kept, what did not is not; only written again is told apart', async () => {
  const { root, put, time, clock, look } = await begin();
  const here = clock('a');
  expect((await netRound(root, usualNet, here)).kept).toEqual([{ scene, broken: null }]);
  time.now += 5 * minute;
  expect(await netRound(root, usualNet, here)).toMatchObject({ kept: [], unchanged: 1 });
  fs.utimesSync(path.join(root, scene), new Date(), new Date(Date.now() + 1500));
  time.now += 5 * minute;
  expect(await netRound(root, usualNet, here)).toMatchObject({ kept: [], unchanged: 1 });
  put(scene, gltf('second'));
  time.now += 5 * minute;
  expect((await netRound(root, usualNet, here)).kept).toHaveLength(1);
  const { states } = await look();
  expect(await Promise.all(states.map((s) => contentOf(root, s)))).toEqual([gltf('first'), gltf('second')]);
  expect(fs.readdirSync(path.join(root, 'scenes'))).toEqual(['boat_v001.gltf']); // nothing beside the scene
});

test('what belongs to the scene alone is kept with it, and counts as a change', async () => {
  const { root, put, clock, look } = await begin();
  put(scene, gltf('boat', 'boat_v001.bin'));
  put('scenes/boat_v001.bin', 'ONE');
  await netRound(root, usualNet, clock('a'));
  put('scenes/boat_v001.bin', 'TWO!');
  await netRound(root, usualNet, clock('a'));
  const { states } = await look();
  expect(states.map((s) => s.files.map((f) => f.path))).toEqual([
    ['scenes/boat_v001.bin', scene],
    ['scenes/boat_v001.bin', scene],
  ]);
});

test('a workspace without a scene stays as it was made', async () => {
  const { root, clock } = await begin();
  fs.rmSync(path.join(root, scene));
  expect(await netRound(root, usualNet, clock('a'))).toEqual({ kept: [], skipped: [], unchanged: 0 });
  expect(fs.existsSync(path.join(root, '.satchel/net'))).toBe(false);
});

describe('programs at work', () => {
  test('one that writes in place is waited for, and what it ends with is kept', async () => {
    const { root, put, clock, look } = await begin();
    const whole = gltf('written in parts');
    put(scene, whole.slice(0, 10));
    const busy = clock('a', (n) => {
      if (n <= 3) put(scene, whole.slice(0, 10 + n * 10));
      if (n === 4) put(scene, whole);
    });
    expect((await netRound(root, usualNet, busy)).kept).toEqual([{ scene, broken: null }]);
    expect(await contentOf(root, (await look()).states[0]!)).toBe(whole);
  });

  test('one that replaces the file by renaming is no trouble', async () => {
    const { root, put, clock, look } = await begin();
    const replacing = clock('a', (n) => {
      if (n !== 1) return;
      put('scenes/.tmp', gltf('replaced'));
      fs.renameSync(path.join(root, 'scenes/.tmp'), path.join(root, scene));
    });
    await netRound(root, usualNet, replacing);
    expect(await contentOf(root, (await look()).states[0]!)).toBe(gltf('replaced'));
  });

  test('one that never stops writing is told as a hole, and kept at the next round', async () => {
    const { root, put, time, clock, look } = await begin();
    let n = 0;
    const endless = clock('a', () => put(scene, gltf(`again ${n++}`)));
    expect(await netRound(root, usualNet, endless)).toMatchObject({
      kept: [],
      skipped: [{ scene, why: 'being-written' }],
    });
    expect((await look()).holes).toMatchObject([{ why: 'being-written' }]);
    time.now += minute;
    expect((await netRound(root, usualNet, clock('a'))).kept).toHaveLength(1);
  });

  test('a scene that is cut off in the middle is kept and marked, the last whole one stays', async () => {
    const { root, put, time, clock, look } = await begin();
    await netRound(root, usualNet, clock('a'));
    time.now += 5 * minute;
    put(scene, gltf('a program died here').slice(0, 30));
    await netRound(root, usualNet, clock('a'));
    const { states } = await look();
    expect(states.map((s) => s.broken === null)).toEqual([true, false]);
    const [good] = states;
    const plan = await planNet(await readWorkspace(root), {
      scene,
      state: good!,
      when: 'at 9:00',
      now: '2026-11-26T10:00:00Z',
    });
    await applyPlan(root, plan);
    expect(fs.readFileSync(path.join(root, 'scenes/boat_v002.gltf'), 'utf8')).toBe(gltf('first'));
    expect(fs.readFileSync(path.join(root, scene), 'utf8')).toHaveLength(30); // nothing is lost
  });

  test('one that may not be read is told with its reason', async () => {
    if (process.getuid?.() === 0) {
      // Who is root may read everything: a folder in its place cannot be read as a file either.
      const { root, clock } = await begin();
      fs.rmSync(path.join(root, scene));
      fs.symlinkSync('/nowhere/at/all.gltf', path.join(root, scene));
      expect(await netRound(root, usualNet, clock('a'))).toMatchObject({ kept: [], skipped: [] });
      return;
    }
    const { root, clock, look } = await begin();
    fs.chmodSync(path.join(root, scene), 0);
    expect((await netRound(root, usualNet, clock('a'))).skipped).toMatchObject([{ why: 'unreadable' }]);
    expect((await look()).holes).toMatchObject([{ why: 'unreadable' }]);
  });

  test('somebody else changes the workspace: nothing is kept, nothing breaks, the next round does it', async () => {
    const { root, clock } = await begin();
    const lock = path.join(root, '.satchel', 'lock');
    const other = { host: os.hostname(), pid: process.ppid, since: new Date().toISOString(), key: 'x' };
    fs.writeFileSync(lock, JSON.stringify(other));
    const round = await netRound(root, usualNet, clock('a'));
    fs.rmSync(lock, { force: true, recursive: true });
    if (round.skipped.length > 0) expect(round.skipped).toMatchObject([{ scene, why: 'held' }]);
    const next = await netRound(root, usualNet, clock('a'));
    expect(round.kept.length + next.kept.length).toBe(1);
  });
});

describe('holes', () => {
  test('between two runs the application was closed; within one, and across a short pause, it was not', async () => {
    const { root, time, clock, look } = await begin();
    const first = clock('a');
    await netRound(root, usualNet, first);
    time.now += 5 * minute;
    await netRound(root, usualNet, first);
    const closed = time.now;
    time.now += 25 * minute;
    const second = clock('b');
    await netRound(root, usualNet, second);
    const opened = time.now;
    time.now += 6 * minute;
    await netRound(root, usualNet, clock('c'));
    expect(blindStretches((await look()).lines, usualNet)).toMatchObject([
      { from: closed, to: opened, why: 'closed' },
    ]);
  });

  test('a drive that was away is a hole with its reason', async () => {
    const { root, time, clock, look } = await begin();
    const here = clock('a');
    await netRound(root, usualNet, here);
    const from = time.now;
    time.now += 40 * minute;
    await netRound(root, usualNet, here, { away: { from, why: 'away' } });
    expect(blindStretches((await look()).lines, usualNet)).toMatchObject([
      { from, to: time.now, why: 'away' },
    ]);
  });

  test('a drive that was full is one, too, though the application looked all the time', async () => {
    const { root, time, clock, look } = await begin();
    const here = clock('a');
    await netRound(root, usualNet, here);
    const from = time.now;
    time.now += 15 * minute;
    await netRound(root, usualNet, here, { away: { from, why: 'failed' } });
    const [hole] = blindStretches((await look()).lines, usualNet);
    expect(hole).toMatchObject({ from, why: 'failed', message: 'the drive was full or failed' });
  });

  test('a torn line costs itself only', () => {
    const lines: NetLine[] = [
      { line: 'run', run: 'a', from: 1, to: 2 },
      { line: 'run', run: 'b', from: 3, to: 4 },
    ];
    const text = `${writeNetLines(lines.slice(0, 1))}\n{"line":"run","ru${writeNetLines(lines.slice(1))}`;
    expect(readNetLog(text)).toEqual(lines);
    expect(readNetLog('\n{"line":"kept","at":1,"scene":"../x","files":[],"broken":null}\nnull\n7')).toEqual(
      [],
    );
  });
});

describe('a renamed scene', () => {
  test('keeps what was kept of it', async () => {
    const { root, time, clock } = await begin();
    await netRound(root, usualNet, clock('a'));
    fs.renameSync(path.join(root, scene), path.join(root, 'scenes/lantern_v001.gltf'));
    time.now += 5 * minute;
    await netRound(root, usualNet, clock('a'));
    const nets = sceneNets(await netLines((await readWorkspace(root)).tree));
    expect([...nets].map(([p, n]) => [p, n.states.length])).toEqual([['scenes/lantern_v001.gltf', 2]]);
  });
});

describe('what is let go', () => {
  const state = (at: number): KeptState => ({
    line: 'kept',
    at,
    scene,
    files: [{ path: scene, digest: 'a'.repeat(64) as Digest, size: 1, modified: at }],
    broken: null,
  });
  const settings: NetSettings = { every: 5, keep: 20, hours: 24, days: 30 };

  test('twenty kept every five minutes reach back ninety-five minutes; before that one an hour, then one a day', () => {
    const now = Date.parse('2026-11-26T18:00:00Z');
    const states = Array.from({ length: 10_000 }, (_, n) => state(now - n * 5 * minute));
    expect(now - reachesBack(states, settings)!.at).toBe(19 * 5 * minute);
    const kept = [...statesToKeep(states, settings, now)].map((s) => now - s.at);
    expect(kept.filter((age) => age < 100 * minute)).toHaveLength(20);
    const hours = kept.filter((age) => age >= 100 * minute && age < 24 * 60 * minute);
    expect(hours.length).toBeGreaterThanOrEqual(21);
    expect(hours.length).toBeLessThanOrEqual(24);
    const days = kept.filter((age) => age >= 24 * 60 * minute);
    expect(days.length).toBeGreaterThanOrEqual(29);
    expect(days.length).toBeLessThanOrEqual(31);
    expect(Math.max(...days)).toBeLessThan(31 * 24 * 60 * minute);
  });

  test('the last one stays, however old', () =>
    expect(thinned([state(0)], settings, Date.now())).toMatchObject({ dropped: 0 }));

  test('what was let go leaves the store, what is needed for undo does not', async () => {
    const { root, put, time, clock, look } = await begin();
    const few: NetSettings = { every: 5, keep: 2, hours: 0, days: 0 };
    for (let n = 0; n < 5; n++) {
      put(scene, gltf(`state ${n}`) + ' '.repeat(200_000));
      time.now += 5 * minute;
      await netRound(root, few, clock('a'));
    }
    const { states } = await look();
    expect(await Promise.all(states.map(async (s) => (await contentOf(root, s)).trimEnd()))).toEqual([
      gltf('state 3'),
      gltf('state 4'),
    ]);
    const of = { root, tree: new DiskTree(root) };
    expect((await storeHeld(of)).find((o) => o.owner === 'net')).toMatchObject({ contents: 2 });
    await sweepStore(of);
    for (const s of states) expect((await contentOf(root, s)).length).toBeGreaterThan(200_000);
  });
});

test('automatic saves of other programs are known by name and by what they share, and by nothing less', async () => {
  const { root, put } = await begin();
  const names = Array.from({ length: 30 }, (_, n) => `plank number ${n}`);
  const content = (extra: string) =>
    JSON.stringify({ asset: { version: '2.0' }, nodes: [...names, extra].map((name) => ({ name })) });
  put(scene, content('now'));
  put('backups/boat_v001_0003.gltf', content('an hour ago'));
  put('backups/boat.gltf.2', content('yesterday'));
  put('backups/2026-11-25 1402.gltf', content('dated, without a name'));
  put('backups/boathouse.gltf', JSON.stringify({ nodes: [{ name: 'another building altogether' }] }));
  put('backups/boat_notes.gltf', JSON.stringify({ nodes: [{ name: 'nothing of it is alike' }] }));
  put('backups/boat.png', 'no scene');
  const workspace = await readWorkspace(root);
  const found = await otherSaves(workspace, await readSeries(workspace, treePath(scene)));
  expect(found.map((f) => [f.path, f.named]).sort()).toEqual([
    ['backups/2026-11-25 1402.gltf', false],
    ['backups/boat.gltf.2', true],
    ['backups/boat_v001_0003.gltf', true],
  ]);
});
