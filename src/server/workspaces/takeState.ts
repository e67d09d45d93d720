// Records the state of a folder: lists it, and reads every file into a store unless its content is known from an earlier state. A file that changes
// while it is read is read again; after three tries, or if it cannot be read, it is listed in `unread`. The callers (checkpoints.ts,
// backups/takeSnapshot.ts) choose the scope, the store and the moment.

import { AppError } from '@/core/errors';
import type { Digest } from '@/core/files/digest';
import type { CancelSignal, FileStat, FileTree, WritableFileTree } from '@/core/files/fileTree';
import { isOwn } from '@/core/files/records';
import { isStillAsRead, seemsUnchanged } from '@/core/files/times';
import type { TreePath } from '@/core/files/treePath';
import type { ChunkSizes } from '@/core/store/chunking';
import { startKeeping, type Keeping } from '@/core/store/keeping';
import { packSizes } from '@/core/store/packIndex';
import { inPacks } from '@/core/store/store';
import {
  keptFile,
  statOfKept,
  type FolderState,
  type KeptFile,
  type KeptLink,
} from '@/core/versions/folderState';
import type { DiskReading } from '../disk/diskReading';

/** The manifest of a folder before its files are read. */
export interface Surveyed extends Omit<FolderState, 'files' | 'packs'> {
  files: FileStat[];
}

/** Lists a folder. `covers`: whether a path belongs to the state. Of the application's own records only files are listed. */
export async function surveyState(
  tree: DiskReading,
  covers: (path: string) => boolean,
  signal?: CancelSignal,
): Promise<Surveyed> {
  const { paths, sizes, times, changes, modes, names, passedOver } = tree.survey('', signal);
  const files = paths.flatMap((path, i): FileStat[] =>
    covers(path)
      ? [{ path, size: sizes[i]!, modified: times[i]!, mode: modes[i]!, changed: changes[i]! }]
      : [],
  );
  const links: KeptLink[] = [];
  const unread: string[] = [];
  for (const { path, why } of passedOver) {
    if (!covers(path)) continue;
    const text = why === 'link' && !isOwn(path) ? await tree.readLink(path as TreePath) : null;
    if (text !== null) links.push([path as TreePath, text]);
    else unread.push(path);
  }
  const folders = [...names.keys()].filter((f) => f !== '' && !isOwn(f) && covers(f)) as TreePath[];
  return { files, links, folders: folders.sort(), unread };
}

/** Contents of files by earlier states of their folder, as far as a store still has them. */
export class KnownContents {
  private readonly files = new Map<TreePath, { kept: KeptFile; readAt: number; isThere: IsThere }>();
  private isInPacks: IsThere | null = null;

  private constructor(
    private readonly store: FileTree,
    private readonly sizes: ReadonlyMap<number, number>,
  ) {}

  static async of(store: FileTree): Promise<KnownContents> {
    return new KnownContents(store, new Map(await packSizes(store)));
  }

  /** Adds a state whose files were read at `readAt` (ms) or later. Files added by an earlier call take precedence. */
  async add({ files, packs }: Pick<FolderState, 'files' | 'packs'>, readAt: number): Promise<void> {
    // The index of a large store takes longer to read than all the rest, so it is read only after packs were removed.
    const isWhole = packs?.every(([pack, size]) => (this.sizes.get(pack) ?? -1) >= size) ?? false;
    const isThere = isWhole ? () => true : (this.isInPacks ??= await inPacks(this.store));
    for (const kept of files)
      if (!this.files.has(kept[0])) this.files.set(kept[0], { kept, readAt, isThere });
  }

  /** Replaces the entry of a file that was just read into the store. */
  replace(kept: KeptFile, readAt: number): void {
    this.files.set(kept[0], { kept, readAt, isThere: () => true });
  }

  has(path: TreePath): boolean {
    return this.files.has(path);
  }

