// For pipelines, on a server for several: keys by which programs come in, web hooks by which they hear of what was done, and the verbs of the command line done there.

import { z } from 'zod';
import { jobView } from '../jobs';
import { done, jobRoute, nothing, route } from './route';
import { roleSchema } from './roles';

const about = z.string().trim().min(1).max(80);

/** A key; times in ms. */
export const keyView = z.object({
  id: z.string(),
  about: z.string(),
  role: roleSchema,
  madeBy: z.string(),
  made: z.number(),
  expires: z.number(),
  used: z.number().nullable(),
});
export type KeyView = z.infer<typeof keyView>;

/** Days for which a key may hold. */
export const longestKey = 365;

export const listKeys = route(
  'GET',
  '/api/keys',
  'Keys by which programs come in.',
  nothing,
  z.array(keyView),
);
export const makeKey = route(
  'POST',
  '/api/keys',
  'Makes a key, told once: sent as “Authorization: Bearer KEY”. It may do what its role may, but for what is about people, keys and web hooks.',
  z.object({ about, role: roleSchema, days: z.number().int().min(1).max(longestKey) }),
  z.object({ id: z.string(), key: z.string(), expires: z.number() }),
);
export const dropKey = route('DELETE', '/api/keys/:key', 'A key holds no more.', nothing, done);

/** What web hooks are told. */
export const hookEvents = ['version.saved', 'collected', 'backed-up', 'readiness.fallen'] as const;
export const hookEvent = z.enum(hookEvents);
export type HookEvent = (typeof hookEvents)[number];

export const hookView = z.object({
  id: z.string(),
  about: z.string(),
  url: z.string(),
  events: z.array(hookEvent),
  madeBy: z.string(),
  paused: z.boolean(),
});
export type HookView = z.infer<typeof hookView>;

/** A message of a hook; times in ms. */
export const hookMessage = z.object({
  id: z.string(),
  hook: z.string(),
  event: z.string(),
  body: z.string(),
  made: z.number(),
  state: z.enum(['waiting', 'delivered', 'given up']),
  tries: z.number(),
  tried: z.number().nullable(),
  answer: z
    .string()
    .nullable()
    .describe('What was answered at the last try: a status, or why there was no answer.'),
});
export type HookMessage = z.infer<typeof hookMessage>;

export const listHooks = route(
  'GET',
  '/api/hooks',
  'Web hooks, and the latest of what was sent.',
  nothing,
  z.object({ hooks: z.array(hookView), messages: z.array(hookMessage) }),
);
export const makeHook = route(
  'POST',
  '/api/hooks',
  'Makes a web hook; what its messages are signed with is told once.',
  z.object({
    about,
    url: z.url({ protocol: /^https?$/ }).max(1000),
    events: z.array(hookEvent).min(1),
  }),
  z.object({ id: z.string(), secret: z.string() }),
);
export const changeHook = route(
  'POST',
  '/api/hooks/:hook',
  'A web hook is paused, or goes on; what happens meanwhile is not sent later.',
  z.object({ paused: z.boolean() }),
  done,
);
export const tryHook = route(
  'POST',
  '/api/hooks/:hook/try',
  'Sends a web hook a message to try it.',
  nothing,
  done,
);
export const dropHook = route('DELETE', '/api/hooks/:hook', 'A web hook is told no more.', nothing, done);
export const sendAgain = route(
  'POST',
  '/api/hooks/messages/:message/again',
  'Sends a message once more that was given up.',
  nothing,
  done,
);

/** What a web hook is sent as its body, JSON; times ISO 8601. */
export const hookBody = z.object({
  type: z.union([hookEvent, z.literal('try')]),
  timestamp: z.string(),
  data: z.record(z.string(), z.unknown()),
});
export type HookBody = z.infer<typeof hookBody>;

/** What a verb of the command line came to, as it would on one's own machine. */
export const verbResult = z.object({
  status: z.union([z.literal(0), z.literal(1), z.literal(2)]),
  out: z.string().describe('What it prints.'),
  said: z.array(z.string()).describe('What it says beside that.'),
});
export type VerbResult = z.infer<typeof verbResult>;

export const runVerb = jobRoute(
  '/api/verbs',
  'Does a verb of the command line on the server, or on a machine that reaches its folders; paths are whole ones, as the server calls them.',
  z.object({ args: z.array(z.string().max(4000)).min(1).max(2000) }),
  verbResult,
);
export const readJob = route('GET', '/api/jobs/:job', 'One job, as it is now.', nothing, jobView);
