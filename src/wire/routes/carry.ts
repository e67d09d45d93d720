// Carrying over: what a folder has, and what it would meet in a workspace. Its plan is one of the workspace's plans.

import { z } from 'zod';
import { carryAssets, carryLook, carryRequest } from '../collect';
import { jobRoute } from './route';

export const listAssets = jobRoute(
  '/api/workspaces/:id/carry/assets',
  'Files of another workspace or folder that could be carried over.',
  z.object({ from: z.string().min(1) }),
  carryAssets,
);
export const lookCarry = jobRoute(
  '/api/workspaces/:id/carry/look',
  'What is needed of what is carried over, and what it would meet here.',
  carryRequest,
  carryLook,
);
