// Collecting and carrying over: what is needed, the plan of a new folder with it, presets; what another folder has and what that would meet here.

import { nameOf } from '@/core/files/treePath';
import { planSchema } from '@/wire/plan';
import { newFolder } from '@/wire/collect';
import { lookCarry, listAssets } from '@/wire/routes/carry';
import { dropPreset, keepPreset, listPresets, lookUsed, planCollect, readNeeds } from '@/wire/routes/collect';
import { keepPlan, workspaceOf } from '../hub';
import { allowedPath } from '../allowed';
import * as library from '../workspaces/presets';
import { recordsOf } from '../workspaces/shelf';
import { folderIn } from './folders';
import { endpoint } from './handle';

const made = newFolder.extend({ plan: planSchema });

export const collectEndpoints = [
  endpoint(readNeeds, async (h, request, { id }) => {
    const row = await workspaceOf(h, id!);
    return h.jobs.start({
      order: { work: 'needs', root: row.root, request },
      title: `Look for what scenes of ${row.name} need`,
      workspace: row.id,
    });
  }),
  endpoint(lookUsed, async (h, request, { id }) => {
    const row = await workspaceOf(h, id!);
    return h.jobs.start({
      order: { work: 'used', root: row.root, request },
      title: 'Look for frames and tiles that nothing shows',
      workspace: row.id,
    });
  }),
  endpoint(planCollect, async (h, request, { id }) => {
    const row = await workspaceOf(h, id!);
    const folder = request.folder.replace(/(?<=.)[\\/]+$/, '');
    const to = await allowedPath(h, `${folder === '/' ? '' : folder}/${request.name}`);
    const records = recordsOf(h.dataFolder, to);
    return h.jobs.start({
      order: { work: 'collect', root: row.root, request, to, records },
      title: `Plan ${request.name}`,
      workspace: row.id,
      finish: async (result) => {
        const { plan, ...makes } = made.parse(result);
        return { plan: keepPlan(h, { workspace: null, root: to, records, makes }, plan) };
      },
    });
  }),
  endpoint(listAssets, async (h, { from }, { id }) => {
    const row = await workspaceOf(h, id!);
    const root = await folderIn(h, from);
    return h.jobs.start({
      order: { work: 'carry-assets', root },
      title: `Look through ${nameOf(root)}`,
      workspace: row.id,
    });
  }),
  endpoint(lookCarry, async (h, request, { id }) => {
    const row = await workspaceOf(h, id!);
    const from = await folderIn(h, request.from);
    return h.jobs.start({
      order: { work: 'carry-look', root: row.root, request: { ...request, from } },
      title: `Look for what is needed of ${nameOf(from)}`,
      workspace: row.id,
    });
  }),
  endpoint(listPresets, async (h) => library.presets(h.dataFolder)),
  endpoint(keepPreset, async (h, preset) => ({ id: library.keepPreset(h.dataFolder, preset) })),
  endpoint(dropPreset, async (h, { id }) => library.dropPreset(h.dataFolder, id)),
];
