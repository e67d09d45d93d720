// A dropped file is here whole or not at all: lengths, digests, cut connections, pieces out of order, a full drive, a page that went away.

import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { digestOf } from '@/core/files/digest';
import { utf8 } from '@/core/text/bytes';
import { Drops, type Drop } from './drops';

let base = '';
let drops: Drops;
beforeEach(() => {
  base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-drops-')));
  drops = new Drops(base);
});
afterEach(() => fs.rmSync(base, { recursive: true, force: true }));

async function* bodyOf(...parts: (string | Error)[]): AsyncGenerator<Uint8Array> {
  for (const part of parts) {
    if (part instanceof Error) throw part;
    yield utf8(part);
  }
}
const begin = (...sizes: number[]): Drop =>
  drops.begin(
    sizes.map((size, i) => ({ path: `kit/${i}.bin`, size, modified: 0 })),
    [],
  );
const all = () =>
  fs
    .readdirSync(base, { recursive: true, withFileTypes: true })
    .filter((e) => e.isFile())
    .map((e) => e.name)
    .sort();
const hash = (text: string) => digestOf(utf8(text));
const codeOf = (work: Promise<unknown>) =>
  work.then(
    () => 'taken',
    (cause: { code?: string }) => cause.code,
  );

test('pieces in turn make the file', async () => {
  const drop = begin(6);
  expect(await drops.take(drop, 0, 0, null, bodyOf('ab', 'c'))).toEqual({ here: 3, isWhole: false });
  expect(() => drops.notesFor([`${drop.root}/kit`])).toThrow('1 of 1 dropped files have not arrived');
  expect(await drops.take(drop, 0, 3, hash('abcdef'), bodyOf('def'))).toEqual({ here: 6, isWhole: true });
  expect(fs.readFileSync(`${drop.root}/kit/0.bin`, 'utf8')).toBe('abcdef');
  expect(drops.notesFor([`${drop.root}/kit`])).toEqual([]);
});

describe('what is not as it was told', () => {
  test.each([
    [
      'a connection that is cut',
      () => drops.take(begin(6), 0, 0, hash('abcdef'), bodyOf('abc', new Error('cut'))),
    ],
    ['more bytes than were told', () => drops.take(begin(2), 0, 0, hash('abcdef'), bodyOf('abc', 'def'))],
    ['another content', () => drops.take(begin(3), 0, 0, hash('abc'), bodyOf('abX'))],
    ['no digest', () => drops.take(begin(3), 0, 0, null, bodyOf('abc'))],
    ['a piece that does not follow', () => drops.take(begin(6), 0, 3, null, bodyOf('def'))],
    ['a file that is not of the drop', () => drops.take(begin(6), 1, 0, null, bodyOf('def'))],
  ])('%s leaves nothing', async (_, take) => {
    expect(await codeOf(take())).toBe('bad-upload');
    expect(all()).toEqual([]);
  });
  test('fewer bytes are no file yet', async () => {
    const drop = begin(6);
    await drops.take(drop, 0, 0, hash('abc'), bodyOf('abc'));
    expect(() => drops.notesFor([drop.root])).toThrow('have not arrived');
    expect(fs.existsSync(`${drop.root}/kit/0.bin`)).toBe(false);
  });
  test('after a cut piece the file can be sent anew', async () => {
    const drop = begin(6);
    await drops.take(drop, 0, 0, null, bodyOf('abc'));
    await codeOf(drops.take(drop, 0, 3, null, bodyOf('d', new Error('cut'))));
    expect(await drops.take(drop, 0, 0, hash('abcdef'), bodyOf('abcdef'))).toEqual({
      here: 6,
      isWhole: true,
    });
  });
  test('two at once for one file: the second is refused, the first is right', async () => {
    const drop = begin(6);
    const both = await Promise.all([
      codeOf(drops.take(drop, 0, 0, hash('abcdef'), bodyOf('abc', 'def'))),
      codeOf(drops.take(drop, 0, 0, hash('ABCDEF'), bodyOf('ABCDEF'))),
    ]);
    expect(both).toEqual(['taken', 'bad-upload']);
    expect(fs.readFileSync(`${drop.root}/kit/0.bin`, 'utf8')).toBe('abcdef');
  });
});

test('a file called like the part of another takes nothing from it', async () => {
  const drop = drops.begin(
    ['a', 'a.part', '0', 'parts/0'].map((p) => ({ path: p, size: 1, modified: 0 })),
    [],
  );
  for (const [i, text] of ['1', '2', '3', '4'].entries())
    await drops.take(drop, i, 0, hash(text), bodyOf(text));
  expect(
    ['a', 'a.part', '0', 'parts/0'].map((p) => fs.readFileSync(`${drop.root}/${p}`, 'utf8')).join(''),
  ).toBe('1234');
});

test('a drop that was ended takes nothing any more', async () => {
  const drop = begin(3);
  drops.remove(drop.id);
  expect(await codeOf(drops.take(drop, 0, 0, hash('abc'), bodyOf('abc')))).toBe('not-found');
  expect(() => drops.find(drop.id)).toThrow('not waiting any more');
  expect(all()).toEqual([]);
});

test('a drop that nobody goes on with is taken away, a whole one waits', async () => {
  const [half, whole] = [begin(6), begin(3)];
  await drops.take(half, 0, 0, null, bodyOf('abc'));
  await drops.take(whole, 0, 0, hash('abc'), bodyOf('abc'));
  drops.sweep(Date.now() + 16 * 60_000);
  expect([fs.existsSync(half.folder), fs.existsSync(whole.folder)]).toEqual([false, true]);
});
