// Looking at a folder now and then: what anybody did there is told once, whoever did it; a folder that is away tells nothing.

import { afterEach, beforeEach, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { lookAtFolder } from './look';

let base = '';
let root = '';
let told = 0;
let looking: { close(): void };
const wait = (ms: number) => new Promise((done) => setTimeout(done, ms));
const toldTimes = async (n: number) => {
  for (let i = 0; i < 100 && told < n; i++) await wait(50);
  return told;
};
const put = (name: string, content: string) => fs.writeFileSync(path.join(root, name), content);

beforeEach(async () => {
  base = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-look-'));
  root = path.join(base, 'work');
  fs.mkdirSync(path.join(root, '.satchel'), { recursive: true });
  fs.mkdirSync(path.join(root, 'scenes', 'deep'), { recursive: true });
  put('scenes/a.gltf', 'a');
  told = 0;
  looking = lookAtFolder(root, () => told++, 50);
  // Once it was looked at for the first time, so that what was before is read.
  expect(await toldTimes(1)).toBe(1);
  told = 0;
});
afterEach(() => {
  looking.close();
  fs.rmSync(base, { recursive: true });
});

test.each<[string, () => void]>([
  ['saved in place, as long as before', () => put('scenes/a.gltf', 'b')],
  ['new, deep below', () => put('scenes/deep/ä #1.obj', 'x')],
  ['renamed', () => fs.renameSync(path.join(root, 'scenes/a.gltf'), path.join(root, 'scenes/b.gltf'))],
  ['gone', () => fs.rmSync(path.join(root, 'scenes/a.gltf'))],
  ['a folder that is new', () => fs.mkdirSync(path.join(root, 'models'))],
])('%s: told, once', async (_, change) => {
  change();
  expect(await toldTimes(1)).toBe(1);
  await wait(400);
  expect(told).toBe(1);
});

test('own records, files on their way, and what is read are no change', async () => {
  put('.satchel/x.jsonl', 'x');
  put('scenes/.1.satchel-part', 'x');
  fs.readFileSync(path.join(root, 'scenes/a.gltf'));
  await wait(600);
  expect(told).toBe(0);
});

test('a folder that is away tells nothing; once it is back, only what is different', async () => {
  const away = path.join(base, 'away');
  fs.renameSync(root, away);
  await wait(400);
  expect(told).toBe(0);
  fs.renameSync(away, root);
  await wait(400);
  expect(told).toBe(0);
  fs.renameSync(root, away);
  await wait(200);
  fs.writeFileSync(path.join(away, 'scenes/a.gltf'), 'other');
  fs.renameSync(away, root);
  expect(await toldTimes(1)).toBe(1);
});

test('several are looked at in turn; one that is closed is not any more', async () => {
  const other = path.join(base, 'other');
  fs.mkdirSync(other);
  let there = 0;
  const beside = lookAtFolder(other, () => there++, 50);
  const isTold = async () => {
    for (let i = 0; i < 40 && there === 0; i++) await wait(50);
    return there;
  };
  expect(await isTold()).toBe(1);
  there = 0;
  fs.writeFileSync(path.join(other, 'x'), 'x');
  put('scenes/a.gltf', 'changed');
  expect(await toldTimes(1)).toBe(1);
  expect(await isTold()).toBe(1);
  beside.close();
  await wait(100);
  fs.writeFileSync(path.join(other, 'y'), 'y');
  await wait(400);
  expect(there).toBe(1);
});
