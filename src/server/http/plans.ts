// Plans: made by a job, kept for review, applied by another.

import { AppError } from '@/core/errors';
import { type PlanRequest } from '@/wire/jobs';
import { planSchema } from '@/wire/plan';
import { listSeen } from '../database/queries';
import { rememberedHeads } from '../arrive/heads';
import { shapeOfError } from '../errorShape';
import { beginPlan, keepPlan, workspaceOf, type BegunPlan, type Hub, type WaitingPlan } from '../hub';
import { allowedPath, givenPath } from '../allowed';
import { batchFolder, newBatch } from '../workspaces/stage';
import { afterApply } from './afterApply';
import { applyPlanRoute, makePlan, readPlan, readPlanState, type PlanState } from '@/wire/routes/plans';
import { endpoint } from './handle';
import { knownNeighbours } from './neighbours';
import { planView } from './planView';
import { layoutOf, layoutSource } from './workspaceView';

function titleOf(request: PlanRequest): string {
  return {
    bring: 'Plan what comes in',
    travel: 'Plan how references travel',
    save: 'Plan the next version',
    restore: 'Plan the way back',
    habit: 'Plan the other habit',
    compact: 'Plan what is kept compact',
    spread: 'Plan what becomes files again',
    'net-back': 'Plan the way back',
    back: 'Plan the way back',
    convert: 'Plan the other form',
    passes: 'Plan the list of passes',
    'take-out': 'Plan what is taken out of scenes',
    drop: 'Plan what is given up',
    carry: 'Plan what is carried over',
    'carry-nodes': 'Plan what is carried into the scene',
    embed: 'Plan the one file',
    extract: 'Plan how it is taken apart',
    'take-over': 'Plan what is taken over',
    'other-back': 'Plan the way back',
    undo: 'Plan the undo',
    relink: 'Plan where paths point',
    repath: 'Plan the new paths',
    tidy: 'Plan where things go',
    move: 'Plan the move',
    homes: 'Plan the new homes',
    settings: 'Plan the settings',
    layout: 'Plan the layout',
    arrive: 'Plan what is taken over',
    'give-back': 'Plan what is given back',
    fit: 'Plan names and paths that fit',
    bundle: 'Plan the bundle',
    apart: 'Plan what is taken apart',
    nested: 'Plan the repair',
    bin: 'Plan the clearing',
    merge: 'Plan the merging',
    intake: 'Plan what is taken in',
    take: 'Plan what is taken out',
    yardstick: 'Plan the grid and box',
  }[request.kind];
}

// Plans by which files may come to lie elsewhere: only these can break what other workspaces point to.
const mayMove: ReadonlySet<PlanRequest['kind']> = new Set([
  'take-over',
  'move',
  'homes',
  'fit',
  'bundle',
  'tidy',
  'habit',
  'layout',
  'nested',
  'bin',
  'merge',
  'take',
  'undo',
]);

/** A plan that waits for review, of a folder that is still allowed. */
function planGone(begun: BegunPlan | undefined): AppError {
  if (!begun)
    return new AppError(
      'plan-gone',
      'This plan is not waiting any more.',
      'Nothing was changed now; the ledger shows whether it was applied before.',
    );
  const { title, end } = begun;
  const was = end === null ? 'is being applied' : 'entry' in end ? 'was applied' : 'was tried, and failed';
  return new AppError('plan-gone', `“${title}” ${was}.`, 'It was not applied a second time.');
}

async function stateOfPlan(h: Hub, id: string): Promise<PlanState> {
  const begun = h.begunPlans.get(id);
  if (!begun) return { is: h.plans.has(id) ? 'waiting' : 'gone' };
  const { title, workspace, root, end } = begun;
  await allowedPath(h, root);
  if (end === null) return { is: 'applying', title };
  return 'error' in end
    ? { is: 'failed', title, error: end.error }
    : { is: 'applied', title, entry: end.entry, workspace };
}

async function waitingPlan(h: Hub, id: string): Promise<WaitingPlan> {
  const waiting = h.plans.get(id);
  if (!waiting) throw planGone(h.begunPlans.get(id));
  if (waiting.workspace === null) await allowedPath(h, waiting.root);
  else await workspaceOf(h, waiting.workspace);
  return waiting;
}

export const planEndpoints = [
  endpoint(makePlan, async (h, input, { id }) => {
    const row = await workspaceOf(h, id!);
    if (input.kind === 'bring')
      input.files = await Promise.all(input.files.map((file) => givenPath(h, file)));
    if (input.kind === 'intake') input.from = await givenPath(h, input.from);
    if (input.kind === 'carry') input.from = await allowedPath(h, input.from);
    if (input.kind === 'carry-nodes') input.from.root = await allowedPath(h, input.from.root);
    if (input.kind === 'take-over') input.from = await allowedPath(h, input.from);
    if (input.kind === 'give-back') input.folder = await allowedPath(h, input.folder);
    if (input.kind === 'arrive') input.from = h.drops.pathOf(input.from, h.who);
    if (input.kind === 'relink') for (const folder of input.search) await allowedPath(h, folder);
    const dropped = input.kind === 'bring' ? input.files : input.kind === 'intake' ? [input.from] : [];
    const seen =
      input.kind === 'relink'
        ? (await listSeen(h.db, row.id)).map((s): [string, number] => [s.path, s.size])
        : [];
    const layout = input.kind === 'layout' ? layoutSource(layoutOf(h, input.layout)) : null;
    return h.jobs.start({
      order: {
        work: 'plan',
        root: row.root,
        request: input,
        seen,
        layout,
        neighbours: mayMove.has(input.kind) ? await knownNeighbours(h, row.root) : [],
        staging:
          input.kind === 'intake' || input.kind === 'give-back'
            ? batchFolder(h.dataFolder, newBatch(h.dataFolder))
            : null,
        notes: h.drops.notesFor(dropped),
      },
      title: titleOf(input),
      workspace: row.id,
      finish: async (result) => ({
        plan: keepPlan(
          h,
          {
            workspace: row.id,
            root: row.root,
            ...(input.kind === 'arrive' ? { arrived: input.from } : {}),
          },
          planSchema.parse(result),
        ),
      }),
    });
  }),
  endpoint(readPlan, async (h, _, { plan }) => planView(h, await waitingPlan(h, plan!))),
  endpoint(applyPlanRoute, async (h, _, { plan }) => {
    const waiting = await waitingPlan(h, plan!);
    const begun = beginPlan(h, waiting);
    const job = h.jobs.start({
      order: {
        work: 'apply',
        root: waiting.root,
        plan: waiting.plan,
        records: waiting.records,
        makes: waiting.makes ?? undefined,
        arrived:
          waiting.arrived === null
            ? undefined
            : { from: waiting.arrived, heads: rememberedHeads(h.dataFolder) },
      },
      title: waiting.plan.title,
      workspace: waiting.workspace,
      finish: async (result) => ({
        ...(result as { id: string; gone?: boolean }),
        ...(await afterApply(h, waiting, (result as { gone?: boolean }).gone === true)),
      }),
    });
    void h.jobs.ended(job.id)?.then(({ state, result, error }) => {
      begun.end =
        state === 'done'
          ? { entry: (result as { id: string }).id }
          : { error: error ?? shapeOfError(new DOMException('', 'AbortError')) };
    });
    return job;
  }),
  endpoint(readPlanState, (h, _, { plan }) => stateOfPlan(h, plan!)),
];
