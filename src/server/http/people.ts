// People of a server for several: who is signed in, who may come in, in which folders. On one's own machine none of it is there.

import { z } from 'zod';
import { AppError } from '@/core/errors';
import {
  changePassword,
  changePerson,
  dropLink,
  invite,
  joinRoute,
  listMachines,
  listPeople,
  lookAtLinkRoute,
  readFolderRoles,
  readMe,
  resetPassword,
  writeFolderRoles,
} from '@/wire/routes/people';
import { listAllowedRows } from '../database/allowedQueries';
import { listWorkers } from '../database/workQueries';
import { hub, type Hub } from '../hub';
import { studio } from '../studio/mode';
import {
  changeOne,
  changeOwnPassword,
  comeIn,
  dropOne,
  inviteOne,
  listEverybody,
  lookAtLink,
  resetOne,
  setFolderRoles,
} from '../studio/people';
import type { Who } from '../who';
import { answerError, endpoint, inputOf, understood } from './handle';

/** Who asks. Throws AppError('not-found') on one's own machine. */
export function somebody(h: Hub): Who {
  if (h.who) return h.who;
  throw new AppError('not-found', 'This server is for one person; there are no others here.');
}

const addressOf = (token: string) => `${studio()?.origins[0] ?? ''}/join#${token}`;
const made = ({ id, token, expires }: { id: string; token: string; expires: number }) => ({
  id,
  address: addressOf(token),
  expires,
});

/** How passwords are hashed. */
const passwords = async () => {
  const { accounts } = await import('../studio/accounts');
  return (await accounts().auth.$context).password;
};

export const peopleEndpoints = [
  endpoint(readMe, (h) => Promise.resolve(h.who)),
  endpoint(changePassword, async (h, input) => {
    const { id } = somebody(h);
    await changeOwnPassword(h.db, await passwords(), { id, session: null }, input);
  }),
  endpoint(listPeople, (h) => (somebody(h), listEverybody(h.db))),
  endpoint(invite, async (h, input) =>
    made(await inviteOne(h.db, input.about, input.role, somebody(h).name)),
  ),
  endpoint(changePerson, (h, input, { person }) => (somebody(h), changeOne(h.db, person, input))),
  endpoint(resetPassword, async (h, _, { person }) => made(await resetOne(h.db, person, somebody(h).name))),
  endpoint(dropLink, (h, _, { link }) => (somebody(h), dropOne(h.db, link))),
  endpoint(listMachines, async (h) => {
    somebody(h);
    const reaches = z.array(z.string());
    return (await listWorkers(h.db)).map((w) => ({ ...w, reaches: reaches.parse(JSON.parse(w.reaches)) }));
  }),
  endpoint(readFolderRoles, (h) => (somebody(h), listAllowedRows(h.db))),
  endpoint(writeFolderRoles, (h, input) => (somebody(h), setFolderRoles(h.db, input))),
];

/** By a link and without being signed in: what it is for, or it is used up. Null: the request is for something else. */
export async function join(request: Request): Promise<Response | null> {
  const { pathname } = new URL(request.url);
  const isLook = pathname === lookAtLinkRoute.path;
  if (request.method !== 'POST' || (!isLook && pathname !== joinRoute.path)) return null;
  try {
    if (!studio())
      throw new AppError('not-found', 'This server is for one person; there are no others here.');
    const { db } = await hub();
    if (isLook) {
      const { token } = understood(lookAtLinkRoute.input, await inputOf(request));
      const link = await lookAtLink(db, token);
      const view = lookAtLinkRoute.answer.parse({
        for: link.person === null ? 'invitation' : 'password',
        about: link.about,
        role: link.role,
        email: link.email,
      });
      return Response.json(view);
    }
    const given = understood(joinRoute.input, await inputOf(request));
    return Response.json(await comeIn(db, await passwords(), given));
  } catch (cause) {
    return answerError(cause);
  }
}
