// Files of a workspace.

import { z } from 'zod';
import { isTreePath } from '@/core/files/treePath';
import { fileDetail, fileView, ledgerLine, roomView, unusedView } from '../views';
import { treePathSchema } from '../plan';
import { bytesRoute, jobRoute, nothing, pageQuery, route } from './route';

const treePathText = z.string().refine(isTreePath);

export const listFiles = route(
  'GET',
  '/api/workspaces/:id/files',
  'What lies in a folder of the workspace.',
  z.object({ folder: z.string().default('') }),
  z.array(fileView),
);
export const readRoom = route(
  'GET',
  '/api/workspaces/:id/room',
  'How much room files take, by home or by use.',
  z.object({ by: z.enum(['home', 'use']) }),
  z.array(roomView),
);
export const findDuplicates = jobRoute(
  '/api/workspaces/:id/duplicates',
  'Looks for files that are there twice.',
  nothing,
  z.array(
    z.object({ size: z.number(), files: z.array(z.object({ path: treePathSchema, uses: z.number() })) }),
  ),
);
export const listUnusedFiles = route(
  'GET',
  '/api/workspaces/:id/unused',
  'Files that scenes would be expected to use, and none does.',
  pageQuery,
  unusedView,
);
export const readFileDetail = route(
  'GET',
  '/api/workspaces/:id/file',
  'One file with its surroundings.',
  z.object({ path: treePathText }),
  fileDetail,
);
export const readPicture = bytesRoute(
  '/api/workspaces/:id/picture',
  'A small picture of a file.',
  z.object({ path: treePathText }),
  'image/webp',
);
export const readFrame = bytesRoute(
  '/api/workspaces/:id/frame',
  'A picture as a frame of a clip: on black, light above white pressed together, at most `side` pixels a side.',
  z.object({ path: treePathText, side: z.coerce.number().int().min(16).max(4096) }),
  'image/jpeg',
);
export const listScenes = route(
  'GET',
  '/api/workspaces/:id/scenes',
  'All scenes.',
  nothing,
  z.array(z.string()),
);
/** `seen`: when, in ms. */
export const readSeenLedger = route(
  'GET',
  '/api/workspaces/:id/ledger/seen',
  'What was done, as it was read last, while the workspace’s drive is away; null where it never was read.',
  nothing,
  z.object({ seen: z.number(), lines: z.array(ledgerLine) }).nullable(),
);

export const readLedgerLines = route(
  'GET',
  '/api/workspaces/:id/ledger',
  'What was done, all of it or to one file.',
  z.object({ path: z.string().optional() }),
  z.array(ledgerLine),
);
