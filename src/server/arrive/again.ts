// A second arrival on disk: both sides are read, with what arrived the first time.

import { z } from 'zod';
import type { Digest } from '@/core/files/digest';
import type { CancelSignal } from '@/core/files/fileTree';
import { isOwn, markerPath } from '@/core/files/records';
import { rootPath } from '@/core/files/treePath';
import { againstIncoming, type AgainFile, type Base } from '@/core/plans/planArriveAgain';
import { decodeText } from '@/core/text/bytes';
import { parseWorkspaceFile } from '@/wire/workspace';
import { DiskReading } from '../disk/diskReading';
import { hasMarker, readWorkspace, type OpenWorkspace } from '../workspaces/open';
import { arrivedPath } from './arrive';

const arrivedSchema = z.object({
  format: z.literal(1),
  files: z.array(z.tuple([z.string(), z.string()]).rest(z.string())),
});

/** What arrived the first time; null: nobody wrote it down. */
async function baseOf({ tree }: OpenWorkspace): Promise<Base | null> {
  if ((await tree.kind(arrivedPath)) !== 'file') return null;
  try {
    const { files } = arrivedSchema.parse(JSON.parse(decodeText(await tree.read(arrivedPath)).text));
    return new Map(
      files.map(([p, came, repaired]) => [
        p,
        { came: came as Digest, repaired: (repaired ?? null) as Digest | null },
      ]),
    );
  } catch {
    return null;
  }
}

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

/** How every file of both sides stands. `incoming`: the folder in which what came lies. */
export async function lookAgain(root: string, incoming: string, signal?: CancelSignal): Promise<AgainFile[]> {
  const workspace = await readWorkspace(root);
  const [here, there] = [
    await sidesIn(workspace.tree, signal),
    await sidesIn(new DiskReading(incoming), signal),
  ];
  return againstIncoming(here, there, await baseOf(workspace));
}
