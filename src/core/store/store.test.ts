// The store: what goes in comes out, whatever it shares with what lies there; nothing is trusted that was torn, spoilt or swept.

import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { crashing, type CrashKind } from '../changes/testing/crashingTree';
import type { Digest } from '../files/digest';
import { startHash } from '../../server/disk/blake';
import { once, type ByteStream, type FileTree } from '../files/fileTree';
import { MemoryTree } from '../files/memoryTree';
import { treePath } from '../files/treePath';
import { concat } from '../text/bytes';
import { cutAt, sizesAround, sizesFor } from './chunking';
import { startKeeping, type Kept } from './keeping';
import { packIndex, packPath, packsFolder } from './packIndex';
import { hasContent, isKept, keepContent, openContent, wholePath } from './store';
import { storeSize, sweep } from './sweep';
import { howMany } from '../files/testing/depth';

/** Bytes without any pattern, the same for the same seed (xorshift32). */
function noise(length: number, seed: number): Uint8Array {
  const out = new Uint8Array(length);
  let x = seed || 1;
  for (let i = 0; i < length; i++) {
    x ^= x << 13;
    x ^= x >>> 17;
    x ^= x << 5;
    out[i] = x;
  }
  return out;
}

/** The content id, by native code: these contents are large. */
function digestOf(bytes: Uint8Array): Digest {
  const hash = startHash();
  hash.update(bytes);
  return hash.digest();
}

const begun = () => {
  const tree = new MemoryTree();
  Object.assign(tree, { startHash });
  tree.folders.add('.satchel');
  return tree;
};
const fresh = (tree: FileTree): FileTree => Object.create(tree) as FileTree; // another process: nothing read yet

async function keep(tree: MemoryTree, bytes: Uint8Array): Promise<Kept> {
  const keeping = await startKeeping(tree);
  const kept = await keeping.put(once(bytes), bytes.length);
  await keeping.finish();
  return kept;
}

async function give(tree: FileTree, digest: Digest): Promise<Uint8Array> {
  const parts: Uint8Array[] = [];
  for await (const part of openContent(fresh(tree), digest)) parts.push(new Uint8Array(part));
  return concat(parts);
}

/** Whether a content comes out, to the byte. */
const holds = async (tree: FileTree, bytes: Uint8Array, digest = digestOf(bytes)) =>
  Buffer.compare(await give(tree, digest), bytes) === 0;

describe('cutting', () => {
  test('cuts depend on what is said only: after a change they fall where they fell', () => {
    const sizes = sizesFor(0);
    const cuts = (bytes: Uint8Array) => {
      const found: number[] = [];
      for (let at = 0; at < bytes.length;) found.push((at = cutAt(bytes, at, bytes.length, sizes)));
      return found;
    };
    const bytes = noise(1_000_000, 7);
    const more = concat([noise(333, 8), bytes]);
    const [a, b] = [new Set(cuts(bytes)), cuts(more).map((c) => c - 333)];
    const shared = b.filter((c) => a.has(c)).length;
    expect(shared / a.size).toBeGreaterThan(0.9);
    expect(a.size).toBeGreaterThan(1_000_000 / sizes.wanted / 1.5);
    expect(a.size).toBeLessThan((1_000_000 / sizes.wanted) * 1.5);
  });

  test('no chunk is shorter than the least but the last, none longer than the most', () => {
    fc.assert(
      fc.property(
        fc.uint8Array({ minLength: 1, maxLength: 3000 }),
        fc.integer({ min: 4, max: 9 }),
        (bytes, bits) => {
          const sizes = sizesAround(bits);
          for (let at = 0; at < bytes.length;) {
            const end = cutAt(bytes, at, bytes.length, sizes);
            expect(end - at).toBeLessThanOrEqual(sizes.most);
            if (end < bytes.length) expect(end - at).toBeGreaterThanOrEqual(sizes.least);
            expect(end).toBeGreaterThan(at);
            at = end;
          }
        },
      ),
    );
  });

  test('what has no pattern to cut by is cut at the most', () =>
    expect(cutAt(new Uint8Array(1_000_000), 0, 1_000_000, sizesFor(0))).toBe(32 * 1024));
});

