// What a person has to be to ask for something, on a server for several. A role may do all that the ones before it may. What only looks needs no more than
// to look, also where it takes a body or starts work; everything else changes something, but for what stands here. On one's own machine there are no roles.

import { z } from 'zod';
import type { Route } from './route';

/** In order: each may do what those before it may. */
export const roles = ['look', 'change', 'manage'] as const;
export const roleSchema = z.enum(roles);
export type Role = (typeof roles)[number];

/** Whether a role is enough where another is needed. */
export const isEnough = (role: Role, needed: Role): boolean => roles.indexOf(role) >= roles.indexOf(needed);

/** Requests that are no GET, and change nothing that anybody would miss. */
const looks = new Set([
  'POST /api/jobs/:job/cancel',
  'POST /api/layouts/convert',
  'POST /api/layouts/from-folder',
  'POST /api/workspaces/many/preview',
  'POST /api/workspaces/preview',
  'POST /api/workspaces/open',
  'POST /api/recognise',
  'POST /api/find',
  'POST /api/workspaces/:id/scan',
  'POST /api/workspaces/:id/measure',
  'POST /api/workspaces/:id/loose',
  'POST /api/workspaces/:id/references/of',
  'POST /api/workspaces/:id/elsewhere',
  'POST /api/workspaces/:id/try',
  'POST /api/workspaces/:id/suggest',
  'POST /api/workspaces/:id/duplicates',
  'POST /api/workspaces/:id/complete',
  'POST /api/workspaces/:id/outputs',
  'POST /api/workspaces/:id/cost',
  'POST /api/workspaces/:id/alike',
  'POST /api/workspaces/:id/collect/needs',
  'POST /api/workspaces/:id/collect/used',
  'POST /api/workspaces/:id/carry/assets',
  'POST /api/workspaces/:id/carry/look',
  'POST /api/workspaces/:id/nodes',
  'POST /api/workspaces/:id/nodes/look',
  'POST /api/workspaces/:id/beside',
  'POST /api/bags/look',
  'POST /api/bags/verify',
  'POST /api/bags/rehearse',
  'POST /api/hand-in',
  'POST /api/hand-in/each',
  'POST /api/backups/look',
  'POST /api/backups/inside',
  'POST /api/backups/judge',
  'POST /api/backups/clearing',
  'POST /api/me/password',
  // Which of the verbs change something is looked at where they are done.
  'POST /api/verbs',
]);

/** What is everybody's, or cannot be taken back. */
const manages = new Set([
  'POST /api/allowed',
  'DELETE /api/allowed',
  'GET /api/allowed/choose',
  'POST /api/settings/:name',
  'POST /api/layouts',
  'DELETE /api/layouts',
  'DELETE /api/workspaces/:id',
  'POST /api/workspaces/:id/backups',
  'POST /api/backups/clear',
  'POST /api/workspaces/:id/archive',
  'GET /api/workers',
  'GET /api/people',
  'POST /api/people/invite',
  'POST /api/people/:person',
  'POST /api/people/:person/reset',
  'DELETE /api/people/links/:link',
  'GET /api/allowed/roles',
  'POST /api/allowed/roles',
  'GET /api/keys',
  'POST /api/keys',
  'DELETE /api/keys/:key',
  'GET /api/hooks',
  'POST /api/hooks',
  'POST /api/hooks/:hook',
  'POST /api/hooks/:hook/try',
  'DELETE /api/hooks/:hook',
  'POST /api/hooks/messages/:message/again',
]);

/** Where an address begins so, a person has to ask: no program with a key, whatever its role. */
const personal = ['/api/me/password', '/api/people', '/api/keys', '/api/hooks', '/api/allowed/roles'];
export const isPersonal = ({ path }: Pick<Route, 'path'>): boolean =>
  personal.some((p) => path === p || path.startsWith(`${p}/`));

/** The least role that may ask by a route. */
export function needs({ method, path }: Pick<Route, 'method' | 'path'>): Role {
  const name = `${method} ${path}`;
  if (manages.has(name)) return 'manage';
  return method === 'GET' || looks.has(name) ? 'look' : 'change';
}
