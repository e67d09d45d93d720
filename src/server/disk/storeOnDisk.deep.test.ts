// The store on a real disk: content of more than one append and more than one pack.

import { expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { treePath as p } from '@/core/files/treePath';
import { startKeeping } from '@/core/store/keeping';
import { packPath, packsFolder } from '@/core/store/packIndex';
import { isKept, openContent } from '@/core/store/store';
import { startHash } from './blake';
import { DiskTree } from './diskTree';

/** A stretch of a file without any pattern, the same for the same number. */
function noise(length: number, seed: number): Buffer {
  const words = new Uint32Array(Math.ceil(length / 4));
  for (let i = 0, x = seed; i < words.length; i++) {
    x ^= x << 13;
    x ^= x >>> 17;
    words[i] = x ^= x << 5;
  }
  return Buffer.from(words.buffer, 0, length);
}

test('100 MB, then its next version and a small file: in few packs, and out again', async () => {
  const root = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-store-'));
  fs.mkdirSync(path.join(root, '.satchel'));
  const first = noise(100_000_001, 7);
  const second = Buffer.concat([first.subarray(0, 5e7), noise(1234, 8), first.subarray(5e7 + 17)]);
  const digests: string[] = [];
  for (const content of [first, second, noise(1000, 9)]) {
    fs.writeFileSync(path.join(root, 'scene.bin'), content);
    const tree = new DiskTree(root);
    const keeping = await startKeeping(tree);
    digests.push((await keeping.put(tree.stream(p('scene.bin')), content.length)).digest);
    await keeping.finish();
  }
  const tree = new DiskTree(root);
  expect((await tree.entries(packsFolder))!.length).toBe(2);
  const size = fs
    .readdirSync(path.join(root, packsFolder))
    .reduce((n, name) => n + fs.statSync(path.join(root, packsFolder, name)).size, 0);
  expect(size).toBeLessThan(100_000_001 * 1.004 + 100_000);
  for (const [i, content] of [first, second].entries()) {
    const hash = startHash();
    hash.update(content);
    expect(hash.digest()).toBe(digests[i]);
    await tree.write(p('back.bin'), openContent(tree, hash.digest()), { replace: true, tag: 't' });
    expect(Buffer.compare(fs.readFileSync(path.join(root, 'back.bin')), content)).toBe(0);
  }
  // A pack that lost its end, as by a copy that was cut off: what it told last is gone, the rest is not.
  const last = path.join(root, packPath(2));
  fs.truncateSync(last, fs.statSync(last).size - 3);
  const cut = new DiskTree(root);
  expect(await Promise.all(digests.map((d) => isKept(cut, d as never)))).toEqual([true, true, false]);
  fs.rmSync(root, { recursive: true });
});
