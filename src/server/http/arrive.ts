// Arriving, and handing in.

import { AppError } from '@/core/errors';
import { folderOf, isWithin, nameOf } from '@/core/files/treePath';
import {
  arriveAgain,
  arriveRoute,
  checkHandInRoute,
  checkHandIns,
  readHeads,
  recogniseRoute,
  settleRoute,
} from '@/wire/routes/travel';
import { rememberedHeads, rememberHeads } from '../arrive/heads';
import { workspaceId, workspaceOf, type Hub } from '../hub';
import { allowedPath, givenPath } from '../allowed';
import { fromSystem, toSystem } from '../disk/system';
import { stagingFolder } from '../workspaces/stage';
import fs from 'node:fs';
import type { HeadMap } from '../arrive/heads';
import { endpoint } from './handle';
import { openRoot } from './workspaceView';

/** Where it shall lie: allowed, and in no other workspace. */
async function placeFor(h: Hub, folder: string, name: string): Promise<string> {
  const to = await allowedPath(h, `${folder.replace(/[\\/]+$/, '')}/${name}`);
  const holder = await h.ask('rootOf', folderOf(to) || '/');
  if (holder !== null)
    throw new AppError('inside-workspace', `${to} would lie inside the workspace ${holder}.`);
  return to;
}

/** What arrived: in an allowed folder, or dropped on the window, which lies in our own. */
export const arrivingAt = givenPath;

/** Takes away what was dropped and has arrived. */
function clearDropped(h: Hub, path: string): void {
  const staging = stagingFolder(h.dataFolder);
  if (!isWithin(path, staging)) return;
  const batch = path.slice(staging.length + 1).split('/')[0]!;
  fs.rmSync(toSystem(`${staging}/${batch}`), { recursive: true, force: true });
}

const headsFor = (h: Hub, given: readonly HeadMap[]) =>
  given.length > 0 ? rememberHeads(h.dataFolder, given) : rememberedHeads(h.dataFolder);

/** A folder of our own in which archives are unpacked for the while. */
function temporaryIn(h: Hub): string {
  const folder = fromSystem(stagingFolder(h.dataFolder));
  fs.mkdirSync(toSystem(folder), { recursive: true });
  return folder;
}

export const arriveEndpoints = [
  endpoint(recogniseRoute, async (h, input) => {
    const path = await arrivingAt(h, input.path);
    const to =
      input.folder && input.name
        ? await allowedPath(h, `${input.folder.replace(/[\\/]+$/, '')}/${input.name}`)
        : null;
    return h.jobs.start({
      order: { work: 'arrive-look', path, to },
      title: `Look at ${nameOf(path)}`,
      workspace: null,
    });
  }),
  endpoint(arriveRoute, async (h, input) => {
    const path = await arrivingAt(h, input.path);
    const to = await placeFor(h, input.folder, input.name);
    return h.jobs.start({
      order: { work: 'arrive', path, to, heads: headsFor(h, input.heads) },
      title: `Take in ${nameOf(path)}`,
      workspace: null,
      finish: async (result) => {
        if ((result as { isWorkspace: boolean }).isWorkspace) await openRoot(h, to);
        clearDropped(h, path);
        return result;
      },
    });
  }),
  endpoint(settleRoute, async (h, input, { id }) => {
    const row = await workspaceOf(h, id!);
    return h.jobs.start({
      order: { work: 'settle-in', root: row.root, heads: headsFor(h, input.heads) },
      title: `Write paths of ${row.name} for here`,
      workspace: row.id,
      finish: async (result) => {
        await openRoot(h, row.root);
        return result;
      },
    });
  }),
  endpoint(arriveAgain, async (h, input) => {
    const path = await arrivingAt(h, input.path);
    const root = await allowedPath(h, `${input.folder.replace(/[\\/]+$/, '')}/${input.name}`);
    await openRoot(h, root);
    const id = workspaceId(root);
    return h.jobs.start({
      order: { work: 'arrive-again', path, root, staging: h.drops.newFolder(h.who) },
      title: `Compare ${nameOf(path)} with what is here`,
      workspace: id,
      finish: (result) => {
        const { from, ...compared } = result as { from: string };
        return Promise.resolve({ ...compared, from: h.drops.nameOf(from), workspace: id });
      },
    });
  }),
  endpoint(readHeads, (h) => Promise.resolve(rememberedHeads(h.dataFolder))),
  endpoint(checkHandInRoute, async (h, input) => {
    const path = await allowedPath(h, input.path);
    return h.jobs.start({
      order: { work: 'hand-in', path, list: input.list, temporary: temporaryIn(h) },
      title: `Check ${nameOf(path)} against ${input.list.name}`,
      workspace: null,
    });
  }),
  endpoint(checkHandIns, async (h, input) => {
    const folder = await allowedPath(h, input.folder);
    return h.jobs.start({
      order: { work: 'hand-ins', folder, list: input.list, temporary: temporaryIn(h) },
      title: `Check what was handed in`,
      workspace: null,
    });
  }),
];
