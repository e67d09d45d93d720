// Workspaces: made, opened, looked over, read anew, put back.

import { z } from 'zod';
import { createRequest, jobView, scanSaid } from '../jobs';
import { createPreview, overviewView, settledView, workspaceView } from '../views';
import { done, nothing, route, type Route } from './route';

export const previewCreate = route(
  'POST',
  '/api/workspaces/preview',
  'What creating a workspace would make.',
  createRequest,
  createPreview,
);
export const createWorkspaceRoute = route(
  'POST',
  '/api/workspaces',
  'Creates a workspace.',
  createRequest,
  workspaceView,
);
export const openWorkspace = route(
  'POST',
  '/api/workspaces/open',
  'Opens the workspace in which a path lies.',
  z.object({ path: z.string() }),
  workspaceView,
);
export const forgetWorkspaceRoute = route(
  'DELETE',
  '/api/workspaces/:id',
  'Forgets a workspace; its folder stays as it is.',
  nothing,
  done,
);
export const readOverview = route(
  'GET',
  '/api/workspaces/:id',
  'Whether a workspace would open, complete, on another machine.',
  nothing,
  overviewView,
);
export const putBack = route(
  'POST',
  '/api/workspaces/:id/put-back',
  'Puts back what was begun and not finished, or leaves it as it is.',
  z.object({ id: z.string(), leave: z.boolean().default(false) }),
  settledView,
);
export const scanWorkspace: Route<
  '/api/workspaces/:id/scan',
  typeof nothing,
  typeof jobView,
  typeof scanSaid
> = {
  ...route('POST', '/api/workspaces/:id/scan', 'Reads a workspace anew.', nothing, jobView),
  result: scanSaid,
};
