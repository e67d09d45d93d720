// Parts of scenes, and settings side by side. Their plans are among the workspace's plans.

import { besideRequest, besideView, carryNodes, carryNodesLook, sceneNodes, sceneOf } from '../nodes';
import { jobRoute } from './route';

export const readNodes = jobRoute(
  '/api/workspaces/:id/nodes',
  'The nodes of a scene, of this workspace or another folder.',
  sceneOf,
  sceneNodes,
);
export const lookNodes = jobRoute(
  '/api/workspaces/:id/nodes/look',
  'What chosen nodes of a scene stand on, and what that would meet in a scene here.',
  carryNodes,
  carryNodesLook,
);
export const layBeside = jobRoute(
  '/api/workspaces/:id/beside',
  'Settings of this workspace beside those of another, or of two scenes.',
  besideRequest,
  besideView,
);
