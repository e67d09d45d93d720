// What a work thread does: one order, with progress, until it is done, failed or cancelled.

import { placeOf } from '@/core/bags/place';
import { bytesToWrite } from '@/core/changes/plan';
import { AppError } from '@/core/errors';
import { isWithin, treePath } from '@/core/files/treePath';
import { planBring } from '@/core/plans/planBring';
import { planTravel } from '@/core/plans/planTravel';
import { planRestore, planSave } from '@/core/plans/planVersion';
import { scenePaths } from '@/core/references/scan';
import type { ErrorShape, JobProgress, PlanRequest, WorkMessage, WorkOrder } from '@/wire/jobs';
import { pack } from '../bags/pack';
import { rehearsePath } from '../bags/rehearsal';
import { unpack, verify } from '../bags/verify';
import { scanInto } from './scanWork';
import { applyPlan, hasMarker, planUndoOf, readWorkspace, removeEmptyRoot, type OpenWorkspace } from '../workspaces/open';

type Say = (message: WorkMessage) => void;

/** An error as it crosses to the server. */
export function shapeOfError(cause: unknown): ErrorShape {
  if (cause instanceof AppError) return { code: cause.code, message: cause.message, unchanged: cause.unchanged, next: cause.next, details: [...cause.details] };
  if ((cause as { name?: string } | null)?.name === 'AbortError') return { code: 'cancelled', message: 'The work was cancelled.', unchanged: 'Nothing was changed.', next: 'Start it again when you like.', details: [] };
  const code = (cause as { code?: string } | null)?.code;
  if (code === 'ENOSPC') return { code: 'disk-full', message: 'The drive is full.', unchanged: 'Nothing was left half written.', next: 'Free some room and try again.', details: [] };
  return { code: 'internal', message: cause instanceof Error ? cause.message : String(cause), unchanged: 'No file was left half written.', next: 'This is a fault of Loyal Satchel; try again, and report it when it stays.', details: [] };
}

/** Carries out an order; resolves with its result. */
export async function carryOut(order: WorkOrder, signal: AbortSignal, say: Say): Promise<unknown> {
  const told = throttled(say);
  const filesAndBytes = (total: { files: number | null; bytes: number | null }) => (d: { files: number; bytes: number; path: string }) => told({ ...d, filesTotal: total.files, bytesTotal: total.bytes });
  switch (order.work) {
    case 'scan':
      return scanInto(await readWorkspace(order.root), order, signal, say, told);
    case 'plan': {
      const read = await readWorkspace(order.root);
      const mayRead = (at: string) => order.places.some((place) => isWithin(at, place === '/' ? '' : place));
      const workspace = { ...read, outside: { ...read.outside, mayRead } };
      const scenes = order.request.kind === 'travel' ? (await scenePaths(workspace.tree)).length : null;
      let seen = 0;
      return planOf(workspace, order.request, signal, (at) => told({ files: ++seen, filesTotal: scenes, bytes: 0, bytesTotal: null, path: at }));
    }
    case 'apply': {
      const total = { files: order.plan.steps.length, bytes: bytesToWrite(order.plan) };
      const report = filesAndBytes(total);
      const record = await applyPlan(order.root, order.plan, { signal, onProgress: (d) => report({ files: d.steps, bytes: d.bytes, path: d.path }) });
      const gone = order.plan.undoes !== undefined && (await removeEmptyRoot(order.root));
      return { id: record.id, gone };
    }
    case 'pack': {
      let files = 0;
      let bytes = 0;
      for await (const f of (await readWorkspace(order.root)).tree.list()) {
        files++;
        bytes += f.size;
      }
      return pack(order.root, order.to, { signal, onProgress: filesAndBytes({ files, bytes }) });
    }
    case 'verify':
      return verify(order.bag, { signal, onProgress: filesAndBytes({ files: null, bytes: null }) });
    case 'unpack': {
      const result = await unpack(order.bag, order.to, { signal, onProgress: filesAndBytes({ files: null, bytes: null }) });
      return { ...result, isWorkspace: await hasMarker(result.root) };
    }
    case 'rehearse':
      return rehearsePath(order.path, placeOf(order.place, order.at), (at) => told({ files: 0, filesTotal: null, bytes: 0, bytesTotal: null, path: at }));
  }
}

/** Ten times a second is enough for eyes. */
function throttled(say: Say): (progress: JobProgress) => void {
  let last = 0;
  return (progress) => {
    const now = Date.now();
    if (now - last < 100) return;
    last = now;
    say({ say: 'progress', progress });
  };
}

async function planOf(workspace: OpenWorkspace, request: PlanRequest, signal: AbortSignal, onScene: (path: string) => void) {
  const now = new Date().toISOString();
  switch (request.kind) {
    case 'bring': return planBring(workspace, { files: request.files });
    case 'travel': return planTravel(workspace, { only: request.only, signal, onScene: (_, at) => onScene(at) });
    case 'save': return planSave(workspace, { scene: treePath(request.scene), note: request.note, now });
    case 'restore': return planRestore(workspace, { scene: treePath(request.scene), number: request.number, note: request.note, now });
    case 'undo': return planUndoOf(workspace.root, request.id);
  }
}
