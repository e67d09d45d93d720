// The only door to files. A tree is one root with everything below it; trees of memory, disk and archive pass one shared
// suite (testing/treeSuite.ts). Links are entries of their own (links.ts): read through where they stay inside the root, never
// written through. What may not be read is an error (AppError 'no-access'), never "not there".

import type { Digest, Hashing } from './digest';
import type { TreePath } from './treePath';

/** One file: size in bytes, modified in ms since 1970 UTC, with the fraction the disk has. */
export interface FileStat {
  path: TreePath;
  size: number;
  modified: number;
  /** Permission bits, where the system has them. */
  mode?: number | undefined;
  /** When content, name or attributes last changed, in ms since 1970 UTC: a time that programs cannot set. Absent where a tree has none. */
  changed?: number | undefined;
}

/**
 * A name in a folder. `kind` is what reading finds: of a link that leads to a file or folder inside the root, that; 'other' for what is
 * neither (a pipe, a socket, a link to nothing or out of the root, a name that is no text). `link`: a link's own text.
 */
export interface Entry {
  name: string;
  kind: 'file' | 'folder' | 'other';
  link?: string;
}

/** What lies at a path itself, links not followed. */
export type Kind = 'file' | 'folder' | 'link' | 'other';

/** Bytes [start, end) of a file. */
export type ByteRange = readonly [start: number, end: number];

/** Asked between parts of long work; an AbortSignal is one. */
export interface CancelSignal {
  readonly aborted: boolean;
  throwIfAborted(): void;
}

/** Content that arrives in parts. A part stays as it is until the second one after it is asked for. */
export type ByteStream = AsyncIterable<Uint8Array>;

/** What was written: `modified` is its time as the disk has it. */
export interface Written {
  digest: Digest;
  size: number;
  modified: number;
}

/** What is to be written: parts in order, with a last chance to abort between them. */
export interface WriteOptions {
  /** Times of the written file in ms; left to the clock when absent. */
  modified?: number | undefined;
  /** Permission bits of a new file; those of a file that is replaced stay. */
  mode?: number | undefined;
  /** True: an existing file at the path may be replaced. False: it must not exist. */
  replace: boolean;
  /** Called once the bytes are safe beside the target, before it appears there; what it awaits happens in between. */
  beforeCommit?: (written: Written) => Promise<void>;
  /** Distinguishes the temporary file, so that recovery can find and clear it. */
  tag: string;
  /** The folder in which it lies, on the same drive; absent: that of the target. */
  via?: TreePath | undefined;
  signal?: CancelSignal | undefined;
  onBytes?: ((count: number) => void) | undefined;
}

/** Why a listing passed something over. */
export type PassedOver = 'unreadable' | 'link' | 'not-a-file' | 'name';

/** Reason to show for each file or folder that cannot be copied. */
export const whyPassedOver: Record<PassedOver, string> = {
  unreadable: 'the folder may not be read',
  link: 'it is a link that leads nowhere, out of the folder, or round in circles',
  'not-a-file': 'it is no file (a pipe, a socket or a device)',
  name: 'its name is no text in UTF-8; rename it first',
};

/** A tree that can be read. Paths are letter for letter, also where the disk ignores case. */
export interface FileTree {
  /**
   * Every file (no folder, no link) below `folder`, in path order; hidden ones too. `passedOver` hears what could not be read or is no
   * file, and the walk goes on; without it a folder that may not be read throws.
   */
  list(folder?: TreePath, passedOver?: (path: string, why: PassedOver) => void): AsyncIterable<FileStat>;
  /** Names directly in a folder, in code point order; null when the folder is absent. Throws AppError('no-access') when it may not be read. */
  entries(folder: TreePath): Promise<readonly Entry[] | null>;
  /** What lies there itself. Null: nothing, or the path leads through a link out of the root. */
  kind(path: TreePath): Promise<Kind | null>;
  /** The text of a link; null where there is none. */
  readLink(path: TreePath): Promise<string | null>;
  /** Size and time of a file, links inside the root followed; null where there is none. */
  stat(path: TreePath): Promise<FileStat | null>;
  /**
   * Bytes of a file; a range past the end is cut. Throws AppError('not-found') where there is no file. `into` may be used for the
   * bytes where it has room: the caller then reads no second file into it while it needs the first.
   */
  read(path: TreePath, range?: ByteRange, into?: Uint8Array): Promise<Uint8Array>;
  stream(path: TreePath, range?: ByteRange): ByteStream;
  /** Content id, null where there is no file. */
  digest(path: TreePath): Promise<Digest | null>;
  /** Content ids of bytes at hand, by the fastest means there are. */
  startHash(): Hashing;
}

