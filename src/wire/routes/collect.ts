// Collecting: what scenes need, and the plan of a new folder with it; presets.

import { z } from 'zod';
import { collectNeeds, collectPreset, collectRequest, collectUsed, usedRequest } from '../collect';
import { done, jobRoute, nothing, planMade, route } from './route';

export const readNeeds = jobRoute(
  '/api/workspaces/:id/collect/needs',
  'Everything that scenes need, wherever it lies.',
  collectRequest.pick({ scenes: true, excluded: true }),
  collectNeeds,
);
export const lookUsed = jobRoute(
  '/api/workspaces/:id/collect/used',
  'Frames and tiles of it that no scene shows.',
  usedRequest,
  collectUsed,
);
export const planCollect = jobRoute(
  '/api/workspaces/:id/collect',
  'Plans a new folder with what scenes need; nothing is changed.',
  collectRequest,
  planMade,
);
export const listPresets = route(
  'GET',
  '/api/collect/presets',
  'Kept presets for collecting.',
  nothing,
  z.array(z.object({ id: z.string(), preset: collectPreset })),
);
export const keepPreset = route(
  'POST',
  '/api/collect/presets',
  'Keeps a preset under its name; one of that name is replaced.',
  collectPreset.required({ name: true }),
  z.object({ id: z.string() }),
);
export const dropPreset = route(
  'DELETE',
  '/api/collect/presets',
  'Takes a preset out.',
  z.object({ id: z.string() }),
  done,
);
