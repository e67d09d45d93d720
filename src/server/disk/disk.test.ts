// The disk: the shared tree suite, links, and what differs between systems with simulated inputs.

import { afterAll, describe, expect, test } from '@jest/globals';
import { execFileSync, spawnSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { MemoryTree } from '@/core/files/memoryTree';
import { treeSuite } from '@/core/files/testing/treeSuite';
import { treePath as p } from '@/core/files/treePath';
import { DiskTree, diskOutside } from './diskTree';
import { takeFileLock, takeLock } from './processLock';
import { fromSystem, isAbsolute, isTransient, lockAddress, toSystem } from './system';

const base = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-disk-'));
afterAll(() => fs.rmSync(base, { recursive: true, force: true }));
let n = 0;
const folder = () => {
  const at = path.join(base, String(++n));
  fs.mkdirSync(at);
  return at;
};

describe('a tree in memory', () => treeSuite(async () => new MemoryTree()));
describe('a tree on disk', () => treeSuite(async () => new DiskTree(folder())));

describe('links', () => {
  test('a link out of the root is absent; one inside is followed; a circle ends', async () => {
    const [root, out] = [folder(), folder()];
    fs.writeFileSync(path.join(out, 'secret.png'), 's');
    fs.mkdirSync(path.join(root, 'real'));
    fs.writeFileSync(path.join(root, 'real', 'a.png'), 'a');
    fs.symlinkSync(out, path.join(root, 'leaves'));
    fs.symlinkSync(path.join(out, 'secret.png'), path.join(root, 'leaves.png'));
    fs.symlinkSync(path.join(root, 'real'), path.join(root, 'inside'));
    fs.symlinkSync(root, path.join(root, 'real', 'up'));
    fs.symlinkSync('/nowhere', path.join(root, 'dead'));
    const tree = new DiskTree(root);
    expect((await tree.entries(p('')))!.map((e) => e.name)).toEqual(['inside', 'real']);
    expect([
      await tree.kind(p('leaves/secret.png')),
      await tree.kind(p('leaves.png')),
      await tree.kind(p('inside/a.png')),
    ]).toEqual([null, null, 'file']);
    const listed: string[] = [];
    for await (const f of tree.list()) listed.push(f.path);
    expect(listed.filter((f) => f.includes('secret'))).toEqual([]);
    expect(listed).toContain('inside/a.png');
    expect(await diskOutside.kind(`${root}/leaves.png`)).toBe('file');
  });

  test('a replaced file keeps its mode, and its content in the store is a copy of its own', async () => {
    const root = folder();
    fs.writeFileSync(path.join(root, 'a.sh'), 'old', { mode: 0o750 });
    const tree = new DiskTree(root);
    await tree.keep(p('a.sh'), p('kept'));
    await tree.write(
      p('a.sh'),
      (async function* () {
        yield new TextEncoder().encode('new');
      })(),
      { replace: true, tag: 't' },
    );
    expect(fs.statSync(path.join(root, 'a.sh')).mode & 0o777).toBe(0o750);
    fs.writeFileSync(path.join(root, 'a.sh'), 'written into');
    expect(fs.readFileSync(path.join(root, 'kept'), 'utf8')).toBe('old');
  });
});

// Microsoft, "Naming Files, Paths, and Namespaces" and "Maximum Path Length Limitation": drive letters, shares, the \\?\ form.
describe('forms of paths, simulated', () => {
  test.each([
    ['c:\\Work\\boat\\', 'win32', 'C:/Work/boat'],
    ['C:\\', 'win32', 'C:/'],
    ['\\\\barn\\kits\\x', 'win32', '//barn/kits/x'],
    ['\\\\?\\C:\\long', 'win32', 'C:/long'],
    ['\\\\?\\UNC\\barn\\kits', 'win32', '//barn/kits'],
    ['C:/a/../b', 'win32', 'C:/b'],
    ['/home/a/./b//c/', 'linux', '/home/a/b/c'],
    ['/', 'darwin', '/'],
    ['/a\\b', 'linux', '/a\\b'],
  ])('%s on %s is %s', (given, platform, expected) => expect(fromSystem(given, platform)).toBe(expected));
  test('long paths get the long form on Windows only', () => {
    const long = `C:/${'x'.repeat(250)}`;
    expect(toSystem(long, 'win32')).toBe(`\\\\?\\C:\\${'x'.repeat(250)}`);
    expect(toSystem(`//barn/${'x'.repeat(250)}`, 'win32')).toBe(`\\\\?\\UNC\\barn\\${'x'.repeat(250)}`);
    expect(toSystem('C:/a/b', 'win32')).toBe('C:\\a\\b');
    expect(toSystem(`/${'x'.repeat(300)}`, 'linux')).toBe(`/${'x'.repeat(300)}`);
  });
  test('absolute or not, locks, errors that pass', () => {
    expect([
      isAbsolute('C:\\a', 'win32'),
      isAbsolute('\\\\s\\x', 'win32'),
      isAbsolute('a\\b', 'win32'),
      isAbsolute('C:\\a', 'linux'),
      isAbsolute('/a', 'linux'),
    ]).toEqual([true, true, false, false, true]);
    expect([
      lockAddress('x', 'linux')?.[0],
      lockAddress('x', 'win32')?.startsWith('\\\\.\\pipe\\'),
      lockAddress('x', 'darwin'),
    ]).toEqual(['\0', true, null]);
    expect([
      isTransient('EBUSY', 'win32'),
      isTransient('EBUSY', 'linux'),
      isTransient('ENOSPC', 'win32'),
    ]).toEqual([true, false, false]);
  });
});

describe('the lock', () => {
  test('one holder at a time, again after release', async () => {
    const first = await takeLock(`test-${base}`);
    expect(first).not.toBeNull();
    expect(await takeLock(`test-${base}`)).toBeNull();
    await first!.release();
    const again = await takeLock(`test-${base}`);
    expect(again).not.toBeNull();
    await again!.release();
  });
  test('a lock file of a process that is gone does not count; of a living one it does', async () => {
    const file = path.join(base, 'file.lock');
    const dead = Number(execFileSync(process.execPath, ['-p', 'process.pid']).toString());
    fs.writeFileSync(file, String(dead));
    const taken = await takeFileLock(file);
    expect(taken).not.toBeNull();
    expect(await takeFileLock(file)).toBeNull();
    await taken!.release();
    expect(fs.existsSync(file)).toBe(false);
  });
});

const full =
  process.platform === 'linux' && process.getuid?.() === 0 && spawnSync('mount', ['--version']).status === 0;
(full ? test : test.skip)('a full disk gives an error, and the old file stays', async () => {
  const at = folder();
  if (spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=200k', 'tmpfs', at]).status !== 0)
    return expect(fs.existsSync(at)).toBe(true);
  try {
    const tree = new DiskTree(at);
    fs.writeFileSync(path.join(at, 'a'), 'old');
    const big = (async function* () {
      for (let i = 0; i < 10; i++) yield new Uint8Array(100_000);
    })();
    await expect(tree.write(p('a'), big, { replace: true, tag: 't' })).rejects.toMatchObject({
      code: 'ENOSPC',
    });
    expect(fs.readdirSync(at)).toEqual(['a']);
    expect(fs.readFileSync(path.join(at, 'a'), 'utf8')).toBe('old');
  } finally {
    spawnSync('umount', [at]);
  }
});
