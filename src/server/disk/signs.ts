// Signs of what kind of place a folder is, as each system shows them: mount tables on Linux and macOS, the list of drives on Windows, marks that
// synchronising services leave in their folders. The readers of those texts take them as arguments, so that each can be tried everywhere.

import { execFile } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { promisify } from 'node:util';
import type { PlaceSigns, PlaceSpeed } from '@/core/layouts/advice';
import { isWithin } from '@/core/files/treePath';
import type { CancelSignal } from '@/core/files/fileTree';
import { temporaryIn } from './listing';
import { notePart } from './parts';
import { isNetwork } from './shares';
import { fromSystem, toSystem, type Platform } from './system';

type Drive = Pick<PlaceSigns, 'drive' | 'fileSystem' | 'mount' | 'isReadOnly'>;

const memorySystems = /^(tmpfs|ramfs)$/;
const stickSystems = /^(vfat|msdos|exfat)$/;

/** From the text of /proc/self/mountinfo (proc(5)). `isRemovable`: what /sys says of a device 'major:minor'. */
export function driveOnLinux(
  mountinfo: string,
  folder: string,
  isRemovable: (device: string) => boolean,
): Drive {
  let best: { mount: string; system: string; options: string; device: string } | null = null;
  for (const line of mountinfo.split('\n')) {
    const [before, after] = line.split(' - ');
    const fields = before!.split(' ');
    if (fields.length < 6 || after === undefined) continue;
    const mount = fields[4]!.replace(/\\([0-7]{3})/g, (_, o: string) =>
      String.fromCharCode(Number.parseInt(o, 8)),
    );
    if (!isWithin(folder, mount === '/' ? '' : mount) || (best !== null && mount.length < best.mount.length))
      continue;
    best = { mount, system: after.split(' ')[0]!, options: fields[5]!, device: fields[2]! };
  }
  if (!best) return { drive: 'unknown', fileSystem: null, mount: null, isReadOnly: false };
  const { mount, system } = best;
  const isStick =
    /^\/(media|run\/media|mnt\/usb)\//.test(mount) ||
    isRemovable(best.device) ||
    (stickSystems.test(system) && mount !== '/boot/efi');
  return {
    drive: isNetwork(system)
      ? 'network'
      : memorySystems.test(system)
        ? 'memory'
        : isStick
          ? 'removable'
          : 'local',
    fileSystem: system,
    mount,
    isReadOnly: /(^|,)ro(,|$)/.test(best.options),
  };
}

/** From the text of `mount` on macOS: '/dev/disk4s1 on /Volumes/Blue stick (exfat, local, nodev, …)'. */
export function driveOnMac(mounts: string, folder: string): Drive {
  let best: { mount: string; words: string[] } | null = null;
  for (const line of mounts.split('\n')) {
    const m = /^.+? on (\/.*) \(([^()]*)\)$/.exec(line);
    if (
      !m ||
      !isWithin(folder, m[1] === '/' ? '' : m[1]!) ||
      (best !== null && m[1]!.length < best.mount.length)
    )
      continue;
    best = { mount: m[1]!, words: m[2]!.split(', ') };
  }
  if (!best) return { drive: 'unknown', fileSystem: null, mount: null, isReadOnly: false };
  const [system = ''] = best.words;
  const isAway = isNetwork(system) || !best.words.includes('local');
  // What is plugged in shows below /Volumes.
  return {
    drive: isAway ? 'network' : best.mount.startsWith('/Volumes/') ? 'removable' : 'local',
    fileSystem: system,
    mount: best.mount,
    isReadOnly: best.words.includes('read-only'),
  };
}

// Win32_LogicalDisk.DriveType (Microsoft): 2 removable, 3 local, 4 network, 5 compact disc, 6 RAM disk.
const windowsDrives: Record<number, PlaceSigns['drive']> = {
  2: 'removable',
  3: 'local',
  4: 'network',
  5: 'removable',
  6: 'memory',
};

/** From the JSON of Win32_LogicalDisk with DeviceID, DriveType, FileSystem; one drive or a list. */
export function driveOnWindows(json: string, folder: string): Drive {
  if (folder.startsWith('//'))
    return {
      drive: 'network',
      fileSystem: null,
      mount: folder.split('/').slice(0, 4).join('/'),
      isReadOnly: false,
    };
  let listed: unknown;
  try {
    listed = JSON.parse(json);
  } catch {
    listed = [];
  }
  for (const d of (Array.isArray(listed) ? listed : [listed]) as {
    DeviceID?: unknown;
    DriveType?: unknown;
    FileSystem?: unknown;
  }[]) {
    if (typeof d.DeviceID !== 'string' || !folder.toUpperCase().startsWith(d.DeviceID.toUpperCase()))
      continue;
    return {
      drive: windowsDrives[Number(d.DriveType)] ?? 'unknown',
      fileSystem: typeof d.FileSystem === 'string' ? d.FileSystem.toLowerCase() : null,
      mount: `${d.DeviceID}/`,
      isReadOnly: Number(d.DriveType) === 5,
    };
  }
  return { drive: 'unknown', fileSystem: null, mount: null, isReadOnly: false };
}

