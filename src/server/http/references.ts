// Endpoints of references at work: the table, one reference in full, what could be meant by a missing one, a scene for the eyes, the map.

import { z } from 'zod';
import { isTreePath } from '@/core/files/treePath';
import { mapOf } from '@/core/references/map';
import { groupings, likenesses, parseFilter, sortings, type SheetFilter } from '@/core/references/sheet';
import { keyOfRow } from '@/core/references/key';
import type { GroupsView, ReferenceView } from '@/wire/views';
import { listSeen, type WorkspaceRow } from '../database/queries';
import { allowedPath, workspaceOf, type Hub } from '../hub';
import { sheetOf } from '../sheets';
import { detailOf, elsewhereOfWritten, previewOf } from './detail';
import { endpoint, pageQuery } from './handle';
import { contentOf, scenePreview } from './preview';

/** More is chosen by a filter, not one by one. */
const mostChosen = 100_000;
/** So many rows come with the groups: what is seen at once needs no second question. */
const firstRows = 40;

const filterQuery = z.object({
  q: z.string().max(500).default(''),
  state: z.string().default(''),
  group: z.enum(groupings).default('scene'),
  sort: z.enum(sortings).default('need'),
  down: z.enum(['yes', 'no']).default('no'),
});

/** What is typed, with the states that are chosen beside it. */
function filterOf(query: z.output<typeof filterQuery>): SheetFilter {
  const filter = parseFilter(query.q);
  return { ...filter, states: [...filter.states, ...query.state.split(',').filter(Boolean)] };
}

async function arranged(h: Hub, row: WorkspaceRow, query: z.output<typeof filterQuery>) {
  const sheet = await sheetOf(h, row);
  return { sheet, ...sheet.arrange(filterOf(query), query.group, query.sort, query.down === 'yes') };
}

