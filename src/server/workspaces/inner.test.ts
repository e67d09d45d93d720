// Plans above workspaces: while one moves a workspace, or changes scenes in it, nobody else changes it, wherever it lies just then; and where
// somebody is at work in it, it is not touched.

import { afterAll, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { treePath } from '@/core/files/treePath';
import { planRelocate } from '@/core/plans/planRelocate';
import { takeFolderLock } from '../disk/folderLock';
import { sameDisk, wholeDisk } from '../disk/testing/wholeDisk';
import { applyPlan, withLock } from './changing';
import { planUndoOf, readLedger } from './ledger';
import { shelfOf, shelfRecords, shelved } from './shelf';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-inner-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));

function lay(name: string): { work: string; records: string } {
  const work = path.join(base, name, 'work');
  const marker = (at: string) => {
    fs.mkdirSync(path.join(work, at, '.satchel'), { recursive: true });
    const file = { format: 1, name: path.basename(at), created: '2026-01-01T00:00:00Z', layout: 'x' };
    fs.writeFileSync(
      path.join(work, at, '.satchel/workspace.json'),
      JSON.stringify({ ...file, folders: [], homes: {}, libraries: [], places: [] }),
    );
  };
  for (const at of ['Boat', 'Boat/kits/Inner', 'Quay', 'Idle']) marker(at);
  fs.writeFileSync(path.join(work, 'Boat/wood.png'), 'W');
  fs.writeFileSync(
    path.join(work, 'Quay/a.gltf'),
    JSON.stringify({ asset: { version: '2.0' }, images: [{ uri: '../Boat/wood.png' }] }),
  );
  return { work, records: path.join(base, name, 'records') };
}

async function plan(work: string, records: string) {
  const known = await shelved(
    work,
    ['Boat', 'Quay', 'Idle'].map((n) => `${work}/${n}`),
  );
  return planRelocate(shelfOf(work, records, known), {
    known,
    moves: [{ path: treePath('Boat'), to: treePath('client/New Boat') }],
  });
}

test('while it moves, neither it nor what is changed with it can be changed by another; after it all can', async () => {
  const { work, records } = lay('moving');
  const of = shelfRecords(work, records);
  const isHeld = (at: string) => {
    const folder = path.join(work, at, '.satchel');
    if (!fs.existsSync(folder)) return 'not there';
    const taken = takeFolderLock(folder);
    if ('lock' in taken) taken.lock.release();
    return 'lock' in taken ? 'free' : 'held';
  };
  const places = ['Boat', 'client/New Boat', 'client/New Boat/kits/Inner', 'Quay', 'Idle'];
  const seen = new Set<string>();
  const look = () => void seen.add(places.map(isHeld).join());
  await applyPlan(work, await plan(work, records), { onProgress: look }, of);
  // Before the folder moves, and after.
  expect([...seen]).toContain('not there,held,held,held,free');
  expect([...seen].some((s) => s.includes('free,') || s.startsWith('free'))).toBe(false);
  expect(places.map(isHeld)).toEqual(['not there', 'free', 'free', 'free', 'free']);
  expect(fs.existsSync(path.join(work, 'client/New Boat/.satchel/lock'))).toBe(false);
  const [entry] = await readLedger(of);
  await applyPlan(work, await planUndoOf(of, entry!.id), {}, of);
  expect(['Boat', 'Boat/kits/Inner', 'Quay'].map(isHeld)).toEqual(['free', 'free', 'free']);
});

test.each(['Boat', 'Boat/kits/Inner', 'Quay'])('somebody at work in %s: nothing is touched', async (at) => {
  const { work, records } = lay(`busy-${at.replaceAll('/', '-')}`);
  const made = await plan(work, records);
  const before = wholeDisk(work);
  await withLock(`${work}/${at}`, async () => {
    await expect(applyPlan(work, made, {}, shelfRecords(work, records))).rejects.toMatchObject({
      code: 'busy',
    });
  });
  expect(sameDisk(before, wholeDisk(work))).toEqual([]);
});
