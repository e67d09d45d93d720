// What a work thread does: one order, with progress, until it is done, failed or cancelled.

import type { CancelSignal } from '@/core/files/fileTree';
import { bytesToWrite, type Plan } from '@/core/changes/plan';
import type { Rule } from '@/core/collect/placement';
import { treePath } from '@/core/files/treePath';
import { readLayout } from '@/core/layouts/layout';
import { planAdopt, recognise } from '@/core/plans/planAdopt';
import { placeNotes } from '@/core/plans/placeNotes';
import { duplicates } from '@/core/plans/planMerge';
import { suggest } from '@/core/plans/planRelink';
import { planCreateMany } from '@/core/plans/planCreateMany';
import { planRelocate } from '@/core/plans/planRelocate';
import { outOfPlace } from '@/core/plans/planTidy';
import { scenePaths } from '@/core/references/scan';
import { holdNotes } from '@/core/plans/holdNotes';
import { heldNow } from '@/core/versions/holds';
import type { JobProgress, WorkOrder } from '@/wire/jobs';
import { settleSecondDelivery } from '../arrive/again';
import { outsideWithin } from '../disk/diskOutside';
import { probe } from '../disk/signs';
import { alikeIn } from '../facts/likeness';
import { findWorkspaces } from '../workspaces/find';
import { passListPath } from '@/core/plans/planPasses';
import { readPassList } from '@/wire/passes';
import { complete } from '../outputs/complete';
import { besideEachOther } from '../workspaces/beside';
import { appliedSince } from '../workspaces/ledger';
import { lookNodesOf, nodesOfScene } from '../workspaces/nodes';
import { assetsOf, lookOf } from '../workspaces/carry';
import { costOf } from '../workspaces/cost';
import { outputsOf } from '../outputs/origins';
import { makeCheckpoint } from '../workspaces/checkpoints';
import { netRound } from '../workspaces/net';
import { measureScenes } from '../workspaces/measure';
import {
  scenesIn,
  usedIn,
  collect,
  drawWithin,
  needsOf,
  planCollecting,
  planReportOnly,
} from '../workspaces/collect';
import { holdLines } from '../workspaces/holds';
import { withNeighbours } from '../workspaces/neighbours';
import { shelfOf, shelfRecords, shelfTree, shelved } from '../workspaces/shelf';
import { scanInto } from './scanWork';
import { applyPlan, recordsIn, settle } from '../workspaces/changing';
import { hasMarker, markerDamage, plainFolder, readWorkspace } from '../workspaces/open';
import { guarded, guardedFolder, type Doing, type Say, type Works } from './doing';
import { planFor, seenOf } from './planFor';
import { travelWorks } from './travelWorks';
import { doVerb } from './verb';

const layoutIn = ({ layout }: { layout: { text: string; id: string } }) =>
  readLayout(layout.text, layout.id, layout.id);

