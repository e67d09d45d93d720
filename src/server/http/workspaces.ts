// Workspaces: made, opened, looked over, read anew, put back.

import { AppError } from '@/core/errors';
import { isWithin } from '@/core/files/treePath';
import type { WorkspaceFile } from '@/core/layouts/workspace';
import { scanFound } from '@/wire/jobs';
import type { CreatePreview, OverviewView } from '@/wire/views';
import { forgetWorkspace, listWorkspaces } from '../database/queries';
import { isThere } from '../disk/asking';
import { workspaceOf, type Hub } from '../hub';
import { allowedAmong, allowedPath, cleanPath, isAllowed } from '../allowed';
import { referenceView } from '../referenceView';
import { keepWatch, startScan } from '../scans';
import { forgetLedger } from '../seenLedger';
import {
  createWorkspaceRoute,
  forgetWorkspaceRoute,
  openWorkspace,
  previewCreate,
  putBack,
  readOverview,
  scanWorkspace,
} from '@/wire/routes/workspaces';
import { listAttention, listTroubles, readTotals } from '../database/overviewQueries';
import { isGuided } from '../demo';
import { endpoint } from './handle';
import { layoutOf, openRoot, workspaceView } from './workspaceView';

const isDemo = (root: string) =>
  !!process.env.SATCHEL_DEMO && isWithin(root, cleanPath(process.env.SATCHEL_DEMO));

/** Where else the same workspace lies, of those that were opened here. */
async function copiesOf(h: Hub, id: string, { created, name }: WorkspaceFile): Promise<string[]> {
  const found: string[] = [];
  // A copy has its name; only such ones are looked at.
  const rows = (await listWorkspaces(h.db)).filter((row) => row.id !== id && row.name === name);
  for (const row of await allowedAmong(h, rows)) {
    if (!(await isThere(row.root))) continue;
    const file = await h.ask('workspace', row.root).catch(() => null);
    if (file?.created === created && file.name === name) found.push(row.root);
  }
  return found;
}

/** The root of the workspace that a root lies in; null where it lies in none, or in one that is not allowed. */
async function outerOf(h: Hub, root: string): Promise<string | null> {
  const above = root.slice(0, root.lastIndexOf('/'));
  if (above === '' || !(await isAllowed(h, above))) return null;
  const outer = await h.ask('rootOf', above);
  return outer !== null && (await isAllowed(h, outer)) ? outer : null;
}

export const workspaceEndpoints = [
  endpoint(previewCreate, async (h, input): Promise<CreatePreview> => {
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
        const root = await h.ask('planNew', {
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
  endpoint(createWorkspaceRoute, async (h, input) => {
    const root = await h.ask('createWorkspace', {
      parent: await allowedPath(h, input.parent, 'change'),
      name: input.name,
      layout: layoutOf(h, input.layout),
      without: input.without,
    });
    return openRoot(h, root);
  }),
  endpoint(openWorkspace, async (h, input) => {
    const at = await allowedPath(h, input.path);
    const root = await h.ask('rootOf', at);
    if (root === null) throw new AppError('not-a-workspace', `${at} is no workspace and lies in none.`);
    return openRoot(h, await allowedPath(h, root));
  }),
  endpoint(forgetWorkspaceRoute, async (h, _, { id }) => {
    // What goes on or waits for it would have nobody to tell any more.
    for (const job of h.jobs.list()) if (job.workspace === id && job.ended === null) h.jobs.cancel(job.id);
    await forgetLedger(h.dataFolder, id!);
    return forgetWorkspace(h.db, id!);
  }),

  endpoint(readOverview, async (h, _, { id }): Promise<OverviewView> => {
    const row = await workspaceOf(h, id!);
    const file = await h.ask('workspace', row.root);
    if (row.scanned === null) await startScan(h, row.id, row.root, row.name);
    keepWatch(h, row);
    const totals = await readTotals(h.db, row.id);
    return {
      workspace: await workspaceView(h, row),
      layout: file.layout,
      created: file.created,
      scanned: row.scanned,
      ...totals,
      attention: (await listAttention(h.db, row.id, 12)).map(referenceView),
      ledger: (await h.ask('ledger', row.root)).slice(0, 200),
      // While work of our own goes on, its entry is open, too.
      open: h.jobs.list().some((j) => j.work === 'apply' && j.workspace === row.id && j.ended === null)
        ? []
        : await h.ask('openEntries', row.root),
      found: row.found === null ? null : scanFound.parse(JSON.parse(row.found)),
      free: await h.ask('freeBytes', row.root),
      // The demo lies wherever it was tried.
      misplaced: isDemo(row.root) ? null : await h.ask('wrongPlace', row.root),
      copies: await copiesOf(h, row.id, file),
      inside: await outerOf(h, row.root),
      troubles: isGuided(row.root) ? await listTroubles(h.db, row.id) : null,
    };
  }),
  endpoint(putBack, async (h, input, { id }) => {
    const row = await workspaceOf(h, id!, 'change');
    if (input.leave) await h.ask('leaveAsIs', row.root, input.id);
    const done = input.leave ? [] : await h.ask('settle', row.root, input.id);
    await startScan(h, row.id, row.root, row.name);
    return { done };
  }),
  endpoint(scanWorkspace, async (h, _, { id }) => {
    const row = await workspaceOf(h, id!);
    return startScan(h, row.id, row.root, row.name);
  }),
];
