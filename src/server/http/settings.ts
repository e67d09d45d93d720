// Settings of a workspace, what its scenes measure, what lies about in it; and what kind of place a folder is.

import { nameOf } from '@/core/files/treePath';
import { adviseOn } from '@/core/layouts/advice';
import { usualPatterns } from '@/core/names/patterns';
import { usualUnits } from '@/core/units/units';
import type { PlaceView, SettingsView } from '@/wire/views';
import { isThere } from '../disk/asking';
import { isAbsolute } from '../disk/system';
import { workspaceOf } from '../hub';
import { allowedPath, isAllowed } from '../allowed';
import { folderIn, nearestThere } from './folders';
import { findLoose, measureScenesRoute, probePlace, readPlace, readSettings } from '@/wire/routes/settings';
import { endpoint } from './handle';

export const settingsEndpoints = [
  endpoint(readPlace, async (h, input): Promise<PlaceView> => {
    // A folder that is not there yet will lie on the drive of the one that will hold it.
    const at = await nearestThere(await allowedPath(h, input.path));
    const signs = await h.ask('place', at);
    return { folder: at, signs, advice: adviseOn(signs) };
  }),
  endpoint(probePlace, async (h, input) => {
    const folder = await folderIn(h, input.path);
    return h.jobs.start({
      order: { work: 'probe', folder },
      title: `Measure ${nameOf(folder)}`,
      workspace: null,
      finish: async (speed): Promise<PlaceView> => {
        const signs = { ...(await h.ask('place', folder)), speed: speed as PlaceView['signs']['speed'] };
        return { folder, signs, advice: adviseOn(signs) };
      },
    });
  }),

  endpoint(readSettings, async (h, _, { id }): Promise<SettingsView> => {
    const { root } = await workspaceOf(h, id!);
    const file = await h.ask('workspace', root);
    // Only what may be looked into is looked at: heads of other machines may be anything.
    const isHere = async (at: string) => isAbsolute(at) && (await isAllowed(h, at)) && (await isThere(at));
    const here = async (heads: readonly string[]) => {
      const found: string[] = [];
      for (const head of heads) if (await isHere(head)) found.push(head);
      return found;
    };
    return {
      name: file.name,
      root,
      created: file.created,
      layout: { id: file.layout, text: file.layoutText ?? null },
      folders: file.folders,
      homes: file.homes as Record<string, string>,
      category: file.category ?? null,
      remade: file.remade ?? null,
      archived: file.archived ?? null,
      units: file.units ?? usualUnits,
      usualUnits: file.units === undefined,
      names: {
        scene: file.names?.scene ?? usualPatterns.scene,
        output: file.names?.output ?? usualPatterns.output,
        person: file.names?.person ?? '',
      },
      libraries: await Promise.all(file.libraries.map(async (l) => ({ ...l, there: await isHere(l.path) }))),
      places: await Promise.all(
        file.places.map(async (p) => ({ ...p, heads: [...p.heads], here: await here(p.heads) })),
      ),
    };
  }),
  endpoint(measureScenesRoute, async (h, _, { id }) => {
    const row = await workspaceOf(h, id!);
    return h.jobs.start({
      order: { work: 'measure', root: row.root },
      title: `Measure the scenes of ${row.name}`,
      workspace: row.id,
    });
  }),
  endpoint(findLoose, async (h, _, { id }) => {
    const row = await workspaceOf(h, id!);
    return h.jobs.start({
      order: { work: 'loose', root: row.root },
      title: 'Look for what lies about',
      workspace: row.id,
    });
  }),
];
