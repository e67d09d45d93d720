// Every endpoint, in the order of the work. Each is short: checks that paths are allowed, asks server or core, shapes the answer.

import { ownFolder } from '@/core/files/records';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { z } from 'zod';
import { knownMachines } from '@/core/bags/machine';
import { AppError } from '@/core/errors';
import { folderOf, isTreePath, isWithin, nameOf, treePath } from '@/core/files/treePath';
import { kindAtHome, kindOfName } from '@/core/layouts/homes';
import { roomOf } from '@/core/layouts/room';
import { scenePaths } from '@/core/references/scan';
import { isSceneFormat, formatOfName } from '@/core/formats/formats';
import { createRequest, planRequest, scanFound, type PlanRequest } from '@/wire/jobs';
import { planSchema } from '@/wire/plan';
import type { CreatePreview, FileView, FolderView, OverviewView, StateView, UnusedView } from '@/wire/views';
import {
  listSeen,
  addAllowed,
  forgetWorkspace,
  listAllFiles,
  listAttention,
  listFilesIn,
  listAllowed,
  listUnused,
  listWorkspaces,
  readSetting,
  readTotals,
  removeAllowed,
  writeSetting,
} from '../database/queries';
import { diskOutside } from '../disk/diskOutside';
import { toSystem } from '../disk/system';
import { allowedPath, cleanPath, keepPlan, workspaceOf, type Hub, type WaitingPlan } from '../hub';
import { knownNeighbours } from './neighbours';
import { createWorkspace, hasMarker, planNew, readWorkspace, rootOf } from '../workspaces/open';
import { readLedger, readLedgerLong } from '../workspaces/ledger';
import { leaveAsIs, openEntries, recordsIn, settle } from '../workspaces/changing';
import { batchFolder, newBatch, stagingFolder } from '../workspaces/stage';
import { afterApply } from './afterApply';
import { fileDetailOf, pictureOf } from './detail';
import { freeBytes } from '../disk/use';
import { endpoint, pageQuery } from './handle';
import { planView } from './planView';
import { referenceView } from '../referenceView';
import { referenceEndpoints } from './references';
import { setupEndpoints } from './setup';
import { layoutOf, layoutSource, layoutViews, openRoot, workspaceView } from './workspaceView';
import { versionsOf } from '../workspaces/versions';
import { keepWatch, startScan } from '../scans';

const none = z.object({});

/** Folders that people usually keep work in, for a first choice: names only, nothing in them is looked at. */
function suggestions(): string[] {
  const home = os.homedir();
  return [
    home,
    ...['Documents', 'Projects', 'work', 'Downloads', 'Desktop'].map((n) =>
      path.join(/*turbopackIgnore: true*/ home, n),
    ),
  ]
    .filter((f) => fs.existsSync(/*turbopackIgnore: true*/ f))
    .map((f) => cleanPath(f));
}

function titleOf(request: PlanRequest): string {
  return {
    bring: 'Plan what comes in',
    travel: 'Plan how references travel',
    save: 'Plan the next version',
    restore: 'Plan the way back',
    undo: 'Plan the undo',
    relink: 'Plan where paths point',
    repath: 'Plan the new paths',
    tidy: 'Plan where things go',
    move: 'Plan the move',
    homes: 'Plan the new homes',
    settings: 'Plan the settings',
    layout: 'Plan the layout',
    nested: 'Plan the repair',
    bin: 'Plan the clearing',
    merge: 'Plan the merging',
    intake: 'Plan what is taken in',
    take: 'Plan what is taken out',
    yardstick: 'Plan the grid and box',
  }[request.kind];
}

// Plans by which files may come to lie elsewhere: only these can break what other workspaces point to.
const mayMove: ReadonlySet<PlanRequest['kind']> = new Set([
  'move',
  'homes',
  'tidy',
  'layout',
  'nested',
  'bin',
  'merge',
  'take',
  'undo',
]);