const works: Works = {
  scan: async (order, { signal, say, told }) =>
    scanInto(await readWorkspace(order.root), order, signal, say, told),
  async plan(order, { signal, toldFiles, allowed }) {
    const workspace = await guarded(order.root, allowed);
    const scenes = order.request.kind === 'travel' ? (await scenePaths(workspace.tree)).scenes.length : null;
    let seen = 0;
    const onScene = (at: string, of?: number) => toldFiles(++seen, of ?? scenes, at);
    const made = await planFor(workspace, order, signal, onScene, (root) => guardedFolder(root, allowed));
    const refused = placeNotes(made, order.root, workspace.file.places);
    const held = heldNow(await holdLines(workspace.tree));
    const holding = holdNotes(made, held, workspace.by ?? null);
    const plan = { ...made, notes: [...order.notes, ...made.notes, ...refused, ...holding] };
    return withNeighbours(plan, order.root, order.neighbours, signal);
  },
  async complete(order, { signal, toldFiles }) {
    const workspace = await readWorkspace(order.root);
    if ((await workspace.tree.kind(passListPath)) !== 'file') return null;
    const text = new TextDecoder().decode(await workspace.tree.read(passListPath));
    const list = readPassList(text, passListPath);
    return complete(workspace, list, { signal, onRow: (n, of, row) => toldFiles(n, of, row) });
  },
  async cost(order, { signal, toldFiles }) {
    return costOf(await readWorkspace(order.root), {
      signal,
      onScene: (n, of, scene) => toldFiles(n, of, scene),
    });
  },
  async outputs(order, { signal, toldFiles }) {
    const workspace = await readWorkspace(order.root);
    return outputsOf(workspace, {
      today: order.today,
      signal,
      onScene: (n, of, scene) => toldFiles(n, of, scene),
    });
  },
  async checkpoint(order, { signal, toldBytes }) {
    const workspace = await readWorkspace(order.root);
    const { name, scope } = order;
    const onFile = toldBytes({ files: null, bytes: null });
    return makeCheckpoint(workspace, { name, scope: scope.map(treePath), signal, onFile });
  },
  async net(order, { signal }) {
    const { net } = (await readWorkspace(order.root)).file;
    if (!net) return null;
    const wait = (ms: number) => new Promise<void>((done) => setTimeout(done, ms));
    const away = order.away ?? undefined;
    return netRound(order.root, net, { now: Date.now, wait, run: order.run }, { signal, away });
  },
  async adopt(order, { signal, toldFiles }) {
    const { plan } = await planAdopt(plainFolder(order.root), {
      ...order.request,
      layout: layoutIn(order),
      replacesMarker: (await markerDamage(order.root)) !== null,
      created: new Date().toISOString(),
      signal,
      onFile: (files, at) => toldFiles(files, null, at),
    });
    return withNeighbours(plan, order.root, order.neighbours, signal);
  },
  'create-many': (order) =>
    planCreateMany(shelfTree(order.root, order.records), {
      ...order.request,
      layout: layoutIn(order),
      created: new Date().toISOString(),
    }),
  async relocate(order, { signal, toldFiles }) {
    const known = await shelved(order.root, order.known);
    const moves = order.moves.map((m) => ({ path: treePath(m.path), to: treePath(m.to) }));
    const plan = await planRelocate(shelfOf(order.root, order.records, known), {
      moves,
      known,
      signal,
      onScene: toldFiles,
    });
    return withNeighbours(plan, order.root, order.neighbours, signal);
  },
  recognise: (order, { signal, toldFiles }) =>
    recognise(plainFolder(order.root), layoutIn(order), {
      signal,
      onFile: (files, at) => toldFiles(files, null, at),
    }),
  suggest: async (order, { signal, allowed }) =>
    suggest(await guarded(order.root, allowed), order, {
      search: order.search,
      seen: seenOf(order.seen),
      signal,
    }),
  find: (order, { signal, toldFiles }) =>
    findWorkspaces(order.root, signal, (files, at) => toldFiles(files, null, at)),
  measure: async (order, { signal, toldFiles }) =>
    measureScenes(await readWorkspace(order.root), signal, toldFiles),
  async loose(order, { signal }) {
    const workspace = await readWorkspace(order.root);
    return outOfPlace(workspace, workspace.file.homes, signal);
  },
  alike: async (order, { signal, toldFiles }) =>
    alikeIn(await readWorkspace(order.root), treePath(order.pack), signal, (files, at) =>
      toldFiles(files, null, at),
    ),
  duplicates: async (order, { signal, toldFiles }) =>
    duplicates(await readWorkspace(order.root), {
      signal,
      onFile: (files, at) => toldFiles(files, null, at),
    }),
  probe: (order, { signal, parts }) => probe(order.folder, signal, parts),
  needs: async (order, { signal, toldFiles, allowed }) =>
    needsOf(await guarded(order.root, allowed), order.request, {
      signal,
      onFile: (n, at) => toldFiles(n, null, at),
    }),
  used: async (order, { signal, toldFiles, allowed }) =>
    usedIn(await guarded(order.root, allowed), order.request, {
      signal,
      onFile: (n, at) => toldFiles(n, null, at),
    }),
  'carry-assets': async ({ root }, { allowed }) => assetsOf(await guardedFolder(root, allowed)),
  'carry-look': async ({ root, request }, { signal, toldFiles, allowed }) =>
    lookOf(await guarded(root, allowed), await guardedFolder(request.from, allowed), {
      ...request,
      clash: 'both',
      signal,
      onFile: toldFiles,
    }),
  nodes: async ({ root, scene }, { allowed }) => nodesOfScene(await guardedFolder(root, allowed), scene),
  'nodes-look': async ({ root, request }, { allowed }) =>
    lookNodesOf(await guarded(root, allowed), await guardedFolder(request.from.root, allowed), request),
  async beside({ root, request }, { allowed }) {
    const [a, b] = [await guarded(root, allowed), await guardedFolder(request.root, allowed)];
    const scene = (n: 0 | 1) => request.scenes && treePath(request.scenes[n]);
    return besideEachOther({ workspace: a, scene: scene(0) }, { workspace: b, scene: scene(1) });
  },
  async collect({ root, request, to, records }, { signal, toldFiles, allowed }) {
    const workspace = await guarded(root, allowed);
    const { chosen } = await scenesIn(workspace, request.scenes);
    const collecting = await planCollecting(workspace, {
      chosen,
      rule: request.layout as Rule,
      excluded: request.excluded,
      unticked: new Set(request.unticked),
      notUsed: new Set(request.notUsed),
      byHand: request.byHand,
      to,
      records,
      name: request.name,
      asWorkspace: request.as === 'workspace',
      signal,
      onFile: (n, at) => toldFiles(n, null, at),
    });
    return request.as === 'report'
      ? { plan: await planReportOnly(collecting, drawWithin(allowed)), draft: null, marker: null }
      : { plan: collecting.plan, draft: collecting.draft, marker: collecting.marker };
  },
  async apply({ root, plan, records, makes, arrived }, { signal, toldBytes, allowed }) {
    const report = toldBytes({ files: plan.steps.length, bytes: bytesToWrite(plan) });
    const options = {
      signal,
      outside: outsideWithin({ allowed }),
      onProgress: (d: { steps: number; bytes: number; path: string }) =>
        report({ files: d.steps, bytes: d.bytes, path: d.path }),
    };
    if (makes && records !== null) {
      const todo = { to: root, plan, ...makes };
      const made = await collect(todo, records, { ...options, draw: drawWithin(allowed) });
      return { id: made.record.id, gone: false };
    }
    const record = await applyPlan(root, plan, options, recordsAt(root, records));
    if (arrived) await settleSecondDelivery(root, arrived.from, { heads: arrived.heads, signal });
    return { id: record.id, gone: await isGone(root, records, plan) };
  },
  settle: ({ root, records, takesLock }) => settle(recordsAt(root, records), new Set(), { takesLock }),
  async 'find-entry'({ root, records, plan, since }) {
    const id = await appliedSince(recordsAt(root, records), plan, since);
    return id === null ? null : { id, gone: await isGone(root, records, plan) };
  },
  verb: doVerb,
  ...travelWorks,
};

const recordsAt = (root: string, records: string | null) =>
  records === null ? recordsIn(root) : shelfRecords(root, records);

/** Whether the creation of a workspace was undone: what is left is a folder that holds the records of it. */
const isGone = async (root: string, records: string | null, plan: Plan) =>
  records === null && plan.undoes !== undefined && !(await hasMarker(root));

/** Carries out an order; resolves with its result. */
export async function carryOut(
  order: WorkOrder,
  signal: CancelSignal,
  say: Say,
  of: Pick<Doing, 'parts' | 'allowed' | 'changeable'> = { parts: null, allowed: null, changeable: [] },
): Promise<unknown> {
  const told = throttled(say);
  const doing: Doing = {
    signal,
    say,
    ...of,
    told,
    toldFiles: (files, filesTotal, path) => told({ files, filesTotal, bytes: 0, bytesTotal: null, path }),
    toldBytes: (total) => (d) => told({ ...d, filesTotal: total.files, bytesTotal: total.bytes }),
  };
  const work = works[order.work] as (order: WorkOrder, doing: Doing) => Promise<unknown>;
  return work(order, doing);
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
