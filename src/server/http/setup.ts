// Endpoints for setting workspaces up and putting them right: layouts, several at once, adopting, nested ones, moving whole workspaces, places,
// settings, units, the holding area.

import fs from 'node:fs';
import { z } from 'zod';
import { AppError } from '@/core/errors';
import { isTreePath, isWithin, nameOf, treePath } from '@/core/files/treePath';
import { adviseOn } from '@/core/layouts/advice';
import { layoutOfFolders, readLayoutText, writeLayout, type Layout } from '@/core/layouts/layout';
import { usualPatterns } from '@/core/names/patterns';
import { checkNames } from '@/core/plans/planCreateMany';
import { intakeOf } from '@/core/plans/planIntake';
import type { Recognised } from '@/core/plans/planAdopt';
import { usualUnits } from '@/core/units/units';
import { adoptRequest, createManyRequest, relocateRequest } from '@/wire/jobs';
import { parseLayoutJson, layoutJsonOf } from '@/wire/layout';
import { planSchema } from '@/wire/plan';
import type { LayoutView, PackFileView, PackView, PlaceView, SettingsView } from '@/wire/views';
import {
  countReferences,
  listFilesBelow,
  listAllowed,
  listUsersOutside,
  listWorkspaces,
} from '../database/queries';
import { diskOutside } from '../disk/diskOutside';
import { signsOf } from '../disk/signs';
import { isAbsolute, toSystem } from '../disk/system';
import { allowedPath, keepPlan, workspaceOf, type Hub } from '../hub';
import { knownNeighbours } from './neighbours';
import { readWorkspace, rootOf, markerDamage } from '../workspaces/open';
import { removeLayout, saveLayout } from '../workspaces/layoutLibrary';
import { commonFolder, planShelfUndo, readShelfLedger, recordsOf } from '../workspaces/shelf';
import { dropEndpoints } from './drops';
import { endpoint } from './handle';
import { layoutOf, layoutSource, layoutViews } from './workspaceView';

const none = z.object({});
const layoutChoice = z.object({ id: z.string().optional(), text: z.string().optional() });

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

async function folderIn(h: Hub, given: string): Promise<string> {
  const at = await allowedPath(h, given);
  if ((await diskOutside.kind(at)) !== 'folder') throw new AppError('not-found', `${at} is no folder.`);
  return at;
}

/** The folder itself, which must be no workspace and lie in none; the error names the root there is. */
async function freeOfWorkspaces(at: string): Promise<string> {
  const holder = await rootOf(at);
  // A damaged marker has a way out: the folder is adopted anew.
  if (holder === null || (holder === at && (await markerDamage(at)) !== null)) return at;
  throw holder === at
    ? new AppError('exists', `${at} is a workspace already.`, 'Nothing was changed.', [holder])
    : new AppError('inside-workspace', `${at} lies inside the workspace ${holder}.`, 'Nothing was changed.', [
        holder,
      ]);
}

