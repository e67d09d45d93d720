// Arriving: what came is put into its folder, its root set, path heads of the sending machine read as they are here, references judged and repaired as one
// plan; then it opens complete, or exactly what is missing is said, with the scene to open first.

import type { Plan } from '@/core/changes/plan';
import { AppError, withUnchanged } from '@/core/errors';
import { isBundleName } from '@/core/bags/bundles';
import { isOwn } from '@/core/files/records';
import { nameOf, rootPath, treePath, type TreePath } from '@/core/files/treePath';
import { parseNumbered } from '@/core/names/counters';
import { planApart, readBundle } from '@/core/plans/planBundle';
import { planTravel } from '@/core/plans/planTravel';
import { settingOf } from '@/core/plans/workspace';
import { isReadyWithLibrary } from '@/core/references/resolve';
import { scan } from '@/core/references/scan';
import { count } from '@/core/text/figures';
import { planSettings } from '@/core/plans/planSettings';
import { applyPlan } from '../workspaces/changing';
import { hasMarker, plainFolder, readWorkspace, type OpenWorkspace } from '../workspaces/open';
import { asCame, digestsIn, keepBase, readDeliveries, type DeliveryRecord } from './base';
import { mapped, unknownHeads, type HeadMap } from './heads';
import { lineageOfDelivery, withDelivery } from './lineage';
import type { Recognised } from './recognise';
import { takeIn, type TakenIn, type TakeInOptions } from './takeIn';

export interface ArriveOptions extends TakeInOptions {
  heads: readonly HeadMap[];
  /** References are repaired; else the plan for it is only made. */
  repair: boolean;
}

export interface Missing {
  scene: string;
  written: string;
  state: string;
}

export interface Arrived extends TakenIn {
  isWorkspace: boolean;
  name: string;
  /** Scenes that no other needs, the latest first: the first is the one to open. */
  scenes: string[];
  references: number;
  ready: number;
  missing: Missing[];
  /** Bundles of small files: taken apart, or, where that was not asked for or cannot be, still to be. */
  bundles: { apart: number; files: number; whole: { path: string; why: string | null }[] };
  /** References that were repaired, and the ledger entry; null: nothing was to be done, or it was not asked for. */
  repaired: { entry: string; title: string; paths: number } | null;
  /** What a repair would do, where it was not done. */
  repairable: number;
  /** Folders of the sending machine that nobody has told where they are here. */
  unknownHeads: { name: string; path: string }[];
  sentence: string;
}

/** Takes in what was recognised, to `to`. */
export async function arrive(what: Recognised, to: string, options: ArriveOptions): Promise<Arrived> {
  const lineage = await lineageOfDelivery(what);
  const taken = await takeIn(what, to, options);
  try {
    return await settleIn(taken, {
      ...options,
      delivery: { base: null, exchanged: withDelivery([], lineage) },
    });
  } catch (cause) {
    throw withUnchanged(
      cause,
      `The delivery is in ${to}, complete and verified (${count(taken.files, 'file')}), but its references may not be repaired. Open the workspace there to go on.`,
    );
  }
}

/**
 * Does the same for files that are already in place: a copied folder, or files of a second delivery. `delivery` replaces the record of the last delivery; with
 * `base` null, the files are recorded as they are now.
 */
export async function settleIn(
  taken: TakenIn,
  options: Pick<ArriveOptions, 'heads' | 'repair' | 'signal'> & {
    delivery?: DeliveryRecord | undefined;
  },
): Promise<Arrived> {
  const { root } = taken;
  const isWorkspace = await hasMarker(root);
  const before = isWorkspace ? await digestsIn(await readWorkspace(root)) : null;
  if (isWorkspace && options.repair) await mapHeads(root, options.heads);
  const bundles = await unbundle(root, isWorkspace && options.repair, options.signal);
  const workspace = isWorkspace ? await readWorkspace(root) : plainFolder(root);
  const plan = await planTravel(workspace, { only: null, signal: options.signal });
  const changes = plan.steps.length > 0 && !plan.notes.some((n) => n.level === 'blocker');
  let repaired: Arrived['repaired'] = null;
  if (isWorkspace && options.repair && changes) {
    const record = await applyPlan(root, plan);
    repaired = { entry: record.id, title: plan.title, paths: plan.paths.length };
  }
  const after = isWorkspace ? await readWorkspace(root) : workspace;
  const judged = await judgedIn(after);
  if (before) {
    const { base, exchanged } = options.delivery ?? (await readDeliveries(after));
    await keepBase(after, { base: base ?? asCame(before), exchanged }, before);
  }
  return {
    ...taken,
    isWorkspace,
    name: isWorkspace ? after.file.name : nameOf(root),
    ...judged,
    bundles,
    repaired,
    repairable: repaired === null && changes ? plan.paths.length : 0,
    unknownHeads: isWorkspace ? unknownHeads(after.file, options.heads) : [],
    sentence: sentenceOf(judged, repaired, bundles),
  };
}

