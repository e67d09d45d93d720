// Settings of a workspace, what its scenes measure, what lies about in it; and what kind of place a folder is.

import { z } from 'zod';
import { fileKinds } from '@/core/layouts/homes';
import { placeView, sceneMeasure, settingsView } from '../views';
import { treePathSchema } from '../plan';
import { jobRoute, nothing, route } from './route';

const path = z.object({ path: z.string() });

export const readPlace = route('GET', '/api/place', 'What kind of place a folder is.', path, placeView);
export const probePlace = jobRoute('/api/place/probe', 'Measures how fast a place is.', path, placeView);
export const readSettings = route(
  'GET',
  '/api/workspaces/:id/settings',
  'The settings of a workspace.',
  nothing,
  settingsView,
);
export const measureScenesRoute = jobRoute(
  '/api/workspaces/:id/measure',
  'Measures all scenes.',
  nothing,
  z.array(sceneMeasure),
);
export const findLoose = jobRoute(
  '/api/workspaces/:id/loose',
  'Looks for files that do not lie in the homes of their kinds.',
  nothing,
  z.array(z.object({ path: treePathSchema, kind: z.enum(fileKinds), size: z.number() })),
);
