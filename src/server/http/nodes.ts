// Parts of scenes, and settings side by side.

import { nameOf } from '@/core/files/treePath';
import { layBeside, lookNodes, readNodes } from '@/wire/routes/nodes';
import { workspaceOf } from '../hub';
import { folderIn } from './folders';
import { endpoint } from './handle';

export const nodeEndpoints = [
  endpoint(readNodes, async (h, { root, scene }, { id }) => {
    const row = await workspaceOf(h, id!);
    return h.jobs.start({
      order: { work: 'nodes', root: await folderIn(h, root), scene },
      title: `Look into ${nameOf(scene)}`,
      workspace: row.id,
    });
  }),
  endpoint(lookNodes, async (h, request, { id }) => {
    const row = await workspaceOf(h, id!);
    const from = { ...request.from, root: await folderIn(h, request.from.root) };
    return h.jobs.start({
      order: { work: 'nodes-look', root: row.root, request: { ...request, from } },
      title: `Look for what is needed of ${nameOf(from.scene)}`,
      workspace: row.id,
    });
  }),
  endpoint(layBeside, async (h, request, { id }) => {
    const row = await workspaceOf(h, id!);
    const root = await folderIn(h, request.root);
    return h.jobs.start({
      order: { work: 'beside', root: row.root, request: { ...request, root } },
      title: `Lay settings beside ${nameOf(root)}`,
      workspace: row.id,
    });
  }),
];
