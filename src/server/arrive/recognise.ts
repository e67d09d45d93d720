// What it is that arrived or was handed in: a bag, a ZIP made by other means, a workspace, any folder; and where a folder stands in a bag, a temporary
// or a download folder, in which no scene should be opened.

import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { AppError } from '@/core/errors';
import { markerPath } from '@/core/files/records';
import { isArchive, isOpenedArchive } from '@/core/names/archives';
import { isWithin } from '@/core/files/treePath';
import { openBag } from '../bags/openBag';
import { fromSystem, toSystem } from '../disk/system';
import { hasMarker, rootOf } from '../workspaces/open';

export type ArrivedKind = 'bag' | 'zip' | 'workspace' | 'folder';

export interface Recognised {
  path: string;
  kind: ArrivedKind;
  form: 'zip' | 'folder';
  /** Of a bag or a workspace: whether it has a workspace's marker in it. */
  isWorkspace: boolean;
  files: number;
  bytes: number;
}

/** Recognises what lies at an absolute path. Throws AppError where nothing does, or where it is an archive that is not opened here. */
export async function recogniseArrival(at: string): Promise<Recognised> {
  const system = toSystem(at);
  if (!fs.existsSync(system)) throw new AppError('not-found', `${at} is not there.`);
  if (!fs.statSync(system).isDirectory()) {
    if (!isOpenedArchive(at))
      throw new AppError(
        'unsupported',
        isArchive(at)
          ? `${at} is an archive of a kind that is not opened here. Unpack it with another program and choose the folder.`
          : `${at} is a single file: choose the bag, the ZIP or the folder.`,
      );
    const bag = await openBag(at);
    try {
      const files = [...bag.files];
      const isBag = bag.files.has('bagit.txt');
      const payload = files.filter(([p]) => !isBag || p.startsWith('data/'));
      return {
        path: at,
        kind: isBag ? 'bag' : 'zip',
        form: 'zip',
        isWorkspace: bag.files.has(isBag ? `data/${markerPath}` : markerPath),
        files: payload.length,
        bytes: payload.reduce((sum, [, f]) => sum + f.size, 0),
      };
    } finally {
      bag.close();
    }
  }
  const isBag = fs.existsSync(path.join(system, 'bagit.txt'));
  const payload = isBag ? path.join(system, 'data') : system;
  const isWorkspace = await hasMarker(fromSystem(payload));
  return {
    path: at,
    kind: isBag ? 'bag' : isWorkspace ? 'workspace' : 'folder',
    form: 'folder',
    isWorkspace,
    ...sizeOf(payload),
  };
}

function sizeOf(folder: string): { files: number; bytes: number } {
  const sum = { files: 0, bytes: 0 };
  const waiting = [folder];
  for (let at = waiting.pop(); at !== undefined; at = waiting.pop()) {
    let entries: fs.Dirent[];
    try {
      entries = fs.readdirSync(at, { withFileTypes: true });
    } catch {
      continue;
    }
    for (const e of entries)
      if (e.isDirectory()) waiting.push(path.join(at, e.name));
      else if (e.isFile()) {
        sum.files++;
        sum.bytes += fs.statSync(path.join(at, e.name), { throwIfNoEntry: false })?.size ?? 0;
      }
  }
  return sum;
}

/** A place from which no scene should be opened, and why. */
export interface WrongPlace {
  kind: 'bag' | 'temporary' | 'downloads' | 'backups' | 'stray';
  /** The folder that makes it one. */
  folder: string;
  message: string;
}

/** Folders in which systems and programs keep what is gone tomorrow. Names of usual ones: common practice, no source. */
function temporaryFolders(): string[] {
  return [
    os.tmpdir(),
    ...(process.platform === 'win32' ? [] : ['/tmp', '/var/tmp', '/private/tmp', '/var/folders']),
  ].map((f) => fromSystem(f));
}

/**
 * Whether a folder or file is a place from which a scene should not be opened, since it saves there: inside a bag, a temporary folder, a download folder.
 * `temporary`: of those the system names, for tests.
 */
export async function wrongPlaceOf(at: string, temporary = temporaryFolders()): Promise<WrongPlace | null> {
  const own = (await rootOf(at)) ?? null;
  for (
    let folder = at;
    folder !== '' && folder.includes('/');
    folder = folder.slice(0, folder.lastIndexOf('/'))
  ) {
    const system = toSystem(folder);
    if (fs.existsSync(path.join(system, 'bagit.txt')) && isWithin(at, `${folder}/data`))
      return {
        kind: 'bag',
        folder,
        message: `${folder} is a bag: what is saved in it makes its checksums wrong. Let it arrive in a folder of its own, and open the scene there.`,
      };
    if (fs.existsSync(path.join(system, 'loyal-satchel-backups.json')))
      return {
        kind: 'backups',
        folder,
        message: `${folder} holds backups: give back what is wanted into a folder of its own, and open the scene there.`,
      };
    // A workspace may lie wherever its owner put it, also in such a folder: within its own root a scene is at home.
    if (
      /\/(downloads|download|téléchargements|descargas|downloaded)$/i.test(folder) &&
      (own === null || isWithin(folder, own))
    )
      return {
        kind: 'downloads',
        folder,
        message: `${folder} is a folder of downloads, which are tidied away: bring the scene into a workspace, and open it there.`,
      };
  }
  const within = temporary.find((t) => isWithin(at, t));
  if (within !== undefined)
    return {
      kind: 'temporary',
      folder: within,
      message: `${within} is a temporary folder, which is cleared without asking: let it arrive in a folder of its own.`,
    };
  return null;
}
