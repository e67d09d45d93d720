// Nothing is read out of what is allowed: by no link, and by no link that is put in a folder's place between the check and the use.

import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { treePath } from '@/core/files/treePath';
import { Bounds, openWithin } from './bounds';
import { nodeCalls } from './calls';
import { outsideWithin } from './diskOutside';
import { DiskTree } from './diskTree';
import { setLimits } from './limits';

let base = '';
beforeEach(() => {
  base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-bounds-')));
  for (const f of ['work/boat/maps', 'works', 'secret/maps'])
    fs.mkdirSync(`${base}/${f}`, { recursive: true });
  for (const f of ['work/boat/maps/a.png', 'secret/maps/a.png', 'secret/a.png'])
    fs.writeFileSync(`${base}/${f}`, f);
  fs.symlinkSync(`${base}/secret/a.png`, `${base}/work/link.png`);
  fs.symlinkSync(`${base}/secret`, `${base}/work/way out`);
  fs.symlinkSync(`${base}/work`, `${base}/the work`);
});
afterEach(() => {
  setLimits(null);
  fs.rmSync(base, { recursive: true, force: true });
});
const text = (bytes: Uint8Array) => Buffer.from(bytes).toString();
const codeOf = (work: Promise<unknown>) =>
  work.then(
    () => 'read',
    (cause: { code?: string }) => cause.code,
  );

/** Puts a link to the secret in the folder's place. */
const swap = () => {
  fs.renameSync(`${base}/work/boat`, `${base}/works/boat`);
  fs.symlinkSync(`${base}/secret`, `${base}/work/boat`);
};

describe('outside', () => {
  const out = () => outsideWithin({ allowed: [`${base}/work`] });
  test('what is allowed is read', async () => {
    expect(text(await out().read(`${base}/work/boat/maps/a.png`))).toBe('work/boat/maps/a.png');
  });
  test.each(['secret/a.png', 'work/link.png', 'work/way out/a.png', 'works/../secret/a.png'])(
    '%s is not',
    async (name) => {
      const at = `${base}/${name}`;
      expect(await codeOf(out().read(at))).toBe('not-allowed');
      expect(await codeOf(out().digest(at))).toBe('not-allowed');
      expect(
        await codeOf(
          (async () => {
            for await (const part of out().stream(at)) void part;
          })(),
        ),
      ).toBe('not-allowed');
    },
  );
  test('an allowed folder that is a link allows what it leads to', async () => {
    const linked = outsideWithin({ allowed: [`${base}/the work`] });
    expect(text(await linked.read(`${base}/the work/boat/maps/a.png`))).toBe('work/boat/maps/a.png');
    expect(await codeOf(linked.read(`${base}/the work/way out/a.png`))).toBe('not-allowed');
  });
  test('a folder that is swapped after the check', async () => {
    const there = out();
    expect(await there.kind(`${base}/work/boat/maps/a.png`)).toBe('file');
    swap();
    expect(await codeOf(there.read(`${base}/work/boat/maps/a.png`))).toBe('not-allowed');
  });
});

describe('a stream to a page', () => {
  test('is opened only inside, and holds what was opened', async () => {
    const bounds = new Bounds([`${base}/work`]);
    const { handle, size } = await openWithin(`${base}/work/boat/maps/a.png`, bounds);
    swap();
    // What is open stays what it was; what is opened now is another file.
    expect([(await handle.readFile()).toString(), size]).toEqual(['work/boat/maps/a.png', 20]);
    await handle.close();
    expect(await codeOf(openWithin(`${base}/work/boat/maps/a.png`, bounds))).toBe('not-allowed');
  });
});

describe('a root', () => {
  const limit = () => setLimits({ bounds: new Bounds([`${base}/work`]), signal: null, by: null });
  test('that is a link out of what is allowed is not opened', () => {
    limit();
    expect(() => new DiskTree(`${base}/work/way out`)).toThrow('leads out of the folders');
    expect(() => new DiskTree(`${base}/secret`)).toThrow('leads out of the folders');
  });
  test('that is swapped after it was opened: what is read is where it was', async () => {
    limit();
    const tree = new DiskTree(`${base}/work/boat`);
    swap();
    expect(await codeOf(tree.read(treePath('maps/a.png')))).not.toBe('read');
    expect(await codeOf(tree.makeFolder(treePath('maps/b')))).not.toBe('read');
    expect(fs.existsSync(`${base}/secret/maps/b`)).toBe(false);
    expect(() => new DiskTree(`${base}/work/boat`)).toThrow('leads out of the folders');
  });
  test('work that is cancelled stops at the next file, also where it never asks', async () => {
    let stop = false;
    setLimits({
      bounds: new Bounds(null),
      signal: {
        get aborted() {
          return stop;
        },
        throwIfAborted() {
          if (stop) throw new DOMException('', 'AbortError');
        },
      },
      by: null,
    });
    const tree = new DiskTree(`${base}/work/boat`);
    expect(text(await tree.read(treePath('maps/a.png')))).toBe('work/boat/maps/a.png');
    stop = true;
    await expect(tree.read(treePath('maps/a.png'))).rejects.toMatchObject({ name: 'AbortError' });
    await expect(tree.entries(treePath(''))).rejects.toMatchObject({ name: 'AbortError' });
  });
});

test('systems without folder handles compare real paths: the same answers', () => {
  const bounds = new Bounds([`${base}/work`], nodeCalls);
  expect([bounds.holds(`${base}/work/boat`), bounds.holds(`${base}/works`), bounds.holds(base)]).toEqual([
    true,
    false,
    false,
  ]);
  expect(() => bounds.checkAt(`${base}/work/link.png`)).toThrow('leads out');
  expect(new Bounds(['/']).holds('/etc/passwd')).toBe(true);
  expect(new Bounds([]).holds('/')).toBe(false);
});
