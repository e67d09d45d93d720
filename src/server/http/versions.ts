// Versions of scenes, and the net under them.

import { AppError } from '@/core/errors';
import {
  checkOutputs,
  compareVersions,
  listCheckpoints,
  listHolds,
  listOutputs,
  makeCheckpointRoute,
  readSince,
  readState,
  keepNow,
  listSeries,
  listVersions,
  readNet,
  sayHoldRoute,
  workOutCost,
} from '@/wire/routes/versions';
import { workspaceOf } from '../hub';
import { endpoint } from './handle';

export const versionEndpoints = [
  endpoint(listHolds, async (h, _, { id }) => h.ask('holds', (await workspaceOf(h, id)).root)),
  endpoint(sayHoldRoute, async (h, input, { id }) => {
    if (h.who === null)
      throw new AppError('not-found', 'This server is for one person: there is nobody to hold it before.');
    const row = await workspaceOf(h, id, 'change');
    return h.ask('sayHold', row.root, { ...input, by: h.who.name });
  }),
  endpoint(listSeries, async (h, _, { id }) => h.ask('series', (await workspaceOf(h, id!)).root)),
  endpoint(listVersions, async (h, input, { id }) =>
    h.ask('versions', (await workspaceOf(h, id!)).root, input.scene),
  ),
  endpoint(readNet, async (h, input, { id }) => h.ask('net', (await workspaceOf(h, id!)).root, input.scene)),
  endpoint(compareVersions, async (h, { scene, before, after }, { id }) =>
    h.ask('compare', (await workspaceOf(h, id!)).root, scene, before, after),
  ),
  endpoint(readState, async (h, { scene, state, uri }, { id }) => {
    const content = await h.ask('stateContent', (await workspaceOf(h, id!)).root, scene, state, uri);
    return new Response(new Uint8Array(content), {
      headers: { 'content-type': 'application/octet-stream', 'cache-control': 'no-store' },
    });
  }),
  endpoint(listCheckpoints, async (h, _, { id }) => h.ask('checkpoints', (await workspaceOf(h, id!)).root)),
  endpoint(makeCheckpointRoute, async (h, { name, scope }, { id }) => {
    const { root } = await workspaceOf(h, id!);
    return h.jobs.start({
      order: { work: 'checkpoint', root, name, scope },
      title: 'Make a checkpoint',
      workspace: id!,
    });
  }),
  endpoint(checkOutputs, async (h, _, { id }) => {
    const { root } = await workspaceOf(h, id!);
    return h.jobs.start({ order: { work: 'complete', root }, title: 'Look at the outputs', workspace: id! });
  }),
  endpoint(listOutputs, async (h, { today }, { id }) => {
    const { root } = await workspaceOf(h, id!);
    return h.jobs.start({
      order: { work: 'outputs', root, today },
      title: 'Find whose the outputs are',
      workspace: id!,
    });
  }),
  endpoint(workOutCost, async (h, _, { id }) => {
    const { root } = await workspaceOf(h, id!);
    return h.jobs.start({
      order: { work: 'cost', root },
      title: 'Work out what versions cost',
      workspace: id!,
    });
  }),
  endpoint(readSince, async (h, { checkpoint }, { id }) =>
    h.ask('sinceCheckpoint', (await workspaceOf(h, id!)).root, checkpoint),
  ),
  endpoint(keepNow, async (h, _, { id }) => {
    const { root } = await workspaceOf(h, id!, 'change');
    const round = await h.net.round(id!, root);
    if (!round) throw new AppError('bad-request', 'The net of this workspace is off.');
    return round;
  }),
];
