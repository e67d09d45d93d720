// References at work.

import { z } from 'zod';
import { isTreePath } from '@/core/files/treePath';
import { groupings, likenesses, sortings } from '@/core/references/sheet';
import { groupsView, keysView, mapView, previewView, referenceDetail, sheetRows, triedView } from '../views';
import { bytesRoute, jobRoute, pageQuery, route } from './route';

/** More is chosen by a filter, not one by one. */
export const mostChosen = 100_000;

const key = z.object({ scene: z.string(), at: z.string() });
const treePathText = z.string().refine(isTreePath);
export const filterQuery = z.object({
  q: z.string().max(500).default(''),
  state: z.string().default(''),
  group: z.enum(groupings).default('scene'),
  sort: z.enum(sortings).default('need'),
  down: z.enum(['yes', 'no']).default('no'),
});

export const readGroups = route(
  'GET',
  '/api/workspaces/:id/references',
  'The table of references: its groups, and the first rows.',
  filterQuery,
  groupsView,
);
export const readRows = route(
  'GET',
  '/api/workspaces/:id/references/rows',
  'Rows of the table.',
  filterQuery.extend(pageQuery.shape),
  sheetRows,
);
export const readKeys = route(
  'GET',
  '/api/workspaces/:id/references/keys',
  'Which references a group, a range or a likeness holds.',
  filterQuery.extend({
    in: z.string().optional(),
    scene: z.string().optional(),
    at: z.string().optional(),
    like: z.enum(likenesses).optional(),
    offset: z.coerce.number().int().min(0).default(0),
    limit: z.coerce.number().int().min(0).max(mostChosen).default(mostChosen),
  }),
  keysView,
);
export const readReferencesOf = route(
  'POST',
  '/api/workspaces/:id/references/of',
  'The references with these keys.',
  z.object({ keys: z.array(key).max(20_000) }),
  sheetRows,
);
export const writtenElsewhere = route(
  'POST',
  '/api/workspaces/:id/elsewhere',
  'How written paths are written on another machine.',
  z.object({
    place: z.string(),
    head: z.string(),
    paths: z.array(z.object({ scene: z.string(), written: z.string() })).max(20_000),
  }),
  z.array(z.string()),
);
export const readReference = route(
  'GET',
  '/api/workspaces/:id/reference',
  'One reference with its surroundings.',
  key,
  referenceDetail,
);
export const tryPathsRoute = route(
  'POST',
  '/api/workspaces/:id/try',
  'Where written paths would lead.',
  z.object({ paths: z.array(z.object({ scene: treePathText, written: z.string().max(4000) })).max(500) }),
  triedView,
);
export const suggestCandidates = jobRoute(
  '/api/workspaces/:id/suggest',
  'Looks for what a missing reference could mean.',
  key.extend({ search: z.array(z.string()).max(20).default([]) }),
  z.object({
    candidates: z.array(
      z.object({
        path: z.string(),
        inside: z.boolean(),
        reason: z.string(),
        folders: z.number(),
        neighbours: z.number(),
        size: z.number().nullable(),
        isOtherSize: z.boolean(),
        score: z.number(),
        why: z.string(),
        isSure: z.boolean(),
        sameWay: z.number(),
      }),
    ),
  }),
);
export const readPreviewPicture = bytesRoute(
  '/api/workspaces/:id/preview',
  'A small picture of what a reference leads to.',
  key.extend({
    side: z.coerce.number().int().min(16).max(2048).default(640),
    blank: z.enum(['yes', 'no']).default('no'),
  }),
  'image/webp',
);
export const readMap = route(
  'GET',
  '/api/workspaces/:id/map',
  'What leads to what.',
  z.object({ open: z.string().max(20_000).default('') }),
  mapView,
);
export const readScene = route(
  'GET',
  '/api/workspaces/:id/scene',
  'A scene with all it leads to, to be shown in space.',
  z.object({ scene: treePathText }),
  previewView,
);
export const readContent = bytesRoute(
  '/api/workspaces/:id/content',
  'The bytes of a scene, or of what one of its references leads to.',
  z.object({
    scene: treePathText,
    at: z.string().optional(),
    as: z.literal('glb').optional().describe('The scene as binary glTF, by a second reader.'),
  }),
  'application/octet-stream',
);
