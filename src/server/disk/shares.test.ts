// Shares: told from the mount tables of each system, never asked for a stranger's sake, and never waited for.

import { describe, expect, test } from '@jest/globals';
import type fs from 'node:fs';
import { outsideWithin } from './diskOutside';
import { mountsOnLinux, mountsOnMac, shareMounts, shareOf } from './shares';

// proc(5), /proc/self/mountinfo; mount(8) on macOS.
const linux = `36 35 98:0 / / rw,noatime - ext4 /dev/sda1 rw
40 36 0:50 / /mnt/studio\\040share rw,relatime - nfs4 server:/export rw
41 36 0:51 / /net rw - autofs systemd-1 rw
42 36 0:52 / /mnt/stick rw - exfat /dev/sdb1 rw
43 36 0:53 / /home/ada/remote rw - fuse.sshfs ada@far:/ rw`;
const mac = `/dev/disk3s1s1 on / (apfs, sealed, local, read-only, journaled)
//ada@nas/projects on /Volumes/projects (smbfs, nodev, nosuid, mounted by ada)
map auto_home on /System/Volumes/Data/home (autofs, automounted, nobrowse)`;

test('mounts of other machines', () => {
  expect(shareMounts(mountsOnLinux(linux))).toEqual(['/mnt/studio share', '/net', '/home/ada/remote']);
  expect(shareMounts(mountsOnMac(mac))).toEqual(['/Volumes/projects', '/System/Volumes/Data/home']);
  // A share that something else was mounted over is none any more.
  expect(shareMounts([...mountsOnLinux(linux), { at: '/net', fileSystem: 'ext4' }])).not.toContain('/net');
});

test.each([
  ['/mnt/studio share/hull.png', 'linux', '/mnt/studio share'],
  ['/mnt/studio shared/hull.png', 'linux', null],
  ['/home/ada/hull.png', 'linux', null],
  ['//nas/projects/hull.png', 'win32', '//nas/projects'],
  ['//nas', 'win32', '//nas'],
  ['C:/work/hull.png', 'win32', null],
] as const)('%s on %s lies on %s', (path, platform, share) => {
  expect(shareOf(path, shareMounts(mountsOnLinux(linux)), platform)).toBe(share);
});

describe('asked', () => {
  const asking = (allowed: string[] | null, answer: () => Promise<fs.Stats>, asked?: string[] | null) => {
    const calls: string[] = [];
    const outside = outsideWithin({
      allowed,
      ...(asked === undefined ? {} : { asked }),
      platform: 'win32',
      askShare: (system) => (calls.push(system), answer()),
    });
    return { outside, calls };
  };
  const aFile = async () =>
    ({ isFile: () => true, isDirectory: () => false, size: 5, mtimeMs: 9 }) as unknown as fs.Stats;

  test('a share that a scene names is not touched, unless it was allowed', async () => {
    const { outside, calls } = asking(['C:/work', '//nas/projects'], aFile);
    expect(await outside.kind('//evil/share/hull.png')).toBe(null);
    expect(await outside.stat('//evil/share/hull.png')).toBe(null);
    expect(await outside.entries('//evil/share')).toBe(null);
    await expect(outside.read('//evil/share/hull.png')).rejects.toMatchObject({ code: 'not-allowed' });
    expect(calls).toEqual([]);
    expect(await outside.kind('//nas/projects/hull.png')).toBe('file');
    expect(calls).toEqual(['\\\\nas\\projects\\hull.png']);
  });
  test('on the command line, only what was named is', async () => {
    const { outside, calls } = asking(null, aFile, ['//nas/projects/harbour']);
    expect(await outside.kind('//nas/projects/harbour/hull.png')).toBe('file');
    expect(await outside.kind('//nas/projects/other/hull.png')).toBe(null);
    expect(calls.length).toBe(1);
  });
  test('one that does not answer is not there, and is not asked again for a while', async () => {
    const { outside, calls } = asking(['//nas/projects'], () => new Promise(() => undefined));
    const from = performance.now();
    expect(await outside.kind('//nas/projects/hull.png')).toBe(null);
    expect(performance.now() - from).toBeLessThan(6000);
    for (let n = 0; n < 50; n++) expect(await outside.kind(`//nas/projects/${n}.png`)).toBe(null);
    expect(calls.length).toBe(1);
  }, 20_000);
  test('one that fails is not there', async () => {
    const { outside } = asking(['//nas/projects'], () => Promise.reject(new Error('EHOSTDOWN')));
    expect(await outside.kind('//nas/projects/hull.png')).toBe(null);
  });
});
