// A file replaced by another of the same size and time, as `cp -p` and `mv`, a sync client, or a program that resets times would do it. Everything that
// keeps or caches content must notice.

import { afterAll, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import sharp from 'sharp';
import { digestOf } from '@/core/files/digest';
import { pastTick } from '@/core/files/testing/tick';
import { usualNet } from '@/core/versions/net';
import { mirrorTo } from '../backups/mirror';
import { takeSnapshot } from '../backups/takeSnapshot';
import { disksBelow } from '../backups/testing/workspaces';
import { factsOf } from '../facts/facts';
import { printOf } from '../facts/likeness';
import { checkpointOf, makeCheckpoint, readCheckpoints, sinceCheckpoint } from './checkpoints';
import { netLines, netRound } from './net';
import { readWorkspace } from './open';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-swapped-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));
const { fresh, workspaceAt } = disksBelow(base);

const scene = 'scenes/boat ü_v001.gltf';
const bytes = (text: string) => new Uint8Array(Buffer.from(text));
const [first, second] = ['hull', 'deck'].map((name) =>
  JSON.stringify({ asset: { version: '2.0' }, images: [{ uri: `../textures/${name}.png` }] }),
) as [string, string];
const longAgo = 1_764_000_000.123;

function save(file: string, content: string | Buffer): void {
  fs.writeFileSync(file, content);
  fs.utimesSync(file, longAgo, longAgo);
}

/** Puts another file of the same size and time in place of one. */
function swap(file: string, content: string | Buffer): void {
  const before = fs.statSync(file);
  save(`${file}~`, content);
  fs.renameSync(`${file}~`, file);
  const after = fs.statSync(file);
  expect([after.size, after.mtimeMs]).toEqual([before.size, before.mtimeMs]);
}

/** A workspace whose scene is `first`, at rest. */
async function begin() {
  const root = workspaceAt();
  const file = path.join(root, scene);
  save(file, first);
  await pastTick();
  return { root, file };
}

test('a checkpoint, and the comparison with one, find a swapped file', async () => {
  const { root, file } = await begin();
  const open = () => readWorkspace(root);
  const made = await makeCheckpoint(await open(), { name: 'first', scope: [] });
  swap(file, second);
  const since = await sinceCheckpoint(await open(), await checkpointOf((await open()).tree, made.id));
  expect(since.changed.paths).toEqual([scene]);
  await pastTick();
  expect(await makeCheckpoint(await open(), { name: 'second', scope: [] })).toMatchObject({ read: 1 });
  const contents = (await readCheckpoints((await open()).tree)).map(
    (c) => c.files.find((f) => f[0] === scene)![4],
  );
  expect(contents.sort()).toEqual([digestOf(bytes(first)), digestOf(bytes(second))].sort());
});

test('a snapshot finds a swapped file', async () => {
  const { root, file } = await begin();
  const folder = fresh('snapshots');
  await takeSnapshot(root, folder);
  await pastTick();
  swap(file, second);
  await pastTick();
  const { snapshot, read } = await takeSnapshot(root, folder);
  // The marker may be written by the first one.
  expect(read).toBeLessThanOrEqual(2);
  expect(snapshot.files.find((f) => f[0] === scene)![4]).toBe(digestOf(bytes(second)));
});

test('autosave finds a swapped scene', async () => {
  const { root, file } = await begin();
  const time = { now: Date.now() };
  const clock = { now: () => time.now, wait: async () => undefined, run: { id: 'a', from: time.now } };
  expect((await netRound(root, usualNet, clock)).kept).toHaveLength(1);
  swap(file, second);
  time.now += 300_000;
  expect((await netRound(root, usualNet, clock)).kept).toHaveLength(1);
  expect(JSON.stringify(await netLines((await readWorkspace(root)).tree))).toContain(digestOf(bytes(second)));
});

test('a mirror finds a swapped file', async () => {
  const { root, file } = await begin();
  const folder = fresh('mirror');
  fs.mkdirSync(folder);
  await mirrorTo(root, folder);
  swap(file, second);
  expect(await mirrorTo(root, folder)).toMatchObject({ copied: 1 });
  expect(fs.readFileSync(path.join(folder, 'Boat', scene), 'utf8')).toBe(second);
});

test('the cached facts of a picture are not used for a swapped one', async () => {
  const [wide, tall] = await Promise.all(
    [
      [64, 32],
      [32, 64],
    ].map(async ([width, height]) => {
      const noise = { type: 'gaussian' as const, mean: 128, sigma: 30 };
      const picture = sharp({
        create: { width: width!, height: height!, channels: 3, background: '#000', noise },
      });
      // Readers of PNG stop at its last chunk.
      return Buffer.concat([await picture.png().toBuffer()], 20_000);
    }),
  );
  const file = path.join(workspaceAt(), 'textures', 'deck.png');
  save(file, wide!);
  const before = [await factsOf(file), await printOf(file, null)];
  swap(file, tall!);
  const after = [await factsOf(file), await printOf(file, null)];
  expect(before[0]).toMatchObject({ width: 64, height: 32 });
  expect(after[0]).toMatchObject({ width: 32, height: 64 });
  expect(after[1]).not.toEqual(before[1]);
});
