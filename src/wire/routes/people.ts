// People of a server for several, the links by which they come in, and who may do what in which folder.

import { z } from 'zod';
import { done, nothing, route } from './route';
import { roleSchema } from './roles';

/** NIST SP 800-63B, revision 4 (from memory): fifteen characters where a password stands alone, and no rules of what they are. */
export const leastPassword = 15;
const password = z.string().min(leastPassword).max(200);
const name = z.string().trim().min(1).max(80);

/** A person; times in ms. */
export const personView = z.object({
  id: z.string(),
  name: z.string(),
  email: z.string(),
  role: roleSchema,
  /** They may not come in any more; what they did keeps their name. */
  gone: z.boolean(),
  lastSeen: z.number().nullable(),
});
export type PersonView = z.infer<typeof personView>;

/** A link that was not used yet: an invitation, or one for a new password. */
export const linkView = z.object({
  id: z.string(),
  for: z.enum(['invitation', 'password']),
  /** To whom it was given, as the manager wrote it; or the person's name. */
  about: z.string(),
  role: roleSchema,
  madeBy: z.string(),
  expires: z.number(),
});
export const peopleView = z.object({ people: z.array(personView), links: z.array(linkView) });
export type PeopleView = z.infer<typeof peopleView>;

/** The address to hand on, shown once: only its digest is kept. */
const madeLink = z.object({ id: z.string(), address: z.string(), expires: z.number() });

export const whoView = z.object({ id: z.string(), name: z.string(), role: roleSchema });
export type WhoView = z.infer<typeof whoView>;

export const readMe = route(
  'GET',
  '/api/me',
  'Who is signed in; null on one’s own machine.',
  nothing,
  whoView.nullable(),
);
export const changePassword = route(
  'POST',
  '/api/me/password',
  'Another password of one’s own; all other sessions end.',
  z.object({ old: z.string(), fresh: password }),
  done,
);
export const listPeople = route(
  'GET',
  '/api/people',
  'Everybody who may come in, and links that wait.',
  nothing,
  peopleView,
);
export const invite = route(
  'POST',
  '/api/people/invite',
  'Makes a link by which one person comes in; it holds for seven days and is used once.',
  z.object({ about: name, role: roleSchema }),
  madeLink,
);
export const changePerson = route(
  'POST',
  '/api/people/:person',
  'Another role; or somebody goes, whose sessions end at once; or comes back.',
  z.object({ role: roleSchema.optional(), gone: z.boolean().optional() }),
  personView,
);
export const resetPassword = route(
  'POST',
  '/api/people/:person/reset',
  'Makes a link for a new password; it holds for a day and is used once.',
  nothing,
  madeLink,
);
export const dropLink = route(
  'DELETE',
  '/api/people/links/:link',
  'A link that was not used holds no more.',
  nothing,
  done,
);

/** A machine that is there: the server, or a worker with the allowed folders that it reaches. `seen` in ms. */
export const machineSeen = z.object({
  id: z.string(),
  name: z.string(),
  kind: z.enum(['server', 'worker']),
  reaches: z.array(z.string()),
  seen: z.number(),
});
export type MachineSeen = z.infer<typeof machineSeen>;
export const listMachines = route(
  'GET',
  '/api/workers',
  'Machines that do the work, and which allowed folders each reaches.',
  nothing,
  z.array(machineSeen),
);

/** An allowed folder with the least role that sees what lies in it, and the least that may change it. */
export const folderRoles = z.object({ path: z.string(), seenBy: roleSchema, changedBy: roleSchema });
export const readFolderRoles = route(
  'GET',
  '/api/allowed/roles',
  'Who may look into each allowed folder, and who may change what lies there.',
  nothing,
  z.array(folderRoles),
);
export const writeFolderRoles = route(
  'POST',
  '/api/allowed/roles',
  'Says who may look into an allowed folder, and who may change what lies there.',
  folderRoles,
  done,
);

/** What a link is for, before it is used. */
const wayInView = z.object({
  for: z.enum(['invitation', 'password']),
  about: z.string(),
  role: roleSchema,
  email: z.string().nullable(),
});

// Without being signed in: these stand outside the table of routes that need a role.
const token = z.string().min(20).max(200);
/** Asked in a body: what stands in an address goes into logs. */
export const lookAtLinkRoute = route(
  'POST',
  '/api/join/look',
  'What a link is for.',
  z.object({ token }),
  wayInView,
);
export const joinRoute = route(
  'POST',
  '/api/join',
  'Comes in by a link, which is used up: somebody new, or a new password.',
  z.object({ token, name: name.optional(), email: z.email().max(200).optional(), password }),
  z.object({ email: z.string() }),
);
export const signIn = route(
  'POST',
  '/api/account/sign-in/email',
  'Signs in.',
  z.object({ email: z.string().min(1).max(200), password: z.string().min(1).max(200) }),
  done,
);
export const signOut = route('POST', '/api/account/sign-out', 'Signs out.', nothing, done);
