// Backups: where to, what is there, given back, proven, cleared; finished work moved off and brought back.

import { AppError } from '@/core/errors';
import { folderOf, nameOf } from '@/core/files/treePath';
import {
  archiveRoute,
  backUp,
  bringBackRoute,
  clearRoute,
  giveBackRoute,
  healRoute,
  judgeInside,
  lookAtBackups,
  lookAtClearing,
  lookInside,
  proveRoute,
  readInside,
  readTargets,
  writeTargets,
} from '@/wire/routes/travel';
import { backupTo } from '../backups/backUp';
import { setTargets, targetsOf } from '../backups/targets';
import { isThere } from '../disk/asking';
import { workspaceOf } from '../hub';
import { allowedPath, isAllowed } from '../allowed';
import { endpoint } from './handle';
import { openRoot } from './workspaceView';

export const backupEndpoints = [
  endpoint(readTargets, async (h, _, { id }) => {
    const row = await workspaceOf(h, id!);
    const targets = await targetsOf(h, row.id);
    const stub = await h.ask('stub', row.root);
    const all = await Promise.all(
      targets.map(async (t) => {
        const [isOpen, isMade] = [await isAllowed(h, t.folder), await isThere(t.folder)];
        return {
          ...t,
          // The folder may be made yet; its drive has to be there.
          there: isOpen && (isMade || (await isThere(folderOf(t.folder) || '/'))),
          proof: isOpen && isMade && t.as === 'snapshots' ? await h.ask('proofState', t.folder) : null,
        };
      }),
    );
    return { targets: all, movedOff: stub };
  }),
  endpoint(writeTargets, async (h, input, { id }) => {
    const row = await workspaceOf(h, id!);
    const targets = await Promise.all(
      input.targets.map(async (t) => ({ ...t, folder: await allowedPath(h, t.folder) })),
    );
    await setTargets(h, row.id, targets);
    return null;
  }),
  endpoint(backUp, async (h, input, { id }) => {
    const row = await workspaceOf(h, id!);
    return backupTo(h, row, { folder: await allowedPath(h, input.folder), as: input.as });
  }),
  endpoint(lookAtBackups, async (h, input) => {
    const folder = await allowedPath(h, input.folder);
    return h.jobs.start({
      order: { work: 'backups-look', folder },
      title: `Look into ${nameOf(folder)}`,
      workspace: null,
    });
  }),
  endpoint(lookInside, async (h, input) => {
    const folder = await allowedPath(h, input.folder);
    const row = input.workspace === undefined ? null : await workspaceOf(h, input.workspace);
    return h.jobs.start({
      order: { work: 'snapshot-look', folder, snapshot: input.snapshot, root: row?.root ?? null },
      title: 'Look into a snapshot',
      workspace: row?.id ?? null,
    });
  }),
  endpoint(judgeInside, async (h, input) => {
    const folder = await allowedPath(h, input.folder);
    return h.jobs.start({
      order: { work: 'snapshot-judge', folder, snapshot: input.snapshot },
      title: 'Judge a snapshot',
      workspace: null,
    });
  }),
  endpoint(readInside, async (h, { folder, snapshot, path }) => {
    const content = await h.ask('snapshotFile', await allowedPath(h, folder), snapshot, path);
    return new Response(new Uint8Array(content), {
      headers: {
        'content-type': 'application/octet-stream',
        'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(nameOf(path)).replace(/['()*]/g, (c) => `%${c.charCodeAt(0).toString(16)}`)}`,
      },
    });
  }),
  endpoint(giveBackRoute, async (h, input) => {
    const folder = await allowedPath(h, input.folder);
    const to = await allowedPath(h, `${input.into.replace(/[\\/]+$/, '')}/${input.name}`);
    const holder = await h.ask('rootOf', folderOf(to) || '/');
    if (holder !== null)
      throw new AppError('inside-workspace', `${to} would lie inside the workspace ${holder}.`);
    return h.jobs.start({
      order: { work: 'give-back', folder, snapshot: input.snapshot, paths: input.paths, to },
      title: `Give back into ${nameOf(to)}`,
      workspace: null,
    });
  }),
  endpoint(proveRoute, async (h, input) => {
    const folder = await allowedPath(h, input.folder);
    return h.jobs.start({
      order: { work: 'prove', folder, anew: input.anew },
      title: `Prove ${nameOf(folder)}`,
      workspace: null,
    });
  }),
  endpoint(healRoute, async (h, input) => {
    const folder = await allowedPath(h, input.folder);
    const from = await Promise.all(input.from.map((f) => allowedPath(h, f)));
    return h.jobs.start({
      order: { work: 'heal', folder, from },
      title: `Heal ${nameOf(folder)}`,
      workspace: null,
    });
  }),
  endpoint(lookAtClearing, async (h, input) => {
    const folder = await allowedPath(h, input.folder);
    return h.jobs.start({
      order: { work: 'clearing-look', folder, which: input.which },
      title: 'Look what would be cleared',
      workspace: null,
    });
  }),
  endpoint(clearRoute, async (h, input) => {
    const folder = await allowedPath(h, input.folder);
    return h.jobs.start({
      order: { work: 'clear-snapshots', folder, ids: input.ids, givenUp: input.givenUp },
      title: `Clear snapshots in ${nameOf(folder)}`,
      workspace: null,
    });
  }),
  endpoint(archiveRoute, async (h, input, { id }) => {
    const row = await workspaceOf(h, id!);
    const folder = await allowedPath(h, input.folder);
    return h.jobs.start({
      order: { work: 'archive', root: row.root, folder },
      title: `Move ${row.name} off`,
      workspace: row.id,
      finish: async (result) => {
        await openRoot(h, row.root);
        return result;
      },
    });
  }),
  endpoint(bringBackRoute, async (h, input, { id }) => {
    const row = await workspaceOf(h, id!);
    const from = input.from === undefined ? undefined : await allowedPath(h, input.from);
    return h.jobs.start({
      order: { work: 'bring-back', root: row.root, from },
      title: `Bring ${row.name} back`,
      workspace: row.id,
      finish: async (result) => {
        await openRoot(h, row.root);
        return result;
      },
    });
  }),
];