describe('keeping', () => {
  test('any history of changed content comes out to the byte, for whoever reads it next', async () => {
    const edit = fc.record({
      at: fc.double({ min: 0, max: 1, noNaN: true }),
      out: fc.nat(60_000),
      into: fc.nat(60_000),
      seed: fc.integer({ min: 1, max: 5 }),
    });
    await fc.assert(
      fc.asyncProperty(
        fc.nat(300_000),
        fc.array(edit, { maxLength: 6 }),
        fc.boolean(),
        async (size, edits, same) => {
          const tree = begun();
          let bytes = noise(size, 3);
          const contents = [bytes];
          for (const e of edits) {
            const at = Math.floor(e.at * bytes.length);
            bytes = concat([bytes.subarray(0, at), noise(e.into, e.seed), bytes.subarray(at + e.out)]);
            contents.push(bytes);
          }
          if (same) contents.push(contents[0]!);
          for (const c of contents) {
            const kept = await keep(tree, c);
            expect([kept.digest, kept.size]).toEqual([digestOf(c), c.length]);
          }
          for (const c of contents) {
            expect(digestOf(await give(tree, digestOf(c)))).toBe(digestOf(c));
            expect(await isKept(tree, digestOf(c))).toBe(true);
          }
        },
      ),
      { numRuns: howMany(40) },
    );
  });

  test('a next version costs what changed; the same content costs nothing', async () => {
    const tree = begun();
    const first = noise(2_000_000, 9);
    await keep(tree, first);
    const size = await storeSize(tree);
    expect(size).toBeLessThan(first.length * 1.01);
    expect(await keep(tree, first)).toMatchObject({ added: 0 });
    expect(await storeSize(tree)).toBe(size);
    const second = first.slice();
    second.set(noise(20_000, 10), 1_000_000);
    const { added } = await keep(tree, second);
    expect(added).toBeGreaterThanOrEqual(20_000);
    expect(added).toBeLessThan(20_000 + 60_000);
    expect((await storeSize(tree)) - size - added).toBeLessThan(1000);
  });

  test('parts of any length, also of none, and several contents in one go', async () => {
    const tree = begun();
    const bytes = noise(400_000, 4);
    const parts = async function* (): ByteStream {
      for (let at = 0, n = 1; at < bytes.length; at += n, n = (n * 7) % 50_021)
        yield bytes.subarray(at, at + n);
      yield new Uint8Array();
    };
    const keeping = await startKeeping(tree);
    const kept = await keeping.put(parts(), 0);
    const empty = await keeping.put(once(new Uint8Array()), 0);
    const again = await keeping.put(once(bytes.subarray(200_000)), 200_000);
    expect(await hasContent(fresh(tree), kept.digest)).toBe(false); // not before it is durable
    await keeping.finish();
    expect(again.added).toBeLessThan(70_000);
    expect(await holds(tree, bytes, kept.digest)).toBe(true);
    expect(await give(tree, empty.digest)).toEqual(new Uint8Array());
    expect(await holds(tree, bytes.slice(200_000), again.digest)).toBe(true);
  });

  test('content of an older version of the application is found, and is not kept twice', async () => {
    const tree = begun();
    const bytes = noise(5000, 3);
    tree.set(wholePath(digestOf(bytes)), bytes);
    tree.set('a.bin', bytes);
    await keepContent(tree, treePath('a.bin'), digestOf(bytes), 't');
    expect(await tree.entries(packsFolder)).toBeNull();
    expect(await holds(tree, bytes)).toBe(true);
    tree.set(wholePath(digestOf(bytes)), bytes.slice(1));
    expect(await isKept(tree, digestOf(bytes))).toBe(false);
    await keepContent(tree, treePath('a.bin'), digestOf(bytes), 't');
    expect(tree.files.has(`${wholePath(digestOf(bytes))}.spoilt-1`)).toBe(true);
    expect(await isKept(tree, digestOf(bytes))).toBe(true);
  });

  test('a file that changed while it was read is not taken for what it was', async () => {
    const tree = begun();
    tree.set('a.bin', noise(5000, 3));
    await expect(keepContent(tree, treePath('a.bin'), digestOf(noise(5000, 4)), 't')).rejects.toMatchObject({
      code: 'stale-plan',
    });
  });
});

