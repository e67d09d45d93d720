// Watching a folder: changes are told once they are over, in new folders too; the workspace's own records and half-written files are not.

import { afterEach, beforeEach, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { watchFolder } from './watch';

let root = '';
let told = 0;
let watching: { close(): void };
const wait = (ms: number) => new Promise((done) => setTimeout(done, ms));
/** Waits until it was told `n` times, at most five seconds. */
const toldTimes = async (n: number) => {
  for (let i = 0; i < 100 && told < n; i++) await wait(50);
  return told;
};

beforeEach(() => {
  root = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-watch-'));
  fs.mkdirSync(path.join(root, '.satchel', 'journal'), { recursive: true });
  fs.mkdirSync(path.join(root, 'scenes'));
  told = 0;
  watching = watchFolder(root, () => told++);
});
afterEach(() => {
  watching.close();
  fs.rmSync(root, { recursive: true });
});

test('many writes one after another are one change', async () => {
  for (let i = 0; i < 10; i++) {
    fs.appendFileSync(path.join(root, 'scenes', 'a.gltf'), 'x');
    await wait(30);
  }
  expect(await toldTimes(1)).toBe(1);
  await wait(1000);
  expect(told).toBe(1);
});

test('a folder that is new is watched as well', async () => {
  fs.mkdirSync(path.join(root, 'models', 'deep'), { recursive: true });
  expect(await toldTimes(1)).toBe(1);
  fs.writeFileSync(path.join(root, 'models', 'deep', 'b.obj'), 'x');
  expect(await toldTimes(2)).toBe(2);
});

test('own records, and files on their way, are no change', async () => {
  fs.writeFileSync(path.join(root, '.satchel', 'journal', 'x.jsonl'), 'x');
  fs.writeFileSync(path.join(root, 'scenes', '.1.satchel-part'), 'x');
  await wait(1500);
  expect(told).toBe(0);
  watching.close();
  fs.writeFileSync(path.join(root, 'scenes', 'c.gltf'), 'x');
  await wait(1200);
  expect(told).toBe(0);
});

test('what writes without end is told of all the same, with when it was last heard of', async () => {
  const heard: number[] = [];
  const begun = Date.now();
  const other = watchFolder(root, (at) => heard.push(at), undefined, 800);
  for (let i = 0; i < 60 && heard.length < 2; i++) {
    fs.appendFileSync(path.join(root, 'scenes', 'sim.abc'), 'x');
    await wait(50);
  }
  other.close();
  expect(heard.length).toBe(2);
  expect(heard[0]! >= begun && heard[1]! > heard[0]! && heard[1]! <= Date.now()).toBe(true);
  // The one that waits for quiet has told nothing yet.
  expect(told).toBe(0);
});