  /** The content id of a file; null if the file must be read. */
  find(file: FileStat): Digest | null {
    const known = this.files.get(file.path);
    if (!known || !isStillAsRead(file, statOfKept(known.kept), known.readAt)) return null;
    return known.isThere(known.kept[4]) ? known.kept[4] : null;
  }

  /** Total size in bytes of the files that must be read. */
  unknownBytes(files: readonly FileStat[]): number {
    return files.reduce((sum, f) => sum + (this.find(f) === null ? f.size : 0), 0);
  }
}

type IsThere = (digest: Digest) => boolean;

export interface TakingOptions {
  signal?: CancelSignal | undefined;
  onFile?: ((done: { files: number; bytes: number; path: string }) => void) | undefined;
  /** How content of a size is cut (core/store/chunking.ts). */
  chunks?: ((size: number) => ChunkSizes) | undefined;
}

/** One taking of a state, in as many passes as its owner needs. Nobody else may write in the store until `finish`. */
export class Taking {
  /** Bytes that the store took. */
  added = 0;
  /** Paths of the files that were read. */
  readonly read = new Set<TreePath>();
  private keeping: Keeping | null = null;
  private done = { files: 0, bytes: 0 };

  constructor(
    private readonly source: DiskReading,
    private readonly store: WritableFileTree,
    private readonly known: KnownContents,
    private readonly options: TakingOptions,
  ) {}

  /** Reads the files of unknown content into the store. Throws AppError if the store cannot be written. */
  async take(files: readonly FileStat[]): Promise<Pick<FolderState, 'files' | 'unread'>> {
    const state: Pick<FolderState, 'files' | 'unread'> = { files: [], unread: [] };
    for (const file of files) {
      this.options.signal?.throwIfAborted();
      const known = this.known.find(file);
      const kept = known === null ? await this.readOne(file) : keptFile(file, known);
      if (kept === null) state.unread.push(file.path);
      else state.files.push(kept);
    }
    return state;
  }

  async finish(): Promise<void> {
    await this.keeping?.finish();
  }

  private async readOne(file: FileStat): Promise<KeptFile | null> {
    const kept = await this.keepOne(file);
    if (kept) this.read.add(file.path);
    this.done = { files: this.done.files + 1, bytes: this.done.bytes + file.size };
    this.options.onFile?.({ ...this.done, path: file.path });
    return kept;
  }

  /** Null for a file that cannot be read, or is written all the time. */
  private async keepOne(file: FileStat): Promise<KeptFile | null> {
    const { source, store, options } = this;
    let before = file;
    for (let n = 0; n < 3; n++)
      try {
        this.keeping ??= await startKeeping(store, options.signal, options.chunks);
        const readAt = Date.now();
        const { digest, size, added } = await this.keeping.put(readingOf(source, file.path), file.size);
        const now = await statOrNull(source, file.path);
        if (!now) return null;
        this.added += added;
        if (now.size === size && seemsUnchanged(now, before)) {
          const kept = keptFile(now, digest);
          this.known.replace(kept, readAt);
          return kept;
        }
        before = now;
      } catch (cause) {
        if (!(cause instanceof SourceFailure)) throw cause;
        // The file was only partly stored; a later Keeping finds and reuses those chunks.
        await this.keeping?.finish().catch(() => undefined);
        this.keeping = null;
        return null;
      }
    return null;
  }
}

/** A file of the source that cannot be read, as opposed to a store that cannot be written. */
class SourceFailure extends Error {}

async function* readingOf(tree: DiskReading, path: TreePath): AsyncIterable<Uint8Array> {
  try {
    yield* tree.stream(path);
  } catch (cause) {
    if (cause instanceof AppError) throw new SourceFailure(cause.message);
    throw cause;
  }
}

async function statOrNull(tree: DiskReading, path: TreePath): Promise<FileStat | null> {
  try {
    return await tree.stat(path);
  } catch (cause) {
    if (cause instanceof AppError) return null;
    throw cause;
  }
}
