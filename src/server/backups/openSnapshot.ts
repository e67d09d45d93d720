// A snapshot opened for reading: its files as they were, from the store, without being given back first; and how complete it was then.

import type { Snapshot } from '@/core/backups/snapshot';
import { AppError } from '@/core/errors';
import type { ByteStream, CancelSignal, FileStat, FileTree } from '@/core/files/fileTree';
import { markerPath } from '@/core/files/records';
import type { TreePath } from '@/core/files/treePath';
import { settingOf } from '@/core/plans/workspace';
import { isReady } from '@/core/references/resolve';
import { scan } from '@/core/references/scan';
import { checkContent } from '@/core/store/store';
import { StoreReading } from '@/core/store/reading';
import { bytes } from '@/core/text/figures';
import { parseWorkspaceFile } from '@/wire/workspace';
import { heldTree } from '../disk/heldTree';
import { startHash } from '../disk/blake';
import { plainFolder } from '../workspaces/open';
import { snapshotOf, type BackupFolder } from './backupFolder';

/** The files of a snapshot as a tree. */
export async function snapshotTree(backups: BackupFolder, { files }: Snapshot): Promise<FileTree> {
  const reading = await StoreReading.of(backups.tree);
  const held = new Map(files.map((f) => [f[0], f]));
  const stats = new Map(
    files.map(([path, size, modified, mode]): [TreePath, FileStat] => [
      path,
      { path, size, modified, mode: mode < 0 ? undefined : mode },
    ]),
  );
  return heldTree(stats, (path) => reading.open(held.get(path)![4]), 'the snapshot');
}

export interface Judged {
  references: number;
  /** What would have opened elsewhere. */
  ready: number;
  missing: { scene: string; written: string; state: string }[];
}

const missingNamed = 50;

/** Judges every reference as the snapshot's files lie; what leads out of it is judged as it is now. */
export async function judgeSnapshot(
  backups: BackupFolder,
  id: string,
  signal?: CancelSignal,
): Promise<Judged> {
  const snapshot = await snapshotOf(backups, id);
  const tree = await snapshotTree(backups, snapshot);
  const plain = plainFolder(snapshot.workspace.root);
  const file =
    (await tree.kind(markerPath)) === 'file'
      ? parseWorkspaceFile(new TextDecoder().decode(await tree.read(markerPath)), markerPath)
      : plain.file;
  const judged: Judged = { references: 0, ready: 0, missing: [] };
  for await (const report of scan(tree, settingOf({ ...plain, tree, file }))) {
    signal?.throwIfAborted();
    for (const r of report.references) {
      judged.references++;
      if (isReady(r)) judged.ready++;
      else if (judged.missing.length < missingNamed)
        judged.missing.push({
          scene: report.path,
          written: r.written,
          state: r.gaps.length > 0 ? 'gaps' : r.state,
        });
    }
  }
  return judged;
}

/** What is shown at once; more is given back. */
const mostShown = 256 * 1024 * 1024;

/** The content of one file of a snapshot, checked. */
export async function contentIn(backups: BackupFolder, id: string, path: string): Promise<Uint8Array> {
  const found = (await snapshotOf(backups, id)).files.find((f) => f[0] === path);
  if (!found) throw new AppError('not-found', `${path} is not in this snapshot.`);
  if (found[1] > mostShown)
    throw new AppError(
      'bad-request',
      `${path} has ${bytes(found[1])}: give it back into a folder to look at it.`,
    );
  const hash = startHash();
  const parts: Uint8Array[] = [];
  const content: ByteStream = (await StoreReading.of(backups.tree)).open(found[4]);
  for await (const part of content) {
    hash.update(part);
    parts.push(new Uint8Array(part));
  }
  checkContent(found[4], hash.digest(), path);
  return Buffer.concat(parts);
}
