// Bags: packed, verified, unpacked, rehearsed.

import { z } from 'zod';
import { handInList } from '../handIn';
import { packed, travelChoice, travelLook } from '../travel';
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
    /** Absent: all but what is of this machine alone. */
    choice: travelChoice.optional(),
    /** Most bytes of one bag; more makes several. */
    volume: z.number().int().min(1_000_000).optional(),
    /** It is checked against this first, and the result goes into the bag. */
    handIn: handInList.optional(),
  }),
  packed,
);
export const lookAtTravelling = jobRoute(
  '/api/bags/look',
  'What of a workspace travels: every file in its class, what needs what, what is used of libraries.',
  z.object({ workspace: z.string() }),
  travelLook,
);
export const verifyBag = jobRoute(
  '/api/bags/verify',
  'Verifies a bag.',
  z.object({ bag: z.string() }),
  z.object({
    bag: z.string(),
    volumes: z.array(z.string()),
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
  'Whether a workspace or a bag would open on other machines: those of its places and of the open workspace’s, and the usual ones.',
  z.object({
    path: z.string(),
    workspace: z.string().optional(),
    /** Only this one; absent: all. */
    place: z.string().optional(),
    /** Where it would lie there; only with `place`. */
    at: z.string().optional(),
  }),
  z.array(rehearsalView),
);
