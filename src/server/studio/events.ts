// What of the work that was done web hooks are told: pure, from the order and what came of it.

import type { HookEvent } from '@/wire/routes/pipelines';
import type { WorkOrder } from '@/wire/jobs';

export interface Happened {
  event: HookEvent;
  data: Record<string, unknown>;
}

/** By what a plan is. */
const ofPlans: Partial<Record<string, HookEvent>> = {
  save: 'version.saved',
  restore: 'version.saved',
  collect: 'collected',
};
/** By a verb of the command line; `plans`: only where its plan is applied. */
const ofVerbs: Partial<Record<string, { event: HookEvent; plans: boolean }>> = {
  save: { event: 'version.saved', plans: true },
  restore: { event: 'version.saved', plans: true },
  collect: { event: 'collected', plans: true },
  backup: { event: 'backed-up', plans: false },
};

/** Whether the plan of a verb is to be applied. */
export const isApplied = (args: readonly string[]): boolean => args.includes('--yes') || args.includes('-y');

/** Files that steps put there, of a version or a collection: the first of them. */
const mostNamed = 200;

/** What an order that is done is told as; null: nobody waits for that. `result`: what its worker said. */
export function happenedBy(order: WorkOrder, result: unknown): Happened | null {
  if (order.work === 'apply') {
    const event = ofPlans[order.plan.kind];
    if (!event) return null;
    const entry = (result as { id?: unknown } | null)?.id;
    const files = order.plan.steps.flatMap((s) => (s.do === 'put' ? [s.path] : []));
    return {
      event,
      data: {
        ...{ root: order.root, title: order.plan.title, entry: typeof entry === 'string' ? entry : null },
        files: files.slice(0, mostNamed),
      },
    };
  }
  if (order.work === 'backup')
    return { event: 'backed-up', data: { root: order.root, folder: order.folder, as: order.as } };
  if (order.work === 'verb') {
    const of = ofVerbs[order.verb];
    const status = (result as { status?: unknown } | null)?.status;
    if (!of || (of.plans && !isApplied(order.args)) || status === 2) return null;
    return {
      event: of.event,
      data: { root: order.root, verb: order.verb, args: order.args.slice(0, mostNamed) },
    };
  }
  return null;
}
