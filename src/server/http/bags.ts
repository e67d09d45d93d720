// Bags: packed, verified, unpacked, rehearsed.

import { AppError } from '@/core/errors';
import { folderOf, nameOf } from '@/core/files/treePath';
import { workspaceOf } from '../hub';
import { allowedPath } from '../allowed';
import { lookAtTravelling, packBag, rehearseAt, unpackBag, verifyBag } from '@/wire/routes/bags';
import { stagingFolder } from '../workspaces/stage';
import { arrivingAt } from './arrive';
import { endpoint } from './handle';

export const bagEndpoints = [
  endpoint(packBag, async (h, input) => {
    const row = await workspaceOf(h, input.workspace);
    const to = await allowedPath(
      h,
      `${input.folder.replace(/[\\/]+$/, '')}/${input.name}${input.form === 'zip' ? '.zip' : ''}`,
    );
    return h.jobs.start({
      order: {
        work: 'pack',
        root: row.root,
        to,
        choice: input.choice,
        volume: input.volume,
        handIn: input.handIn,
        temporary: stagingFolder(h.dataFolder),
      },
      title: `Pack ${row.name}`,
      workspace: row.id,
    });
  }),
  endpoint(lookAtTravelling, async (h, input) => {
    const row = await workspaceOf(h, input.workspace);
    return h.jobs.start({
      order: { work: 'travel-look', root: row.root },
      title: `Look what travels of ${row.name}`,
      workspace: row.id,
    });
  }),
  endpoint(verifyBag, async (h, input) => {
    const bag = await arrivingAt(h, input.bag);
    return h.jobs.start({ order: { work: 'verify', bag }, title: `Verify ${nameOf(bag)}`, workspace: null });
  }),
  endpoint(unpackBag, async (h, input) => {
    const bag = await allowedPath(h, input.bag);
    const to = await allowedPath(h, `${input.folder.replace(/[\\/]+$/, '')}/${input.name}`);
    const holder = await h.ask('rootOf', folderOf(to) || '/');
    if (holder !== null)
      throw new AppError('inside-workspace', `${to} would lie inside the workspace ${holder}.`);
    return h.jobs.start({
      order: { work: 'unpack', bag, to },
      title: `Unpack ${nameOf(bag)}`,
      workspace: null,
    });
  }),
  endpoint(rehearseAt, async (h, input) => {
    const at = await allowedPath(h, input.path);
    const row = input.workspace === undefined ? null : await workspaceOf(h, input.workspace);
    const places = row === null ? [] : [...(await h.ask('workspace', row.root)).places];
    return h.jobs.start({
      order: { work: 'rehearse', path: at, places, place: input.place, at: input.at || undefined },
      title: `Rehearse ${nameOf(at)}`,
      workspace: null,
    });
  }),
];
