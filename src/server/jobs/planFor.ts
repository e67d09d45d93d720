// Which plan an order asks for, and how it is made: one line for each kind of plan.

import { AppError } from '@/core/errors';
import type { CancelSignal } from '@/core/files/fileTree';
import type { Plan } from '@/core/changes/plan';
import { nameOf, treePath } from '@/core/files/treePath';
import { machineOf, movedTo } from '@/core/places/machine';
import { readLayout } from '@/core/layouts/layout';
import { followBack } from '@/core/plans/followBack';
import { planBring } from '@/core/plans/planBring';
import { planBack, planDrop } from '@/core/plans/planBack';
import { planBin } from '@/core/plans/planBin';
import { planCompact, planSpread } from '@/core/plans/planCompact';
import { planConvert } from '@/core/plans/planConvert';
import { planEmbed } from '@/core/plans/planEmbed';
import { planExtract } from '@/core/plans/planExtract';
import { planArriveAgain } from '@/core/plans/planArriveAgain';
import { planApart, planBundle } from '@/core/plans/planBundle';
import { planFit } from '@/core/plans/planFit';
import { planHabit } from '@/core/plans/planHabit';
import { planHomes } from '@/core/plans/planHomes';
import { planLayout } from '@/core/plans/planLayout';
import { planMove } from '@/core/plans/planMove';
import { planSettings } from '@/core/plans/planSettings';
import { planIntake } from '@/core/plans/planIntake';
import { planTake } from '@/core/plans/planTake';
import { planMerge } from '@/core/plans/planMerge';
import { planTakeOut } from '@/core/plans/planTakeOut';
import { planPasses } from '@/core/plans/planPasses';
import { planNet, planOtherSave } from '@/core/plans/planNet';
import { planNested } from '@/core/plans/planNested';
import { planYardstick } from '@/core/plans/planYardstick';
import { planRelink } from '@/core/plans/planRelink';
import { planRepath } from '@/core/plans/planRepath';
import { planTidy } from '@/core/plans/planTidy';
import { planTravel } from '@/core/plans/planTravel';
import { planRestore } from '@/core/plans/planRestore';
import { planSave } from '@/core/plans/planSave';
import { sceneNets } from '@/core/versions/net';
import { scenePaths } from '@/core/references/scan';
import type { PlanRequest, WorkOrder } from '@/wire/jobs';
import { checkSameLine } from '../arrive/lineage';
import { openBackups, snapshotOf } from '../backups/backupFolder';
import { giveBack, partOf } from '../backups/giveBack';
import { diskOutside } from '../disk/diskOutside';
import { settingsAfter } from '../workspaces/settings';
import { packName, stage } from '../workspaces/stage';
import { recordsIn } from '../workspaces/changing';
import { planUndoOf } from '../workspaces/ledger';
import { checkpointOf } from '../workspaces/checkpoints';
import { planTaking } from '../workspaces/beside';
import { planCarrying } from '../workspaces/carry';
import { sourceOf } from '../workspaces/collect';
import { planNodes } from '../workspaces/nodes';
import { netLines } from '../workspaces/net';
import { readWorkspace, type OpenWorkspace } from '../workspaces/open';

type PlanOrder = Extract<WorkOrder, { work: 'plan' }>;
type Kind = PlanRequest['kind'];
type RequestOf<K extends Kind> = Extract<PlanRequest, { kind: K }>;

/** What a plan is made with. */
interface Planning {
  workspace: OpenWorkspace;
  order: PlanOrder;
  signal: CancelSignal;
  /** ISO time. */
  now: string;
  onScene: (path: string, of?: number) => void;
  watched: { signal: CancelSignal; onScene: (done: number, of: number, path: string) => void };
  /** Another workspace, or any folder. */
  open: (root: string) => Promise<OpenWorkspace>;
}

type Planners = { [K in Kind]: (request: RequestOf<K>, planning: Planning) => Promise<Plan> };

