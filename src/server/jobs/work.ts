// What a work thread does: one order, with progress, until it is done, failed or cancelled.

import { placeOf } from '@/core/bags/place';
import { bytesToWrite } from '@/core/changes/plan';
import { AppError } from '@/core/errors';
import { fileError } from '@/core/files/fileErrors';
import { isWithin, treePath } from '@/core/files/treePath';
import { readLayout } from '@/core/layouts/layout';
import { planAdopt, recognise } from '@/core/plans/planAdopt';
import { planBring } from '@/core/plans/planBring';
import { planBin } from '@/core/plans/planBin';
import { planHomes } from '@/core/plans/planHomes';
import { planLayout } from '@/core/plans/planLayout';
import { planMove } from '@/core/plans/planMove';
import { planSettings } from '@/core/plans/planSettings';
import { planIntake } from '@/core/plans/planIntake';
import { planTake } from '@/core/plans/planTake';
import { duplicates, planMerge } from '@/core/plans/planMerge';
import { planNested } from '@/core/plans/planNested';
import { planReference } from '@/core/plans/planReference';
import { planRelink, suggest } from '@/core/plans/planRelink';
import { planRepath } from '@/core/plans/planRepath';
import { planCreateMany } from '@/core/plans/planCreateMany';
import { planRelocate } from '@/core/plans/planRelocate';
import { outOfPlace, planTidy } from '@/core/plans/planTidy';
import { planTravel } from '@/core/plans/planTravel';
import { planRestore } from '@/core/plans/planRestore';
import { planSave } from '@/core/plans/planSave';
import { scenePaths } from '@/core/references/scan';
import type { ErrorShape, JobProgress, WorkMessage, WorkOrder } from '@/wire/jobs';
import { pack } from '../bags/pack';
import { rehearsePath } from '../bags/rehearsal';
import { unpack, verify } from '../bags/verify';
import { probe } from '../disk/signs';
import { alikeIn } from '../facts/likeness';
import { findWorkspaces } from '../workspaces/find';
import { measureScenes } from '../workspaces/measure';
import { withNeighbours } from '../workspaces/neighbours';
import { settingsAfter } from '../workspaces/settings';
import { shelfOf, shelfRecords, shelfTree, shelved } from '../workspaces/shelf';
import { packName, stage } from '../workspaces/stage';
import { scanInto } from './scanWork';
import { applyPlan, recordsIn } from '../workspaces/changing';
import { planUndoOf } from '../workspaces/ledger';
import { hasMarker, markerDamage, plainFolder, readWorkspace, type OpenWorkspace } from '../workspaces/open';

type Say = (message: WorkMessage) => void;

/** An error as it crosses to the server. */
export function shapeOfError(cause: unknown): ErrorShape {
  if (cause instanceof AppError)
    return {
      code: cause.code,
      message: cause.message,
      unchanged: cause.unchanged,
      next: cause.next,
      details: [...cause.details],
    };
  if ((cause as { name?: string } | null)?.name === 'AbortError')
    return {
      code: 'cancelled',
      message: 'The work was cancelled.',
      unchanged: 'Nothing was changed.',
      next: 'Start it again when you like.',
      details: [],
    };
  const known = fileError('A file', cause);
  if (known instanceof AppError) return shapeOfError(known);
  return {
    code: 'internal',
    message: cause instanceof Error ? cause.message : String(cause),
    unchanged: 'No file was left half written.',
    next: 'This is a fault of Loyal Satchel; try again, and report it when it stays.',
    details: [],
  };
}

