// Which second deliveries are taken for the same work, on a real disk: bags sent back and forth are; copies of a folder are not until the user confirms it.

import { afterAll, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import type { AppError } from '@/core/errors';
import { planArriveAgain } from '@/core/plans/planArriveAgain';
import { packWorkspace } from '../bags/packWorkspace';
import { disksBelow } from '../backups/testing/workspaces';
import { diskOutside } from '../disk/diskOutside';
import { applyPlan } from '../workspaces/changing';
import { readWorkspace } from '../workspaces/open';
import { receiveAgain, settleSecondDelivery } from './again';
import { arrive } from './arrive';
import { checkSameLine } from './lineage';
import { recogniseArrival } from './recognise';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-lineage-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));
const { fresh, put, workspaceAt } = disksBelow(base);

async function packed(root: string, form: '' | '.zip' = ''): Promise<string> {
  return (await packWorkspace(await readWorkspace(root), `${fresh('bag')}${form}`)).bag;
}
async function received(delivery: string): Promise<string> {
  const root = fresh('w');
  await arrive(await recogniseArrival(delivery), root, { heads: [], repair: true });
  return root;
}
async function again(delivery: string, root: string) {
  const staging = fresh('staging');
  fs.mkdirSync(staging);
  return receiveAgain(await recogniseArrival(delivery), root, staging);
}
const isSame = async (delivery: string, root: string) => (await again(delivery, root)).isSameLine;

test.each(['', '.zip'] as const)('bags that go back and forth are the same work (bag%s)', async (form) => {
  const home = workspaceAt();
  const school = await received(await packed(home, form));
  expect(await isSame(await packed(school, form), home)).toBe(true);
  expect(await isSame(await packed(home, form), school)).toBe(true);
  // Through a third folder, and after a folder was renamed.
  const laptop = await received(await packed(school, form));
  const moved = fresh('moved');
  fs.renameSync(home, moved);
  expect(await isSame(await packed(laptop, form), moved)).toBe(true);
  expect(await isSame(laptop, moved)).toBe(true);
});

test('two people who received the same bag do separate work until one of them confirms otherwise', async () => {
  const bag = await packed(workspaceAt());
  const [mine, theirs] = [await received(bag), await received(bag)];
  put(theirs, { 'textures/theirs.png': 'theirs' });
  const delivery = await packed(theirs);
  const { from, isSameLine } = await again(delivery, mine);
  expect(isSameLine).toBe(false);
  const refusal = checkSameLine(await readWorkspace(mine), from).catch((e: AppError) => e.code);
  expect(await refusal).toBe('may-be-a-copy');
  const choices = new Map([['textures/theirs.png', 'take' as const]]);
  await applyPlan(mine, await planArriveAgain(await readWorkspace(mine), from, choices, diskOutside));
  await settleSecondDelivery(mine, from, { heads: [] });
  expect(await isSame(await packed(theirs), mine)).toBe(true);
});

test.each(['never received', 'received'])('a copied folder is not the same work (%s)', async (how) => {
  const first = workspaceAt();
  const root = how === 'received' ? await received(await packed(first)) : first;
  const copy = fresh('copy');
  fs.cpSync(root, copy, { recursive: true, preserveTimestamps: true });
  expect([await isSame(await packed(copy), root), await isSame(copy, root)]).toEqual([false, false]);
  // The folder that both came from is the same work for both.
  if (how === 'received') expect(await isSame(await packed(first), copy)).toBe(true);
});

test('a bag that does not name its folder is not the same work', async () => {
  const home = workspaceAt();
  const bag = await packed(await received(await packed(home)));
  const info = path.join(bag, 'bag-info.txt');
  const text = fs.readFileSync(info, 'utf8');
  expect(text).toContain('Loyal-Satchel-');
  fs.writeFileSync(info, text.replace(/^Loyal-Satchel-.*\n/gm, ''));
  const manifest = path.join(bag, 'tagmanifest-sha512.txt');
  const without = fs.readFileSync(manifest, 'utf8').replace(/^.* bag-info.txt\n/m, '');
  fs.writeFileSync(manifest, without);
  expect(await isSame(bag, home)).toBe(false);
});

test('the record of a delivery that comes along in a copied folder is not taken for the own one', async () => {
  const sender = await received(await packed(workspaceAt()));
  const hull = path.join(sender, 'textures/hull.png');
  fs.writeFileSync(hull, 'saved by the sender');
  const root = await received(sender);
  fs.writeFileSync(hull, 'saved by the sender again');
  const stateOf = async () =>
    (await again(sender, root)).files.find((f) => f.path === 'textures/hull.png')!.is;
  expect(await stateOf()).toBe('theirs');
});
