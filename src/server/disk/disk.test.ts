// The disk: the shared tree suite, links, and what differs between systems with simulated inputs.

import { afterAll, describe, expect, test } from '@jest/globals';
import { execFileSync, spawn, spawnSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { once } from '@/core/files/fileTree';
import { buildSync } from 'esbuild';
import { MemoryTree } from '@/core/files/memoryTree';
import { treeSuite } from '@/core/files/testing/treeSuite';
import { treePath as p } from '@/core/files/treePath';
import { diskOutside } from './diskOutside';
import { DiskTree } from './diskTree';
import { deadAfter, isAtWork, takeFolderLock, type LockOwner } from './folderLock';
import { onFailingDisk } from './testing/failingCalls';
import { fromSystem, isAbsolute, isTransient, toSystem } from './system';

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

// Set and read by Python, which has calls for them; Linux only, as what is tested.
const hasPython = process.platform === 'linux' && spawnSync('python3', ['--version']).status === 0;
(hasPython ? test : test.skip)(
  'a file that is written anew keeps its mode, its extended attributes and its access list',
  async () => {
    const root = folder();
    const file = path.join(root, 'a.gltf');
    fs.writeFileSync(file, 'old', { mode: 0o640 });
    // An access list as the kernel keeps it (linux/posix_acl_xattr.h): version 2, then tag, rights and id of each entry.
    const set = `
import os, struct, sys
acl = struct.pack('<I', 2) + b''.join(struct.pack('<HHI', *e) for e in
  [(1, 6, 0xffffffff), (2, 4, 12345), (4, 4, 0xffffffff), (16, 4, 0xffffffff), (32, 0, 0xffffffff)])
os.setxattr(sys.argv[1], 'user.note', b'mine')
os.setxattr(sys.argv[1], 'system.posix_acl_access', acl)
`;
    const tell = `
import os, sys
print(os.stat(sys.argv[1]).st_mode & 0o777, sorted((n, os.getxattr(sys.argv[1], n).hex()) for n in os.listxattr(sys.argv[1])))
`;
    const python = (script: string) => execFileSync('python3', ['-c', script, file], { encoding: 'utf8' });
    python(set);
    const before = python(tell);
    const tree = new DiskTree(root);
    const modified = Date.UTC(2026, 0, 2);
    await tree.write(p('a.gltf'), once(new TextEncoder().encode('new')), {
      replace: true,
      tag: 't',
      modified,
    });
    expect(before).toContain('user.note');
    expect(before).toContain('posix_acl');
    expect([python(tell), fs.readFileSync(file, 'utf8'), fs.statSync(file).mtimeMs]).toEqual([
      before,
      'new',
      modified,
    ]);
  },
);

describe('links', () => {
  test('are entries of their own: read through inside the root, nothing beyond, never walked, moved as links', async () => {
    const [root, out] = [folder(), folder()];
    fs.writeFileSync(path.join(out, 'secret.png'), 's');
    fs.mkdirSync(path.join(root, 'real'));
    fs.writeFileSync(path.join(root, 'real', 'a.png'), 'a');
    fs.symlinkSync(out, path.join(root, 'leaves'));
    fs.symlinkSync(path.join(out, 'secret.png'), path.join(root, 'leaves.png'));
    fs.symlinkSync('real', path.join(root, 'inside'));
    fs.symlinkSync(root, path.join(root, 'real', 'up'));
    fs.symlinkSync('/nowhere', path.join(root, 'dead'));
    const tree = new DiskTree(root);
    expect(await tree.entries(p(''))).toEqual([
      { name: 'dead', kind: 'other', link: '/nowhere' },
      { name: 'inside', kind: 'folder', link: 'real' },
      { name: 'leaves', kind: 'other', link: out },
      { name: 'leaves.png', kind: 'other', link: path.join(out, 'secret.png') },
      { name: 'real', kind: 'folder' },
    ]);
    expect([
      await tree.kind(p('leaves/secret.png')),
      await tree.kind(p('leaves.png')),
      await tree.kind(p('inside/a.png')),
      await tree.kind(p('dead')),
    ]).toEqual([null, 'link', 'file', 'link']);
    expect([await tree.stat(p('leaves.png')), await tree.stat(p('leaves/secret.png'))]).toEqual([null, null]);
    await expect(tree.read(p('leaves.png'))).rejects.toMatchObject({ code: 'not-found' });
    await expect(tree.read(p('leaves/secret.png'))).rejects.toMatchObject({ code: 'not-found' });
    const listed: string[] = [];
    const passed: string[] = [];
    for await (const f of tree.list(p(''), (at, why) => passed.push(`${at} ${why}`))) listed.push(f.path);
    expect(listed).toEqual(['real/a.png']);
    expect(passed.sort()).toEqual([
      'dead link',
      'inside link',
      'leaves link',
      'leaves.png link',
      'real/up link',
    ]);
    const write = (at: string, replace: boolean) =>
      tree.write(p(at), once(new Uint8Array(1)), { replace, tag: 't' });
    for (const at of ['leaves/new.png', 'leaves.png', 'dead']) {
      await expect(write(at, true)).rejects.toBeInstanceOf(Error);
      await expect(write(at, false)).rejects.toBeInstanceOf(Error);
    }
    await expect(tree.makeFolder(p('leaves/f'))).rejects.toBeInstanceOf(Error);
    await expect(tree.move(p('real/a.png'), p('leaves/a.png'))).rejects.toBeInstanceOf(Error);
    await expect(tree.remove(p('leaves/secret.png'))).rejects.toBeInstanceOf(Error);
    await expect(tree.append(p('leaves.png'), new Uint8Array(1))).rejects.toBeInstanceOf(Error);
    expect([fs.readdirSync(out), fs.readFileSync(path.join(out, 'secret.png'), 'utf8')]).toEqual([
      ['secret.png'],
      's',
    ]);
    await tree.move(p('dead'), p('real/dead'));
    expect(fs.readlinkSync(path.join(root, 'real', 'dead'))).toBe('/nowhere');
    expect(await diskOutside.kind(`${root}/leaves.png`)).toBe('file');
  });

  test('a folder swapped for a link in the middle of a write changes nothing outside', async () => {
    const [root, out] = [folder(), folder()];
    fs.mkdirSync(path.join(root, 'f'));
    fs.writeFileSync(path.join(out, 'a'), 'theirs');
    const tree = new DiskTree(root);
    await tree
      .write(p('f/a'), once(new TextEncoder().encode('mine')), {
        replace: true,
        tag: 't',
        beforeCommit: async () => {
          fs.renameSync(path.join(root, 'f'), path.join(root, 'g'));
          fs.symlinkSync(out, path.join(root, 'f'));
        },
      })
      .catch(() => undefined);
    expect([fs.readdirSync(out), fs.readFileSync(path.join(out, 'a'), 'utf8')]).toEqual([['a'], 'theirs']);
  });

  test('pipes are not waited for; names that are no text, and files with our mark in the middle, are told', async () => {
    const root = folder();
    execFileSync('mkfifo', [path.join(root, 'pipe')]);
    fs.writeFileSync(Buffer.concat([Buffer.from(`${root}/`), Buffer.from([0xff, 0x61])]), 'x');
    fs.writeFileSync(path.join(root, 'mine.satchel-part.png'), 'x');
    fs.writeFileSync(path.join(root, '.20261126-000000-000abcd-1.satchel-part'), 'x');
    const tree = new DiskTree(root);
    await expect(tree.read(p('pipe'))).rejects.toMatchObject({ code: 'not-found' });
    const listed: string[] = [];
    const passed: string[] = [];
    for await (const f of tree.list(p(''), (_, why) => passed.push(why))) listed.push(f.path);
    expect([listed, passed.sort()]).toEqual([['mine.satchel-part.png'], ['name', 'not-a-file']]);
    expect((await tree.entries(p('')))!.map((e) => e.kind)).toEqual(['file', 'other', 'other']);
  });

  test.each([1764137428123, 1764137428001, 1764137428999, -12345, 0, 1764137428123.456])(
    'a time of %d ms comes back as the same',
    async (modified) => {
      const tree = new DiskTree(folder());
      await tree.write(p('a'), once(new Uint8Array(1)), { replace: false, tag: 't', modified });
      const back = (await tree.stat(p('a')))!.modified;
      expect(Math.abs(back - modified)).toBeLessThan(0.001);
      expect(Math.floor(back)).toBe(Math.floor(modified));
    },
  );

  test('a replaced file keeps its mode, and its content in the store is a copy of its own', async () => {
    const root = folder();
    fs.writeFileSync(path.join(root, 'a.sh'), 'old', { mode: 0o750 });
    const tree = new DiskTree(root);
    await tree.keep(p('a.sh'), p('kept'), { tag: 't' });
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
  test('absolute or not, errors that pass', () => {
    expect([
      isAbsolute('C:\\a', 'win32'),
      isAbsolute('\\\\s\\x', 'win32'),
      isAbsolute('a\\b', 'win32'),
      isAbsolute('C:\\a', 'linux'),
      isAbsolute('/a', 'linux'),
    ]).toEqual([true, true, false, false, true]);
    expect([
      isTransient('EBUSY', 'win32'),
      isTransient('EBUSY', 'linux'),
      isTransient('ENOSPC', 'win32'),
    ]).toEqual([true, false, false]);
  });
});

describe('the lock', () => {
  const takenIn = (at: string) => {
    const taken = takeFolderLock(at);
    if (!('lock' in taken)) throw new Error('it is held');
    return taken.lock;
  };
  const owner: LockOwner = {
    token: 'x',
    host: os.hostname(),
    space: '',
    pid: 1,
    thread: 0,
    started: '',
    since: '2026-11-26T00:00:00Z',
  };
  test('one holder at a time, who is named; again after release, and nothing is left', () => {
    const at = folder();
    const first = takenIn(at);
    expect(takeFolderLock(at)).toMatchObject({ heldBy: { pid: process.pid, host: os.hostname() } });
    expect(first.isHeld()).toBe(true);
    first.release();
    takenIn(at).release();
    expect(fs.readdirSync(at)).toEqual([]);
  });
  test('a dead process is taken over and said, a living one is not; a later process of its number is another', async () => {
    const at = folder();
    const dead = Number(execFileSync(process.execPath, ['-p', 'process.pid']).toString());
    const here = takenIn(at);
    const own = JSON.parse(fs.readFileSync(path.join(at, 'lock'), 'utf8')) as LockOwner;
    here.release();
    const lay = (more: Partial<LockOwner>) =>
      fs.writeFileSync(path.join(at, 'lock'), JSON.stringify({ ...own, ...more }));
    lay({ pid: dead });
    const lock = takenIn(at);
    expect(lock.tookOver?.pid).toBe(dead);
    lock.release();
    if (process.platform === 'linux') {
      // A zombie: the shell is replaced before its child ends, so nobody collects the child.
      const careless = spawn('sh', ['-c', 'sleep 0.3 & echo $!; exec sleep 30'], {
        stdio: ['ignore', 'pipe', 'ignore'],
      });
      const ended = Number(await new Promise((said) => careless.stdout.once('data', said)));
      const state = () => /\) (.)/.exec(fs.readFileSync(`/proc/${ended}/stat`, 'utf8'))?.[1];
      while (state() !== 'Z') await new Promise((wait) => setTimeout(wait, 5));
      lay({ pid: ended, started: '' });
      const over = takenIn(at);
      expect(over.tookOver?.pid).toBe(ended);
      over.release();
      careless.kill();
    }
    // Our own parent lives; another thread of ours may.
    lay({ pid: process.ppid, started: '' });
    expect(takeFolderLock(at)).toHaveProperty('heldBy');
    // Where the system does not say when a process began, its number may be a later one's: without a heartbeat it does not count.
    const here1 = { ...own, pid: process.ppid, started: '' };
    expect([isAtWork(here1, deadAfter - 1), isAtWork(here1, deadAfter)]).toEqual([true, false]);
    lay({ thread: 7 });
    expect(takeFolderLock(at)).toHaveProperty('heldBy');
    // One of this very thread that it does not hold: given back, and the drive did not let it be taken away.
    lay({});
    takenIn(at).release();
    if (process.platform === 'linux') {
      lay({ started: '1' });
      expect(takenIn(at).tookOver?.started).toBe('1');
    }
  });
  test('of an owner elsewhere (another host, or another space of processes) the heartbeat tells, by the clock of the drive', () => {
    const elsewhere = { ...owner, host: 'barn' };
    expect([
      isAtWork(elsewhere, 0),
      isAtWork(elsewhere, deadAfter - 1),
      isAtWork(elsewhere, deadAfter),
    ]).toEqual([true, true, false]);
    const at = folder();
    fs.writeFileSync(path.join(at, 'lock'), JSON.stringify(elsewhere));
    expect(takeFolderLock(at)).toMatchObject({ heldBy: { host: 'barn' } });
    fs.utimesSync(path.join(at, 'lock'), 1, 1);
    expect(takenIn(at).tookOver?.host).toBe('barn');
  });
  test('of several that find a lock dead at once, one takes it over', async () => {
    const at = folder();
    const dead = Number(execFileSync(process.execPath, ['-p', 'process.pid']).toString());
    const here = takenIn(at);
    const own = JSON.parse(fs.readFileSync(path.join(at, 'lock'), 'utf8')) as LockOwner;
    here.release();
    const code = path.join(folder(), 'lock.mjs');
    buildSync({
      entryPoints: [path.resolve(import.meta.dirname, 'folderLock.ts')],
      ...{ outfile: code, bundle: true, platform: 'node', format: 'esm', logLevel: 'error' },
    });
    const rounds = 25;
    const log = path.join(folder(), 'log');
    // Each goes for the lock as soon as the round begins, holds it for a moment, and notes when it comes and goes.
    const program = `
      import fs from 'node:fs';
      import { takeFolderLock } from ${JSON.stringify(code)};
      for (let round = 0; round < ${rounds}; round++) {
        while (!fs.existsSync(${JSON.stringify(log)} + '.go' + round));
        const taken = takeFolderLock(${JSON.stringify(at)});
        if ('lock' in taken) {
          fs.appendFileSync(${JSON.stringify(log)}, round + ' in\\n');
          for (const until = Date.now() + 15; Date.now() < until;);
          fs.appendFileSync(${JSON.stringify(log)}, round + (taken.lock.isHeld() ? ' out\\n' : ' lost\\n'));
          taken.lock.release();
        }
        fs.writeFileSync(${JSON.stringify(log)} + '.done' + round + '.' + process.pid, '');
      }`;
    const starters = [1, 2, 3].map(() =>
      spawn(process.execPath, ['--input-type=module', '-e', program], { stdio: 'inherit' }),
    );
    const base = path.dirname(log);
    for (let round = 0; round < rounds; round++) {
      fs.writeFileSync(path.join(at, 'lock'), JSON.stringify({ ...own, pid: dead, token: String(round) }));
      fs.writeFileSync(`${log}.go${round}`, '');
      const done = () => fs.readdirSync(base).filter((f) => f.startsWith(`log.done${round}.`)).length;
      for (const until = Date.now() + 20_000; done() < 3;) {
        if (Date.now() > until) throw new Error(`round ${round} did not end`);
        await new Promise((wait) => setTimeout(wait, 2));
      }
      expect(fs.readdirSync(at)).toEqual([]);
    }
    for (const s of starters) s.kill();
    // Nobody comes while another is in.
    const lines = fs.readFileSync(log, 'utf8').trim().split('\n');
    lines.forEach((line, i) => expect([i, line.split(' ')[1]]).toEqual([i, i % 2 === 0 ? 'in' : 'out']));
    expect(lines.length).toBeGreaterThanOrEqual(2 * rounds);
  });
  test('a lock that was taken over is not given back by its former owner', () => {
    const at = folder();
    const first = takenIn(at);
    fs.writeFileSync(path.join(at, 'lock'), JSON.stringify(owner));
    expect(first.isHeld()).toBe(false);
    first.release();
    expect(fs.existsSync(path.join(at, 'lock'))).toBe(true);
  });
  test('a drive that fails once, while it is written or given back, keeps nobody out', async () => {
    for (const code of ['EIO', 'ENOSPC'])
      for (let n = 1; ; n++) {
        const at = folder();
        const { error, calls } = await onFailingDisk(n, code, () => {
          takenIn(at).release();
          return Promise.resolve();
        });
        takenIn(at).release();
        expect([n, fs.readdirSync(at)]).toEqual([n, []]);
        if (calls < n) {
          expect(error).toBeNull();
          break;
        }
      }
  });
  test('an empty or damaged lock that has lain for a while counts as none', () => {
    const at = folder();
    fs.writeFileSync(path.join(at, 'lock'), '');
    expect(takeFolderLock(at)).toHaveProperty('heldBy');
    fs.utimesSync(path.join(at, 'lock'), 1, 1);
    takenIn(at).release();
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
      code: 'disk-full',
    });
    expect(fs.readdirSync(at)).toEqual(['a']);
    expect(fs.readFileSync(path.join(at, 'a'), 'utf8')).toBe('old');
  } finally {
    spawnSync('umount', [at]);
  }
});
