// Versions of scenes, and the net under them.

import { z } from 'zod';
import { isTreePath } from '@/core/files/treePath';
import {
  checkpointView,
  compareView,
  completeView,
  costView,
  netView,
  outputsView,
  sinceView,
  seriesView,
  versionsView,
} from '../views';
import { calendarDay } from '../jobs';
import { treePathSchema } from '../plan';
import { bytesRoute, jobRoute, nothing, route } from './route';

const treePathText = z.string().refine(isTreePath);

export const listSeries = route(
  'GET',
  '/api/workspaces/:id/series',
  'Every scene that is worked on, with how many versions it has.',
  nothing,
  z.array(seriesView),
);
export const listVersions = route(
  'GET',
  '/api/workspaces/:id/versions',
  'All versions of a scene.',
  z.object({ scene: treePathText }),
  versionsView,
);
export const readNet = route(
  'GET',
  '/api/workspaces/:id/net',
  'What the net holds of a scene, where it has holes, and what other programs have saved of it.',
  z.object({ scene: treePathText }),
  netView,
);
export const keepNow = route(
  'POST',
  '/api/workspaces/:id/net',
  'A round of the net now: every scene that changed is kept.',
  nothing,
  z.object({
    kept: z.array(z.object({ scene: z.string(), broken: z.string().nullable() })),
    skipped: z.array(z.object({ scene: z.string(), why: z.string(), message: z.string() })),
    unchanged: z.number(),
  }),
);

/** A state: a path (also of a version that is kept compact), or `kept` and the time in ms at which the net kept it. */
const state = z.string().refine((s) => /^kept \d+(?:\.\d+)?$/.test(s) || (s !== '' && isTreePath(s)));

export const compareVersions = route(
  'GET',
  '/api/workspaces/:id/compare',
  'What differs between two states of a scene.',
  z.object({ scene: treePathText, before: state, after: state }),
  compareView,
);

export const readState = bytesRoute(
  '/api/workspaces/:id/state',
  'The bytes of a state of a scene, or of a file beside it (`uri`, as the scene writes it) as that was then.',
  z.object({ scene: treePathText, state, uri: z.string().max(4000).optional() }),
  'application/octet-stream',
);

/** A scene that somebody holds while they work on it in another program. */
export const holdView = z.object({
  scene: treePathSchema,
  by: z.string(),
  since: z.string(),
  why: z.string(),
});
export const listHolds = route(
  'GET',
  '/api/workspaces/:id/holds',
  'Scenes that somebody holds while they work on them in another program.',
  nothing,
  z.array(holdView),
);
export const sayHoldRoute = route(
  'POST',
  '/api/workspaces/:id/holds',
  'Holds a scene, lets it go, or breaks somebody else’s hold with a reason that is kept. On a server for several.',
  z
    .object({
      do: z.enum(['hold', 'release', 'break']),
      scene: treePathSchema,
      why: z.string().trim().max(500).default(''),
    })
    .refine((v) => v.do !== 'break' || v.why !== '', 'A hold is broken with a reason.'),
  z.array(holdView),
);

export const listCheckpoints = route(
  'GET',
  '/api/workspaces/:id/checkpoints',
  'States of the workspace to go back to, the newest first.',
  nothing,
  z.array(checkpointView),
);
export const makeCheckpointRoute = jobRoute(
  '/api/workspaces/:id/checkpoints',
  'Makes a checkpoint of the workspace, or of some of its files and folders.',
  z.object({ name: z.string().max(200), scope: z.array(treePathText).default([]) }),
  checkpointView.extend({ read: z.number(), added: z.number(), unread: z.array(z.string()) }),
);
export const readSince = route(
  'GET',
  '/api/workspaces/:id/checkpoint',
  'What changed since a checkpoint.',
  z.object({ checkpoint: z.string() }),
  sinceView,
);

export const listOutputs = jobRoute(
  '/api/workspaces/:id/outputs',
  'Every output with its scene, version and camera; and what the next one is to be called. `today`: the local calendar day.',
  z.object({ today: calendarDay }),
  outputsView,
);
export const workOutCost = jobRoute(
  '/api/workspaces/:id/cost',
  'What versions cost on the drive, in the store and as copies, and what scenes carry inside them again and again.',
  nothing,
  costView,
);
export const checkOutputs = jobRoute(
  '/api/workspaces/:id/complete',
  'Looks at every output that the list of passes (passes.json in the root) expects; null: there is no list.',
  nothing,
  completeView.nullable(),
);