/** Carries out an order; resolves with its result. */
export async function carryOut(order: WorkOrder, signal: AbortSignal, say: Say): Promise<unknown> {
  const told = throttled(say);
  const filesAndBytes =
    (total: { files: number | null; bytes: number | null }) =>
    (d: { files: number; bytes: number; path: string }) =>
      told({ ...d, filesTotal: total.files, bytesTotal: total.bytes });
  switch (order.work) {
    case 'scan':
      return scanInto(await readWorkspace(order.root), order, signal, say, told);
    case 'plan': {
      const read = await readWorkspace(order.root);
      const mayRead = (at: string) => order.places.some((place) => isWithin(at, place === '/' ? '' : place));
      const workspace = { ...read, outside: { ...read.outside, mayRead } };
      const scenes =
        order.request.kind === 'travel' ? (await scenePaths(workspace.tree)).scenes.length : null;
      let seen = 0;
      const plan = await planOf(workspace, order, signal, (at, of) =>
        told({ files: ++seen, filesTotal: of ?? scenes, bytes: 0, bytesTotal: null, path: at }),
      );
      return withNeighbours(plan, order.root, order.neighbours, signal);
    }
    case 'adopt': {
      const layout = readLayout(order.layout.text, order.layout.id, order.layout.id);
      const { plan } = await planAdopt(plainFolder(order.root), {
        ...order.request,
        layout,
        replacesMarker: (await markerDamage(order.root)) !== null,
        created: new Date().toISOString(),
        signal,
        onFile: (files, at) => told({ files, filesTotal: null, bytes: 0, bytesTotal: null, path: at }),
      });
      return withNeighbours(plan, order.root, order.neighbours, signal);
    }
    case 'create-many':
      return planCreateMany(shelfTree(order.root, order.records), {
        ...order.request,
        layout: readLayout(order.layout.text, order.layout.id, order.layout.id),
        created: new Date().toISOString(),
      });
    case 'relocate': {
      const known = await shelved(order.root, order.known);
      const moves = order.moves.map((m) => ({ path: treePath(m.path), to: treePath(m.to) }));
      const plan = await planRelocate(shelfOf(order.root, order.records, known), {
        moves,
        known,
        signal,
        onScene: (files, filesTotal, at) => told({ files, filesTotal, bytes: 0, bytesTotal: null, path: at }),
      });
      return withNeighbours(plan, order.root, order.neighbours, signal);
    }
    case 'recognise':
      return recognise(
        plainFolder(order.root),
        readLayout(order.layout.text, order.layout.id, order.layout.id),
        {
          signal,
          onFile: (files, at) => told({ files, filesTotal: null, bytes: 0, bytesTotal: null, path: at }),
        },
      );
    case 'suggest': {
      const read = await readWorkspace(order.root);
      const mayRead = (at: string) => order.places.some((place) => isWithin(at, place === '/' ? '' : place));
      return suggest({ ...read, outside: { ...read.outside, mayRead } }, order, {
        search: order.search,
        seen: seenOf(order.seen),
        signal,
      });
    }
    case 'find':
      return findWorkspaces(order.root, signal, (files, at) =>
        told({ files, filesTotal: null, bytes: 0, bytesTotal: null, path: at }),
      );
    case 'measure':
      return measureScenes(await readWorkspace(order.root), signal, (files, filesTotal, at) =>
        told({ files, filesTotal, bytes: 0, bytesTotal: null, path: at }),
      );
    case 'loose': {
      const workspace = await readWorkspace(order.root);
      return outOfPlace(workspace, workspace.file.homes, signal);
    }
    case 'alike':
      return alikeIn(await readWorkspace(order.root), treePath(order.pack), signal, (files, at) =>
        told({ files, filesTotal: null, bytes: 0, bytesTotal: null, path: at }),
      );
    case 'duplicates':
      return duplicates(await readWorkspace(order.root), {
        signal,
        onFile: (files, at) => told({ files, filesTotal: null, bytes: 0, bytesTotal: null, path: at }),
      });
    case 'probe':
      return probe(order.folder, signal);
    case 'apply': {
      const total = { files: order.plan.steps.length, bytes: bytesToWrite(order.plan) };
      const report = filesAndBytes(total);
      const record = await applyPlan(
        order.root,
        order.plan,
        { signal, onProgress: (d) => report({ files: d.steps, bytes: d.bytes, path: d.path }) },
        order.records === null ? recordsIn(order.root) : shelfRecords(order.root, order.records),
      );
      // Its creation was undone: what is left is a folder that holds the records of it.
      const gone =
        order.records === null && order.plan.undoes !== undefined && !(await hasMarker(order.root));
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
      const result = await unpack(order.bag, order.to, {
        signal,
        onProgress: filesAndBytes({ files: null, bytes: null }),
      });
      return { ...result, isWorkspace: await hasMarker(result.root) };
    }
    case 'rehearse':
      return rehearsePath(order.path, placeOf(order.place, order.at), (at) =>
        told({ files: 0, filesTotal: null, bytes: 0, bytesTotal: null, path: at }),
      );
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

function seenOf(seen: readonly (readonly [string, number])[]): Map<string, { size: number }> {
  return new Map(seen.map(([path, size]) => [path, { size }]));
}

type PlanOrder = WorkOrder & { work: 'plan' };

async function planOf(
  workspace: OpenWorkspace,
  order: PlanOrder,
  signal: AbortSignal,
  onScene: (path: string, of?: number) => void,
) {
  const { request } = order;
  const now = new Date().toISOString();
  const watched = { signal, onScene: (_: number, of: number, at: string) => onScene(at, of) };
  switch (request.kind) {
    case 'bring':
      return planBring(workspace, { files: request.files });
    case 'travel':
      return planTravel(workspace, { only: request.only, signal, onScene: (_, at) => onScene(at) });
    case 'save':
      return planSave(workspace, { scene: treePath(request.scene), note: request.note, now });
    case 'restore':
      return planRestore(workspace, {
        scene: treePath(request.scene),
        number: request.number,
        note: request.note,
        now,
      });
    case 'undo':
      return planUndoOf(recordsIn(workspace.root), request.id);
    case 'relink':
      return planRelink(workspace, { ...request, seen: seenOf(order.seen), signal });
    case 'repath': {
      const named = request.change.how === 'exact' ? request.change.paths : request.only;
      const scenes = named
        ? [...new Set(named.map((o) => treePath(o.scene)))]
        : (await scenePaths(workspace.tree)).scenes;
      return planRepath(workspace, {
        scenes,
        change: request.change,
        only: request.only ?? undefined,
        nested: request.nested,
      });
    }
    case 'tidy':
      return planTidy(workspace, { only: request.only, ...watched });
    case 'move':
      return planMove(workspace, request.moves, watched);
    case 'homes':
      return planHomes(workspace, request.changes, watched);
    case 'settings':
      return planSettings(workspace, ...settingsAfter(workspace.file, request.change, now));
    case 'layout':
      return planLayout(
        workspace,
        readLayout(order.layout!.text, order.layout!.id, order.layout!.id),
        watched,
      );
    case 'nested': {
      const file = await readWorkspace(`${workspace.root}/${request.inner}`).then(
        (w) => w.file,
        () => null,
      );
      return planNested(workspace, { inner: treePath(request.inner), file, how: request.how, ...watched });
    }
    case 'bin':
      return planBin(workspace, request.paths.map(treePath), now);
    case 'merge':
      return planMerge(workspace, request.groups, now, { signal, onFile: (_, at) => onScene(at) });
    case 'take':
      return planTake(workspace, { paths: request.paths, ...watched });
    case 'reference':
      return planReference(workspace, { units: workspace.file.units, formats: request.formats });
    case 'intake': {
      const ready = await stage(request.from, order.staging!, signal, (d) => onScene(d.path));
      return planIntake(workspace, {
        from: ready.path,
        name: request.name ?? packName(request.from),
        signal,
        onFile: (_, at) => onScene(at),
      });
    }
  }
}
