// The unit, up axis and size of every scene of a workspace, and what is to be said of them. What was measured is kept while the file stays.

import type { CancelSignal } from '@/core/files/fileTree';
import { formatOf, formatOfName, isSceneFormat } from '@/core/formats/formats';
import type { FormatId } from '@/core/formats/format';
import { readUsdcUnits } from '@/core/units/usdcUnits';
import { bytesOfEntry } from '@/core/formats/packed';
import { readDirectory, type Read } from '@/core/formats/zip';
import type { TreePath } from '@/core/files/treePath';
import { countedSet } from '@/core/layouts/recognise';
import { scenePaths } from '@/core/references/scan';
import { measurable, sceneBox } from '@/core/units/sceneBox';
import { sceneUnits, usdUnits, type SceneUnits } from '@/core/units/sceneUnits';
import { longestMetres, suspicions, type Measured } from '@/core/units/suspicion';
import { usualUnits, type WorkspaceUnits } from '@/core/units/units';
import type { SceneMeasure } from '@/wire/views';
import type { OpenWorkspace } from './open';

// What has lengths: scenes, and the models they are made of.
const hasLengths = (id: FormatId) => isSceneFormat(id) || measurable.has(id);

const headSize = 256 * 1024;
// Beyond this a scene is not read whole for its size.
const mostMeasured = 256 * 1024 * 1024;
const remembered = new Map<
  string,
  { units: SceneUnits; box: { min: [number, number, number]; max: [number, number, number] } | null } | null
>();
const mostRemembered = 20_000;

async function measureOne(
  workspace: OpenWorkspace,
  path: TreePath,
  size: number,
  isWanted = hasLengths,
): Promise<{
  format: FormatId;
  units: SceneUnits;
  box: { min: [number, number, number]; max: [number, number, number] } | null;
} | null> {
  const read: Read = (range) => workspace.tree.read(path, range);
  const head = new Uint8Array(await read([0, Math.min(size, headSize)]));
  const format = formatOf(path, head);
  if (!format || !isWanted(format.id)) return null;
  const boxOf = (id: FormatId, bytes: Uint8Array) => {
    const box = sceneBox(id, bytes);
    return box ? { min: box.min, max: box.max } : null;
  };
  if (format.id === 'usdc') return { format: format.id, units: await readUsdcUnits(read, size), box: null };
  if (format.id === 'usdz' || format.id === '3mf') {
    const entries = (await readDirectory(read, size)) ?? [];
    const entry = format.id === 'usdz' ? entries[0] : entries.find((e) => /\.model$/i.test(e.name));
    const bytes = entry ? await bytesOfEntry(read, entry, size) : null;
    if (!entry || !bytes)
      return {
        format: format.id,
        units: format.id === 'usdz' ? usdUnits(null, null) : sceneUnits('3mf', new Uint8Array())!,
        box: null,
      };
    if (
      format.id === 'usdz' &&
      /\.usdc?$/i.test(entry.name) &&
      new TextDecoder().decode(bytes.subarray(0, 8)) === 'PXR-USDC'
    )
      return {
        format: format.id,
        units: await readUsdcUnits(async ([a, b]) => bytes.subarray(a, b), bytes.length),
        box: null,
      };
    const id = format.id === 'usdz' ? 'usda' : '3mf';
    return { format: format.id, units: sceneUnits(id, bytes)!, box: boxOf(id, bytes) };
  }
  const units = sceneUnits(format.id, head);
  if (!units) return null;
  return {
    format: format.id,
    units,
    box:
      measurable.has(format.id) && size <= mostMeasured
        ? boxOf(format.id, size <= headSize ? head : new Uint8Array(await read([0, size])))
        : null,
  };
}

/** The format, unit and up axis of one scene. */
export async function unitsOfScene(
  workspace: OpenWorkspace,
  path: TreePath,
  size: number,
): Promise<{ format: FormatId | null; units: SceneUnits }> {
  const one = await measureOne(workspace, path, size, () => true).catch(() => null);
  return {
    format: one?.format ?? formatOfName(path)?.id ?? null,
    units: one?.units ?? { metres: null, upAxis: null, by: 'nobody' },
  };
}

/** Of models that count up in one folder (frames of a cache) only the first: it stands for all of them. Scenes stay, each. */
function firstOfRows(paths: readonly TreePath[]): TreePath[] {
  const rows = new Map<string, TreePath[]>();
  for (const path of paths) {
    const format = formatOfName(path);
    const isScene = format !== null && isSceneFormat(format.id);
    const row = (isScene ? null : countedSet(path)) ?? path;
    const known = rows.get(row);
    if (known) known.push(path);
    else rows.set(row, [path]);
  }
  return [...rows.values()].flatMap((row) => (row.length < 3 ? row : row.slice(0, 1)));
}

/** Measures every scene and model. Unreadable ones are left out. */
export async function measureScenes(
  workspace: OpenWorkspace,
  signal: CancelSignal,
  onScene: (done: number, of: number, path: string) => void,
): Promise<SceneMeasure[]> {
  const units: WorkspaceUnits = workspace.file.units ?? usualUnits;
  const paths = firstOfRows((await scenePaths(workspace.tree)).scenes);
  const found: (Measured & { format: FormatId; box: SceneMeasure['box'] })[] = [];
  for (const [i, path] of paths.entries()) {
    signal.throwIfAborted();
    onScene(i + 1, paths.length, path);
    const stat = await workspace.tree.stat(path);
    if (!stat) continue;
    const key = `${workspace.root}\0${path}\0${stat.size}\0${stat.modified}\0${stat.changed}`;
    let one = remembered.get(key) as Awaited<ReturnType<typeof measureOne>> | undefined;
    if (one === undefined) {
      one = await measureOne(workspace, path, stat.size).catch(() => null);
      // What failed because the work was cancelled is not remembered.
      signal.throwIfAborted();
      remembered.set(key, one);
      if (remembered.size > mostRemembered) remembered.delete(remembered.keys().next().value!);
    }
    if (!one) continue;
    const m = one.units.metres ?? 0;
    const scaled = (p: [number, number, number]): [number, number, number] => [p[0] * m, p[1] * m, p[2] * m];
    const { box } = one;
    found.push({
      path,
      format: one.format,
      units: one.units,
      size: box ? [box.max[0] - box.min[0], box.max[1] - box.min[1], box.max[2] - box.min[2]] : null,
      box: box && { min: scaled(box.min), max: scaled(box.max) },
    });
    if (i % 50 === 0) await new Promise((next) => setImmediate(next));
  }
  return found.map((m) => ({
    path: m.path,
    format: m.format,
    metres: m.units.metres,
    upAxis: m.units.upAxis,
    by: m.units.by,
    size: m.size ? [...m.size] : null,
    box: m.box,
    longest: longestMetres(m, units),
    findings: suspicions(m, units, found),
  }));
}
