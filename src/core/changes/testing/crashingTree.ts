// A tree that stops at its n-th write, as a machine that loses power would: the write is lost, torn, or done but unreported;
// everything after it fails.

import type { ByteStream, WritableFileTree, WriteOptions } from '../../files/fileTree';
import type { TreePath } from '../../files/treePath';

export type CrashKind = 'lost' | 'torn' | 'unreported';

export class Crash extends Error {}

/** Wraps a tree; counts its writes. `crashAt` 0 never crashes. */
export function crashing(
  tree: WritableFileTree,
  crashAt: number,
  kind: CrashKind,
): WritableFileTree & { writes: () => number; crashed: () => boolean } {
  let writes = 0;
  let down = false;
  const step = async (act: () => Promise<unknown>, torn?: () => Promise<unknown>): Promise<unknown> => {
    if (down) throw new Crash('down');
    writes++;
    if (writes !== crashAt) return act();
    down = true;
    if (kind === 'unreported') await act();
    else if (kind === 'torn') await torn?.();
    throw new Crash(`crashed at write ${writes}`);
  };
  const alive =
    <A extends unknown[], R>(call: (...args: A) => R) =>
    (...args: A): R => {
      if (down) throw new Crash('down');
      return call(...args);
    };
  return {
    writes: () => writes,
    crashed: () => down,
    list: alive((f, heard) => tree.list(f, heard)),
    readLink: alive((p) => tree.readLink(p)),
    folderMode: alive((p) => tree.folderMode(p)),
    entries: alive((f) => tree.entries(f)),
    kind: alive((p) => tree.kind(p)),
    stat: alive((p) => tree.stat(p)),
    read: alive((p, r) => tree.read(p, r)),
    stream: alive((p, r) => tree.stream(p, r)),
    digest: alive((p) => tree.digest(p)),
    startHash: () => tree.startHash(),
    clearTemporary: alive((p, t) => tree.clearTemporary(p, t)),
    write: (path: TreePath, content: ByteStream, options: WriteOptions) => {
      // Gathering the content is one write (it can be lost before the commit), the commit is another.
      const before = options.beforeCommit;
      return step(() =>
        tree.write(path, content, {
          ...options,
          beforeCommit: async (w) => {
            await before?.(w);
            await step(async () => {});
          },
        }),
      ) as ReturnType<WritableFileTree['write']>;
    },
    append: (p, b) =>
      step(
        () => tree.append(p, b),
        () => tree.append(p, b.subarray(0, Math.floor(b.length / 2))),
      ) as Promise<void>,
    move: (p, to) => step(() => tree.move(p, to)) as Promise<void>,
    moveFolder: (p, to) => step(() => tree.moveFolder(p, to)) as Promise<void>,
    keep: (p, to, options) => step(() => tree.keep(p, to, options)) as Promise<void>,
    remove: (p) => step(() => tree.remove(p)) as Promise<void>,
    makeLink: (p, text) => step(() => tree.makeLink(p, text)) as Promise<void>,
    makeFolder: (p) => step(() => tree.makeFolder(p)) as Promise<void>,
    removeFolder: (p) => step(() => tree.removeFolder(p)) as Promise<boolean>,
  };
}
