// What of a workspace travels: every file in its class, what needs what, what is used of libraries and of places outside. Every scene is read once.

import { classOf, type TravelClass, type TravelLook } from '@/core/bags/travelling';
import { closureOf, type Closure, type NeededFile, type Source } from '@/core/collect/closure';
import { place, type Placement } from '@/core/collect/placement';
import type { CancelSignal } from '@/core/files/fileTree';
import { versionsFolder } from '@/core/files/records';
import { insideOf, isWithin, nameOf, rootPath, type TreePath } from '@/core/files/treePath';
import { isUnused, neededFiles } from '@/core/layouts/unused';
import { globTest } from '@/core/names/globs';
import { foldersForOutputs } from '@/core/outputs/homes';
import { allSeries } from '@/core/plans/planSave';
import { scenePaths } from '@/core/references/scan';
import { sourceOf } from '../workspaces/collect';
import type { OpenWorkspace } from '../workspaces/open';

export interface LookOptions {
  signal?: CancelSignal | undefined;
  onFile?: ((found: number, path: string) => void) | undefined;
}

/** A look, with what packing needs beside it. */
export interface Looked {
  look: TravelLook;
  source: Source;
  closure: Closure;
  /** Where what is needed lies in the bag: in the root as it lies, all else below `libraries` and `outside`. */
  placement: Placement;
}

interface Listed {
  path: string;
  size: number;
}

/** Looks at all of a workspace: reads every scene once. */
export async function lookAtTravel(
  workspace: OpenWorkspace,
  options: LookOptions,
  listed?: readonly Listed[],
): Promise<Looked> {
  const { tree, root, file } = workspace;
  const source = sourceOf(workspace);
  const chosen = (await scenePaths(tree)).scenes.map((s) => `${root === '/' ? '' : root}/${s}`);
  const closure = await closureOf(source, { chosen, ...options });
  const files = listed ?? (await listOf(workspace, options.signal));
  const placement = placementIn(source, closure, file.libraries, files);
  const look = lookOf(root, closure, files, await classing(workspace, closure));
  return { look, source, closure, placement };
}

async function listOf({ tree }: OpenWorkspace, signal?: CancelSignal): Promise<Listed[]> {
  const found: Listed[] = [];
  // Unreadable folders are reported by the packing itself.
  for await (const f of tree.list(rootPath, () => undefined)) {
    signal?.throwIfAborted();
    found.push({ path: f.path, size: f.size });
  }
  return found;
}

function lookOf(
  root: string,
  closure: Closure,
  listed: readonly Listed[],
  classOfPath: (path: string) => TravelClass,
): TravelLook {
  const files = listed.map(({ path, size }) => ({ path, size, class: classOfPath(path) }));
  const at = new Map(files.map((f, n) => [f.path, n]));
  const numberOf = (absolute: string) => at.get(insideOf(root, absolute) ?? '');
  const needs: [number, number][] = [];
  const outside = new Map<string, { name: string; files: number; bytes: number; by: Set<number> }>();
  for (const f of closure.files.values()) {
    const users = [...new Set(f.neededBy.flatMap((n) => numberOf(n.scene) ?? []))];
    const own = numberOf(f.from);
    if (own !== undefined) for (const user of users) needs.push([user, own]);
    if (f.lies.in === 'root') continue;
    const name = f.lies.in === 'library' ? f.lies.name : '';
    const use = outside.get(name) ?? { name, files: 0, bytes: 0, by: new Set<number>() };
    outside.set(name, use);
    use.files++;
    use.bytes += f.state.size;
    for (const user of users) use.by.add(user);
  }
  return {
    files,
    needs,
    outside: [...outside.values()].map((u) => ({ ...u, by: [...u.by] })),
    missing: closure.left
      .filter((l) => l.why === 'missing' || l.why === 'offline')
      .flatMap((l) =>
        l.neededBy.slice(0, 1).map((n) => ({
          scene: insideOf(root, n.scene) ?? nameOf(n.scene),
          written: n.written,
        })),
      ),
  };
}

/** How files of a workspace are told apart. */
async function classing(workspace: OpenWorkspace, closure: Closure): Promise<(path: string) => TravelClass> {
  const { root, file, tree } = workspace;
  const inRoot = (absolute: string) => insideOf(root, absolute) as string | null;
  const older = new Set<string>();
  for (const series of await allSeries(workspace))
    for (const v of series.versions) if (!v.compact && v.path !== series.scene) older.add(v.path);
  const parts = new Set<string>();
  const usesOf = new Map<string, string[]>();
  for (const f of closure.files.values()) {
    const path = inRoot(f.from);
    if (path === null) continue;
    if (f.references) usesOf.set(path, usesOf.get(path) ?? []);
    for (const n of f.neededBy) {
      const scene = inRoot(n.scene);
      if (scene !== null) usesOf.set(scene, [...(usesOf.get(scene) ?? []), path]);
    }
    // What belongs to an older version alone goes with it.
    if (
      f.owner !== null &&
      f.neededBy.length > 0 &&
      f.neededBy.every((n) => older.has(inRoot(n.scene) ?? ''))
    )
      older.add(path);
    else if (f.owner !== null) parts.add(path);
  }
  const needed = neededFiles(usesOf, file.homes);
  const patterns = file.remade?.map((p) => ({ test: globTest(p), folder: p.replace(/\/+$/, '') }));
  const notes = new Set<string>();
  for await (const f of tree.list(versionsFolder)) if (await saysAlone(tree, f.path)) notes.add(f.path);
  const context = {
    homes: file.homes,
    outputs: foldersForOutputs(file),
    older,
    parts,
    isRemade: (path: string) =>
      patterns === undefined || patterns.some((p) => p.test(path) || isWithin(path, p.folder)),
    isIdle: (path: string) => isUnused(path, file.homes) && !needed.has(path),
    notes,
  };
  return (path) => classOf(path, context);
}

/** Whether a note about a version says something without the store. */
async function saysAlone(tree: OpenWorkspace['tree'], path: TreePath): Promise<boolean> {
  try {
    const note = JSON.parse(new TextDecoder().decode(await tree.read(path))) as { compact?: unknown };
    return note.compact === undefined;
  } catch {
    return false;
  }
}

/** In the root everything stays where it is; what comes from elsewhere gets a place that nothing has yet. */
function placementIn(
  source: Source,
  closure: Closure,
  libraries: readonly { name: string; path: string }[],
  listed: readonly Listed[],
): Placement {
  const isOutside = (f: NeededFile) => f.lies.in !== 'root';
  const outside = new Map([...closure.files].filter(([, f]) => isOutside(f)));
  const byRule = place(
    { files: outside, sets: closure.sets },
    {
      root: source.root,
      libraries,
      rule: { by: 'mirror' },
      reserved: listed.filter((f) => /^(libraries|outside)(\/|$)/i.test(f.path)).map((f) => f.path),
    },
  );
  const files = new Map(byRule.files);
  const sets = new Map(byRule.sets);
  for (const f of closure.files.values()) {
    const inside = insideOf(source.root, f.from);
    if (inside !== null) files.set(f.from, { to: inside, byHand: false, instead: null });
  }
  for (const set of closure.sets.keys()) {
    const inside = insideOf(source.root, set);
    if (inside !== null) sets.set(set, inside);
  }
  return { ...byRule, files, sets };
}