/** A plan that waits for review, of a folder that is still allowed. */
async function waitingPlan(h: Hub, id: string): Promise<WaitingPlan> {
  const waiting = h.plans.get(id);
  if (!waiting) throw new AppError('not-found', 'This plan is not waiting any more. Make it again.');
  if (waiting.workspace === null) await allowedPath(h, waiting.root);
  else await workspaceOf(h, waiting.workspace);
  return waiting;
}

export const endpoints = [
  ...setupEndpoints,
  endpoint('GET', '/api/state', none, async (h): Promise<StateView> => {
    const allowed = await listAllowed(h.db);
    return {
      version: '0.1.0',
      system: process.platform,
      home: cleanPath(os.homedir()),
      dataFolder: h.dataFolder,
      demo: process.env.SATCHEL_DEMO ? cleanPath(process.env.SATCHEL_DEMO) : null,
      allowed: allowed.map((p) => ({ path: p, there: fs.existsSync(toSystem(p)) })),
      suggestions: suggestions(),
      workspaces: await Promise.all((await listWorkspaces(h.db)).map(workspaceView)),
      layouts: layoutViews(h),
      machines: knownMachines.map((p) => ({ id: p.id, name: p.name, root: p.root, system: p.system })),
    };
  }),
  endpoint('POST', '/api/allowed', z.object({ path: z.string() }), async (h, input) => {
    const clean = cleanPath(input.path);
    if ((await diskOutside.kind(clean)) !== 'folder')
      throw new AppError('not-found', `${clean} is no folder on this machine.`);
    await addAllowed(h.db, clean);
    return { path: clean };
  }),
  endpoint('DELETE', '/api/allowed', z.object({ path: z.string() }), async (h, input) =>
    removeAllowed(h.db, input.path),
  ),
  endpoint(
    'GET',
    '/api/folders',
    z.object({ path: z.string(), files: z.enum(['yes', 'no']).default('no') }),
    async (h, input): Promise<FolderView> => {
      const at = await allowedPath(h, input.path);
      const listed = await diskOutside.entries(at);
      if (!listed) throw new AppError('not-found', `${at} is no folder that can be read.`);
      const base = at === '/' ? '' : at;
      const entries = await Promise.all(
        listed
          .filter((e) => e.kind === 'folder' || (e.kind === 'file' && input.files === 'yes'))
          .map(async (e) => ({
            name: e.name,
            path: `${base}/${e.name}`,
            kind: e.kind as 'file' | 'folder',
            size: e.kind === 'file' ? ((await diskOutside.stat(`${base}/${e.name}`))?.size ?? null) : null,
            isWorkspace: e.kind === 'folder' && (await hasMarker(`${base}/${e.name}`)),
          })),
      );
      const parent = at === '/' ? null : at.slice(0, at.lastIndexOf('/')) || '/';
      const mayUp =
        parent !== null &&
        (await allowedPath(h, parent).then(
          () => true,
          () => false,
        ));
      return { path: at, parent: mayUp ? parent : null, root: await rootOf(at), entries };
    },
  ),

  endpoint('POST', '/api/workspaces/preview', createRequest, async (h, input): Promise<CreatePreview> => {
    const fail = (problem: string, details: readonly string[] = []): CreatePreview => ({
      root: '',
      folders: [],
      problem,
      details: [...details],
    });
    try {
      const layout = layoutOf(h, input.layout);
      const kinds = (f: string) =>
        Object.entries(layout.homes)
          .filter(([, home]) => home === f)
          .map(([k]) => k);
      const folders = layout.folders.map((f) => ({ path: f, kinds: kinds(f) }));
      try {
        const { root } = await planNew({
          parent: await allowedPath(h, input.parent),
          name: input.name,
          layout,
          without: input.without,
        });
        return { root, folders, problem: null, details: [] };
      } catch (cause) {
        if (cause instanceof AppError) return { ...fail(cause.message, cause.details), folders };
        throw cause;
      }
    } catch (cause) {
      if (cause instanceof AppError) return fail(cause.message, cause.details);
      throw cause;
    }
  }),
  endpoint('POST', '/api/workspaces', createRequest, async (h, input) => {
    const { root } = await createWorkspace({
      parent: await allowedPath(h, input.parent),
      name: input.name,
      layout: layoutOf(h, input.layout),
      without: input.without,
    });
    return openRoot(h, root);
  }),
  endpoint('POST', '/api/workspaces/open', z.object({ path: z.string() }), async (h, input) => {
    const at = await allowedPath(h, input.path);
    const root = await rootOf(at);
    if (root === null) throw new AppError('not-a-workspace', `${at} is no workspace and lies in none.`);
    return openRoot(h, await allowedPath(h, root));
  }),
  endpoint('DELETE', '/api/workspaces/:id', none, async (h, _, { id }) => forgetWorkspace(h.db, id!)),

  endpoint('GET', '/api/workspaces/:id', none, async (h, _, { id }): Promise<OverviewView> => {
    const row = await workspaceOf(h, id!);
    const workspace = await readWorkspace(row.root);
    if (row.scanned === null) startScan(h, row.id, row.root, row.name);
    keepWatch(h, row);
    const totals = await readTotals(h.db, row.id);
    return {
      workspace: await workspaceView(row),
      layout: workspace.file.layout,
      created: workspace.file.created,
      scanned: row.scanned,
      ...totals,
      attention: (await listAttention(h.db, row.id, 12)).map(referenceView),
      ledger: (await readLedger(recordsIn(row.root))).slice(0, 200),
      // While work of our own goes on, its entry is open, too.
      open: h.jobs.list().some((j) => j.work === 'apply' && j.workspace === row.id && j.ended === null)
        ? []
        : await openEntries(recordsIn(row.root)),
      found: row.found === null ? null : scanFound.parse(JSON.parse(row.found)),
      free: freeBytes(row.root),
    };
  }),
  endpoint(
    'POST',
    '/api/workspaces/:id/put-back',
    z.object({ id: z.string(), leave: z.boolean().default(false) }),
    async (h, input, { id }) => {
      const row = await workspaceOf(h, id!);
      const of = recordsIn(row.root);
      if (input.leave) await leaveAsIs(of, input.id);
      const done = input.leave ? [] : await settle(of, new Set([input.id]));
      startScan(h, row.id, row.root, row.name);
      return { done };
    },
  ),
  endpoint('POST', '/api/workspaces/:id/scan', none, async (h, _, { id }) => {
    const row = await workspaceOf(h, id!);
    return startScan(h, row.id, row.root, row.name);
  }),
  ...referenceEndpoints,

  endpoint(
    'GET',
    '/api/workspaces/:id/files',
    z.object({ folder: z.string().default('') }),
    async (h, input, { id }): Promise<FileView[]> => {
      const row = await workspaceOf(h, id!);
      if (!isTreePath(input.folder)) throw new AppError('bad-request', 'That is no folder of the workspace.');
      const { tree, file } = await readWorkspace(row.root);
      const entries = await tree.entries(treePath(input.folder));
      if (!entries) throw new AppError('not-found', `${input.folder} is not there.`);
      const indexed = new Map(
        (await listFilesIn(h.db, row.id, input.folder === '' ? '' : `${input.folder}/`)).map((f) => [
          f.path,
          f,
        ]),
      );
      const views = await Promise.all(
        entries
          .filter((e) => input.folder !== '' || e.name !== ownFolder)
          .map(async (e): Promise<FileView> => {
            const at = treePath(input.folder === '' ? e.name : `${input.folder}/${e.name}`);
            const stat = e.kind === 'file' ? await tree.stat(at) : null;
            return {
              name: e.name,
              path: at,
              kind: e.kind === 'folder' ? 'folder' : 'file',
              fileKind: e.kind === 'file' ? kindOfName(at) : '',
              home:
                e.kind === 'folder'
                  ? Object.entries(file.homes)
                      .filter(([, f]) => f === at)
                      .map(([k]) => k)
                      .join(', ') || null
                  : kindAtHome(at, file.homes),
              size: stat?.size ?? null,
              modified: stat?.modified ?? null,
              uses: indexed.get(at)?.uses ?? null,
              unused: indexed.get(at)?.unused ?? false,
            };
          }),
      );
      return views.sort((a, b) => (a.kind === b.kind ? 0 : a.kind === 'folder' ? -1 : 1));
    },
  ),
  endpoint(
    'GET',
    '/api/workspaces/:id/room',
    z.object({ by: z.enum(['home', 'use']) }),
    async (h, input, { id }) => {
      const row = await workspaceOf(h, id!);
      return roomOf(await listAllFiles(h.db, row.id), (await readWorkspace(row.root)).file.homes, input.by);
    },
  ),
  endpoint('POST', '/api/workspaces/:id/duplicates', none, async (h, _, { id }) => {
    const row = await workspaceOf(h, id!);
    return h.jobs.start({
      order: { work: 'duplicates', root: row.root },
      title: 'Look for files that are there twice',
      workspace: row.id,
    });
  }),
  endpoint('GET', '/api/workspaces/:id/unused', pageQuery, async (h, input, { id }): Promise<UnusedView> => {
    const row = await workspaceOf(h, id!);
    const files = await listUnused(h.db, row.id, input.offset, input.limit);
    const total = row.found === null ? { files: 0, bytes: 0 } : scanFound.parse(JSON.parse(row.found)).unused;
    return {
      total,
      files: files.map((f) => ({
        name: nameOf(f.path),
        path: f.path,
        kind: 'file',
        fileKind: f.kind,
        home: null,
        size: f.size,
        modified: f.modified,
        uses: 0,
        unused: true,
      })),
    };
  }),
  endpoint(
    'GET',
    '/api/workspaces/:id/file',
    z.object({ path: z.string().refine(isTreePath) }),
    async (h, input, { id }) => fileDetailOf(h, await workspaceOf(h, id!), treePath(input.path)),
  ),
  endpoint(
    'GET',
    '/api/workspaces/:id/picture',
    z.object({ path: z.string().refine(isTreePath) }),
    async (h, input, { id }) => pictureOf(await workspaceOf(h, id!), treePath(input.path)),
  ),
  endpoint('GET', '/api/workspaces/:id/scenes', none, async (h, _, { id }) => {
    const { tree } = await readWorkspace((await workspaceOf(h, id!)).root);
    return (await scenePaths(tree)).scenes.filter((p) => isSceneFormat(formatOfName(p)!.id));
  }),
  endpoint(
    'GET',
    '/api/workspaces/:id/versions',
    z.object({ scene: z.string().refine(isTreePath) }),
    async (h, input, { id }) =>
      versionsOf(await readWorkspace((await workspaceOf(h, id!)).root), treePath(input.scene)),
  ),
  endpoint(
    'GET',
    '/api/workspaces/:id/ledger',
    z.object({ path: z.string().optional() }),
    async (h, input, { id }) =>
      readLedgerLong((await workspaceOf(h, id!)).root, input.path === undefined ? null : [input.path]),
  ),

  endpoint('POST', '/api/workspaces/:id/plans', planRequest, async (h, input, { id }) => {
    const row = await workspaceOf(h, id!);
    // What was dropped on the window lies in our own folder.
    const staging = stagingFolder(h.dataFolder);
    if (input.kind === 'bring')
      for (const file of input.files) if (!isWithin(cleanPath(file), staging)) await allowedPath(h, file);
    if (input.kind === 'intake' && !isWithin(cleanPath(input.from), staging))
      await allowedPath(h, input.from);
    if (input.kind === 'relink') for (const folder of input.search) await allowedPath(h, folder);
    const dropped = input.kind === 'bring' ? input.files : input.kind === 'intake' ? [input.from] : [];
    const seen =
      input.kind === 'relink'
        ? (await listSeen(h.db, row.id)).map((s): [string, number] => [s.path, s.size])
        : [];
    const layout = input.kind === 'layout' ? layoutSource(layoutOf(h, input.layout)) : null;
    return h.jobs.start({
      order: {
        work: 'plan',
        root: row.root,
        allowed: [...(await listAllowed(h.db)), staging],
        request: input,
        seen,
        layout,
        neighbours: mayMove.has(input.kind) ? await knownNeighbours(h, row.root) : [],
        staging: input.kind === 'intake' ? batchFolder(h.dataFolder, newBatch(h.dataFolder)) : null,
        notes: h.drops.notesFor(dropped),
      },
      title: titleOf(input),
      workspace: row.id,
      finish: async (result) => ({
        plan: keepPlan(h, { workspace: row.id, root: row.root }, planSchema.parse(result)),
      }),
    });
  }),
  endpoint('GET', '/api/plans/:plan', none, async (h, _, { plan }) => planView(await waitingPlan(h, plan!))),
  endpoint('POST', '/api/plans/:plan/apply', none, async (h, _, { plan }) => {
    const waiting = await waitingPlan(h, plan!);
    h.plans.delete(waiting.id);
    return h.jobs.start({
      order: { work: 'apply', root: waiting.root, plan: waiting.plan, records: waiting.records },
      title: waiting.plan.title,
      workspace: waiting.workspace,
      finish: async (result) => ({
        ...(result as { id: string; gone?: boolean }),
        ...(await afterApply(h, waiting, (result as { gone?: boolean }).gone === true)),
      }),
    });
  }),

  endpoint(
    'POST',
    '/api/bags/pack',
    z.object({
      workspace: z.string(),
      folder: z.string(),
      name: z.string().min(1),
      form: z.enum(['zip', 'folder']),
    }),
    async (h, input) => {
      const row = await workspaceOf(h, input.workspace);
      const to = await allowedPath(
        h,
        `${input.folder.replace(/[\\/]+$/, '')}/${input.name}${input.form === 'zip' ? '.zip' : ''}`,
      );
      return h.jobs.start({
        order: { work: 'pack', root: row.root, to },
        title: `Pack ${row.name}`,
        workspace: row.id,
      });
    },
  ),
  endpoint('POST', '/api/bags/verify', z.object({ bag: z.string() }), async (h, input) => {
    const bag = await allowedPath(h, input.bag);
    return h.jobs.start({ order: { work: 'verify', bag }, title: `Verify ${nameOf(bag)}`, workspace: null });
  }),
  endpoint(
    'POST',
    '/api/bags/unpack',
    z.object({ bag: z.string(), folder: z.string(), name: z.string().min(1) }),
    async (h, input) => {
      const bag = await allowedPath(h, input.bag);
      const to = await allowedPath(h, `${input.folder.replace(/[\\/]+$/, '')}/${input.name}`);
      const holder = await rootOf(folderOf(to) || '/');
      if (holder !== null)
        throw new AppError('inside-workspace', `${to} would lie inside the workspace ${holder}.`);
      return h.jobs.start({
        order: { work: 'unpack', bag, to },
        title: `Unpack ${nameOf(bag)}`,
        workspace: null,
      });
    },
  ),
  endpoint(
    'POST',
    '/api/bags/rehearse',
    z.object({ path: z.string(), place: z.string(), at: z.string().optional() }),
    async (h, input) => {
      const at = await allowedPath(h, input.path);
      return h.jobs.start({
        order: { work: 'rehearse', path: at, place: input.place, at: input.at || undefined },
        title: `Rehearse ${nameOf(at)}`,
        workspace: null,
      });
    },
  ),

  endpoint('GET', '/api/jobs', none, async (h) => h.jobs.list()),
  endpoint('POST', '/api/jobs/:job/cancel', none, async (h, _, { job }) => ({
    cancelled: h.jobs.cancel(job!),
  })),
  endpoint('GET', '/api/settings/:name', none, async (h, _, { name }) => ({
    value: await readSetting(h.db, name!),
  })),
  endpoint(
    'POST',
    '/api/settings/:name',
    z.object({ value: z.string().max(10_000) }),
    async (h, input, { name }) => writeSetting(h.db, name!, input.value),
  ),
];
