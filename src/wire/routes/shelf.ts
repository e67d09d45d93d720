// Work above single workspaces.

import { z } from 'zod';
import { fileKinds } from '@/core/layouts/homes';
import { adoptRequest, createManyRequest, relocateRequest } from '../jobs';
import { createManyPreview, shelfView } from '../views';
import { treePathSchema } from '../plan';
import { jobRoute, nothing, planMade, route } from './route';

const layoutChoice = z.object({ id: z.string().optional(), text: z.string().optional() });

export const previewMany = route(
  'POST',
  '/api/workspaces/many/preview',
  'What a list of names would make.',
  createManyRequest,
  createManyPreview,
);
export const createMany = jobRoute(
  '/api/workspaces/many',
  'Plans several workspaces.',
  createManyRequest,
  planMade,
);
export const recogniseFolder = jobRoute(
  '/api/recognise',
  'Looks through a folder that is to be adopted.',
  z.object({ path: z.string(), layout: layoutChoice }),
  z.object({
    folders: z.array(
      z.object({
        path: z.string(),
        files: z.number(),
        bytes: z.number(),
        kinds: z.partialRecord(z.enum(fileKinds), z.number()),
      }),
    ),
    homes: z.partialRecord(z.enum(fileKinds), z.string()),
    loose: z.number(),
    files: z.number(),
    bytes: z.number(),
    nested: z.array(treePathSchema),
  }),
);
export const adoptFolder = jobRoute(
  '/api/adopt',
  'Plans how a folder is taken over.',
  adoptRequest,
  planMade,
);
export const findWorkspacesRoute = jobRoute(
  '/api/find',
  'Looks for workspaces below a folder.',
  z.object({ path: z.string() }),
  z.array(
    z.object({
      root: z.string(),
      name: z.string(),
      inside: z.string().nullable(),
      problem: z.string().nullable(),
    }),
  ),
);
export const relocate = jobRoute(
  '/api/relocate',
  'Plans the move of whole workspaces.',
  relocateRequest,
  planMade,
);
export const readShelf = route(
  'GET',
  '/api/shelf',
  'What was done above single workspaces.',
  nothing,
  shelfView,
);
export const undoOnShelf = route(
  'POST',
  '/api/shelf/undo',
  'Plans the undo of such an entry.',
  z.object({ container: z.string(), id: z.string() }),
  planMade,
);
