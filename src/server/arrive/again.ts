// A second arrival on disk: both sides are read, with what arrived the first time.

import { AppError, withUnchanged } from '@/core/errors';
import type { Digest } from '@/core/files/digest';
import type { CancelSignal } from '@/core/files/fileTree';
import { isOwn, markerPath } from '@/core/files/records';
import { rootPath } from '@/core/files/treePath';
import { againstIncoming, type AgainFile } from '@/core/plans/planArriveAgain';
import { decodeText } from '@/core/text/bytes';
import { parseWorkspaceFile } from '@/wire/workspace';
import { DiskReading } from '../disk/diskReading';
import { hasMarker, readWorkspace } from '../workspaces/open';
import { settleIn, type Arrived, type ArriveOptions } from './arrive';
import { readDeliveries } from './base';
import { isSameLine, lineageOf, lineageOfDelivery, readLineage, withDelivery, writeLineage } from './lineage';
import type { Recognised } from './recognise';
import { takeIn, type TakenIn, type TakeInOptions } from './takeIn';

async function sidesIn(tree: DiskReading, signal?: CancelSignal) {
  const found = new Map<string, { size: number; modified: number; digest: Digest }>();
  for await (const f of tree.list(rootPath)) {
    signal?.throwIfAborted();
    if (isOwn(f.path)) continue;
    const digest = await tree.digest(f.path);
    if (digest !== null) found.set(f.path, { size: f.size, modified: f.modified, digest });
  }
  return found;
}

/** Whether what lies in a folder is the same workspace as the one at `root`, from another machine or time. */
export async function isSameWorkspace(root: string, incoming: DiskReading): Promise<boolean> {
  if (!(await hasMarker(root)) || (await incoming.kind(markerPath)) !== 'file') return false;
  const own = (await readWorkspace(root)).file;
  const theirs = parseWorkspaceFile(decodeText(await incoming.read(markerPath)).text, markerPath);
  return own.created === theirs.created && own.name === theirs.name;
}

export interface SecondDelivery {
  /** The folder with the unpacked delivery. */
  from: string;
  left: TakenIn['left'];
  files: AgainFile[];
  /** False: the delivery may be separate work that began as a copy; the user must confirm that it is the same (lineage.ts). */
  isSameLine: boolean;
}

/** Unpacks a delivery into `staging` and compares it with the workspace. Throws AppError if the delivery is another workspace. */
export async function receiveAgain(
  what: Recognised,
  root: string,
  staging: string,
  options: TakeInOptions = {},
): Promise<SecondDelivery> {
  const from = `${staging}/it`;
  const lineage = await lineageOfDelivery(what);
  const { left } = await takeIn(what, from, options);
  if (!(await isSameWorkspace(root, new DiskReading(from))))
    throw new AppError('not-empty', `${root} holds another workspace. Choose a new or an empty folder.`);
  writeLineage(from, lineage);
  const files = await lookAgain(root, from, options.signal);
  return { from, left, files, isSameLine: isSameLine(await lineageOf(await readWorkspace(root)), lineage) };
}

/** How every file of both sides stands. `incoming`: the folder in which what came lies. */
export async function lookAgain(root: string, incoming: string, signal?: CancelSignal): Promise<AgainFile[]> {
  const workspace = await readWorkspace(root);
  const [here, there] = [
    await sidesIn(workspace.tree, signal),
    await sidesIn(new DiskReading(incoming), signal),
  ];
  return againstIncoming(here, there, (await readDeliveries(workspace)).base);
}

/**
 * Maps path heads and repairs references after files of a second delivery were copied into the workspace, and records the delivery as the base for the next
 * comparison. `incoming` is the folder with the unpacked delivery. Throws AppError when the paths cannot be written; the copied files stay.
 */
export async function settleSecondDelivery(
  root: string,
  incoming: string,
  options: Pick<ArriveOptions, 'heads' | 'signal'>,
  left: TakenIn['left'] = [],
): Promise<Arrived> {
  const workspace = await readWorkspace(root);
  const { base: old, exchanged: before } = await readDeliveries(workspace);
  const exchanged = withDelivery(before, readLineage(incoming));
  const base = new Map(
    [...(await sidesIn(new DiskReading(incoming), options.signal))].map(([path, { digest }]) => {
      const known = old?.get(path);
      return [path, { came: digest, repaired: known?.came === digest ? known.repaired : null }];
    }),
  );
  try {
    return await settleIn(
      { root, files: 0, bytes: 0, left },
      {
        ...options,
        repair: true,
        delivery: { base, exchanged },
      },
    );
  } catch (cause) {
    throw withUnchanged(
      cause,
      'The files were copied and stay, but their references may not be repaired. Undo the copy from the ledger, or repair the references from the overview.',
    );
  }
}
