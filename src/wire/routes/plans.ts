// Plans: made, reviewed, applied.

import { z } from 'zod';
import { planRequest } from '../jobs';
import { planView } from '../views';
import { jobRoute, nothing, planMade, route } from './route';

export const makePlan = jobRoute(
  '/api/workspaces/:id/plans',
  'Makes a plan; nothing is changed.',
  planRequest,
  planMade,
);
export const readPlan = route('GET', '/api/plans/:plan', 'A plan that waits for review.', nothing, planView);
/** `gone`: the workspace itself is no more; `workspace`: the one to go to, where that is another. */
export const applyPlanRoute = jobRoute(
  '/api/plans/:plan/apply',
  'Applies a plan.',
  nothing,
  z.object({ id: z.string(), gone: z.boolean().optional(), workspace: z.string().optional() }),
);
