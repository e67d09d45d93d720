// Which paths lie on another machine. To look at one can take minutes when that machine is gone, mounts what nobody asked for, and on Windows
// tells the other machine who is asking: so a share is looked at only where the user has allowed it.

import { execFileSync } from 'node:child_process';
import fs from 'node:fs';
import { isWithin } from '@/core/files/treePath';
import type { Platform } from './system';

const networkSystems =
  /^(nfs\d?|cifs|smb\d?|smbfs|afpfs|davfs\d?|webdav|ncpfs|9p|ceph|glusterfs|autofs|fuse\.(sshfs|davfs2?|rclone|gvfsd-fuse|s3fs|glusterfs))$/;

/** Whether a file system of this name lies on another machine, or is mounted by being looked at. */
export const isNetwork = (fileSystem: string): boolean => networkSystems.test(fileSystem);

/** Where drives are mounted, with the names of their file systems, from the text of /proc/self/mountinfo (proc(5)). */
export function mountsOnLinux(mountinfo: string): { at: string; fileSystem: string }[] {
  return mountinfo.split('\n').flatMap((line) => {
    const [before, after] = line.split(' - ');
    const at = before!.split(' ')[4];
    if (at === undefined || after === undefined) return [];
    const plain = at.replace(/\\([0-7]{3})/g, (_, o: string) => String.fromCharCode(Number.parseInt(o, 8)));
    return [{ at: plain, fileSystem: after.split(' ')[0]! }];
  });
}

/** The same from the text of `mount` on macOS. */
export function mountsOnMac(mounts: string): { at: string; fileSystem: string }[] {
  return mounts.split('\n').flatMap((line) => {
    const m = /^.+? on (\/.*) \(([^(),]*)[^()]*\)$/.exec(line);
    return m ? [{ at: m[1]!, fileSystem: m[2]! }] : [];
  });
}

/** Mounts of other machines in a list of all: of several at one place the last counts. */
export function shareMounts(mounts: readonly { at: string; fileSystem: string }[]): string[] {
  return [...new Map(mounts.map((m) => [m.at, m.fileSystem]))].flatMap(([at, system]) =>
    isNetwork(system) ? [at] : [],
  );
}

/** The head of the share that a path ('/'-separated) lies on; null: it lies on this machine. */
export function shareOf(path: string, shares: readonly string[], platform: Platform): string | null {
  if (platform === 'win32') return /^\/\/[^/]+\/?[^/]*/.exec(path)?.[0] ?? null;
  return shares.filter((at) => isWithin(path, at)).sort((a, b) => b.length - a.length)[0] ?? null;
}

let seen: { at: number; shares: string[] } | null = null;
const stays = 5000; // ms for which the list of mounts is taken as it was

/** The mounts of other machines on this one just now. */
export function currentShares(platform: Platform = process.platform): readonly string[] {
  if (platform === 'win32') return [];
  if (!seen || Date.now() - seen.at > stays)
    seen = { at: Date.now(), shares: shareMounts(listMounts(platform)) };
  return seen.shares;
}

function listMounts(platform: Platform): { at: string; fileSystem: string }[] {
  try {
    if (platform === 'linux') return mountsOnLinux(fs.readFileSync('/proc/self/mountinfo', 'utf8'));
    return mountsOnMac(execFileSync('/sbin/mount', { encoding: 'utf8', timeout: 2000 }));
  } catch {
    return [];
  }
}
