// Packing and unpacking on a disk that fails at each single call: a bag is whole or not there, a folder holds all or nothing, the source is never
// touched, and what went wrong is said in words.

import { afterAll, describe, expect, test } from '@jest/globals';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { AppError } from '@/core/errors';
import { strideOf } from '@/core/files/testing/depth';
import { onFailingDisk as onDisk } from '../disk/testing/failingCalls';
import { sameDisk, wholeDisk } from '../disk/testing/wholeDisk';
import { pack } from './pack';
import { verify } from './verify';
import { unpack } from './unpack';

const base = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-bagfail-')));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));
// Every single call at night (SATCHEL_EVERY=1), every so-manieth otherwise.
const every = strideOf(8, 24);

function lay(at: string): string {
  const root = path.join(at, 'w');
  const put = (name: string, content: string, mode = 0o644) => {
    fs.mkdirSync(path.dirname(path.join(root, name)), { recursive: true });
    fs.writeFileSync(path.join(root, name), content, { mode });
    fs.utimesSync(path.join(root, name), 1764137428.123, 1764137428.457);
  };
  put('scenes/ü.gltf', '{}');
  put('textures/a.png', 'A'.repeat(70_000));
  put('run.sh', '#!/bin/sh', 0o755);
  put('.satchel/workspace.json', '{}');
  fs.mkdirSync(path.join(root, 'empty'));
  fs.symlinkSync('textures/a.png', path.join(root, 'latest.png'));
  return root;
}

// Those of `lay`; the link is a file in the bag.
const all = ['scenes/ü.gltf', 'textures/a.png', 'run.sh', 'latest.png'];

const isSaid = (error: unknown) =>
  expect([String(error), error instanceof AppError]).toEqual([String(error), true]);

describe.each(['zip', 'folder'])('a bag as %s', (form) => {
  test.each(['ENOSPC', 'EIO', 'EACCES'])('packing: %s at each call', async (code) => {
    const at = path.join(base, `pack-${form}-${code}`);
    const root = lay(at);
    const before = wholeDisk(root);
    const out = path.join(at, 'out');
    let made = 0;
    for (let n = 1; ; n += every) {
      fs.mkdirSync(out);
      const bag = path.join(out, form === 'zip' ? 'bag.zip' : 'bag');
      const { done, error, calls } = await onDisk(n, code, () => pack(root, bag));
      if (error) {
        isSaid(error);
        // Only the flush of its folder may fail once it has its name; then it is whole all the same.
        if (fs.existsSync(bag)) expect((await verify(bag)).problems).toEqual([]);
        expect([n, fs.readdirSync(out).filter((f) => f !== path.basename(bag))]).toEqual([n, []]);
      } else {
        made++;
        expect([n, (await verify(bag)).problems]).toEqual([n, []]);
        // What is not in it is named, or the folder it lies in is.
        const to = path.join(out, 'unpacked');
        await unpack(bag, to);
        const inside = new Set(Object.keys(wholeDisk(to)));
        const isNamed = (f: string) => done!.leftOut.some((l) => f === l.path || f.startsWith(`${l.path}/`));
        expect([n, all.filter((f) => !inside.has(Buffer.from(f).toString('latin1')) && !isNamed(f))]).toEqual(
          [n, []],
        );
      }
      expect([n, sameDisk(before, wholeDisk(root))]).toEqual([n, []]);
      fs.rmSync(out, { recursive: true });
      if (calls < n) break;
    }
    // It came to an end beyond the last call.
    expect(made).toBeGreaterThan(0);
  });

  test.each(['ENOSPC', 'EIO', 'EACCES'])('unpacking: %s at each call', async (code) => {
    const at = path.join(base, `unpack-${form}-${code}`);
    const root = lay(at);
    const bag = path.join(at, form === 'zip' ? 'bag.zip' : 'bag');
    await pack(root, bag);
    const sound = path.join(at, 'sound');
    await unpack(bag, sound);
    const whole = wholeDisk(sound);
    // Times come out as they went in; a ZIP keeps them to two seconds.
    if (form === 'folder')
      expect(fs.statSync(path.join(sound, 'run.sh')).mtimeMs).toBeCloseTo(1764137428457, 2);
    let made = 0;
    for (const isThere of [false, true])
      for (let n = 1; ; n += every) {
        const to = path.join(at, 'to');
        if (isThere) fs.mkdirSync(to);
        const { error, calls } = await onDisk(n, code, () => unpack(bag, to));
        if (error) {
          isSaid(error);
          const left = fs.existsSync(to) ? fs.readdirSync(to) : [];
          if (left.length > 0) expect([n, sameDisk(whole, wholeDisk(to))]).toEqual([n, []]);
        } else {
          made++;
          expect([n, sameDisk(whole, wholeDisk(to))]).toEqual([n, []]);
        }
        fs.rmSync(to, { recursive: true, force: true });
        expect(fs.readdirSync(at).filter((f) => f.includes('satchel-part'))).toEqual([]);
        if (calls < n) break;
      }
    expect(made).toBeGreaterThan(1);
  });
});
