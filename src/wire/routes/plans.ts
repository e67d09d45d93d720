// Plans: made, reviewed, applied.

import { z } from 'zod';
import { errorShape, planRequest } from '../jobs';
import { planView } from '../views';
import { jobRoute, nothing, planMade, route } from './route';

export const makePlan = jobRoute(
  '/api/workspaces/:id/plans',
  'Makes a plan; nothing is changed.',
  planRequest,
  planMade,
);
export const readPlan = route('GET', '/api/plans/:plan', 'A plan that waits for review.', nothing, planView);
/** `gone`: it was never made here, or the server was started anew since; the ledger tells whether it was applied. */
export const planState = z.discriminatedUnion('is', [
  z.object({ is: z.literal('waiting') }),
  z.object({ is: z.literal('applying'), title: z.string() }),
  /** `entry`: its entry in the ledger. `workspace`: null if it changed no single workspace. */
  z.object({
    is: z.literal('applied'),
    title: z.string(),
    entry: z.string(),
    workspace: z.string().nullable(),
  }),
  z.object({ is: z.literal('failed'), title: z.string(), error: errorShape }),
  z.object({ is: z.literal('gone') }),
]);
export type PlanState = z.infer<typeof planState>;
export const readPlanState = route(
  'GET',
  '/api/plans/:plan/state',
  'Whether a plan waits, is being applied, or was applied.',
  nothing,
  planState,
);
/** `gone`: the workspace itself is no more; `workspace`: the one to go to, where that is another. */
export const applyPlanRoute = jobRoute(
  '/api/plans/:plan/apply',
  'Applies a plan.',
  nothing,
  z.object({ id: z.string(), gone: z.boolean().optional(), workspace: z.string().optional() }),
);
