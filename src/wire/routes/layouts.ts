// Layouts.

import { z } from 'zod';
import { layoutView } from '../views';
import { done, jobRoute, nothing, route } from './route';

export const listLayouts = route(
  'GET',
  '/api/layouts',
  'All layouts, own ones first.',
  nothing,
  z.array(layoutView),
);
export const keepLayout = route(
  'POST',
  '/api/layouts',
  'Keeps a layout, or another text of one.',
  z.object({ text: z.string().max(200_000), replaces: z.string().nullable().default(null) }),
  z.object({ id: z.string() }),
);
export const dropLayout = route(
  'DELETE',
  '/api/layouts',
  'Takes an own layout out.',
  z.object({ id: z.string() }),
  done,
);
export const convertLayout = route(
  'POST',
  '/api/layouts/convert',
  'A layout as JSON from its text, or the other way round.',
  z.object({ json: z.string().max(1_000_000).optional(), text: z.string().max(200_000).optional() }),
  z.object({ text: z.string(), json: z.string() }),
);
export const layoutFromFolder = jobRoute(
  '/api/layouts/from-folder',
  'A layout as a folder has it.',
  z.object({ path: z.string() }),
  z.object({ text: z.string() }),
);