describe('what goes wrong', () => {
  const spoil = (tree: MemoryTree, at: number) => {
    const held = tree.files.get(packPath(1))!;
    const bytes = held.bytes.slice();
    bytes[at]! ^= 255;
    tree.files.set(packPath(1), { ...held, bytes });
  };

  test('after an append that failed nothing more is written by who goes on', async () => {
    const tree = begun();
    await keep(tree, noise(50_000, 1));
    const size = await storeSize(tree);
    const { append } = tree;
    tree.append = async (path, bytes) => {
      tree.append = append;
      await append.call(tree, path, bytes.subarray(0, 1000)); // torn, as by a failing drive
      throw new Error('the drive failed');
    };
    const keeping = await startKeeping(tree);
    await keeping.put(once(noise(60_000, 2)), 60_000);
    await expect(keeping.finish()).rejects.toThrow('the drive failed');
    await keeping.put(once(noise(10_000, 3)), 10_000).catch(() => undefined);
    await expect(keeping.finish()).rejects.toThrow('the drive failed');
    expect(await storeSize(tree)).toBe(size + 1000);
    await keep(fresh(tree) as MemoryTree, noise(60_000, 2));
    for (const [length, seed] of [
      [50_000, 1],
      [60_000, 2],
    ] as const)
      expect(await holds(tree, noise(length, seed))).toBe(true);
  });

  test('a spoilt chunk is not trusted; kept anew, all that share it are right again', async () => {
    const tree = begun();
    const first = noise(500_000, 5);
    const second = concat([noise(30_000, 6), first]);
    await keep(tree, first);
    await keep(tree, second);
    spoil(tree, 250_000);
    for (const c of [first, second]) expect(await isKept(fresh(tree), digestOf(c))).toBe(false);
    const { added } = await keep(fresh(tree) as MemoryTree, second);
    expect(added).toBeGreaterThan(0);
    expect(added).toBeLessThanOrEqual(64 * 1024);
    for (const c of [first, second]) expect(await isKept(fresh(tree), digestOf(c))).toBe(true);
    spoil(tree, tree.files.get(packPath(1))!.bytes.length - 5000); // the new one too
    await keep(fresh(tree) as MemoryTree, first);
    for (const c of [first, second]) expect(await isKept(fresh(tree), digestOf(c))).toBe(true);
  });

  test('a record that was spoilt costs what it told, not what came before or after', async () => {
    const tree = begun();
    const contents = [noise(30_000, 1), noise(30_000, 2), noise(30_000, 3)];
    const ends: number[] = [];
    for (const c of contents) {
      await keep(tree, c);
      ends.push(tree.files.get(packPath(1))!.bytes.length);
    }
    spoil(tree, ends[1]! - 30);
    const kept = await Promise.all(contents.map((c) => isKept(fresh(tree), digestOf(c))));
    expect(kept).toEqual([true, false, true]);
    await keep(fresh(tree) as MemoryTree, contents[1]!);
    expect(await isKept(fresh(tree), digestOf(contents[1]!))).toBe(true);
  });

  test.each<CrashKind>(['lost', 'torn', 'unreported'])(
    'a crash at every write, %s: what was kept stays, and keeping goes on',
    async (kind) => {
      const [first, second] = [noise(90_000, 1), concat([noise(90_000, 1), noise(40_000, 2)])];
      for (let n = 1; ; n++) {
        const tree = begun();
        const down = crashing(tree, n, kind);
        const kept: Uint8Array[] = [];
        try {
          for (const c of [first, second]) {
            const keeping = await startKeeping(down);
            await keeping.put(once(c), c.length);
            await keeping.finish();
            kept.push(c);
          }
        } catch {
          // the crash
        }
        for (const c of kept) expect(await isKept(fresh(tree), digestOf(c))).toBe(true);
        for (const c of [second, first]) await keep(fresh(tree) as MemoryTree, c);
        for (const c of [first, second]) expect(await holds(tree, c)).toBe(true);
        if (!down.crashed()) {
          expect(n).toBeGreaterThan(4);
          break;
        }
      }
    },
  );
});