/** A tree that can be changed. Every operation is atomic and durable when its promise resolves. */
export interface WritableFileTree extends FileTree {
  /** Writes a file whole or not at all; its folder must exist. Returns what was written. */
  write(path: TreePath, content: ByteStream, options: WriteOptions): Promise<Written>;
  /** Adds bytes at the end of a file (made when absent). Not atomic: a torn tail is possible, and readers must bear it. */
  append(path: TreePath, bytes: Uint8Array): Promise<void>;
  /** Renames a file or link; refuses when `to` exists. */
  move(path: TreePath, to: TreePath): Promise<void>;
  /** Renames a folder with all below it; refuses when `to` exists. */
  moveFolder(path: TreePath, to: TreePath): Promise<void>;
  /** A second name for the same content where the disk can do it, else a copy. No-op when `to` exists. */
  keep(path: TreePath, to: TreePath, options: Pick<WriteOptions, 'tag' | 'via'>): Promise<void>;
  /** Removes a file, or a link itself; no-op when absent. */
  remove(path: TreePath): Promise<void>;
  /** Makes a link with this text; refuses when anything is at the path. */
  makeLink(path: TreePath, text: string): Promise<void>;
  /** Makes one folder whose parent exists; no-op when present. `mode`: its permission bits. */
  makeFolder(path: TreePath, mode?: number): Promise<void>;
  /** Permission bits of a folder; undefined where it is absent or the system has none. */
  folderMode(path: TreePath): Promise<number | undefined>;
  /** Removes an empty folder; returns false and leaves it when it holds anything or is absent. */
  removeFolder(path: TreePath): Promise<boolean>;
  /** Removes the temporary file that `write` with this tag may have left beside the path (or, with `via`, in that folder: any path in it). */
  clearTemporary(path: TreePath, tag: string): Promise<void>;
}

/** Read-only door to files by absolute path, for what lies outside a root. Paths use '/', also after a drive letter. */
export interface OutsideFiles {
  /** False for files whose content the user has not allowed to be read; absent: all may be read. */
  mayRead?(path: string): boolean;
  /** The user's home folder, which some programs write as ~; absent where that means nothing. */
  home?: string;
  kind(path: string): Promise<'file' | 'folder' | null>;
  stat(path: string): Promise<{ size: number; modified: number } | null>;
  entries(folder: string): Promise<readonly Entry[] | null>;
  read(path: string, range?: ByteRange): Promise<Uint8Array>;
  stream(path: string, range?: ByteRange): ByteStream;
  digest(path: string): Promise<Digest | null>;
}

/** One part as a stream. */
export async function* once(bytes: Uint8Array): ByteStream {
  yield bytes;
}

/** An outside folder as a tree, for reading scenes that lie there and judging what they reference. */
export function outsideTree(
  outside: OutsideFiles,
  root: string,
): Pick<FileTree, 'entries' | 'stat' | 'read'> {
  const full = (path: string) => (path === '' ? root || '/' : `${root}/${path}`);
  return {
    entries: (folder) => outside.entries(full(folder)),
    read: (path, range) => outside.read(full(path), range),
    async stat(path) {
      const stat = await outside.stat(full(path));
      return stat ? { path, ...stat } : null;
    },
  };
}
