// Whether an allowed folder is, on this machine and now, the one that was allowed. A share that is not mounted leaves an empty folder of the same path, and
// what is written there is on the machine's own disk, for nobody else to see. So each allowed folder is marked once, by a file with a token that the
// database knows; work is done only where the file says the same.

import { randomBytes } from 'node:crypto';
import fs from 'node:fs';
import path from 'node:path';
import { errnoOf } from '@/core/files/fileErrors';
import type { Queries } from '../database/database';
import { listTokens, setToken } from '../database/allowedQueries';
import { inTime, isThere } from '../disk/asking';
import { placeFile } from '../disk/listing';
import { toSystem } from '../disk/system';

const fileIn = (folder: string) => path.join(toSystem(folder), placeFile);

async function tokenIn(folder: string): Promise<string | null> {
  const text = await inTime<string | null>(fs.promises.readFile(fileIn(folder), 'utf8'), null);
  return text === null ? null : text.trim();
}

const isEmpty = async (folder: string) =>
  (await inTime<string[]>(fs.promises.readdir(toSystem(folder)), [])).length === 0;

/**
 * Allowed folders, and whether each is here now. Those that nobody has marked yet are marked, as far as something lies in them. `isServer`: of one that
 * nobody has marked, and that is empty (a new backup drive), the server's own machine does the first work: there it was allowed.
 */
export async function placesHere(
  db: Queries,
  isServer: boolean,
): Promise<{ path: string; isHere: boolean }[]> {
  return Promise.all(
    (await listTokens(db)).map(async ({ path: folder, token }) => ({
      path: folder,
      isHere: token === null ? await isHereUnmarked(db, folder, isServer) : (await tokenIn(folder)) === token,
    })),
  );
}

async function isHereUnmarked(db: Queries, folder: string, isServer: boolean): Promise<boolean> {
  if (!(await isThere(folder))) return false;
  if (await isEmpty(folder)) return isServer;
  const token = await mark(db, folder);
  // One that can only be read has no mark: that something lies in it must do.
  return token === null || (await tokenIn(folder)) === token;
}

/**
 * Marks an allowed folder that is here for certain: what its token is now. Null: it cannot be written to. A mark that is there already is kept, also one of
 * another server.
 */
export async function mark(db: Queries, folder: string): Promise<string | null> {
  try {
    await fs.promises.writeFile(fileIn(folder), `${randomBytes(16).toString('hex')}\n`, { flag: 'wx' });
  } catch (cause) {
    if (errnoOf(cause) !== 'EEXIST') return null;
  }
  const token = await tokenIn(folder);
  return token === null || token === '' ? null : setToken(db, folder, token);
}
