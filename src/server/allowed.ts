// How far anybody gets on the disk: only into folders that are allowed, and on a server for several only as far as the role goes. Every path that comes from a page
// passes here.

import os from 'node:os';
import { AppError } from '@/core/errors';
import { folderOf, isWithin } from '@/core/files/treePath';
import type { Queries } from './database/database';
import { listAllowed } from './database/allowedQueries';
import { realInTime } from './disk/asking';
import { realLately } from './disk/lately';
import { fromSystem, isAbsolute } from './disk/system';
import type { Rights } from './jobs/jobs';
import type { Who } from './who';
import { isDropped } from './workspaces/drops';
import { shelvesFolder } from './workspaces/shelf';
import { stagingFolder } from './workspaces/stage';

/** Who asks for a path, and where it stands what is allowed. */
interface Asking {
  db: Queries;
  who: Who | null;
  /** The application's own folder, in which nobody has any business. */
  dataFolder?: string;
}

/** A path from the browser as the core writes it. Throws when it is not absolute. */
export function cleanPath(given: string): string {
  const trimmed = given.trim().replace(/^~(?=$|[\\/])/, os.homedir());
  if (trimmed.includes('\0') || !isAbsolute(trimmed))
    throw new AppError(
      'bad-request',
      `“${given}” is not a whole path; begin with ${process.platform === 'win32' ? 'a drive letter' : '/'}.`,
    );
  return fromSystem(trimmed);
}

/** The real path of what exists of a path, with the rest appended: links cannot lead out of a place unseen. */
async function realPathOf(clean: string, realOf = realInTime): Promise<string> {
  let at = clean;
  const rest: string[] = [];
  for (;;) {
    const real = await realOf(at);
    if (real !== null)
      return [real, ...rest].join('/').replace(/\/{2,}/g, (m, i: number) => (i === 0 ? m : '/'));
    const slash = at.lastIndexOf('/');
    if (slash <= 0) return clean;
    rest.unshift(at.slice(slash + 1));
    at = at.slice(0, slash);
  }
}

/** Makes sure a path lies in a folder that is allowed, for who asks, to look at it or to change it; returns it clean. */
export async function allowedPath(h: Asking, given: string, to: 'look' | 'change' = 'look'): Promise<string> {
  const clean = cleanPath(given);
  if (await isOfTheApplication(h, clean))
    throw new AppError('not-allowed', `${clean} is in Loyal Satchel’s own data folder.`);
  if (await liesIn(clean, await listAllowed(h.db, h.who?.role, to))) return clean;
  throw h.who === null
    ? new AppError('not-allowed', `${clean} lies in no folder that you have allowed.`)
    : new AppError(
        'not-your-role',
        to === 'look'
          ? `${clean} lies in no folder that you may look into.`
          : `What lies in ${folderOf(clean) || clean} is not yours to change.`,
      );
}

/** Whether a clean path lies in the application's own folder, links followed. */
async function isOfTheApplication({ dataFolder }: Asking, clean: string): Promise<boolean> {
  if (dataFolder === undefined) return false;
  const own = fromSystem(dataFolder);
  return isWithin(clean, own) || isWithin(await realPathOf(clean), await realPathOf(own));
}

/** A path that a page gives: in an allowed folder; or in a drop of who asks, by the drop's id. */
export async function givenPath(
  h: Asking & { drops: { pathOf(name: string, who: Who | null): string } },
  given: string,
): Promise<string> {
  return isDropped(given) ? h.drops.pathOf(given, h.who) : allowedPath(h, given);
}

const covers = (folder: string, path: string) => folder === '/' || isWithin(path, folder);

/** Whether a clean path lies in one of these folders, links followed. */
async function liesIn(clean: string, allowed: readonly string[], realOf = realInTime): Promise<boolean> {
  // By its text first: what lies elsewhere is not even looked at.
  if (!allowed.some((folder) => covers(folder, clean))) return false;
  const real = await realPathOf(clean, realOf);
  for (const folder of allowed)
    if (covers(folder, real) || covers(await realPathOf(folder, realOf), real)) return true;
  return false;
}

/** Those of many things that lie where who asks may look; what is allowed is asked for once. */
export async function allowedAmong<T extends { root: string }>(h: Asking, all: readonly T[]): Promise<T[]> {
  const allowed = await listAllowed(h.db, h.who?.role);
  const may = await Promise.all(all.map(({ root }) => liesIn(cleanPath(root), allowed, realLately)));
  return all.filter((_, i) => may[i]);
}

/** Whether a path lies in a place the user has allowed. */
export const isAllowed = (h: Asking, given: string): Promise<boolean> =>
  allowedPath(h, given).then(
    () => true,
    () => false,
  );

/**
 * What somebody may see and change. Beside that, work looks into folders of `dataFolder` that no request can name: what was dropped, and the records of
 * folders that hold workspaces; a verb, which has its paths from who asks, only into the latter.
 */
export function rightsOn(db: Queries, dataFolder: string): Rights {
  const dropped = stagingFolder(dataFolder);
  const records = shelvesFolder(dataFolder);
  return {
    see: async (who, isVerb = false) => [
      ...(await listAllowed(db, who?.role)),
      ...(isVerb ? [records] : [records, dropped]),
    ],
    mayChange: (who) => listAllowed(db, who?.role, 'change'),
    async change(who, paths) {
      for (const path of paths) await allowedPath({ db, who, dataFolder }, path, 'change');
    },
  };
}
