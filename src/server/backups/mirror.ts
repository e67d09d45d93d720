// A plain copy of a workspace in files one can see, kept up to date. What was changed or taken away here is not lost there: it moves to a folder beside,
// with the day and the hour.

import { AppError } from '@/core/errors';
import type { CancelSignal } from '@/core/files/fileTree';
import { ownFolder } from '@/core/files/records';
import { sameTime } from '@/core/files/times';
import { legalName } from '@/core/names/portable';
import { folderOf, join, rootPath, treePath, type TreePath } from '@/core/files/treePath';
import fs from 'node:fs';
import { DiskTree } from '../disk/diskTree';
import { currentLimits } from '../disk/limits';
import { liesIn } from '../disk/realPlace';
import { toSystem } from '../disk/system';
import { openForBackup } from './takeSnapshot';

export interface Mirrored {
  folder: string;
  /** Files that were copied, and their bytes. */
  copied: number;
  bytes: number;
  same: number;
  /** Files of before that were moved aside, and where to; null: none. */
  aside: number;
  asideIn: string | null;
  unread: string[];
}

export interface MirrorOptions {
  signal?: CancelSignal | undefined;
  onFile?: ((done: { files: number; bytes: number; path: string }) => void) | undefined;
  now?: Date | undefined;
}

/** Brings the copy in `folder`/`<name>` up to date. Every file appears there whole. */
export async function mirrorTo(root: string, folder: string, options: MirrorOptions = {}): Promise<Mirrored> {
  const inItself = () =>
    new AppError('bad-request', 'The copy cannot lie inside the workspace that is copied.');
  if (liesIn(root, folder)) throw inItself();
  currentLimits().bounds.checkPath(folder);
  if (!fs.existsSync(toSystem(folder))) throw new AppError('offline', `${folder} is not there just now.`);
  const { tree: source, file } = await openForBackup(root);
  const name = legalName(file.name || root.slice(root.lastIndexOf('/') + 1));
  if (liesIn(root, `${folder}/${name}`)) throw inItself();
  const target = new DiskTree(folder);
  const copy = treePath(name);
  const asideIn = treePath(
    `${name} (before)/${(options.now ?? new Date()).toISOString().slice(0, 19).replace(/[:]/g, '-').replace('T', ' ')}`,
  );
  const done: Mirrored = {
    folder: `${folder}/${copy}`,
    copied: 0,
    bytes: 0,
    same: 0,
    aside: 0,
    asideIn: null,
    unread: [],
  };
  const setAside = async (path: TreePath) => {
    const to = join(asideIn, path.slice(copy.length + 1));
    await makeFolders(target, folderOf(to));
    await target.move(path, to);
    done.aside++;
    done.asideIn = `${folder}/${asideIn}`;
  };
  const wanted = new Set<string>();
  for await (const f of source.list(rootPath, (path, why) => why !== 'link' && done.unread.push(path))) {
    options.signal?.throwIfAborted();
    if (f.path === `${ownFolder}/lock` || f.path.startsWith(`${ownFolder}/.lock-`)) continue;
    const to = join(copy, f.path);
    wanted.add(to);
    const there = await target.stat(to);
    if (there?.size === f.size && sameTime(there.modified, f.modified)) {
      done.same++;
      continue;
    }
    await makeFolders(target, folderOf(to));
    if ((await target.kind(to)) !== null) await setAside(to);
    const written = await target.write(to, source.stream(f.path), {
      replace: false,
      tag: 'm',
      modified: f.modified,
    });
    if ((await target.digest(to)) !== written.digest)
      throw new AppError('disk-error', `${to} reads back different from the drive.`);
    done.copied++;
    done.bytes += f.size;
    options.onFile?.({ files: done.copied, bytes: done.bytes, path: f.path });
  }
  if ((await target.kind(copy)) === 'folder') {
    const gone: TreePath[] = [];
    for await (const f of target.list(copy)) if (!wanted.has(f.path)) gone.push(f.path);
    for (const path of gone) await setAside(path);
  }
  return done;
}

async function makeFolders(tree: DiskTree, folder: TreePath): Promise<void> {
  if (folder === '' || (await tree.kind(folder)) === 'folder') return;
  await makeFolders(tree, folderOf(folder));
  await tree.makeFolder(folder);
}
