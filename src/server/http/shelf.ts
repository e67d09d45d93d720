// Work above single workspaces: several made at once, folders looked through and adopted, whole workspaces found and moved.

import { AppError } from '@/core/errors';
import { nameOf } from '@/core/files/treePath';
import type { Layout } from '@/core/layouts/layout';
import { checkNames } from '@/core/plans/planCreateMany';
import { planSchema } from '@/wire/plan';
import { listWorkspaces } from '../database/queries';
import { isThere, statInTime } from '../disk/asking';
import { keepPlan, type Hub } from '../hub';
import { allowedPath, isAllowed } from '../allowed';
import { commonFolder, recordsOf } from '../workspaces/shelf';
import { folderIn, freeOfWorkspaces, nearestThere } from './folders';
import {
  adoptFolder,
  createMany,
  findWorkspacesRoute,
  previewMany,
  readShelf,
  recogniseFolder,
  relocate,
  undoOnShelf,
} from '@/wire/routes/shelf';
import { endpoint } from './handle';
import { knownNeighbours } from './neighbours';
import { layoutOf, layoutSource } from './workspaceView';

/** A plan on the folder that holds workspaces, kept for review. */
async function keepShelfPlan(h: Hub, root: string, result: unknown): Promise<{ plan: string }> {
  return {
    plan: keepPlan(
      h,
      { workspace: null, root, records: recordsOf(h.dataFolder, root) },
      planSchema.parse(result),
    ),
  };
}

export const shelfEndpoints = [
  endpoint(previewMany, async (h, input) => {
    const parent = await folderIn(h, input.parent);
    const holder = await h.ask('rootOf', parent);
    const taken = ((await h.ask('listFolder', parent)) ?? []).map((e) => e.name);
    const wrong = checkNames(input.names, taken);
    let problem = holder === null ? null : `${parent} lies inside the workspace ${holder}.`;
    let layout: Layout | null = null;
    try {
      layout = layoutOf(h, input.layout);
    } catch (cause) {
      problem ??= (cause as Error).message;
    }
    return {
      problem,
      folders: layout ? layout.folders.length : 0,
      rows: input.names.map((name) => ({ name, root: `${parent}/${name}`, wrong: wrong.get(name) ?? null })),
    };
  }),
  endpoint(createMany, async (h, input) => {
    const parent = await freeOfWorkspaces(h, await folderIn(h, input.parent));
    return h.jobs.start({
      order: {
        work: 'create-many',
        root: parent,
        records: recordsOf(h.dataFolder, parent),
        request: input,
        layout: layoutSource(layoutOf(h, input.layout)),
      },
      title: `Plan ${input.names.length} workspaces`,
      workspace: null,
      finish: (result) => keepShelfPlan(h, parent, result),
    });
  }),
  endpoint(recogniseFolder, async (h, input) => {
    const at = await freeOfWorkspaces(h, await folderIn(h, input.path));
    return h.jobs.start({
      order: { work: 'recognise', root: at, layout: layoutSource(layoutOf(h, input.layout)) },
      title: `Look through ${nameOf(at)}`,
      workspace: null,
    });
  }),
  endpoint(adoptFolder, async (h, input) => {
    const at = await freeOfWorkspaces(h, await folderIn(h, input.path));
    return h.jobs.start({
      order: {
        work: 'adopt',
        root: at,
        request: input,
        layout: layoutSource(layoutOf(h, input.layout)),
        neighbours: await knownNeighbours(h, at),
      },
      title: `Plan how to adopt ${nameOf(at)}`,
      workspace: null,
      finish: async (result) => ({
        plan: keepPlan(h, { workspace: null, root: at }, planSchema.parse(result)),
      }),
    });
  }),
  endpoint(findWorkspacesRoute, async (h, input) =>
    h.jobs.start({
      order: { work: 'find', root: await folderIn(h, input.path) },
      title: 'Look for workspaces',
      workspace: null,
    }),
  ),
  endpoint(relocate, async (h, input) => {
    const moves: { from: string; to: string }[] = [];
    for (const m of input.moves) {
      const [from, to] = [await allowedPath(h, m.from), await allowedPath(h, m.to)];
      if (!(await statInTime(from))?.isDirectory()) throw new AppError('not-found', `${from} is not there.`);
      moves.push({ from, to });
    }
    const known = (await listWorkspaces(h.db)).map((w) => w.root);
    const allowed: string[] = [];
    for (const root of known) if (await isAllowed(h, root)) allowed.push(root);
    const there: string[] = [];
    for (const root of allowed) if (await isThere(root)) there.push(root);
    // Around everything that moves, and around the workspaces that may point into it, as far as the user allows.
    const first = commonFolder(moves.flatMap((m) => [m.from, m.to]));
    const wide = commonFolder([...moves.flatMap((m) => [m.from, m.to]), ...there]);
    const container = (await isAllowed(h, wide)) ? wide : first;
    await allowedPath(h, container);
    const deviceOf = async (p: string) => (await statInTime(await nearestThere(p)))?.dev;
    for (const m of moves)
      if ((await deviceOf(m.from)) !== (await deviceOf(m.to)))
        throw new AppError(
          'bad-request',
          `${m.to} lies on another drive. Pack a bag and unpack it there: that copies, verifies, and leaves the original until you take it away.`,
        );
    const below = (p: string) => p.slice(container === '/' ? 1 : container.length + 1);
    return h.jobs.start({
      order: {
        work: 'relocate',
        root: container,
        records: recordsOf(h.dataFolder, container),
        neighbours: await knownNeighbours(h, container),
        known: [...new Set([...allowed, ...moves.map((m) => m.from)])],
        moves: moves.map((m) => ({ path: below(m.from), to: below(m.to) })),
      },
      title: `Plan the move of ${nameOf(moves[0]!.from)}`,
      workspace: null,
      finish: (result) => keepShelfPlan(h, container, result),
    });
  }),
  endpoint(readShelf, async (h) => {
    const all = await h.ask('shelfLedger', h.dataFolder);
    if (h.who === null) return all.slice(0, 50);
    const seen = await Promise.all(all.map((e) => isAllowed(h, e.container)));
    return all.filter((_, i) => seen[i]).slice(0, 50);
  }),
  endpoint(undoOnShelf, async (h, input) => {
    const container = await allowedPath(h, input.container);
    return keepShelfPlan(h, container, await h.ask('planShelfUndo', h.dataFolder, container, input.id));
  }),
];