export const referenceEndpoints = [
  endpoint(
    'GET',
    '/api/workspaces/:id/references',
    filterQuery,
    async (h, input, { id }): Promise<GroupsView> => {
      const row = await workspaceOf(h, id!);
      const { sheet, groups, order } = await arranged(h, row, input);
      return {
        scanned: row.scanned,
        total: order.length,
        groups,
        ...sheet.totals,
        first: [...order.subarray(0, firstRows)].map((i) => sheet.rows[i]!),
      };
    },
  ),
  endpoint(
    'GET',
    '/api/workspaces/:id/references/rows',
    filterQuery.extend(pageQuery.shape),
    async (h, input, { id }): Promise<ReferenceView[]> => {
      const { sheet, order } = await arranged(h, await workspaceOf(h, id!), input);
      return [...order.subarray(input.offset, input.offset + input.limit)].map((i) => sheet.rows[i]!);
    },
  ),
  endpoint(
    'GET',
    '/api/workspaces/:id/references/keys',
    filterQuery.extend({
      in: z.string().optional(),
      scene: z.string().optional(),
      at: z.string().optional(),
      like: z.enum(likenesses).optional(),
      offset: z.coerce.number().int().min(0).default(0),
      limit: z.coerce.number().int().min(0).max(mostChosen).default(mostChosen),
    }),
    async (h, input, { id }): Promise<{ scene: string; at: string }[]> => {
      const row = await workspaceOf(h, id!);
      const key = (r: ReferenceView) => ({ scene: r.scene, at: r.at });
      if (input.like && input.scene !== undefined && input.at !== undefined)
        return (
          (await sheetOf(h, row)).like(filterOf(input), { scene: input.scene, at: input.at }, input.like) ??
          []
        )
          .slice(0, mostChosen)
          .map(key);
      const { sheet, order, groups } = await arranged(h, row, input);
      let [start, end] = [input.offset, input.offset + input.limit];
      if (input.in !== undefined) {
        const n = groups.findIndex((g) => g.key === input.in);
        start = groups.slice(0, Math.max(0, n)).reduce((sum, g) => sum + g.rows, 0);
        end = start + Math.min(mostChosen, groups[n]?.rows ?? 0);
      }
      return [...order.subarray(start, end)].map((i) => key(sheet.rows[i]!));
    },
  ),
  endpoint(
    'POST',
    '/api/workspaces/:id/references/of',
    z.object({ keys: z.array(z.object({ scene: z.string(), at: z.string() })).max(20_000) }),
    async (h, input, { id }): Promise<ReferenceView[]> => {
      const wanted = new Set(input.keys.map(keyOfRow));
      return (await sheetOf(h, await workspaceOf(h, id!))).rows.filter((r) => wanted.has(keyOfRow(r)));
    },
  ),
  endpoint(
    'POST',
    '/api/workspaces/:id/elsewhere',
    z.object({
      place: z.string(),
      head: z.string(),
      paths: z.array(z.object({ scene: z.string(), written: z.string() })).max(20_000),
    }),
    async (h, input, { id }): Promise<string[]> => {
      const { root } = await workspaceOf(h, id!);
      const file = await h.ask('workspace', root);
      const places = file.places.filter((p) => p.name === input.place);
      return input.paths.map(
        (p) =>
          elsewhereOfWritten(p.written, p.scene, root, places)?.others.find((o) => o.head === input.head)
            ?.written ?? p.written,
      );
    },
  ),
  endpoint(
    'GET',
    '/api/workspaces/:id/reference',
    z.object({ scene: z.string(), at: z.string() }),
    async (h, input, { id }) => detailOf(h, await workspaceOf(h, id!), input),
  ),
  endpoint(
    'POST',
    '/api/workspaces/:id/try',
    z.object({
      paths: z
        .array(z.object({ scene: z.string().refine(isTreePath), written: z.string().max(4000) }))
        .max(500),
    }),
    async (h, input, { id }) => {
      const row = await workspaceOf(h, id!);
      return h.ask('tryPaths', row.root, input.paths);
    },
  ),
  endpoint(
    'POST',
    '/api/workspaces/:id/suggest',
    z.object({ scene: z.string(), at: z.string(), search: z.array(z.string()).max(20).default([]) }),
    async (h, input, { id }) => {
      const row = await workspaceOf(h, id!);
      const search: string[] = [];
      for (const folder of input.search) search.push(await allowedPath(h, folder));
      const seen = (await listSeen(h.db, row.id)).map((s): [string, number] => [s.path, s.size]);
      return h.jobs.start({
        order: {
          work: 'suggest',
          root: row.root,
          scene: input.scene,
          at: input.at,
          search,
          seen,
        },
        title: 'Look for what is missing',
        workspace: row.id,
      });
    },
  ),
  endpoint(
    'GET',
    '/api/workspaces/:id/preview',
    z.object({
      scene: z.string(),
      at: z.string(),
      side: z.coerce.number().int().min(16).max(2048).default(640),
      blank: z.enum(['yes', 'no']).default('no'),
    }),
    async (h, input, { id }) =>
      previewOf(h, await workspaceOf(h, id!), { ...input, blank: input.blank === 'yes' }),
  ),
  endpoint(
    'GET',
    '/api/workspaces/:id/map',
    z.object({ open: z.string().max(20_000).default('') }),
    async (h, input, { id }) =>
      mapOf((await sheetOf(h, await workspaceOf(h, id!))).rows, new Set(input.open.split('\n'))),
  ),
  endpoint(
    'GET',
    '/api/workspaces/:id/scene',
    z.object({ scene: z.string().refine(isTreePath) }),
    async (h, input, { id }) => scenePreview(h, await workspaceOf(h, id!), input.scene),
  ),
  endpoint(
    'GET',
    '/api/workspaces/:id/content',
    z.object({ scene: z.string().refine(isTreePath), at: z.string().optional() }),
    async (h, input, { id }) => contentOf(h, await workspaceOf(h, id!), input),
  ),
];
