// Settings of two workspaces, or two scenes, side by side, and what one takes over from the other.

import { comparedFormats, sceneThings } from '@/core/compare/sceneThings';
import { differences, type Difference, type Thing } from '@/core/compare/things';
import type { Plan } from '@/core/changes/plan';
import { AppError } from '@/core/errors';
import { nameOf, type TreePath } from '@/core/files/treePath';
import type { FormatId } from '@/core/formats/format';
import { formatOfName, readReferences } from '@/core/formats/formats';
import { planTakeOver, planTakeOverScene } from '@/core/plans/planTakeOver';
import { sceneSettings, sceneTakes } from '@/core/settings/sceneSettings';
import { sideBySide, type Setting, type SettingRow } from '@/core/settings/setting';
import { canTakeOver, workspaceSettings } from '@/core/settings/workspaceSettings';
import { usualUnits } from '@/core/units/units';
import { hasMarker, type OpenWorkspace } from './open';

/** A workspace, or a scene in one. */
export interface BesideSide {
  workspace: OpenWorkspace;
  scene: TreePath | null;
}

export interface Beside {
  names: [string, string];
  rows: SettingRow[];
  /** Of two scenes that are looked into: what differs in them; null for workspaces, and formats that are not. */
  differences: Difference[] | null;
}

/** The largest scene that is looked into. */
const most = 512 * 1024 * 1024;

interface Read {
  format: FormatId;
  bytes: Uint8Array;
  things: Thing[];
}

/** Lays them side by side. Throws AppError for a workspace beside a scene. */
export async function besideEachOther(a: BesideSide, b: BesideSide): Promise<Beside> {
  if ((a.scene === null) !== (b.scene === null))
    throw new AppError('bad-request', 'A workspace and a scene are not of one kind: choose two of one.');
  if (a.scene === null || b.scene === null) {
    const unitOf = ({ workspace }: BesideSide) => (workspace.file.units ?? usualUnits).unit;
    const marked = [await hasMarker(a.workspace.root), await hasMarker(b.workspace.root)];
    return {
      names: [a.workspace.file.name, b.workspace.file.name],
      rows: sideBySide(
        workspaceSettings(a.workspace.file, unitOf(b)),
        workspaceSettings(b.workspace.file, unitOf(a)),
        (key, into) => canTakeOver(key) && marked[into === 'a' ? 0 : 1]!,
      ),
      differences: null,
    };
  }
  const [x, y] = [await read(a.workspace, a.scene), await read(b.workspace, b.scene)];
  const settings = (r: Read): Setting[] => sceneSettings(r.format, r.bytes, r.things);
  const takes = (key: string, into: 'a' | 'b') => {
    const [mine, other] = into === 'a' ? [x, y] : [y, x];
    const isShared = key === 'unit' || key === 'up' || mine.format === other.format;
    return isShared && sceneTakes(mine.format, key);
  };
  return {
    names: [nameOf(a.scene), nameOf(b.scene)],
    rows: sideBySide(settings(x), settings(y), takes),
    differences:
      x.format === y.format && comparedFormats.has(x.format) ? differences(x.things, y.things) : null,
  };
}

async function read({ tree }: OpenWorkspace, scene: TreePath): Promise<Read> {
  const stat = await tree.stat(scene);
  if (!stat) throw new AppError('not-found', `${scene} is not there.`);
  const format = formatOfName(scene)?.id;
  if (!format)
    throw new AppError('unsupported', `${nameOf(scene)} is of no scene format that is known here.`);
  if (stat.size > most) throw new AppError('unsupported', `${nameOf(scene)} is too large to be looked into.`);
  const reading = await readReferences(scene, stat.size, (range) => tree.read(scene, range));
  const own = reading?.format.id ?? format;
  const bytes = await tree.read(scene);
  const things = comparedFormats.has(own)
    ? await sceneThings({ format: own, bytes, beside: () => Promise.resolve(null) }, () => tree.startHash())
    : null;
  return { format: own, bytes, things: things ?? [] };
}

/** What `into` says once it has taken over the ticked settings of `from`. */
export async function planTaking(into: BesideSide, from: BesideSide, keys: readonly string[]): Promise<Plan> {
  const wanted = new Set(keys);
  if (into.scene === null) return planTakeOver(into.workspace, from.workspace, wanted);
  if (from.scene === null) throw new AppError('bad-request', 'A scene takes over from a scene.');
  const [x, y] = [await read(into.workspace, into.scene), await read(from.workspace, from.scene)];
  return planTakeOverScene(
    into.workspace,
    { into: into.scene, from: { name: nameOf(from.scene), format: y.format, bytes: y.bytes }, keys: wanted },
    x.format,
  );
}
