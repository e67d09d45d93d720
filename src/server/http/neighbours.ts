// The other workspaces that are known here, as an order for a plan on one of them takes them along.

import { isWithin } from '@/core/files/treePath';
import type { KnownNeighbour } from '@/wire/jobs';
import { listLeads, listWorkspaces } from '../database/queries';
import { isThere } from '../disk/asking';
import { type Hub } from '../hub';
import { isAllowed } from '../allowed';

/** Those that may be looked into and do not lie inside `root`, with what the index has of where their scenes lead. */
export async function knownNeighbours(h: Hub, root: string): Promise<KnownNeighbour[]> {
  const found: KnownNeighbour[] = [];
  for (const row of await listWorkspaces(h.db)) {
    if (isWithin(row.root, root) || !(await isAllowed(h, row.root))) continue;
    if (!(await isThere(row.root)) || !(await h.ask('hasMarker', row.root))) continue;
    const inside = isWithin(root, row.root);
    found.push({ root: row.root, name: row.name, leads: inside ? [] : await listLeads(h.db, row.id) });
  }
  return found;
}
