// Endpoints of drops: told, sent in pieces, ended.

import { z } from 'zod';
import { AppError } from '@/core/errors';
import { pieceQuery, type DropView } from '@/wire/drops';
import { hub, type Hub } from '../hub';
import { clearStaging } from '../workspaces/stage';
import { beginDrop, endDrop } from '@/wire/routes/intake';
import { answerError, endpoint } from './handle';

/** Drops that a plan under review still copies from. */
function waitedFor(h: Hub): Set<string> {
  const from = [...h.plans.values()].flatMap((p) =>
    p.plan.steps.flatMap((s) => (s.do === 'put' && s.from.from === 'outside' ? [s.from.path] : [])),
  );
  return new Set(from.map((p) => p.split('/incoming/')[1]?.split('/')[0] ?? ''));
}

export const dropEndpoints = [
  endpoint(beginDrop, async (h, input): Promise<DropView> => {
    clearStaging(h.dataFolder, waitedFor(h));
    const drop = h.drops.begin(input.files, input.folders);
    return {
      drop: drop.id,
      folder: drop.root,
      files: drop.files.map((f) => f?.to ?? null),
      folders: [...drop.folders],
    };
  }),
  endpoint(endDrop, async (h, input) => {
    h.drops.remove(input.drop);
  }),
];

/** POST /api/upload?drop=…&file=0&offset=0&digest=… with the piece's bytes as body, of any size: streamed to disk, never held whole. */
export async function takeUpload(request: Request): Promise<Response> {
  try {
    const query = pieceQuery.safeParse(Object.fromEntries(new URL(request.url).searchParams));
    if (!query.success)
      throw new AppError('bad-request', `The request was not understood: ${z.prettifyError(query.error)}`);
    const { drop, file, offset, digest } = query.data;
    const { drops } = await hub();
    const body = request.body as unknown as AsyncIterable<Uint8Array> | null;
    const { here, isWhole } = await drops.take(drops.find(drop), file, offset, digest ?? null, body);
    return Response.json({ here, whole: isWhole }, { headers: { 'cache-control': 'no-store' } });
  } catch (cause) {
    return answerError(cause);
  }
}
