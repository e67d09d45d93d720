// What the window shows around every page.

import { z } from 'zod';
import { jobView } from '../jobs';
import { folderView, stateView, foldersToAllow } from '../views';
import { done, nothing, route } from './route';

export const readState = route(
  'GET',
  '/api/state',
  'What is known here: allowed folders, workspaces, layouts.',
  nothing,
  stateView,
);
export const allowFolder = route(
  'POST',
  '/api/allowed',
  'Allows a folder; one that holds more than work only with `sure`.',
  z.object({ path: z.string(), sure: z.boolean().default(false) }),
  z.object({ path: z.string() }),
);
export const disallowFolder = route(
  'DELETE',
  '/api/allowed',
  'No longer allows a folder.',
  z.object({ path: z.string() }),
  done,
);
export const listFolder = route(
  'GET',
  '/api/folders',
  'What lies in a folder that is allowed.',
  z.object({ path: z.string(), files: z.enum(['yes', 'no']).default('no') }),
  folderView,
);
export const listToAllow = route(
  'GET',
  '/api/allowed/choose',
  'Names of the folders in a folder, to choose one that may be allowed; nothing in them is looked at. Without a path: those of the home.',
  z.object({ path: z.string().default('') }),
  foldersToAllow,
);
export const listJobs = route(
  'GET',
  '/api/jobs',
  'Work that is going on, and what ended lately.',
  nothing,
  z.array(jobView),
);
export const cancelJob = route(
  'POST',
  '/api/jobs/:job/cancel',
  'Ends work before its time.',
  nothing,
  z.object({ cancelled: z.boolean() }),
);
export const readSettingOf = route(
  'GET',
  '/api/settings/:name',
  'A setting of this installation.',
  nothing,
  z.object({ value: z.string().nullable() }),
);
export const writeSettingOf = route(
  'POST',
  '/api/settings/:name',
  'Changes a setting of this installation.',
  z.object({ value: z.string().max(10_000) }),
  done,
);
