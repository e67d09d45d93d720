// Gives back what a snapshot holds, whole or in part, into a folder that is new or empty. Every byte is checked on its way; the folder fills only when all
// of it is right.

import fs from 'node:fs';
import path from 'node:path';
import type { Snapshot } from '@/core/backups/snapshot';
import { AppError } from '@/core/errors';
import type { CancelSignal } from '@/core/files/fileTree';
import { folderOf, isWithin, type TreePath } from '@/core/files/treePath';
import { StoreReading } from '@/core/store/reading';
import { checkContent } from '@/core/store/store';
import type { KeptFile } from '@/core/versions/folderState';
import { startHash } from '../disk/blake';
import { DiskTree, makeFolders } from '../disk/diskTree';
import { fromSystem } from '../disk/system';
import { Flushing, writeWhole } from '../bags/wholeFile';
import { fillFolder } from '../bags/intoFolder';
import { snapshotOf, type BackupFolder } from './backupFolder';

export interface GiveBackOptions {
  signal?: CancelSignal | undefined;
  onProgress?: ((done: { files: number; bytes: number; path: string }) => void) | undefined;
  /** Where it is written down what is being made (disk/parts.ts); null: nowhere. */
  parts?: string | null | undefined;
}

export interface GivenBack {
  root: string;
  files: number;
  bytes: number;
  /** What could not be given back: it is spoilt, or was never read. */
  lost: { path: string; why: string }[];
}

type Part = Pick<Snapshot, 'files' | 'links' | 'folders'>;

/** What a snapshot has at or below some paths; all where none is given. Throws AppError for a path that is not in it. */
export function partOf({ files, links, folders }: Snapshot, paths: readonly string[]): Part {
  if (paths.length === 0) return { files, links, folders };
  const all = [...files.map((f) => f[0]), ...links.map((l) => l[0]), ...folders];
  const unknown = paths.find((p) => !all.some((at) => isWithin(at, p)));
  if (unknown !== undefined) throw new AppError('not-found', `${unknown} is not in this snapshot.`);
  const isAsked = (at: TreePath) => paths.some((p) => isWithin(at, p));
  return {
    files: files.filter((f) => isAsked(f[0])),
    links: links.filter((l) => isAsked(l[0])),
    folders: folders.filter(isAsked),
  };
}

/** Gives back to `to`. Of a whole snapshot of which something is spoilt the rest is given back all the same, and what is lost is named. */
export async function giveBack(
  backups: BackupFolder,
  id: string,
  paths: readonly string[],
  to: string,
  options: GiveBackOptions = {},
): Promise<GivenBack> {
  const snapshot = await snapshotOf(backups, id);
  const { files, links, folders } = partOf(snapshot, paths);
  const filling = { cancelled: 'Giving back was cancelled.', parts: options.parts };
  return fillFolder(to, filling, async ({ begin, flushing }) => {
    const temporary = begin(
      files.reduce((sum, f) => sum + f[1], 0),
      'What is given back has',
    );
    const result = await fill(backups, files, temporary, flushing, options);
    result.lost.push(...(await layFoldersAndLinks(folders, links, temporary)));
    if (result.files === 0 && result.lost.length > 0)
      throw new AppError(
        'disk-error',
        `Nothing can be given back: ${result.lost[0]!.why}`,
        'Nothing was written.',
      );
    return { root: to, ...result };
  });
}

async function fill(
  { tree }: BackupFolder,
  files: readonly KeptFile[],
  temporary: string,
  flushing: Flushing,
  options: GiveBackOptions,
): Promise<Omit<GivenBack, 'root'>> {
  const reading = await StoreReading.of(tree);
  const done = { files: 0, bytes: 0, lost: [] as GivenBack['lost'] };
  for (const file of inOrder(files, reading)) {
    options.signal?.throwIfAborted();
    const onBytes = (bytes: number) => {
      options.signal?.throwIfAborted();
      done.bytes += bytes;
      options.onProgress?.({ files: done.files, bytes: done.bytes, path: file[0] });
    };
    const why = await giveOne(file, reading, path.join(temporary, ...file[0].split('/')), flushing, onBytes);
    if (why === null) done.files++;
    else done.lost.push({ path: file[0], why });
  }
  done.lost.sort((a, b) => (a.path < b.path ? -1 : 1));
  return done;
}

/** As their contents lie in the store. */
function inOrder(files: readonly KeptFile[], reading: StoreReading): KeptFile[] {
  const placed = files.map((file) => ({ file, at: reading.placeOf(file[4]) }));
  return placed.sort((a, b) => a.at[0] - b.at[0] || a.at[1] - b.at[1]).map((p) => p.file);
}

/** Writes one file; why it could not be given back: better none than a wrong one. */
async function giveOne(
  [at, , modified, mode, digest]: KeptFile,
  reading: StoreReading,
  file: string,
  flushing: Flushing,
  onBytes: (bytes: number) => void,
): Promise<string | null> {
  const hash = startHash();
  const rights = { modified, mode: mode < 0 ? undefined : mode, rights: true };
  try {
    await writeWhole(
      file,
      rights,
      async (write) => {
        for await (const part of reading.open(digest)) {
          hash.update(part);
          write(part);
          onBytes(part.length);
        }
        checkContent(digest, hash.digest(), at);
      },
      flushing,
    );
    return null;
  } catch (cause) {
    // What cannot be written is thrown as the system says it; this is what cannot be read, or is not what it was.
    if (!(cause instanceof AppError)) throw cause;
    fs.rmSync(file, { force: true });
    return cause.code === 'not-found' ? `${at}: what it held is not in the store any more.` : cause.message;
  }
}

/** Through the tree, which follows no link: a record that was tampered with leads nowhere else. Returns what could not be made. */
async function layFoldersAndLinks(
  folders: Snapshot['folders'],
  links: Snapshot['links'],
  temporary: string,
): Promise<GivenBack['lost']> {
  const tree = new DiskTree(fromSystem(temporary));
  const lost: GivenBack['lost'] = [];
  for (const folder of [...folders].sort()) await makeFolders(tree, folder);
  for (const [at, text] of links)
    try {
      await makeFolders(tree, folderOf(at));
      await tree.makeLink(at, text);
    } catch (cause) {
      // A system that makes no links for everybody (Windows), a drive that has none.
      lost.push({ path: at, why: `The link to ${text} could not be made: ${(cause as Error).message}` });
    }
  return lost;
}
