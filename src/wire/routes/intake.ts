// The holding area, and what is dropped on the window.

import { z } from 'zod';
import { isTreePath } from '@/core/files/treePath';
import { dropRequest, dropView } from '../drops';
import { packFilesView, packsView } from '../views';
import { done, jobRoute, nothing, route } from './route';

export const listPacks = route(
  'GET',
  '/api/workspaces/:id/intake',
  'Packs that wait in the holding area.',
  nothing,
  packsView,
);
export const listPackFiles = route(
  'GET',
  '/api/workspaces/:id/intake/files',
  'The files of a pack.',
  z.object({ pack: z.string().refine(isTreePath) }),
  packFilesView,
);
export const findAlike = jobRoute(
  '/api/workspaces/:id/alike',
  'Compares a pack with what is here already.',
  z.object({ pack: z.string().refine((p) => p !== '' && isTreePath(p)) }),
  z.array(z.object({ path: z.string(), like: z.string(), how: z.enum(['same content', 'looks the same']) })),
);
export const beginDrop = route(
  'POST',
  '/api/drops',
  'Tells a drop before it is sent.',
  dropRequest,
  dropView,
);
export const endDrop = route(
  'DELETE',
  '/api/drops',
  'Ends a drop and takes away what was sent of it.',
  z.object({ drop: z.string() }),
  done,
);