describe('sweeping', () => {
  const versions = Array.from({ length: 8 }, (_, n) => {
    const bytes = noise(400_000, 20);
    bytes.set(noise(30_000, 30 + n), n * 40_000);
    return bytes;
  });

  test('what is needed stays, the rest makes room', async () => {
    const tree = begun();
    for (const v of versions) await keep(tree, v);
    const needed = new Set([versions[2]!, versions[5]!].map((v) => digestOf(v)));
    const swept = await sweep(tree, needed);
    expect(swept.after).toBeLessThan(0.85 * swept.before);
    expect(swept.after).toBe(await storeSize(tree));
    for (const v of versions) expect(await isKept(fresh(tree), digestOf(v))).toBe(needed.has(digestOf(v)));
    await keep(tree, versions[0]!);
    expect(await isKept(fresh(tree), digestOf(versions[0]!))).toBe(true);
    await sweep(tree, new Set());
    expect(await storeSize(tree)).toBe(0);
  });

  test('little that is not needed is left where it is', async () => {
    const tree = begun();
    for (const v of versions.slice(0, 2)) await keep(tree, v);
    const before = await storeSize(tree);
    await sweep(tree, new Set([digestOf(versions[0]!)]));
    expect(await storeSize(tree)).toBe(before);
    expect(await isKept(fresh(tree), digestOf(versions[0]!))).toBe(true);
  });

  test.each<CrashKind>(['lost', 'torn', 'unreported'])('a crash at every write, %s', async (kind) => {
    const needed = new Set([versions[1]!, versions[6]!].map((v) => digestOf(v)));
    for (let n = 1; ; n++) {
      const tree = begun();
      for (const v of versions) await keep(tree, v);
      const down = crashing(tree, n, kind);
      await sweep(down, needed).catch(() => undefined);
      for (const d of needed) expect(await isKept(fresh(tree), d)).toBe(true);
      await sweep(fresh(tree) as MemoryTree, needed);
      for (const d of needed) expect(await isKept(fresh(tree), d)).toBe(true);
      expect(await storeSize(tree)).toBeLessThan(1_000_000);
      if (!down.crashed()) break;
    }
  });

  test('a spoilt part stops it, and nothing goes', async () => {
    const tree = begun();
    for (const v of versions) await keep(tree, v);
    const held = tree.files.get(packPath(1))!;
    const bytes = held.bytes.slice();
    bytes[100_000]! ^= 1;
    tree.files.set(packPath(1), { ...held, bytes });
    await expect(sweep(fresh(tree) as MemoryTree, new Set([digestOf(versions[7]!)]))).rejects.toMatchObject({
      code: 'disk-error',
    });
    expect(tree.files.get(packPath(1))!.bytes).toEqual(bytes);
  });
});

test('what was read of the packs is read on when another process has kept something', async () => {
  const tree = begun();
  await keep(tree, noise(1000, 1));
  expect((await packIndex(tree)).contents.size).toBe(1);
  await keep(fresh(tree) as MemoryTree, noise(1000, 2));
  expect((await packIndex(tree)).contents.size).toBe(2);
});