// Marks that synchronising services leave at the top of what they keep in step (common practice, no source).
const syncMarks = [
  /^\.stfolder$/,
  /^\.stversions$/,
  /^\.dropbox(\.cache)?$/,
  /^\._?sync_[0-9a-f]+\.db$/,
  /^\.owncloudsync\.log$/,
  /^\.nextcloudsync\.log$/,
  /^\.tmp\.drive(down|up)load$/,
  /^\.sync$/,
  /^\.seafile-data$/,
  /^\.syncthing\..*$/,
];

/** The synchronised folder that holds `folder`, by the names in it and in those above; `namesIn` lists a folder. */
export function syncedFolder(
  folder: string,
  namesIn: (folder: string) => readonly string[],
): PlaceSigns['synced'] {
  const system = /^(.*\/Library\/(?:Mobile Documents|CloudStorage)\/[^/]+)/.exec(folder);
  if (system) return { folder: system[1]!, mark: 'its place in the Library folder' };
  for (let at = folder; at.includes('/'); at = at.slice(0, at.lastIndexOf('/'))) {
    const mark = namesIn(at).find((n) => syncMarks.some((m) => m.test(n)));
    if (mark !== undefined) return { folder: at, mark };
  }
  return null;
}

function namesIn(folder: string): string[] {
  try {
    return fs.readdirSync(toSystem(folder));
  } catch {
    return [];
  }
}

function isRemovable(device: string): boolean {
  try {
    const block = fs.realpathSync(`/sys/dev/block/${device}`);
    for (const at of [block, path.dirname(block)])
      if (fs.existsSync(`${at}/removable`)) return fs.readFileSync(`${at}/removable`, 'utf8').trim() === '1';
  } catch {
    // Not told: a device of its own kind.
  }
  return false;
}

const run = promisify(execFile);

async function driveOf(folder: string, platform: Platform): Promise<Drive> {
  const unknown: Drive = { drive: 'unknown', fileSystem: null, mount: null, isReadOnly: false };
  try {
    if (platform === 'linux')
      return driveOnLinux(fs.readFileSync('/proc/self/mountinfo', 'utf8'), folder, isRemovable);
    if (platform === 'darwin') return driveOnMac((await run('/sbin/mount', [])).stdout, folder);
    if (platform === 'win32')
      return driveOnWindows(
        folder.startsWith('//')
          ? '[]'
          : (
              await run(
                'powershell.exe',
                [
                  '-NoProfile',
                  '-Command',
                  'Get-CimInstance Win32_LogicalDisk | Select-Object DeviceID,DriveType,FileSystem | ConvertTo-Json',
                ],
                { timeout: 10_000 },
              )
            ).stdout,
        folder,
      );
  } catch {
    // What cannot be asked is not known.
  }
  return unknown;
}

function may(folder: string, what: number): boolean {
  try {
    fs.accessSync(toSystem(folder), what);
    return true;
  } catch {
    return false;
  }
}

/** The signs of a folder that exists, '/'-separated. Reads mount tables and names, nothing else. */
export async function signsOf(folder: string): Promise<PlaceSigns> {
  const real = fromSystem(fs.realpathSync(toSystem(folder)));
  const disk = fs.statfsSync(toSystem(folder));
  return {
    ...(await driveOf(real, process.platform)),
    mayRead: may(folder, fs.constants.R_OK | fs.constants.X_OK),
    mayWrite: may(folder, fs.constants.W_OK),
    synced: syncedFolder(real, namesIn),
    free: Number(disk.bavail) * Number(disk.bsize),
    total: Number(disk.blocks) * Number(disk.bsize),
    speed: null,
  };
}

const probeSize = 64 * 1024 * 1024;
const probeFiles = 60;

/** Measures a place by writing 64 MB and sixty small files into a folder of its own there, and takes them away again. */
export async function probe(
  folder: string,
  signal: CancelSignal,
  parts: string | null = null,
): Promise<PlaceSpeed> {
  const at = temporaryIn(toSystem(folder));
  const strikeOff = notePart(parts, at);
  fs.mkdirSync(at);
  const seconds = (from: number) => Math.max(1e-3, (performance.now() - from) / 1000);
  try {
    const file = path.join(at, 'large');
    const block = Buffer.alloc(4 * 1024 * 1024, os.hostname());
    let from = performance.now();
    const fd = fs.openSync(file, 'w');
    try {
      for (let n = 0; n < probeSize; n += block.length) {
        signal.throwIfAborted();
        fs.writeSync(fd, block);
        await new Promise((next) => setImmediate(next));
      }
      fs.fsyncSync(fd);
    } finally {
      fs.closeSync(fd);
    }
    const write = probeSize / seconds(from);
    from = performance.now();
    fs.readFileSync(file);
    const read = probeSize / seconds(from);
    from = performance.now();
    for (let n = 0; n < probeFiles; n++) {
      signal.throwIfAborted();
      const small = path.join(at, `small-${n}`);
      const out = fs.openSync(small, 'w');
      fs.writeSync(out, block.subarray(0, 4096));
      fs.fsyncSync(out);
      fs.closeSync(out);
    }
    return { write, read, smallFiles: probeFiles / seconds(from) };
  } finally {
    fs.rmSync(at, { recursive: true, force: true });
    strikeOff();
  }
}
