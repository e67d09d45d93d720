// Bags: packed, verified, unpacked, rehearsed.

import { z } from 'zod';
import { rehearsalView } from '../views';
import { jobRoute } from './route';

const problem = z.object({ code: z.string(), message: z.string(), path: z.string().optional() });

export const packBag = jobRoute(
  '/api/bags/pack',
  'Packs a workspace.',
  z.object({
    workspace: z.string(),
    folder: z.string(),
    name: z.string().min(1),
    form: z.enum(['zip', 'folder']),
  }),
  z.object({
    bag: z.string(),
    files: z.number(),
    bytes: z.number(),
    leftOut: z.array(z.object({ path: z.string(), why: z.string() })),
  }),
);
export const verifyBag = jobRoute(
  '/api/bags/verify',
  'Verifies a bag.',
  z.object({ bag: z.string() }),
  z.object({
    bag: z.string(),
    files: z.number(),
    bytes: z.number(),
    algorithms: z.array(z.string()),
    problems: z.array(problem),
  }),
);
export const unpackBag = jobRoute(
  '/api/bags/unpack',
  'Unpacks a bag into a new folder.',
  z.object({ bag: z.string(), folder: z.string(), name: z.string().min(1) }),
  z.object({ root: z.string(), files: z.number(), bytes: z.number(), isWorkspace: z.boolean() }),
);
export const rehearseAt = jobRoute(
  '/api/bags/rehearse',
  'Whether a workspace or a bag would open on another machine.',
  z.object({ path: z.string(), place: z.string(), at: z.string().optional() }),
  rehearsalView,
);