/** Each bundle by itself: one that is damaged keeps no other from being taken apart. */
async function unbundle(
  root: string,
  mayChange: boolean,
  signal: ArriveOptions['signal'],
): Promise<Arrived['bundles']> {
  const done: Arrived['bundles'] = { apart: 0, files: 0, whole: [] };
  const { tree } = plainFolder(root);
  const found: TreePath[] = [];
  for await (const f of tree.list(rootPath)) if (isBundleName(f.path) && !isOwn(f.path)) found.push(f.path);
  for (const path of found) {
    signal?.throwIfAborted();
    try {
      const bundle = await readBundle(tree, path);
      if (!bundle) continue;
      if (!mayChange) {
        done.whole.push({ path, why: null });
        continue;
      }
      const now = new Date().toISOString();
      const plan = await planApart(await readWorkspace(root), [path], { now, signal });
      const blocker = plan.notes.find((n) => n.level === 'blocker');
      if (blocker) done.whole.push({ path, why: blocker.message });
      else {
        await applyPlan(root, plan);
        done.apart++;
        done.files += bundle.files.length;
      }
    } catch (cause) {
      if (!(cause instanceof AppError) || cause.code === 'cancelled') throw cause;
      done.whole.push({ path, why: cause.message });
    }
  }
  return done;
}

async function mapHeads(root: string, heads: readonly HeadMap[]): Promise<void> {
  const workspace = await readWorkspace(root);
  const after = mapped(workspace.file, heads);
  if (after === null) return;
  const plan: Plan = await planSettings(
    workspace,
    after,
    'Read the heads of the other machine as they are here',
  );
  await applyPlan(root, plan);
}

async function judgedIn(
  workspace: OpenWorkspace,
): Promise<Pick<Arrived, 'scenes' | 'references' | 'ready' | 'missing'>> {
  const needed = new Set<string>();
  const scenes: { path: string; modified: number }[] = [];
  const missing: Missing[] = [];
  let [references, ready] = [0, 0];
  for await (const report of scan(workspace.tree, settingOf(workspace))) {
    scenes.push({
      path: report.path,
      modified: (await workspace.tree.stat(treePath(report.path)))?.modified ?? 0,
    });
    for (const r of report.references) {
      references++;
      if (r.inside && r.target !== null) needed.add(r.target);
      if (isReadyWithLibrary(r)) ready++;
      else
        missing.push({ scene: report.path, written: r.written, state: r.gaps.length > 0 ? 'gaps' : r.state });
    }
  }
  const { cache, render, backup } = workspace.file.homes;
  const isOpened = (p: string) =>
    !needed.has(p) &&
    ![cache, render, backup].some((home) => home !== undefined && p.startsWith(`${home}/`)) &&
    !/\.(mtl|ply)$/i.test(p);
  return {
    scenes: latestFirst(scenes.filter((s) => isOpened(s.path))),
    references,
    ready,
    missing,
  };
}

/** By time; of two versions of one scene the higher comes first whatever its time. */
function latestFirst(scenes: readonly { path: string; modified: number }[]): string[] {
  const latest = new Map<string, { path: string; modified: number; number: number }>();
  for (const s of scenes) {
    const parsed = parseNumbered(nameOf(s.path));
    const key = parsed
      ? `${s.path.slice(0, s.path.lastIndexOf('/') + 1)}${parsed.stem}${parsed.extension}`
      : s.path;
    const number = parsed?.number ?? -1;
    const known = latest.get(key);
    if (!known || number > known.number) latest.set(key, { ...s, number });
  }
  return [...latest.values()].sort((a, b) => b.modified - a.modified).map((s) => s.path);
}

function sentenceOf(
  { references, ready, missing }: Pick<Arrived, 'references' | 'ready' | 'missing'>,
  repaired: Arrived['repaired'],
  bundles: Arrived['bundles'],
): string {
  const apart =
    bundles.apart > 0
      ? ` ${count(bundles.files, 'file')} came in ${count(bundles.apart, 'bundle')} and lie${bundles.files === 1 ? 's' : ''} in ${bundles.files === 1 ? 'its place' : 'their places'} again.`
      : '';
  const mended = repaired
    ? ` ${count(repaired.paths, 'path')} in it ${repaired.paths === 1 ? 'was' : 'were'} written for this place.${apart}`
    : apart;
  if (references === 0) return `It arrived; no scene in it refers to another file.${mended}`;
  if (missing.length === 0)
    return `It opens complete: all ${count(references, 'reference')} are found.${mended}`;
  return `${ready} of ${count(references, 'reference')} ${ready === 1 ? 'is' : 'are'} found; ${missing.length} ${missing.length === 1 ? 'is' : 'are'} not.${mended}`;
}
