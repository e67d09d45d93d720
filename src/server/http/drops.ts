// Endpoints of drops: told, sent in pieces, ended.

import { z } from 'zod';
import { outsideFilesOf } from '@/core/changes/plan';
import { AppError } from '@/core/errors';
import { pieceQuery, piecesQuery, piecesTable, type piecesView, type DropView } from '@/wire/drops';
import { hub, type Hub } from '../hub';
import { clearStaging } from '../workspaces/stage';
import { beginDrop, endDrop } from '@/wire/routes/intake';
import type { Who } from '../who';
import { answerError, endpoint, queryOf, understood } from './handle';

/** Drops that a plan under review still copies from. */
function waitedFor(h: Hub): Set<string> {
  const from = [...h.plans.values()].flatMap((p) =>
    p.plan.steps.flatMap((s) => (s.do === 'put' ? outsideFilesOf(s.from) : [])),
  );
  return new Set(from.map((p) => p.split('/incoming/')[1]?.split('/')[0] ?? ''));
}

export const dropEndpoints = [
  endpoint(beginDrop, async (h, input): Promise<DropView> => {
    clearStaging(h.dataFolder, waitedFor(h));
    const drop = h.drops.begin(input.files, input.folders, h.who);
    return {
      drop: drop.id,
      folder: h.drops.nameOf(drop.root),
      files: drop.files.map((f) => (f === null ? null : h.drops.nameOf(f.to))),
      folders: drop.folders.map((f) => h.drops.nameOf(f)),
    };
  }),
  endpoint(endDrop, async (h, input) => {
    h.drops.remove(h.drops.find(input.drop, h.who).id);
  }),
];

/** Reads a body in portions of known sizes. */
class Portions {
  private readonly parts: AsyncIterator<Uint8Array>;
  private rest: Uint8Array = new Uint8Array(0);

  constructor(body: AsyncIterable<Uint8Array> | null) {
    this.parts = (body ?? (async function* () {})())[Symbol.asyncIterator]();
  }

  /** The next `size` bytes, as they come. Throws AppError('bad-upload') where the body ends before. */
  async *next(size: number): AsyncGenerator<Uint8Array> {
    for (let left = size; left > 0;) {
      if (this.rest.length === 0) {
        const part = await this.parts.next();
        if (part.done) throw new AppError('bad-upload', 'What was sent was cut off on its way.');
        this.rest = part.value;
        continue;
      }
      const now = this.rest.subarray(0, left);
      this.rest = this.rest.subarray(now.length);
      left -= now.length;
      yield now;
    }
  }
}

/** POST /api/upload-many?drop=…&table=…: many small files in one request, since each request costs more than they do. */
export async function takeMany(request: Request, who: Who | null): Promise<Response> {
  try {
    const query = understood(piecesQuery, queryOf(request));
    const { drops } = await hub();
    const drop = drops.find(query.drop, who);
    const portions = new Portions(request.body as unknown as AsyncIterable<Uint8Array> | null);
    const head: Uint8Array[] = [];
    for await (const part of portions.next(query.table)) head.push(part);
    const table = piecesTable.parse(JSON.parse(Buffer.concat(head).toString('utf8')));
    const taken: z.infer<typeof piecesView> = [];
    for (const { file, offset, size, digest } of table) {
      const { here, isWhole } = await drops.take(drop, file, offset, digest ?? null, portions.next(size));
      taken.push({ here, whole: isWhole });
    }
    return Response.json(taken);
  } catch (cause) {
    return answerError(
      cause instanceof SyntaxError || cause instanceof z.ZodError
        ? new AppError('bad-request', 'The table of pieces was not understood.')
        : cause,
    );
  }
}

/** POST /api/upload?drop=…&file=0&offset=0&digest=… with the piece's bytes as body, of any size: streamed to disk, never held whole. */
export async function takeUpload(request: Request, who: Who | null): Promise<Response> {
  try {
    const { drop, file, offset, digest } = understood(pieceQuery, queryOf(request));
    const { drops } = await hub();
    const body = request.body as unknown as AsyncIterable<Uint8Array> | null;
    const { here, isWhole } = await drops.take(drops.find(drop, who), file, offset, digest ?? null, body);
    return Response.json({ here, whole: isWhole });
  } catch (cause) {
    return answerError(cause);
  }
}
