// What comes with a stranger's folder, and what cannot be read: nothing is done on its word, and nothing is taken for "no references".

import { afterAll, beforeEach, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { apply } from '@/core/changes/apply';
import { encodeLine, journalPath } from '@/core/changes/journal';
import { applying } from '@/core/changes/testing/contexts';
import type { Plan } from '@/core/changes/plan';
import { treePath as p } from '@/core/files/treePath';
import { planBin } from '@/core/plans/planBin';
import { planMove } from '@/core/plans/planMove';
import { planTidy } from '@/core/plans/planTidy';
import { scenePaths } from '@/core/references/scan';
import { nodeCalls } from '../disk/calls';
import { DiskTree } from '../disk/diskTree';
import { failingDisk } from '../disk/testing/failingDisk';
import { sameDisk, wholeDisk } from '../disk/testing/wholeDisk';
import { applyPlan, leaveAsIs, openEntries, recordsIn, settle } from './changing';
import { plainFolder } from './open';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-strangers-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));
const data = process.env.SATCHEL_DATA;
let n = 0;
let root = '';
beforeEach(() => {
  process.env.SATCHEL_DATA = path.join(base, 'app');
  root = path.join(base, String(++n));
  lay('a.txt', 'A');
});
afterAll(() => {
  if (data === undefined) delete process.env.SATCHEL_DATA;
  else process.env.SATCHEL_DATA = data;
});
function lay(at: string, content: string | Buffer): void {
  fs.mkdirSync(path.dirname(path.join(root, at)), { recursive: true });
  fs.writeFileSync(path.join(root, at), content);
}
const images = (...uris: string[]) =>
  JSON.stringify({ asset: { version: '2.0' }, images: uris.map((uri) => ({ uri })) });
const put = (at: string): Plan => ({
  kind: 'bring',
  title: 'Write',
  steps: [
    { do: 'put', path: p(at), before: null, size: 1, modified: null, from: { from: 'bytes', latin1: 'x' } },
  ],
  notes: [],
  paths: [],
  readiness: null,
});

/** A journal of somebody else: a move that was begun, and is to be put back over a link. */
function layForeign(): string {
  const out = path.join(base, `home-${n}`);
  fs.mkdirSync(out);
  fs.symlinkSync(out, path.join(root, 'way'));
  const plan: Plan = {
    ...put('x'),
    steps: [
      {
        do: 'move',
        path: p('way/startup'),
        to: p('a.txt'),
        content: { size: 1, modified: fs.statSync(path.join(root, 'a.txt')).mtimeMs, digest: null },
      },
    ],
  };
  const first = encodeLine(
    {
      line: 'plan',
      format: 2,
      id: 'evil',
      seq: 1,
      time: 't',
      plan,
      by: { installation: 'x'.repeat(16), seal: 'ab' },
    },
    '',
  );
  const second = encodeLine({ line: 'about', step: 0, digest: null, kept: null }, first.digest);
  lay(journalPath('evil'), Buffer.concat([first.bytes, second.bytes]));
  return out;
}

test('a stranger’s unfinished journal is reported, not run; asked for, it stays inside all the same', async () => {
  const out = layForeign();
  const before = wholeDisk(root);
  const of = recordsIn(root);
  expect((await openEntries(of)).map((o) => [o.id, o.why])).toEqual([['evil', 'unfinished']]);
  expect((await settle(of)).map((r) => r.how)).toEqual(['foreign']);
  await expect(applyPlan(root, put('new.txt'))).rejects.toMatchObject({ code: 'unfinished' });
  expect([sameDisk(before, wholeDisk(root)), fs.readdirSync(out)]).toEqual([[], []]);
  await settle(of, new Set(['evil']));
  expect([sameDisk(before, wholeDisk(root)), fs.readdirSync(out)]).toEqual([[], []]);
  if ((await openEntries(of)).length > 0) await leaveAsIs(of, 'evil');
  expect(await openEntries(of)).toEqual([]);
  await applyPlan(root, put('new.txt'));
  expect(fs.existsSync(path.join(root, 'new.txt'))).toBe(true);
});