export const setupEndpoints = [
  endpoint('GET', '/api/layouts', none, async (h): Promise<LayoutView[]> => layoutViews(h)),
  endpoint(
    'POST',
    '/api/layouts',
    z.object({ text: z.string().max(200_000), replaces: z.string().nullable().default(null) }),
    async (h, input) => {
      const saved = saveLayout(h.dataFolder, input.text, input.replaces);
      return { id: saved.id };
    },
  ),
  endpoint('DELETE', '/api/layouts', z.object({ id: z.string() }), async (h, input) => {
    removeLayout(h.dataFolder, input.id);
    return {};
  }),
  endpoint(
    'POST',
    '/api/layouts/convert',
    z.object({ json: z.string().max(1_000_000).optional(), text: z.string().max(200_000).optional() }),
    async (_h, input) => {
      if (input.json !== undefined) return { text: writeLayout(parseLayoutJson(input.json)) };
      const read = readLayoutText(input.text ?? '');
      if (read.problems[0])
        throw new AppError(
          'bad-layout',
          read.problems[0].message,
          'Nothing was changed.',
          read.problems.map((p) => `Line ${p.line}: ${p.message}`),
        );
      return { json: `${JSON.stringify(layoutJsonOf(read), null, 2)}\n` };
    },
  ),
  endpoint('POST', '/api/layouts/from-folder', z.object({ path: z.string() }), async (h, input) => {
    const at = await folderIn(h, input.path);
    const layout = layoutOf(h, { id: 'game-environment' });
    return h.jobs.start({
      order: { work: 'recognise', root: at, layout: layoutSource(layout) },
      title: `Look through ${nameOf(at)}`,
      workspace: null,
      finish: async (result) => {
        const found = result as Recognised;
        const folders = found.folders
          .map((f) => f.path)
          .filter(
            (p) =>
              p !== '' &&
              !p.split('/').some((part) => part.startsWith('.')) &&
              !found.nested.some((n) => isWithin(p, n)),
          );
        return { text: writeLayout({ tree: layoutOfFolders(folders, found.homes), name: nameOf(at) }) };
      },
    });
  }),

  endpoint('POST', '/api/workspaces/many/preview', createManyRequest, async (h, input) => {
    const parent = await folderIn(h, input.parent);
    const holder = await rootOf(parent);
    const taken = ((await diskOutside.entries(parent)) ?? []).map((e) => e.name);
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
  endpoint('POST', '/api/workspaces/many', createManyRequest, async (h, input) => {
    const parent = await freeOfWorkspaces(await folderIn(h, input.parent));
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
  endpoint(
    'POST',
    '/api/recognise',
    z.object({ path: z.string(), layout: layoutChoice }),
    async (h, input) => {
      const at = await freeOfWorkspaces(await folderIn(h, input.path));
      return h.jobs.start({
        order: { work: 'recognise', root: at, layout: layoutSource(layoutOf(h, input.layout)) },
        title: `Look through ${nameOf(at)}`,
        workspace: null,
      });
    },
  ),
  endpoint('POST', '/api/adopt', adoptRequest, async (h, input) => {
    const at = await freeOfWorkspaces(await folderIn(h, input.path));
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
  endpoint('POST', '/api/find', z.object({ path: z.string() }), async (h, input) =>
    h.jobs.start({
      order: { work: 'find', root: await folderIn(h, input.path) },
      title: 'Look for workspaces',
      workspace: null,
    }),
  ),
  endpoint('POST', '/api/relocate', relocateRequest, async (h, input) => {
    const moves: { from: string; to: string }[] = [];
    for (const m of input.moves) {
      const [from, to] = [await allowedPath(h, m.from), await allowedPath(h, m.to)];
      if ((await diskOutside.kind(from)) !== 'folder')
        throw new AppError('not-found', `${from} is not there.`);
      moves.push({ from, to });
    }
    const known = (await listWorkspaces(h.db)).map((w) => w.root);
    const allowed: string[] = [];
    for (const root of known)
      if (
        await allowedPath(h, root).then(
          () => true,
          () => false,
        )
      )
        allowed.push(root);
    // Around everything that moves, and around the workspaces that may point into it, as far as the user allows.
    const first = commonFolder(moves.flatMap((m) => [m.from, m.to]));
    const wide = commonFolder([
      ...moves.flatMap((m) => [m.from, m.to]),
      ...allowed.filter((r) => fs.existsSync(toSystem(r))),
    ]);
    const container = (await allowedPath(h, wide).then(
      () => true,
      () => false,
    ))
      ? wide
      : first;
    await allowedPath(h, container);
    const deviceOf = (p: string) => {
      let at = p;
      while (!fs.existsSync(toSystem(at)) && at.lastIndexOf('/') > 0) at = at.slice(0, at.lastIndexOf('/'));
      return fs.statSync(toSystem(at)).dev;
    };
    for (const m of moves)
      if (deviceOf(m.from) !== deviceOf(m.to))
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
  endpoint('GET', '/api/shelf', none, async (h) => (await readShelfLedger(h.dataFolder)).slice(0, 50)),
  endpoint(
    'POST',
    '/api/shelf/undo',
    z.object({ container: z.string(), id: z.string() }),
    async (h, input) => {
      const container = await allowedPath(h, input.container);
      return keepShelfPlan(h, container, await planShelfUndo(h.dataFolder, container, input.id));
    },
  ),

  endpoint('GET', '/api/place', z.object({ path: z.string() }), async (h, input): Promise<PlaceView> => {
    let at = await allowedPath(h, input.path);
    // A folder that is not there yet will lie on the drive of the one that will hold it.
    while (!fs.existsSync(toSystem(at)) && at.lastIndexOf('/') > 0) at = at.slice(0, at.lastIndexOf('/'));
    const signs = await signsOf(at);
    return { folder: at, signs, advice: adviseOn(signs) };
  }),
  endpoint('POST', '/api/place/probe', z.object({ path: z.string() }), async (h, input) => {
    const folder = await folderIn(h, input.path);
    return h.jobs.start({
      order: { work: 'probe', folder },
      title: `Measure ${nameOf(folder)}`,
      workspace: null,
      finish: async (speed): Promise<PlaceView> => {
        const signs = { ...(await signsOf(folder)), speed: speed as PlaceView['signs']['speed'] };
        return { folder, signs, advice: adviseOn(signs) };
      },
    });
  }),

  endpoint('GET', '/api/workspaces/:id/settings', none, async (h, _, { id }): Promise<SettingsView> => {
    const { root } = await workspaceOf(h, id!);
    const { file } = await readWorkspace(root);
    const allowed = await listAllowed(h.db);
    const here = (heads: readonly string[]) =>
      heads.filter(
        (head) =>
          isAbsolute(head) &&
          allowed.some((a) => a === '/' || isWithin(head, a)) &&
          fs.existsSync(toSystem(head)),
      );
    return {
      name: file.name,
      root,
      created: file.created,
      layout: { id: file.layout, text: file.layoutText ?? null },
      folders: file.folders,
      homes: file.homes as Record<string, string>,
      category: file.category ?? null,
      archived: file.archived ?? null,
      units: file.units ?? usualUnits,
      usualUnits: file.units === undefined,
      names: {
        scene: file.names?.scene ?? usualPatterns.scene,
        output: file.names?.output ?? usualPatterns.output,
        person: file.names?.person ?? '',
      },
      libraries: file.libraries.map((l) => ({ ...l, there: fs.existsSync(toSystem(l.path)) })),
      places: file.places.map((p) => ({ ...p, heads: [...p.heads], here: here(p.heads) })),
    };
  }),
  endpoint('POST', '/api/workspaces/:id/measure', none, async (h, _, { id }) => {
    const row = await workspaceOf(h, id!);
    return h.jobs.start({
      order: { work: 'measure', root: row.root },
      title: `Measure the scenes of ${row.name}`,
      workspace: row.id,
    });
  }),
  endpoint('POST', '/api/workspaces/:id/loose', none, async (h, _, { id }) => {
    const row = await workspaceOf(h, id!);
    return h.jobs.start({
      order: { work: 'loose', root: row.root },
      title: 'Look for what lies about',
      workspace: row.id,
    });
  }),

  endpoint(
    'GET',
    '/api/workspaces/:id/intake',
    none,
    async (h, _, { id }): Promise<{ home: string; packs: PackView[] }> => {
      const row = await workspaceOf(h, id!);
      const workspace = await readWorkspace(row.root);
      const home = intakeOf(workspace);
      const packs: PackView[] = [];
      for (const e of (await workspace.tree.entries(home)) ?? []) {
        if (e.name.startsWith('.') || e.kind === 'other') continue;
        const path = `${home}/${e.name}`;
        const files = await listFilesBelow(h.db, row.id, path, 100_000);
        const outside = await listUsersOutside(h.db, row.id, path);
        const stat = e.kind === 'file' ? await workspace.tree.stat(treePath(path)) : null;
        packs.push({
          path,
          name: e.name,
          kind: e.kind,
          files: e.kind === 'file' ? 1 : files.length,
          bytes: stat?.size ?? files.reduce((s, f) => s + f.size, 0),
          scenes: files.filter((f) => f.kind === 'scene' || f.kind === 'model').length,
          textures: files.filter((f) => f.kind === 'texture').length,
          used: outside.length,
        });
      }
      return { home, packs };
    },
  ),
  endpoint(
    'GET',
    '/api/workspaces/:id/intake/files',
    z.object({ pack: z.string().refine(isTreePath) }),
    async (h, input, { id }): Promise<{ files: PackFileView[]; used: string[] }> => {
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
    },
  ),
  endpoint(
    'POST',
    '/api/workspaces/:id/alike',
    z.object({ pack: z.string().refine((p) => p !== '' && isTreePath(p)) }),
    async (h, input, { id }) => {
      const row = await workspaceOf(h, id!);
      return h.jobs.start({
        order: { work: 'alike', root: row.root, pack: input.pack },
        title: `Compare ${nameOf(input.pack)} with what is here`,
        workspace: row.id,
      });
    },
  ),
  ...dropEndpoints,
];
