// What was dropped on the window or picked on disk, laid ready for the holding area: archives are unpacked, without trust, into the
// application's data folder; folders are taken where they lie.

import type { CancelSignal } from '@/core/files/fileTree';
import { randomBytes } from 'node:crypto';
import fs from 'node:fs';
import path from 'node:path';
import { AppError } from '@/core/errors';
import { staysInside } from '@/core/bags/archive';
import { isArchive, isOpenedArchive } from '@/core/names/archives';
import { stemOf } from '@/core/files/treePath';
import { openArchive } from '../bags/openBag';
import { asTime } from '../disk/calls';
import { freeBytes } from '../disk/use';
import { fromSystem, toSystem } from '../disk/system';

/** The folder in which uploads and unpacked archives wait, '/'-separated. */
export function stagingFolder(dataFolder: string): string {
  return fromSystem(path.join(dataFolder, 'incoming'));
}

/** A new empty folder for one drop. */
export function newBatch(dataFolder: string): string {
  const id = `${Date.now().toString(36)}-${randomBytes(5).toString('hex')}`;
  fs.mkdirSync(path.join(toSystem(stagingFolder(dataFolder)), id), { recursive: true });
  return id;
}

/** The folder of a drop. Throws AppError for an id that is none. */
export function batchFolder(dataFolder: string, batch: string): string {
  if (!/^[a-z0-9]+-[0-9a-f]{10}$/.test(batch)) throw new AppError('bad-request', 'That is no drop.');
  return `${stagingFolder(dataFolder)}/${batch}`;
}

/** Takes away drops that nobody has touched for `age` ms, but for those that plans still wait for. */
export function clearStaging(dataFolder: string, keep: ReadonlySet<string>, age = 24 * 3600_000): void {
  const folder = toSystem(stagingFolder(dataFolder));
  if (!fs.existsSync(folder)) return;
  for (const name of fs.readdirSync(folder)) {
    const at = path.join(folder, name);
    if (!keep.has(name) && Date.now() - fs.statSync(at).mtimeMs >= age)
      fs.rmSync(at, { recursive: true, force: true });
  }
}

/** What a pack is called: its archive's or folder's name. */
export function packName(from: string): string {
  const name = from.slice(from.lastIndexOf('/') + 1);
  return isOpenedArchive(name) ? stemOf(name) : name;
}

/**
 * Where a pack lies ready, and how many files that only a system wrote were left out on the way: `from` itself for folders and plain files, the folder it was unpacked to (below `into`) for a ZIP. A ZIP whose files
 * all lie in one folder gives that folder. Throws AppError for hostile archives and for kinds of archives that are not opened here.
 */
export async function stage(
  from: string,
  into: string,
  signal: CancelSignal,
  onFile: (d: { files: number; bytes: number; path: string }) => void,
): Promise<{ path: string; name: string; litter: number }> {
  const name = packName(from);
  if (isArchive(from) && !isOpenedArchive(from))
    throw new AppError(
      'unsupported',
      `${name} is an archive of a kind that is not opened here. Unpack it with another program and drop the folder.`,
      'Nothing was changed.',
    );
  if (!isOpenedArchive(from) || fs.statSync(toSystem(from)).isDirectory())
    return { path: from, name, litter: 0 };
  const archive = await openArchive(from);
  try {
    const total = [...archive.files.values()].reduce((s, f) => s + f.size, 0);
    fs.mkdirSync(toSystem(into), { recursive: true });
    if (total > freeBytes(into))
      throw new AppError('disk-full', `${name} unpacks to ${total} bytes; the drive has less free.`);
    const target = `${into}/${name}`;
    let bytes = 0;
    let files = 0;
    for (const [p, stat] of archive.files) {
      if (!staysInside(p)) continue;
      const file = toSystem(`${target}/${p}`);
      fs.mkdirSync(path.dirname(file), { recursive: true });
      const fd = fs.openSync(file, 'wx');
      try {
        for await (const part of archive.stream(p)) {
          signal.throwIfAborted();
          for (let at = 0; at < part.length;) at += fs.writeSync(fd, part, at, part.length - at);
          bytes += part.length;
          onFile({ files, bytes, path: p });
        }
      } finally {
        fs.closeSync(fd);
      }
      const time = asTime(stat.modified);
      if (Number.isFinite(stat.modified) && stat.modified !== 0) fs.utimesSync(file, time, time);
      files++;
    }
    for (const p of archive.folders ?? [])
      if (staysInside(p)) fs.mkdirSync(toSystem(`${target}/${p}`), { recursive: true });
    if (files === 0) throw new AppError('bad-request', `${name} holds no file.`, 'Nothing was changed.');
    return { path: target, name, litter: archive.litter ?? 0 };
  } catch (cause) {
    fs.rmSync(toSystem(into), { recursive: true, force: true });
    throw cause;
  } finally {
    archive.close();
  }
}
