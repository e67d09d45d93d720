// What a work thread does: one order, with progress, until it is done, failed or cancelled.

import { placeOf } from '@/core/bags/place';
import { bytesToWrite } from '@/core/changes/plan';
import { AppError } from '@/core/errors';
import { isWithin, treePath, type TreePath } from '@/core/files/treePath';
import { fullPath } from '@/core/formats/format';
import { formatOfName, isSceneFormat, type FileReading } from '@/core/formats/formats';
import type { Problem } from '@/core/problem';
import { gltfUses } from '@/core/formats/gltfUses';
import { planBring } from '@/core/plans/planBring';
import { planTravel } from '@/core/plans/planTravel';
import { planRestore, planSave } from '@/core/plans/planVersion';
import { settingOf } from '@/core/plans/workspace';
import { isReady } from '@/core/references/resolve';
import { judge, readScene, roomForScenes, scenePaths, type JudgedReference, type SceneReport } from '@/core/references/scan';
import type { ErrorShape, IndexRow, JobProgress, PlanRequest, ScanFound, WorkMessage, WorkOrder } from '@/wire/jobs';
import { diskUse } from '../disk/use';
import { lastVersion } from '../workspaces/versions';
import { pack } from '../bags/pack';
import { rehearsePath } from '../bags/rehearsal';
import { unpack, verify } from '../bags/verify';
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
      return scanInto(await readWorkspace(order.root), signal, say, told);
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

/** A reading with the node and material names of its scene; of the file when it was `size` bytes long and last written at `modified`. */
interface Recalled extends Omit<FileReading, 'bytes'> {
  bytes: null;
  uses: Map<string, string[]>;
  size: number;
  modified: number;
}

// What this thread has read, by root and path: a file that has not changed is not read again. Judging is always done anew, since it
// depends on what lies around. Four roots at most.
const recall = new Map<string, Map<string, Recalled>>();
const mostRoots = 4;
// A file written just before it was read may be written once more within the grain of its clock (2 s on FAT).
const clockGrain = 2500;

function recalled(root: string): Map<string, Recalled> {
  const held = recall.get(root) ?? new Map<string, Recalled>();
  recall.delete(root);
  recall.set(root, held);
  if (recall.size > mostRoots) recall.delete(recall.keys().next().value!);
  return held;
}

async function readOrRecall(workspace: OpenWorkspace, scene: TreePath, room: Uint8Array, known: Map<string, Recalled>): Promise<Recalled | { problems: Problem[] } | null> {
  const stat = await workspace.tree.stat(scene);
  const held = known.get(scene);
  if (held && stat && held.size === stat.size && held.modified === stat.modified) return held;
  known.delete(scene);
  const reading = await readScene(workspace.tree, scene, room);
  if (!reading || !('format' in reading)) return reading;
  const json = reading.format.id === 'gltf' ? reading.bytes : reading.format.id === 'glb' ? (reading.bytes?.subarray(20) ?? null) : null;
  const fresh: Recalled = { ...reading, bytes: null, uses: json && json.length <= namesUpTo ? gltfUses(json) : new Map<string, string[]>(), size: stat?.size ?? -1, modified: stat?.modified ?? -1 };
  if (stat && Date.now() - stat.modified > clockGrain) known.set(scene, fresh);
  return fresh;
}

// Where a JSON part is larger than this, node and material names are not looked up at scanning.
const namesUpTo = 8 * 1024 * 1024;

async function scanInto(workspace: OpenWorkspace, signal: AbortSignal, say: Say, told: (p: JobProgress) => void) {
  const setting = settingOf(workspace);
  const scenes = await scenePaths(workspace.tree);
  const room = roomForScenes();
  const known = recalled(workspace.root);
  let references = 0;
  let ready = 0;
  const waiting: Extract<WorkMessage, { say: 'rows' }> = { say: 'rows', rows: [], problems: [] };
  const flush = () => {
    if (waiting.rows.length + waiting.problems.length === 0) return;
    say({ ...waiting });
    waiting.rows = [];
    waiting.problems = [];
  };
  for (const [i, scene] of scenes.entries()) {
    signal.throwIfAborted();
    const reading = await readOrRecall(workspace, scene, room, known);
    if (!reading) continue;
    if (!('format' in reading)) waiting.problems.push(...reading.problems.map((p) => ({ scene, code: p.code, message: p.message })));
    else {
      const report = await judge(scene, reading, setting);
      for (const row of await rowsOf(workspace, report, reading.uses)) {
        references++;
        if (row.ready) ready++;
        waiting.rows.push(row);
      }
      waiting.problems.push(...report.problems.map((p) => ({ scene, code: p.code, message: p.message })));
    }
    if (waiting.rows.length >= 1000) flush();
    told({ files: i + 1, filesTotal: scenes.length, bytes: 0, bytesTotal: null, path: scene });
    if (i % 50 === 49) await new Promise((done) => setImmediate(done));
  }
  flush();
  const found: ScanFound = { references, ready, ...(await diskUse(workspace.tree)), lastVersion: await lastVersion(workspace, scenes.filter((p) => isSceneFormat(formatOfName(p)!.id))) };
  return found;
}

/** Size of a reference's target in bytes, of all files of a sequence; null where there is none. */
async function sizeOf(workspace: OpenWorkspace, r: JudgedReference): Promise<number | null> {
  if (r.target === null) return null;
  const folder = r.target.slice(0, r.target.lastIndexOf('/') + 1);
  let size: number | null = null;
  for (const path of r.members?.map((name) => `${folder}${name}`) ?? [r.target]) {
    const stat = r.inside ? await workspace.tree.stat(treePath(path)) : await workspace.outside.stat(path);
    if (stat) size = (size ?? 0) + stat.size;
  }
  return size;
}

async function rowsOf(workspace: OpenWorkspace, report: SceneReport, uses: Map<string, string[]>): Promise<IndexRow[]> {
  const rows: IndexRow[] = [];
  for (const [ord, r] of report.references.entries()) {
    rows.push({
      scene: report.path, format: report.format, ord, at: r.at, kind: r.kind, written: fullPath(r), state: r.state, target: r.target, inside: r.inside,
      ready: isReady(r), oddities: r.oddities, uses: uses.get(r.at) ?? [r.at], size: await sizeOf(workspace, r), targets: r.targets, gaps: r.gaps,
    });
  }
  return rows;
}
