// What is kept compact or by autosave stays in the store as long as anything may need it: a record that cannot be read may need anything.

import { afterAll, beforeEach, describe, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { shippedLayouts } from '@/core/layouts/layout';
import { usualChoice } from '@/core/bags/travelling';
import type { Digest } from '@/core/files/digest';
import { treePath } from '@/core/files/treePath';
import { planCompact, planSpread } from '@/core/plans/planCompact';
import { planMove } from '@/core/plans/planMove';
import { isKept } from '@/core/store/store';
import { usualNet } from '@/core/versions/net';
import { DiskTree } from '../disk/diskTree';
import { sameDisk, wholeDisk } from '../disk/testing/wholeDisk';
import { packWorkspace } from '../bags/packWorkspace';
import { applyPlan } from './changing';
import { netRound } from './net';
import { createWorkspace, readWorkspace } from './open';
import { storeNeeds, sweepStore } from './storeOwners';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-owners-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));

let root = '';
let count = 0;
const at = (file: string) => path.join(root, file);
const version = treePath('scenes/boat_v001.gltf');
const noteAt = '.satchel/versions/scenes/boat_v001.gltf.json';
const log = '.satchel/net/log.jsonl';
const scene = (n: number) => JSON.stringify({ asset: { version: '2.0' }, extras: 'x'.repeat(n) });

beforeEach(async () => {
  const made = await createWorkspace({
    parent: base,
    name: `Boat ${++count}`,
    layout: shippedLayouts.find((l) => l.id === 'game-environment')!,
    without: [],
  });
  root = made.root;
  for (const n of [1, 2]) fs.writeFileSync(at(`scenes/boat_v00${n}.gltf`), scene(n));
  fs.chmodSync(at(version), 0o640);
});

async function compact() {
  const now = '2026-11-26T10:00:00.000Z';
  await applyPlan(root, await planCompact(await readWorkspace(root), { versions: [version], now }));
  expect(fs.existsSync(at(version))).toBe(false);
}
const isThere = async (digest: Digest) => isKept((await readWorkspace(root)).tree, digest);

describe('a compact version', () => {
  test('comes back with its rights and time, also after its folder was renamed', async () => {
    const before = wholeDisk(root);
    await compact();
    await applyPlan(root, await planMove(await readWorkspace(root), [{ path: 'scenes', to: 'shots' }]));
    const moved = treePath('shots/boat_v001.gltf');
    await applyPlan(root, await planSpread(await readWorkspace(root), [moved]));
    const after = wholeDisk(root);
    expect(after['shots/boat_v001.gltf']).toMatch(/^file 640 /);
    await applyPlan(root, await planMove(await readWorkspace(root), [{ path: 'shots', to: 'scenes' }]));
    expect(sameDisk(before, wholeDisk(root))).toEqual([]);
  });

  test('that does not go into a bag is named', async () => {
    await compact();
    const bag = at('../bag.zip').replace('bag.zip', `bag ${count}.zip`);
    const packed = await packWorkspace(await readWorkspace(root), bag, { choice: usualChoice });
    expect(packed.leftOut.map((l) => l.path)).toEqual([version]);
    const all = await packWorkspace(await readWorkspace(root), `${bag}.all.zip`, {
      choice: { ...usualChoice, without: [] },
    });
    expect(all.leftOut).toEqual([]);
  });

  test.each([
    ['no JSON', (text: string) => text.slice(0, -4)],
    ['one field', (text: string) => text.replace('"digest"', '"digexx"')],
    ['a later version’s way', (text: string) => text.replace('"compact": [', '"compact": ["packed",')],
  ])('keeps its content while its note is damaged: %s', async (_, damage) => {
    await compact();
    const tree = new DiskTree(root);
    const [digest] = (await storeNeeds({ root, tree })).compact;
    const text = fs.readFileSync(at(noteAt), 'utf8');
    fs.writeFileSync(at(noteAt), damage(text));
    await expect(sweepStore({ root, tree })).rejects.toMatchObject({
      code: 'disk-error',
      message: expect.stringContaining(noteAt),
    });
    expect(await isThere(digest!)).toBe(true);
    fs.writeFileSync(at(noteAt), text);
    await sweepStore({ root, tree });
    expect(await isThere(digest!)).toBe(true);
  });
});

describe('what autosave keeps', () => {
  const round = async () => {
    const clock = { now: Date.now, wait: () => Promise.resolve(), run: { id: 'r', from: Date.now() } };
    await netRound(root, usualNet, clock);
    const tree = new DiskTree(root);
    return { tree, text: fs.readFileSync(at(log), 'utf8') };
  };

  test('stays while a line of its log is damaged, torn, or a later version’s', async () => {
    const { tree, text } = await round();
    const [digest] = (await storeNeeds({ root, tree })).net;
    const line = text.split('\n').find((l) => l.includes(digest!))!;
    // Damaged since: what it named is not known.
    fs.writeFileSync(at(log), text.replace(line, line.replace('"line":', '"line"')));
    await expect(sweepStore({ root, tree })).rejects.toMatchObject({ code: 'disk-error' });
    // Torn while it was written, in front of others; and of a kind that is not known here.
    for (const other of [line.slice(0, -8), line.replace('"line":"kept"', '"line":"bundle"')]) {
      fs.writeFileSync(at(log), text.replace(line, other));
      await sweepStore({ root, tree });
      expect([other.slice(0, 20), await isThere(digest!)]).toEqual([other.slice(0, 20), true]);
    }
    // The next rounds do not write the log anew without it.
    for (let n = 0; n < 3; n++) await round();
    expect(fs.readFileSync(at(log), 'utf8')).toContain('"line":"bundle"');
    expect(await isThere(digest!)).toBe(true);
  });
});
