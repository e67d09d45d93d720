// Collecting: what scenes need, the plan of a new folder with it, and presets.

import { planSchema } from '@/wire/plan';
import { reportDraft } from '@/wire/collect';
import { dropPreset, keepPreset, listPresets, planCollect, readNeeds } from '@/wire/routes/collect';
import { z } from 'zod';
import { allowedPath, keepPlan, workspaceOf } from '../hub';
import * as library from '../workspaces/presets';
import { recordsOf } from '../workspaces/shelf';
import { endpoint } from './handle';

const made = z.object({ plan: planSchema, draft: reportDraft.nullable() });

export const collectEndpoints = [
  endpoint(readNeeds, async (h, request, { id }) => {
    const row = await workspaceOf(h, id!);
    return h.jobs.start({
      order: { work: 'needs', root: row.root, request },
      title: `Look for what scenes of ${row.name} need`,
      workspace: row.id,
    });
  }),
  endpoint(planCollect, async (h, request, { id }) => {
    const row = await workspaceOf(h, id!);
    const folder = request.folder.replace(/(?<=.)[\\/]+$/, '');
    const to = await allowedPath(h, `${folder === '/' ? '' : folder}/${request.name}`);
    return h.jobs.start({
      order: { work: 'collect', root: row.root, request, to },
      title: `Plan ${request.name}`,
      workspace: row.id,
      finish: async (result) => {
        const { plan, draft } = made.parse(result);
        const records = recordsOf(h.dataFolder, to);
        return { plan: keepPlan(h, { workspace: null, root: to, records, makes: { draft } }, plan) };
      },
    });
  }),
  endpoint(listPresets, async (h) => library.presets(h.dataFolder)),
  endpoint(keepPreset, async (h, preset) => ({ id: library.keepPreset(h.dataFolder, preset) })),
  endpoint(dropPreset, async (h, { id }) => library.dropPreset(h.dataFolder, id)),
];
