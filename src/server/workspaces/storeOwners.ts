// Who needs what the store holds: the ledger (for undo), the net, versions that are kept compact. What nobody needs may be cleared; where one of them
// cannot be read, nothing is.

import { isRecord, readJournal } from '@/core/changes/journal';
import { AppError } from '@/core/errors';
import type { Digest } from '@/core/files/digest';
import type { FileTree, WritableFileTree } from '@/core/files/fileTree';
import { checkpointsFolder, journalFolder, netLog, versionsFolder } from '@/core/files/records';
import { packIndex } from '@/core/store/packIndex';
import { wholePath } from '@/core/store/store';
import { sweep, storeSize, type Swept } from '@/core/store/sweep';
import { decodeText } from '@/core/text/bytes';
import { join, type TreePath } from '@/core/files/treePath';
import { checkpointContents } from '@/core/plans/planBack';
import { readCheckpoint } from '@/core/versions/checkpoint';
import { netNeeds } from '@/core/versions/net';
import { storedBy, versionOfNote } from '@/core/versions/note';
import { parseJournalLine } from '@/wire/plan';
import { readOpen } from '@/core/changes/summary';

/** What each owner needs. */
export interface StoreNeeds {
  ledger: Set<Digest>;
  net: Set<Digest>;
  compact: Set<Digest>;
  checkpoints: Set<Digest>;
}

type Of = { root: string; tree: FileTree };

/** The content ids that somebody needs. Throws AppError where a record cannot be read, since it may need anything. */
export async function storeNeeds({ root, tree }: Of): Promise<StoreNeeds> {
  return {
    ledger: await ledgerNeeds({ root, tree }),
    net: await autosaveNeeds(tree),
    compact: await compactNeeds(tree),
    checkpoints: await checkpointNeeds(tree),
  };
}

async function ledgerNeeds({ root, tree }: Of): Promise<Set<Digest>> {
  const needed = new Set<Digest>();
  const [open] = await readOpen(tree, root, parseJournalLine);
  if (open)
    throw new AppError(
      'unfinished',
      `“${open.title ?? open.id}” is unfinished; until it is settled the store is left as it is.`,
    );
  for (const { name } of (await tree.entries(journalFolder)) ?? []) {
    const id = /^(.+)\.jsonl$/.exec(name)?.[1];
    if (id === undefined) continue;
    const record = await readJournal(tree, id, parseJournalLine);
    if (record === null) continue; // not even its plan was written: nothing was touched
    if (!isRecord(record) || record.damaged)
      throw new AppError(
        'disk-error',
        `${journalFolder}/${name} cannot be read; the store is left as it is.`,
      );
    for (const { kept } of record.about.values()) if (kept) needed.add(kept);
    for (const step of record.plan.steps)
      if (step.do === 'put' && step.from.from === 'store') needed.add(step.from.digest);
  }
  return needed;
}

async function autosaveNeeds(tree: FileTree): Promise<Set<Digest>> {
  if ((await tree.kind(netLog)) !== 'file') return new Set();
  return new Set(netNeeds(decodeText(await tree.read(netLog)).text) ?? unreadable(netLog));
}

/** What a record needs that cannot be read, nobody knows. */
function unreadable(path: TreePath): never {
  throw new AppError(
    'disk-error',
    `${path} is damaged; what it needs is not known, so the store is left as it is.`,
  );
}

async function compactNeeds(tree: FileTree): Promise<Set<Digest>> {
  const needed = new Set<Digest>();
  for await (const { path } of tree.list(versionsFolder)) {
    if (versionOfNote(path) === null) continue;
    for (const digest of storedBy(decodeText(await tree.read(path)).text) ?? unreadable(path))
      needed.add(digest);
  }
  return needed;
}

async function checkpointNeeds(tree: FileTree): Promise<Set<Digest>> {
  const needed = new Set<Digest>();
  for (const { name } of (await tree.entries(checkpointsFolder)) ?? []) {
    if (!name.endsWith('.json')) continue;
    const path = join(checkpointsFolder, name);
    const read = readCheckpoint(decodeText(await tree.read(path)).text);
    if (read === null || read === 'newer') return unreadable(path);
    for (const digest of checkpointContents(read)) needed.add(digest);
  }
  return needed;
}

/** Clears the store of what nobody needs. */
export async function sweepStore(of: Of & { tree: WritableFileTree }): Promise<Swept> {
  const needs = Object.values(await storeNeeds(of)) as Set<Digest>[];
  return sweep(of.tree, new Set(needs.flatMap((n) => [...n])));
}

/** Bytes of the store on the disk. */
export const storeBytes = ({ tree }: Of): Promise<number> => storeSize(tree);

/** What each owner needs of it: how many contents, and how long they are as copies. */
export async function storeHeld(of: Of): Promise<{ owner: string; contents: number; bytes: number }[]> {
  const index = await packIndex(of.tree);
  const sizeOf = async (digest: Digest) =>
    index.contents.get(digest)?.size ?? (await of.tree.stat(wholePath(digest)))?.size ?? 0;
  const held = [];
  for (const [owner, digests] of Object.entries(await storeNeeds(of))) {
    let bytes = 0;
    for (const digest of digests as Set<Digest>) bytes += await sizeOf(digest);
    held.push({ owner, contents: (digests as Set<Digest>).size, bytes });
  }
  return held;
}
