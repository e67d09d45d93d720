// Carrying over on disk: assets of one workspace or folder into another, with what they need.

import { closureOf, type Closure } from '@/core/collect/closure';
import { leaveOut } from '@/core/collect/reach';
import type { Plan } from '@/core/changes/plan';
import { AppError } from '@/core/errors';
import { isOwnAnywhere } from '@/core/files/records';
import { insideOf, isWithin, nameOf, treePath, type TreePath } from '@/core/files/treePath';
import { carry, type Carrying, type CarryRequest } from '@/core/plans/carrying';
import { planCarry } from '@/core/plans/planCarry';
import { count } from '@/core/text/figures';
import type { z } from 'zod';
import type { carryAssets, CarryLook } from '@/wire/collect';
import { neededWire, sourceOf } from './collect';
import { hasMarker, plainFolder, readWorkspace, type OpenWorkspace } from './open';

export interface CarryOptions extends CarryRequest {
  /** Files and folders of the source, as paths in its tree; '' is all of it. */
  assets: readonly string[];
  /** Files, and sets by their path with marks, that do not come along; absolute. */
  unticked?: ReadonlySet<string> | undefined;
}

export interface CarryPlanned {
  closure: Closure;
  carrying: Carrying;
  plan: Plan;
}

/** A folder that things are taken from: a workspace, or any folder. */
export const openSource = async (root: string): Promise<OpenWorkspace> =>
  (await hasMarker(root)) ? readWorkspace(root) : plainFolder(root);

/** What carrying over would do. */
export async function planCarrying(
  target: OpenWorkspace,
  from: OpenWorkspace,
  options: CarryOptions,
): Promise<CarryPlanned> {
  if (isWithin(from.root, target.root) || isWithin(target.root, from.root))
    throw new AppError(
      'inside-workspace',
      `${from.root} and ${target.root} lie one in the other. Within one workspace files are moved, not carried over.`,
    );
  const chosen = await filesOf(from, options.assets);
  if (chosen.length === 0) throw new AppError('not-found', 'Nothing lies there that could be carried over.');
  const source = sourceOf(from);
  const all = await closureOf(source, { chosen, signal: options.signal });
  const closure = leaveOut(all, options.unticked);
  const carrying = await carry(target, source, closure, options);
  const [one] = options.assets;
  const name =
    options.assets.length === 1
      ? nameOf(one!) || from.file.name
      : `${nameOf(one!)} and ${count(options.assets.length - 1, 'other')}`;
  return { closure, carrying, plan: await planCarry(target, closure, carrying, name) };
}

/** Every file that assets are, absolute, each once. */
async function filesOf({ root, tree }: OpenWorkspace, assets: readonly string[]): Promise<string[]> {
  const found = new Set<string>();
  const full = (path: string) => `${root === '/' ? '' : root}/${path}`;
  for (const asset of assets) {
    const kind = asset === '' ? 'folder' : await tree.kind(treePath(asset));
    if (kind === 'folder') {
      for await (const { path } of tree.list(treePath(asset)))
        if (!isOwnAnywhere(path)) found.add(full(path));
    } else if (kind === null) throw new AppError('not-found', `${full(asset)} is not there.`);
    else found.add(full(asset));
  }
  return [...found];
}

/** A path below a folder, given whole or from that folder on. Throws AppError where it lies elsewhere. */
export function assetIn(root: string, whole: string): TreePath {
  if (whole === root) return treePath('');
  const inside = insideOf(root, whole);
  if (inside === null) throw new AppError('bad-request', `${whole} does not lie in ${root}.`);
  return inside;
}

/** So many files are listed of a folder. */
const mostListed = 20_000;

/** Files of a folder that could be carried over. */
export async function assetsOf({ tree, file }: OpenWorkspace): Promise<z.infer<typeof carryAssets>> {
  const files: { path: string; size: number }[] = [];
  let more = 0;
  for await (const { path, size } of tree.list(undefined, () => undefined)) {
    if (isOwnAnywhere(path)) continue;
    if (files.length < mostListed) files.push({ path, size });
    else more++;
  }
  return { name: file.name, files, more };
}

/** What carrying over would meet, as the page shows it. */
export async function lookOf(
  target: OpenWorkspace,
  from: OpenWorkspace,
  options: CarryOptions,
): Promise<CarryLook> {
  const { closure, carrying } = await planCarrying(target, from, options);
  return {
    ...neededWire(from.root, closure),
    name: from.file.name,
    carried: [...closure.files.keys()].map((path) => {
      const carried = carrying.files.get(path);
      return carried ? { to: carried.to, how: carried.how } : null;
    }),
    clashes: carrying.clashes.map(({ from: what, there, both, isForced }) => ({
      from: what,
      there,
      both,
      isForced,
    })),
  };
}
