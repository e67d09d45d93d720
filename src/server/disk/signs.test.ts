// Signs of places from texts as the systems give them, and what they mean.

import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { describe, expect, test } from '@jest/globals';
import { adviseOn, type PlaceSigns } from '@/core/layouts/advice';
import { driveOnLinux, driveOnMac, driveOnWindows, probe, signsOf, syncedFolder } from './signs';

const mountinfo = String.raw`22 1 8:2 / / rw,relatime shared:1 - ext4 /dev/sda2 rw
30 22 0:25 / /tmp rw,nosuid - tmpfs tmpfs rw
31 22 8:17 / /media/ada/Blue\040stick rw,nosuid - exfat /dev/sdb1 rw
32 22 0:44 / /barn rw,relatime - nfs4 barn:/kits rw
33 22 8:33 / /data ro,relatime - xfs /dev/sdc1 ro
34 22 8:49 / /data/plugged rw - ext4 /dev/sdd1 rw`;

describe('drives', () => {
  test.each([
    ['/home/ada/work', 'local', 'ext4', '/', false],
    ['/tmp/x', 'memory', 'tmpfs', '/tmp', false],
    ['/media/ada/Blue stick/boat', 'removable', 'exfat', '/media/ada/Blue stick', false],
    ['/barn/kits', 'network', 'nfs4', '/barn', false],
    ['/barnyard', 'local', 'ext4', '/', false],
    ['/data/x', 'local', 'xfs', '/data', true],
    ['/data/plugged/x', 'removable', 'ext4', '/data/plugged', false],
  ])('Linux, proc(5): %s is %s', (folder, drive, fileSystem, mount, isReadOnly) => {
    expect(driveOnLinux(mountinfo, folder, (d) => d === '8:49')).toEqual({
      drive,
      fileSystem,
      mount,
      isReadOnly,
    });
  });
  const mounts =
    '/dev/disk3s1s1 on / (apfs, sealed, local, read-only, journaled)\n/dev/disk3s5 on /System/Volumes/Data (apfs, local, journaled)\n/dev/disk4s1 on /Volumes/Blue stick (exfat, local, nodev, nosuid)\n//ada@barn/kits on /Volumes/kits (smbfs, nodev, nosuid, mounted by ada)\n';
  test.each([
    ['/Volumes/Blue stick/boat', 'removable', 'exfat'],
    ['/Volumes/kits/harbour', 'network', 'smbfs'],
    ['/System/Volumes/Data/Users/ada', 'local', 'apfs'],
  ])('macOS: %s is %s', (folder, drive, fileSystem) => {
    expect(driveOnMac(mounts, folder)).toMatchObject({ drive, fileSystem });
  });
  const disks = JSON.stringify([
    { DeviceID: 'C:', DriveType: 3, FileSystem: 'NTFS' },
    { DeviceID: 'E:', DriveType: 2, FileSystem: 'FAT32' },
    { DeviceID: 'Z:', DriveType: 4, FileSystem: 'NTFS' },
  ]);
  test.each([
    ['C:/work', 'local', 'ntfs'],
    ['e:/boat', 'removable', 'fat32'],
    ['Z:/', 'network', 'ntfs'],
    ['//barn/kits/x', 'network', null],
    ['Q:/', 'unknown', null],
  ])('Windows: %s is %s', (folder, drive, fileSystem) => {
    expect(driveOnWindows(disks, folder)).toMatchObject({ drive, fileSystem });
  });
  test('one drive comes without a list, and a broken answer is no answer', () => {
    expect([
      driveOnWindows('{"DeviceID":"C:","DriveType":3,"FileSystem":"NTFS"}', 'C:/x').drive,
      driveOnWindows('', 'C:/x').drive,
    ]).toEqual(['local', 'unknown']);
  });
});

test('a synchronised folder is told by its marks, from any depth', () => {
  const names: Record<string, string[]> = {
    '/home/ada/Sync': ['.stfolder', 'boat'],
    '/home/ada/Drive': ['.sync_0a1b2c.db'],
  };
  const of = (folder: string) => syncedFolder(folder, (at) => names[at] ?? []);
  expect(of('/home/ada/Sync/boat/scenes')).toEqual({ folder: '/home/ada/Sync', mark: '.stfolder' });
  expect(of('/home/ada/Drive')?.mark).toBe('.sync_0a1b2c.db');
  expect(of('/home/ada/work/.stfolder-like')).toBeNull();
  expect(of('/Users/ada/Library/CloudStorage/Somewhere/boat')?.folder).toBe(
    '/Users/ada/Library/CloudStorage/Somewhere',
  );
});

describe('what they mean', () => {
  const plain: PlaceSigns = {
    drive: 'local',
    fileSystem: 'ext4',
    mount: '/',
    isReadOnly: false,
    mayRead: true,
    mayWrite: true,
    synced: null,
    free: 5e11,
    total: 1e12,
    speed: null,
  };
  const codes = (more: Partial<PlaceSigns>, needed: number | null = null) =>
    adviseOn({ ...plain, ...more }, needed).map((a) => a.code);
  test.each<[Partial<PlaceSigns>, string[]]>([
    [{}, ['good']],
    [{ drive: 'network' }, ['network']],
    [{ drive: 'removable', fileSystem: 'vfat' }, ['removable', 'fat32']],
    [{ synced: { folder: '/s', mark: '.x' } }, ['synced']],
    [{ free: 2e9 }, ['little-room']],
    [{ isReadOnly: true }, ['read-only']],
    [{ drive: 'memory' }, ['memory']],
    [{ fileSystem: 'exfat' }, ['exfat', 'good']],
    [{ speed: { write: 5e6, read: 9e6, smallFiles: 4 } }, ['slow']],
    [{ speed: { write: 5e8, read: 9e8, smallFiles: 900 } }, ['fast', 'good']],
  ])('%j: %j', (signs, expected) => expect(codes(signs)).toEqual(expected));
  test('room that is needed', () => expect(codes({ free: 5e10 }, 6e10)).toEqual(['too-little']));
});

test('this machine answers, and the probe leaves nothing behind', async () => {
  const folder = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-signs-'));
  fs.writeFileSync(path.join(folder, '.stfolder'), '');
  const signs = await signsOf(folder);
  expect([signs.mount !== null, signs.synced?.mark, (signs.free ?? 0) > 0]).toEqual([
    true,
    '.stfolder',
    true,
  ]);
  const speed = await probe(folder, new AbortController().signal);
  expect([speed.write > 0, speed.read > 0, speed.smallFiles > 0, fs.readdirSync(folder)]).toEqual([
    true,
    true,
    true,
    ['.stfolder'],
  ]);
  const stopped = new AbortController();
  stopped.abort();
  await expect(probe(folder, stopped.signal)).rejects.toThrow();
  expect(fs.readdirSync(folder)).toEqual(['.stfolder']);
  fs.rmSync(folder, { recursive: true });
});
