// Heals a backup folder: what was found spoilt is kept anew from where the same content lies right still: the workspace itself, other backups, any
// folder that is named. And of records that lie there twice the good copy is written over the spoilt one.

import fs from 'node:fs';
import { AppError } from '@/core/errors';
import type { Digest } from '@/core/files/digest';
import type { ByteStream, CancelSignal } from '@/core/files/fileTree';
import { treePath } from '@/core/files/treePath';
import { packIndex } from '@/core/store/packIndex';
import { hasContent, isKept, openContent } from '@/core/store/store';
import { sizesForBackups } from '@/core/store/chunking';
import { startKeeping } from '@/core/store/keeping';
import { DiskReading } from '../disk/diskReading';
import { currentLimits } from '../disk/limits';
import { toSystem } from '../disk/system';
import {
  isBackupFolder,
  openBackups,
  readSnapshots,
  withBackupLock,
  writeRecord,
  type BackupFolder,
  type Snapshots,
} from './backupFolder';
import { contentsOf, type Spoilt } from './prove';

export interface HealOptions {
  /** Workspaces, other folders of backups, or copies of a workspace, in which the same content may lie. */
  from?: readonly string[] | undefined;
  signal?: CancelSignal | undefined;
  onProgress?: ((done: { files: number; bytes: number; path: string }) => void) | undefined;
}

export interface Healed {
  /** Contents that are right again, with where that came from. */
  healed: { digest: string; from: string; files: Spoilt['files'] }[];
  /** Those that nobody has. */
  left: Spoilt[];
  /** Records of snapshots of which a copy was written anew. */
  records: number;
}

/** A place where content may lie right. */
interface Offer {
  name: string;
  open(digest: Digest, size: number): Promise<ByteStream | null>;
}

/** Heals what a proof found. */
export function healBackups(
  backups: BackupFolder,
  spoilt: readonly Spoilt[],
  options: HealOptions = {},
): Promise<Healed> {
  return withBackupLock(backups, async () => {
    const snapshots = await readSnapshots(backups);
    const offers = await offersFor(backups, snapshots, options.from ?? []);
    const result: Healed = { healed: [], left: [], records: 0 };
    for (const s of snapshots.halves) {
      await writeRecord(
        backups,
        snapshots.all.find((x) => x.id === s.id && x.workspace.key === s.key)!,
      );
      result.records++;
    }
    let bytes = 0;
    for (const s of spoilt) {
      options.signal?.throwIfAborted();
      const from = await healOne(backups, s, offers);
      if (from === null) result.left.push(s);
      else result.healed.push({ digest: s.digest, from, files: s.files });
      bytes += s.size;
      options.onProgress?.({ files: result.healed.length, bytes, path: s.files[0]?.path ?? '' });
    }
    return result;
  });
}

async function healOne({ tree }: BackupFolder, s: Spoilt, offers: readonly Offer[]): Promise<string | null> {
  const digest = s.digest as Digest;
  // Healed with another that shared its piece.
  if (await isKept(tree, digest)) return 'the same piece';
  for (const offer of offers) {
    const stream = await offer.open(digest, s.size);
    if (!stream) continue;
    const keeping = await startKeeping(tree, undefined, sizesForBackups);
    try {
      const kept = await keeping.put(stream, s.size);
      await keeping.finish();
      if (kept.digest === digest && (await isKept(tree, digest))) return offer.name;
    } catch (cause) {
      // It is spoilt there as well, or was changed: the next may have it.
      if (!(cause instanceof AppError) || cause.code === 'disk-full') throw cause;
    }
  }
  return null;
}

async function offersFor(
  backups: BackupFolder,
  snapshots: Snapshots,
  from: readonly string[],
): Promise<Offer[]> {
  // Where each content lay: on this machine it may lie there still.
  const paths = new Map<string, Set<string>>();
  const roots = new Set<string>(from.filter((f) => !isBackupFolder(f)));
  for (const s of snapshots.all) {
    roots.add(s.workspace.root);
    for (const [path, , , , digest] of s.files) paths.set(digest, (paths.get(digest) ?? new Set()).add(path));
  }
  const offers = [...roots].filter((r) => isReadable(r)).map((root) => folderOffer(root, paths));
  for (const other of from)
    if (isBackupFolder(other) && other !== backups.folder) offers.push(await backupOffer(other));
  return offers;
}

function isReadable(root: string): boolean {
  return currentLimits().bounds.holds(root) && fs.existsSync(toSystem(root));
}

function folderOffer(root: string, paths: ReadonlyMap<string, ReadonlySet<string>>): Offer {
  const tree = new DiskReading(root);
  return {
    name: root,
    async open(digest, size) {
      for (const p of paths.get(digest) ?? []) {
        const path = treePath(p);
        const stat = await tree.stat(path).catch(() => null);
        if (stat?.size === size && (await tree.digest(path)) === digest) return tree.stream(path);
      }
      return null;
    },
  };
}

async function backupOffer(folder: string): Promise<Offer> {
  const { tree } = await openBackups(folder);
  return {
    name: folder,
    open: async (digest) =>
      (await hasContent(tree, digest)) && (await isKept(tree, digest)) ? openContent(tree, digest) : null,
  };
}

/** What snapshots need and the store does not tell of any more: found without reading what is there. */
export async function missingIn(backups: BackupFolder): Promise<number> {
  const { all } = await readSnapshots(backups);
  return contentsOf(all, await packIndex(backups.tree)).filter((w) => w.at[0] < 0 && w.size > 0).length;
}
