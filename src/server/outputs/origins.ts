// The outputs of a workspace and whose they are; and what the next one of a scene is to be called.

import fs from 'node:fs';
import { foldersForOutputs } from '@/core/outputs/homes';
import { originsOf, outputSets, type KnownScene, type OutputFile } from '@/core/outputs/origin';
import { comparedFormats, sceneThings } from '@/core/compare/sceneThings';
import { stemOf, type TreePath } from '@/core/files/treePath';
import { formatOfName } from '@/core/formats/formats';
import { homeOf } from '@/core/layouts/homes';
import { plainName } from '@/core/names/counters';
import { nameOfPattern, usualPatterns } from '@/core/names/patterns';
import { freeName } from '@/core/names/portable';
import { allSeries } from '@/core/plans/planSave';
import { passListPath } from '@/core/plans/planPasses';
import { readNote } from '@/core/plans/versionFiles';
import type { CancelSignal } from '@/core/files/fileTree';
import { readPassList } from '@/wire/passes';
import type { OutputsView } from '@/wire/views';
import { toSystem } from '../disk/system';
import type { OpenWorkspace } from '../workspaces/open';

/** Cameras of scenes beyond this many bytes are not looked for. */
const mostForCameras = 64 * 1024 * 1024;

/** Every output with its scene, version and camera. `today`: a local calendar day, which new names begin with. */
export async function outputsOf(
  workspace: OpenWorkspace,
  options: {
    today: { year: number; month: number; day: number };
    signal?: CancelSignal | undefined;
    onScene?: ((done: number, of: number, scene: string) => void) | undefined;
  },
): Promise<OutputsView> {
  const { file, tree } = workspace;
  const folders = foldersForOutputs(file);
  const files: OutputFile[] = [];
  for (const folder of folders) {
    // A home that was never made holds nothing.
    if ((await tree.kind(folder)) !== 'folder') continue;
    for await (const found of tree.list(folder, () => undefined)) {
      options.signal?.throwIfAborted();
      if (!/(^|\/)\./.test(found.path)) files.push(found);
    }
  }
  const scenes: KnownScene[] = [];
  const all = await allSeries(workspace);
  for (const [n, series] of all.entries()) {
    options.signal?.throwIfAborted();
    options.onScene?.(n + 1, all.length, series.scene);
    const versions: KnownScene['versions'][number][] = [];
    for (const v of series.versions) {
      const stat = v.compact
        ? (await readNote(workspace, v.path))?.compact?.at(-1)
        : await tree.stat(v.path).catch(() => null);
      if (stat) versions.push({ path: v.path, number: v.number, modified: stat.modified });
    }
    const present = await tree.stat(series.scene).catch(() => null);
    if (present && !series.versions.some((v) => v.path === series.scene))
      versions.push({ path: series.scene, number: null, modified: present.modified });
    scenes.push({
      scene: series.scene,
      versions,
      cameras: present ? await camerasOf(workspace, series.scene, present) : null,
    });
  }
  const sets = outputSets(files);
  const pattern = file.names?.output ?? usualPatterns.output;
  const origins = originsOf(sets, scenes, { pattern, passes: listedFile(workspace) });
  const home = homeOf('render', file.homes);
  const taken = new Set(
    sets.map(({ path }) =>
      path
        .replace(/[._ -]*#*\.[^./]+$/, '')
        .normalize('NFC')
        .toLowerCase(),
    ),
  );
  return {
    folders,
    sets: sets.map((set, n) => ({ ...set, origin: origins[n] ?? null })),
    scenes: scenes.map(({ scene, cameras, versions }, n) => {
      const stem = stemOf(plainName(scene));
      const next = (camera: string) => {
        const name = nameOfPattern(pattern, {
          date: options.today,
          title: stem,
          scene: stem,
          camera,
          person: file.names?.person,
          category: file.category,
          version: versionToName(all[n]!.versions, versions),
        });
        const at = (name: string) => (home === '' ? name : `${home}/${name}`);
        return freeName(name, (name) => taken.has(at(name).normalize('NFC').toLowerCase()));
      };
      return {
        scene,
        cameras: cameras && [...cameras],
        next: {
          folder: home,
          names: (cameras?.length ? cameras : ['']).map((c) => ({ camera: c, name: next(c) })),
        },
      };
    }),
  };
}

/** The number of the highest version that is there: what is rendered now is of it. */
function versionToName(
  series: readonly { number: number | null }[],
  versions: KnownScene['versions'],
): number | undefined {
  const numbers = [...series, ...versions].flatMap((v) => (v.number === null ? [] : [v.number]));
  return numbers.length === 0 ? undefined : Math.max(...numbers);
}

/** How the list of passes calls files; null where there is none that can be read. */
function listedFile({ root }: OpenWorkspace): string | null {
  try {
    const at = `${root}/${passListPath}`;
    return readPassList(fs.readFileSync(toSystem(at), 'utf8'), at).file;
  } catch {
    return null;
  }
}

const looked = new Map<string, string[]>();
const mostLooked = 2000;

/** Names of the cameras in a scene, as the file calls them; null where its format is not looked into, or it cannot be read. */
async function camerasOf(
  { root, tree }: OpenWorkspace,
  scene: TreePath,
  { size, modified }: { size: number; modified: number },
): Promise<string[] | null> {
  const format = formatOfName(scene)?.id;
  if (!format || !comparedFormats.has(format) || size > mostForCameras) return null;
  const key = `${root}\n${scene}\n${size}\n${modified}`;
  const known = looked.get(key);
  if (known) return known;
  try {
    // Cameras stand in the scene itself: nothing beside it is read.
    const things = await sceneThings(
      { format, bytes: await tree.read(scene), beside: () => Promise.resolve(null) },
      () => tree.startHash(),
    );
    if (!things) return null;
    // USD calls a prim by its path; people call it by its name.
    const named = (name: string) =>
      format === 'usda' || format === 'usdc' ? name.slice(name.lastIndexOf('/') + 1) : name;
    const all = things.filter((t) => t.kind === 'camera').map((t) => named(t.name));
    const cameras = [...new Set(all)].sort();
    if (looked.size >= mostLooked) looked.clear();
    looked.set(key, cameras);
    return cameras;
  } catch {
    return null;
  }
}
