// Watching in a thread of its own: told as by the watch itself.

import { afterAll, beforeAll, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { endWatching, keepWatching } from './watching';

let base = '';
beforeAll(() => {
  base = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-watching-'));
});
afterAll(async () => {
  await endWatching();
  fs.rmSync(base, { recursive: true });
});
const wait = (ms: number) => new Promise((done) => setTimeout(done, ms));

test('sixty folders, each told of its own changes alone, and none once it is closed', async () => {
  const told = new Map<number, number>();
  const watches = Array.from({ length: 60 }, (_, n) => {
    fs.mkdirSync(path.join(base, `show ${n}`, 'scenes'), { recursive: true });
    return keepWatching(path.join(base, `show ${n}`), () => told.set(n, (told.get(n) ?? 0) + 1));
  });
  // Once each: from then on they are watched.
  for (let i = 0; i < 200 && told.size < 60; i++) await wait(50);
  expect([...told.values()]).toEqual(Array<number>(60).fill(1));
  told.clear();
  for (const n of [0, 31, 59]) fs.writeFileSync(path.join(base, `show ${n}`, 'scenes', 'a.gltf'), 'x');
  for (let i = 0; i < 60 && told.size < 3; i++) await wait(50);
  expect([...told].sort((a, b) => a[0] - b[0])).toEqual([
    [0, 1],
    [31, 1],
    [59, 1],
  ]);
  for (const w of watches) w.close();
  await wait(200);
  fs.writeFileSync(path.join(base, 'show 0', 'scenes', 'b.gltf'), 'x');
  await wait(1500);
  expect(told.get(0)).toBe(1);
});
