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
/** By a verb of the command line that applies what it plans. */
const ofVerbs: Partial<Record<string, HookEvent>> = {
  save: 'version.saved',
  restore: 'version.saved',
  collect: 'collected',
  backup: 'backed-up',
};

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
    const event = ofVerbs[order.verb];
    const status = (result as { status?: unknown } | null)?.status;
    if (!event || !order.args.includes('--yes') || status === 2) return null;
    return { event, data: { root: order.root, verb: order.verb, args: order.args.slice(0, mostNamed) } };
  }
  return null;
}