/** What was last seen at paths inside the root. */
export function seenOf(seen: readonly (readonly [string, number])[]): Map<string, { size: number }> {
  return new Map(seen.map(([path, size]) => [path, { size }]));
}

const planners: Planners = {
  bring: ({ files }, { workspace }) => planBring(workspace, { files }),
  travel: ({ only }, { workspace, signal, onScene }) =>
    planTravel(workspace, { only, signal, onScene: (_, at) => onScene(at) }),
  save: ({ scenes, note }, { workspace, now, watched }) =>
    planSave(workspace, { scenes: scenes?.map(treePath) ?? null, note, now, ...watched }),
  habit: ({ habit, pattern }, { workspace, watched }) =>
    planHabit(workspace, { kind: habit, pattern }, watched),
  compact: ({ versions }, { workspace, now, watched }) =>
    planCompact(workspace, { versions: versions.map(treePath), now, ...watched }),
  spread: ({ versions }, { workspace }) => planSpread(workspace, versions.map(treePath)),
  restore: ({ scene, number, version, note }, { workspace, now }) =>
    planRestore(workspace, {
      scene: treePath(scene),
      number,
      version: version === undefined ? undefined : treePath(version),
      note,
      now,
    }),
  async 'net-back'({ scene, at, when }, { workspace, now }) {
    const states = sceneNets(await netLines(workspace.tree)).get(treePath(scene))?.states ?? [];
    const state = states.find((s) => s.at === at);
    if (!state) throw new AppError('not-found', `The net has no such state of ${scene} any more.`);
    return planNet(workspace, { scene: treePath(scene), state, when, now });
  },
  'other-back': ({ scene, path }, { workspace, now }) =>
    planOtherSave(workspace, { scene: treePath(scene), path: treePath(path), now }),
  convert: ({ path, to, follow, as }, { workspace }) =>
    planConvert(workspace, { path: treePath(path), to: treePath(to), follow, as }),
  'take-out': ({ scenes, digest }, { workspace }) =>
    planTakeOut(workspace, { scenes: scenes.map(treePath), digest }),
  async carry({ from, clashes, unticked, ...request }, { workspace, signal, watched, open }) {
    const { plan } = await planCarrying(workspace, await open(from), {
      ...request,
      unticked: new Set(unticked),
      clashes: new Map(clashes),
      signal,
      onFile: watched.onScene,
    });
    return plan;
  },
  'carry-nodes': async (request, { workspace, open }) =>
    (await planNodes(workspace, await open(request.from.root), request)).plan,
  embed: ({ path, to }, { workspace }) =>
    planEmbed(
      { source: sourceOf(workspace), target: workspace },
      { from: `${workspace.root}/${path}`, to: treePath(to) },
    ),
  extract: ({ path }, { workspace }) =>
    planExtract(
      { source: sourceOf(workspace), target: workspace },
      { from: `${workspace.root}/${path}`, into: null },
    ),
  'take-over': async ({ from, scenes, keys }, { workspace, open }) =>
    planTaking(
      { workspace, scene: scenes && treePath(scenes.into) },
      { workspace: await open(from), scene: scenes && treePath(scenes.from) },
      keys,
    ),
  passes: ({ file }, { workspace }) => planPasses(workspace, file),
  back: async ({ id }, { workspace, now }) =>
    planBack(workspace, await checkpointOf(workspace.tree, id), now),
  drop: async ({ id }, { workspace }) => {
    const { name } = await checkpointOf(workspace.tree, id);
    return planDrop(workspace, id, name);
  },
  undo: async ({ id }, { workspace, watched }) =>
    followBack(workspace, await planUndoOf(recordsIn(workspace.root), id), watched),
  relink: (request, { workspace, order, signal }) =>
    planRelink(workspace, { ...request, seen: seenOf(order.seen), signal }),
  async repath({ change, only, nested }, { workspace }) {
    const named = change.how === 'exact' ? change.paths : only;
    const scenes = named
      ? [...new Set(named.map((o) => treePath(o.scene)))]
      : (await scenePaths(workspace.tree)).scenes;
    return planRepath(workspace, { scenes, change, only: only ?? undefined, nested });
  },
  tidy: ({ only }, { workspace, watched }) => planTidy(workspace, { only, ...watched }),
  move: ({ moves }, { workspace, watched }) => planMove(workspace, moves, watched),
  homes: ({ changes }, { workspace, watched }) => planHomes(workspace, changes, watched),
  settings: async ({ change }, { workspace, now }) =>
    planSettings(workspace, ...(await settingsAfter(workspace, change, now))),
  layout(_, { workspace, order, watched }) {
    const { text, id } = order.layout!;
    return planLayout(workspace, readLayout(text, id, id), watched);
  },
  fit: ({ place, at, what }, { workspace, watched }) =>
    planFit(workspace, {
      machine: movedTo(machineOf(place, workspace.file.places), at),
      name: nameOf(workspace.root),
      what,
      ...watched,
    }),
  bundle: ({ of }, { workspace, now, watched }) => planBundle(workspace, of, { now, ...watched }),
  apart: ({ bundles }, { workspace, now, watched }) =>
    planApart(workspace, bundles.map(treePath), { now, ...watched }),
  async arrive({ from, choices, sameWork }, { workspace }) {
    if (!sameWork) await checkSameLine(workspace, from);
    return planArriveAgain(workspace, from, new Map(choices), diskOutside);
  },
  async 'give-back'({ folder, snapshot, paths }, { workspace, order, signal }) {
    const backups = await openBackups(folder);
    const from = `${order.staging!}/it`;
    const { lost } = await giveBack(backups, snapshot, paths, from, { signal });
    const missed = new Set(lost.map((l) => l.path));
    const { files } = partOf(await snapshotOf(backups, snapshot), paths);
    const given = files.map((f) => f[0] as string).filter((at) => !missed.has(at));
    const choices = new Map(given.map((at) => [at, 'take' as const]));
    const plan = await planArriveAgain(workspace, from, choices, diskOutside);
    const notes = lost.map(
      (l) => ({ level: 'warning', code: 'lost', message: l.why, path: l.path }) as const,
    );
    return {
      ...plan,
      title: plan.title.replace(/^Take (.*) over$/, 'Give $1 back'),
      notes: [...plan.notes, ...notes],
    };
  },
  async nested({ inner, how }, { workspace, watched }) {
    const file = await readWorkspace(`${workspace.root}/${inner}`).then(
      (w) => w.file,
      () => null,
    );
    return planNested(workspace, { inner: treePath(inner), file, how, ...watched });
  },
  bin: ({ paths }, { workspace, now }) => planBin(workspace, paths.map(treePath), now),
  merge: ({ groups }, { workspace, now, signal, onScene }) =>
    planMerge(workspace, groups, now, { signal, onFile: (_, at) => onScene(at) }),
  take: ({ paths }, { workspace, watched }) => planTake(workspace, { paths, ...watched }),
  yardstick: ({ formats }, { workspace }) =>
    planYardstick(workspace, { units: workspace.file.units, formats }),
  async intake({ from, name }, { workspace, order, signal, onScene }) {
    const ready = await stage(from, order.staging!, signal, (d) => onScene(d.path));
    return planIntake(workspace, {
      from: ready.path,
      name: name ?? packName(from),
      litter: ready.litter,
      signal,
      onFile: (_, at) => onScene(at),
    });
  },
};

/** The plan that an order asks for. */
export function planFor(
  workspace: OpenWorkspace,
  order: PlanOrder,
  signal: CancelSignal,
  onScene: (path: string, of?: number) => void,
  open: Planning['open'],
): Promise<Plan> {
  const { request } = order;
  const planner = planners[request.kind] as (request: PlanRequest, planning: Planning) => Promise<Plan>;
  const watched = { signal, onScene: (_: number, of: number, at: string) => onScene(at, of) };
  const now = new Date().toISOString();
  return planner(request, { workspace, order, signal, now, onScene, watched, open });
}
