// The content of every file of the last delivery, as received and after its references were repaired. A second delivery is compared with it, to tell
// changes made elsewhere from changes made here.

import { z } from 'zod';
import type { Digest } from '@/core/files/digest';
import { once } from '@/core/files/fileTree';
import { isOwn, ownFolder } from '@/core/files/records';
import { rootPath, treePath } from '@/core/files/treePath';
import type { Base } from '@/core/plans/planArriveAgain';
import { decodeText, utf8 } from '@/core/text/bytes';
import { withLock } from '../workspaces/changing';
import type { OpenWorkspace } from '../workspaces/open';

const basePath = treePath(`${ownFolder}/arrived.json`);
const shape = z.object({
  format: z.literal(1),
  files: z.array(z.tuple([z.string(), z.string()]).rest(z.string())),
  /** See lineage.ts. */
  exchanged: z.array(z.string()).optional(),
});

/** What is recorded of deliveries. */
export interface DeliveryRecord {
  /** The files of the last one; null if none was recorded, or the record cannot be read. */
  base: Base | null;
  /** Marks of the folders that deliveries came from (lineage.ts). */
  exchanged: readonly string[];
}

export async function readDeliveries({ tree }: Pick<OpenWorkspace, 'tree'>): Promise<DeliveryRecord> {
  const none = { base: null, exchanged: [] };
  if ((await tree.kind(basePath)) !== 'file') return none;
  try {
    const { files, exchanged = [] } = shape.parse(JSON.parse(decodeText(await tree.read(basePath)).text));
    const base = new Map(
      files.map(([p, came, repaired]) => [
        p,
        { came: came as Digest, repaired: (repaired ?? null) as Digest | null },
      ]),
    );
    return { base, exchanged };
  } catch {
    return none;
  }
}

/** Digest of every file except the workspace's own records. */
export async function digestsIn({ tree }: Pick<OpenWorkspace, 'tree'>): Promise<Map<string, Digest>> {
  const found = new Map<string, Digest>();
  for await (const f of tree.list(rootPath)) {
    const digest = isOwn(f.path) ? null : await tree.digest(f.path);
    if (digest !== null) found.set(f.path, digest);
  }
  return found;
}

/** A base in which every file is as received. */
export const asCame = (digests: ReadonlyMap<string, Digest>): Base =>
  new Map([...digests].map(([p, came]) => [p, { came, repaired: null }]));

/** Records the delivery after the repair. `before` holds the digests from before the repair: a file that the user had changed by then does not count as repaired. */
export async function keepBase(
  { root, tree }: Pick<OpenWorkspace, 'root' | 'tree'>,
  { base, exchanged }: DeliveryRecord & { base: Base },
  before: ReadonlyMap<string, Digest>,
): Promise<void> {
  const files: [string, string, string?][] = [];
  for (const [path, { came, repaired }] of base) {
    const was = before.get(path);
    const isAsLeft = was !== undefined && (was === came || was === repaired);
    const now = isAsLeft ? await tree.digest(treePath(path)) : null;
    const mended = now !== null && now !== came ? now : repaired;
    files.push(mended === null ? [path, came] : [path, came, mended]);
  }
  const text = JSON.stringify({ format: 1, time: new Date().toISOString(), files, exchanged });
  await withLock(root, (locked) =>
    locked.tree.write(basePath, once(utf8(`${text}\n`)), { replace: true, tag: 't' }),
  );
}
