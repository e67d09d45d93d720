// Proof of a workspace where it lies: everything its own store keeps, and of its files those that were kept in a checkpoint and have not been saved since:
// a byte that changed by itself shows there.

import type { Digest } from '@/core/files/digest';
import type { CancelSignal } from '@/core/files/fileTree';
import { sameTime } from '@/core/files/times';
import { packIndex } from '@/core/store/packIndex';
import { isKept } from '@/core/store/store';
import { readCheckpoints } from '../workspaces/checkpoints';
import type { OpenWorkspace } from '../workspaces/open';

export interface WorkspaceProof {
  root: string;
  /** Contents of the store that were read, and their bytes. */
  contents: number;
  bytes: number;
  /** Contents of the store that are not right. */
  spoilt: string[];
  /** Files whose size and time are as in the newest checkpoint, and how many of them hold something else. */
  files: number;
  changedBySelf: string[];
}

/** Proves. The newest checkpoint that has a file counts. */
export async function proveWorkspace(
  { tree, root }: OpenWorkspace,
  options: {
    signal?: CancelSignal | undefined;
    onFile?: ((n: number, path: string) => void) | undefined;
  } = {},
): Promise<WorkspaceProof> {
  const proof: WorkspaceProof = { root, contents: 0, bytes: 0, spoilt: [], files: 0, changedBySelf: [] };
  for (const { digest, size } of (await packIndex(tree)).contents.values()) {
    options.signal?.throwIfAborted();
    options.onFile?.(++proof.contents, digest);
    proof.bytes += size;
    if (!(await isKept(tree, digest))) proof.spoilt.push(digest);
  }
  const known = new Map<string, { size: number; modified: number; digest: Digest }>();
  for (const c of await readCheckpoints(tree))
    for (const [path, size, modified, , digest] of c.files)
      if (!known.has(path)) known.set(path, { size, modified, digest });
  for await (const f of tree.list()) {
    const then = known.get(f.path);
    if (then?.size !== f.size || !sameTime(then.modified, f.modified)) continue;
    options.signal?.throwIfAborted();
    options.onFile?.(++proof.files, f.path);
    proof.bytes += f.size;
    if ((await tree.digest(f.path)) !== then.digest) proof.changedBySelf.push(f.path);
  }
  return proof;
}