test('what this installation began is put back by its next change; moved to another folder, only when asked', async () => {
  lay('b.txt', 'B');
  const of = recordsIn(root);
  const { signer } = await import('../identity');
  const cut = async () => {
    const dying = new DiskTree(root, failingDisk(150, 'dies').calls);
    const plan: Plan = { ...put('x1'), steps: Array.from({ length: 9 }, (_, i) => put(`x${i}`).steps[0]!) };
    await apply(dying, plan, { ...applying(`20261126-000000-000000${n}`), sign: signer(), root }).catch(
      () => undefined,
    );
  };
  await cut();
  expect((await openEntries(of)).length).toBe(1);
  expect(fs.existsSync(path.join(root, 'x0'))).toBe(true);
  await applyPlan(root, put('next.txt'));
  expect(fs.readdirSync(root).sort()).toEqual(['.satchel', 'a.txt', 'b.txt', 'next.txt']);
  n++;
  await cut();
  const copy = `${root}-copy`;
  fs.cpSync(root, copy, { recursive: true });
  expect((await settle(recordsIn(copy))).map((r) => r.how)).toEqual(['foreign']);
  expect((await settle(of)).map((r) => r.how)).toEqual(['put-back']);
});

test('nothing is changed through a records folder that is a link', async () => {
  const out = path.join(base, `records-${n}`);
  fs.mkdirSync(out);
  fs.symlinkSync(out, path.join(root, '.satchel'));
  await expect(applyPlan(root, put('new.txt'))).rejects.toMatchObject({ code: 'no-access' });
  expect(fs.readdirSync(out)).toEqual([]);
});

/** The machine's disk, with one path that may not be read. */
function withoutAccess(to: string) {
  const refuse = (at: string) => {
    if (at === to || at.startsWith(`${to}/`)) throw Object.assign(new Error('no'), { code: 'EACCES' });
  };
  return {
    ...nodeCalls,
    open: (at: string, flags: number, mode?: number) => (refuse(at), nodeCalls.open(at, flags, mode)),
    readdir: (at: string) => (refuse(at), nodeCalls.readdir(at)),
  };
}

test.each(['scenes', 'scenes/a.gltf'])(
  '%s cannot be read: said where its texture moves, and nothing it may use is cleared',
  async (what) => {
    lay('scenes/a.gltf', images('../textures/hull.png'));
    lay('textures/hull.png', 'H');
    const tree = new DiskTree(root, withoutAccess(path.join(root, what)));
    const workspace = { ...plainFolder(root), tree };
    const move = await planMove(workspace, [{ path: 'textures/hull.png', to: 'textures/new.png' }]);
    expect(move.notes.filter((x) => x.level === 'warning').map((x) => x.code)).toContain('unread');
    const bin = await planBin(workspace, [p('textures/hull.png')], '2026-11-26T00:00:00Z');
    expect(bin.notes.filter((x) => x.level === 'blocker').map((x) => x.code)).toEqual(['unread']);
    if (what === 'scenes') expect((await scenePaths(tree)).unread).toHaveLength(1);
  },
);

const text = images('hull.png');
test.each<[string, string, Buffer]>([
  ['of an unknown format', 'boat.sceneish', Buffer.from('\x00\x01//hull.png\x00')],
  ['in UTF-16', 'boat.gltf', Buffer.from(`\ufeff${text}`, 'utf16le')],
  ['with comments', 'boat.gltf', Buffer.from(`// mine\n${text}`)],
  ['cut off', 'boat.gltf', Buffer.from(text.slice(0, -4))],
])('a scene %s holds its picture where it is, and warns when that is renamed', async (_, name, content) => {
  lay(`lose/${name}`, content);
  lay('lose/hull.png', 'H');
  const workspace = {
    ...plainFolder(root),
    file: { ...plainFolder(root).file, homes: { texture: 'textures', scene: 'scenes', other: 'intake' } },
  };
  const tidy = await planTidy(workspace, { only: null });
  const moved = tidy.steps.flatMap((s) => (s.do === 'move' ? [s.path] : []));
  expect([moved.filter((m) => m.startsWith('lose/')), tidy.notes.some((x) => x.code === 'held')]).toEqual([
    [],
    true,
  ]);
  const rename = await planMove(workspace, [{ path: 'lose/hull.png', to: 'lose/new.png' }]);
  expect(rename.notes.filter((x) => x.level !== 'info').length).toBeGreaterThan(0);
});

test('a workspace in which somebody is at work is not moved', async () => {
  lay('inner/.satchel/workspace.json', '{}');
  const { takeFolderLock } = await import('../disk/folderLock');
  const taken = takeFolderLock(path.join(root, 'inner/.satchel'));
  const plan: Plan = { ...put('x'), steps: [{ do: 'move-folder', path: p('inner'), to: p('outer') }] };
  await expect(applyPlan(root, plan)).rejects.toMatchObject({ code: 'busy' });
  if ('lock' in taken) taken.lock.release();
  await applyPlan(root, plan);
  expect(fs.existsSync(path.join(root, 'outer/.satchel/workspace.json'))).toBe(true);
});
