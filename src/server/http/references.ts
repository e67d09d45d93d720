// Endpoints of references at work: the table, one reference in full, what could be meant by a missing one, a scene for the eyes, the map.

import { z } from 'zod';
import { mapOf } from '@/core/references/map';
import { parseFilter, type SheetFilter } from '@/core/references/sheet';
import { keyOfRow } from '@/core/references/key';
import type { ReferenceView } from '@/wire/views';
import { listSeen, type WorkspaceRow } from '../database/queries';
import { workspaceOf, type Hub } from '../hub';
import { allowedPath } from '../allowed';
import { sheetOf } from '../sheets';
import { detailOf, elsewhereOfWritten, previewOf } from './detail';
import {
  readContent,
  readGroups,
  readKeys,
  readMap,
  readPreviewPicture,
  readReference,
  readReferencesOf,
  readRows,
  readScene,
  suggestCandidates,
  tryPathsRoute,
  writtenElsewhere,
  filterQuery,
  mostChosen,
} from '@/wire/routes/references';
import { endpoint } from './handle';
import { contentAgain, contentOf, scenePreview } from './preview';

/** So many rows come with the groups: what is seen at once needs no second question. */
const firstRows = 40;

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
  endpoint(readGroups, async (h, input, { id }) => {
    const row = await workspaceOf(h, id!);
    const { sheet, groups, order } = await arranged(h, row, input);
    return {
      scanned: row.scanned,
      total: order.length,
      groups,
      ...sheet.totals,
      first: [...order.subarray(0, firstRows)].map((i) => sheet.rows[i]!),
    };
  }),
  endpoint(readRows, async (h, input, { id }) => {
    const { sheet, order } = await arranged(h, await workspaceOf(h, id!), input);
    return [...order.subarray(input.offset, input.offset + input.limit)].map((i) => sheet.rows[i]!);
  }),
  endpoint(readKeys, async (h, input, { id }) => {
    const row = await workspaceOf(h, id!);
    const key = (r: ReferenceView) => ({ scene: r.scene, at: r.at });
    if (input.like && input.scene !== undefined && input.at !== undefined)
      return (
        (await sheetOf(h, row)).like(filterOf(input), { scene: input.scene, at: input.at }, input.like) ?? []
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
  }),
  endpoint(readReferencesOf, async (h, input, { id }) => {
    const wanted = new Set(input.keys.map(keyOfRow));
    return (await sheetOf(h, await workspaceOf(h, id!))).rows.filter((r) => wanted.has(keyOfRow(r)));
  }),
  endpoint(writtenElsewhere, async (h, input, { id }) => {
    const { root } = await workspaceOf(h, id!);
    const file = await h.ask('workspace', root);
    const places = file.places.filter((p) => p.name === input.place);
    return input.paths.map(
      (p) =>
        elsewhereOfWritten(p.written, p.scene, root, places)?.others.find((o) => o.head === input.head)
          ?.written ?? p.written,
    );
  }),
  endpoint(readReference, async (h, input, { id }) => detailOf(h, await workspaceOf(h, id!), input)),
  endpoint(tryPathsRoute, async (h, input, { id }) => {
    const row = await workspaceOf(h, id!);
    return h.ask('tryPaths', row.root, input.paths);
  }),
  endpoint(suggestCandidates, async (h, input, { id }) => {
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
  }),
  endpoint(readPreviewPicture, async (h, input, { id }) =>
    previewOf(h, await workspaceOf(h, id!), { ...input, blank: input.blank === 'yes' }),
  ),
  endpoint(readMap, async (h, input, { id }) =>
    mapOf((await sheetOf(h, await workspaceOf(h, id!))).rows, new Set(input.open.split('\n'))),
  ),
  endpoint(readScene, async (h, input, { id }) => scenePreview(h, await workspaceOf(h, id!), input.scene)),
  endpoint(readContent, async (h, input, { id }) => {
    const row = await workspaceOf(h, id!);
    return input.as ? contentAgain(h, row, input.scene) : contentOf(h, row, input);
  }),
];
