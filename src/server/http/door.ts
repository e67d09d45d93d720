// Who gets in. On one's own machine whoever has the key of this start; on a server for several whoever is signed in, as far as the role goes.

import { AppError } from '@/core/errors';
import { signIn, signOut } from '@/wire/routes/people';
import { studio } from '../studio/mode';
import type { Who } from '../who';
import { hasKey, keyOfThisStart, refuse, type Asked, type RefusedRequest } from './guard';
import { answerError } from './handle';

// Loaded only where a server is for several: one's own machine needs none of it.
const studioAccounts = () => import('../studio/accounts');

/** Ways of the accounts' package that are let through. */
const accountPaths: ReadonlySet<string> = new Set([signIn.path, signOut.path]);

export interface Door {
  /** Why a request is refused by where it comes from; null: it may be looked at. */
  refuse(request: Asked): RefusedRequest | null;
  /** Who asks; null: the one user of this machine; 'nobody': somebody who has to come in first. */
  who(request: Pick<Asked, 'headers'>): Promise<Who | null | 'nobody'>;
  /** Whether people have roles here. */
  isForSeveral: boolean;
  /** Where people reach it; '' on one's own machine. */
  origin: string;
}

/** The door of one's own machine; `key` is what a request must bring. */
export const keyDoor = (key: () => string | null = keyOfThisStart): Door => ({
  refuse: (request) => refuse(request),
  who: (request) => Promise.resolve(hasKey(request, key()) ? null : 'nobody'),
  isForSeveral: false,
  origin: '',
});

const studioDoor = (origins: readonly string[]): Door => ({
  refuse: (request) => refuse(request, origins),
  who: async ({ headers }) => (await (await studioAccounts()).personOf(headers as Headers)) ?? 'nobody',
  isForSeveral: true,
  origin: origins[0] ?? '',
});

/** The door of this server. */
export function door(): Door {
  const settings = studio();
  return settings ? studioDoor(settings.origins) : keyDoor();
}

/** Pages that somebody sees who is not signed in, and the files of which all pages are made. */
export const isOpenPage = (pathname: string): boolean =>
  pathname === '/sign-in' ||
  pathname === '/join' ||
  pathname.startsWith('/_next/static/') ||
  pathname === '/icon.svg';

const wrong = new AppError(
  'not-signed-in',
  'This address and this password do not belong together.',
  'Nobody was let in.',
);

/** Signs in and out, by the accounts' package, in our own shape of answers; null: the request is for something else. */
export async function throughAccounts(request: Request): Promise<Response | null> {
  if (!studio() || request.method !== 'POST' || !accountPaths.has(new URL(request.url).pathname)) return null;
  const { accounts, personOf } = await studioAccounts();
  const answered = await accounts().auth.handler(request);
  if (answered.status === 429)
    return answerError(new AppError('too-many', 'That was tried too often.', 'Nobody was let in.'));
  if (answered.status === 401 || answered.status === 400) return answerError(wrong);
  if (!answered.ok)
    return answerError(new AppError('no-database', 'The accounts do not answer.', 'Nobody was let in.'));
  const cookies = answered.headers.getSetCookie().map((c) => c.split(';')[0]!);
  const isIn =
    new URL(request.url).pathname === signOut.path ||
    (await personOf(new Headers({ cookie: cookies.join('; ') })));
  // The password may be right of somebody who does not come in any more: that is told as anything else.
  if (!isIn) return answerError(wrong);
  const headers = new Headers({ 'content-type': 'application/json' });
  for (const cookie of answered.headers.getSetCookie()) headers.append('set-cookie', cookie);
  return new Response('null', { headers });
}
