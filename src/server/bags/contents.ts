// What goes into a bag: every file of the root, hidden ones too; of a link that leads inside, what it leads to, since bags hold no links. What
// cannot go in is named: nothing is left out in silence, and nothing is packed that our own check would refuse.

import { refusals } from '@/core/bags/archive';
import type { PlanPiece } from '@/core/changes/plan';
import { AppError } from '@/core/errors';
import { whyPassedOver, type CancelSignal, type PassedOver } from '@/core/files/fileTree';
import { behindLink } from '@/core/files/behindLink';
import { isPassing } from '@/core/files/records';
import { isWithin, join, rootPath, type TreePath } from '@/core/files/treePath';
import type { DiskReading } from '../disk/diskReading';

/** A file of the bag: where it lies in it, and where it comes from. Size in bytes, time in ms. */
export interface BagSource {
  at: TreePath;
  /** Inside the root, or an absolute path outside. */
  from: TreePath | { outside: string };
  /** Of what goes into the bag. */
  size: number;
  modified: number;
  mode?: number | undefined;
  /** Paths in it are written anew, in the bag's copy only; `size` of the file as it lies. */
  rewritten?: { pieces: readonly PlanPiece[]; size: number } | undefined;
}

export interface LeftOut {
  path: string;
  why: string;
}

export interface Contents {
  files: BagSource[];
  empty: string[];
  leftOut: LeftOut[];
}

/** Looks through the root. `base`: the folder that the bag's files lie in. */
export async function contentsOf(tree: DiskReading, base: string, signal?: CancelSignal): Promise<Contents> {
  const files: BagSource[] = [];
  const leftOut: LeftOut[] = [];
  const links: TreePath[] = [];
  const passed = (path: string, why: PassedOver) =>
    why === 'link'
      ? links.push(path as TreePath)
      : leftOut.push({ path: path || '.', why: whyPassedOver[why] });
  for await (const f of tree.list(rootPath, passed)) {
    signal?.throwIfAborted();
    if (!isPassing(f.path)) files.push({ ...f, at: f.path, from: f.path });
  }
  // Of a folder that cannot be read at all there is no bag.
  if (leftOut.some((l) => l.path === '.'))
    throw new AppError('no-access', `${tree.root} cannot be read.`, 'No bag was made.');
  for (const link of links)
    for await (const found of behindLink(tree, link)) {
      if ('file' in found) files.push({ ...found.file, at: found.file.path, from: found.file.path });
      else leftOut.push({ path: found.leadsNowhere, why: whyPassedOver.link });
    }
  const readable = await readableOf(tree, files, leftOut);
  const named = withLegalNames(readable, base, leftOut);
  return { files: named, empty: await emptyFolders(tree, named, leftOut), leftOut };
}

/** Those that can be opened. */
async function readableOf(tree: DiskReading, files: BagSource[], leftOut: LeftOut[]): Promise<BagSource[]> {
  const readable: BagSource[] = [];
  for (const f of files)
    try {
      await tree.read(f.at, [0, 1]);
      readable.push(f);
    } catch (cause) {
      if (!(cause instanceof AppError)) throw cause;
      leftOut.push({ path: f.at, why: cause.message });
    }
  return readable;
}

/** Those that our own check of a bag would let pass: legal paths, and none that fall together on another system. */
function withLegalNames(files: readonly BagSource[], base: string, leftOut: LeftOut[]): BagSource[] {
  let kept = [...files].sort((a, b) => (a.at < b.at ? -1 : 1));
  for (;;) {
    const names = new Map(kept.map((f) => [`${base}/data/${f.at}`, f]));
    const refused = refusals(
      [...names].map(([name, f], i) => ({
        name,
        size: f.size,
        packed: f.size,
        offset: i * 2 ** 40,
        mode: null,
        encrypted: false,
      })),
    ).filter((r) => names.has(r.entry) && (r.code === 'bad-name' || r.code === 'duplicate'));
    // Names that do not begin with the bag's own folder have rules of their own: the payload is checked again by itself.
    const bad = new Map(refused.map((r) => [names.get(r.entry)!.at as string, r.message]));
    for (const f of kept)
      if (f.at.startsWith('~') || /^[A-Za-z]:/.test(f.at))
        bad.set(f.at, `${JSON.stringify(f.at)} is taken for a path out of the folder by some programs.`);
    if (bad.size === 0) return kept;
    for (const [path, why] of bad) leftOut.push({ path, why });
    kept = kept.filter((f) => !bad.has(f.at));
  }
}

/** Folders that would be lost, since a bag lists files only. */
async function emptyFolders(
  tree: DiskReading,
  files: readonly BagSource[],
  leftOut: readonly LeftOut[],
): Promise<string[]> {
  const filled = new Set<string>();
  for (const f of files)
    for (let at = f.at.lastIndexOf('/'); at > 0; at = f.at.lastIndexOf('/', at - 1))
      filled.add(f.at.slice(0, at));
  const empty: string[] = [];
  const waiting: TreePath[] = [rootPath];
  for (let at = waiting.pop(); at !== undefined; at = waiting.pop()) {
    const entries = (await tree.entries(at).catch(() => null)) ?? [];
    const below = entries.filter((e) => e.kind === 'folder' && e.link === undefined);
    if (at !== '' && below.length === 0 && !filled.has(at) && !leftOut.some((l) => isWithin(l.path, at!)))
      empty.push(at);
    for (const e of below) waiting.push(join(at, e.name));
  }
  return empty.sort();
}
