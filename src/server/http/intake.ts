// The holding area: packs that wait there, what is in them, what of it is here already.

import { nameOf } from '@/core/files/treePath';
import { intakeOf } from '@/core/plans/planIntake';
import type { PackFileView, PackView } from '@/wire/views';
import { countReferences, listFilesBelow, listUsersOutside } from '../database/queries';
import { workspaceOf } from '../hub';
import { findAlike, listPackFiles, listPacks } from '@/wire/routes/intake';
import { endpoint } from './handle';

export const intakeEndpoints = [
  endpoint(listPacks, async (h, _, { id }): Promise<{ home: string; packs: PackView[] }> => {
    const row = await workspaceOf(h, id!);
    const home = intakeOf({ file: await h.ask('workspace', row.root) });
    const packs: PackView[] = [];
    for (const e of (await h.ask('listInside', row.root, home)) ?? []) {
      if (e.name.startsWith('.') || e.kind === 'other') continue;
      const path = `${home}/${e.name}`;
      const files = await listFilesBelow(h.db, row.id, path, 100_000);
      const outside = await listUsersOutside(h.db, row.id, path);
      packs.push({
        path,
        name: e.name,
        kind: e.kind,
        files: e.kind === 'file' ? 1 : files.length,
        bytes: e.size ?? files.reduce((s, f) => s + f.size, 0),
        scenes: files.filter((f) => f.kind === 'scene' || f.kind === 'model').length,
        textures: files.filter((f) => f.kind === 'texture').length,
        used: outside.length,
      });
    }
    return { home, packs };
  }),
  endpoint(listPackFiles, async (h, input, { id }): Promise<{ files: PackFileView[]; used: string[] }> => {
    const row = await workspaceOf(h, id!);
    const files = await listFilesBelow(h.db, row.id, input.pack, 100_000);
    const counts = new Map((await countReferences(h.db, row.id, input.pack)).map((c) => [c.scene, c]));
    const view = (f: { path: string; kind: string; size: number; uses: number }): PackFileView => ({
      path: f.path,
      kind: f.kind,
      size: f.size,
      uses: f.uses,
      references: counts.get(f.path)?.all ?? 0,
      missing: counts.get(f.path)?.missing ?? 0,
    });
    return { files: files.map(view), used: await listUsersOutside(h.db, row.id, input.pack) };
  }),
  endpoint(findAlike, async (h, input, { id }) => {
    const row = await workspaceOf(h, id!);
    return h.jobs.start({
      order: { work: 'alike', root: row.root, pack: input.pack },
      title: `Compare ${nameOf(input.pack)} with what is here`,
      workspace: row.id,
    });
  }),
];
