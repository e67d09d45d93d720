// The other workspaces that are known here, as an order for a plan on one of them takes them along.

import { isWithin } from '@/core/files/treePath';
import type { KnownNeighbour } from '@/wire/jobs';
import { listLeads, listWaysOut, listWorkspaces, type LeadRow, type WorkspaceRow } from '../database/queries';
import { thereLately } from '../disk/lately';
import { type Hub } from '../hub';
import { allowedAmong } from '../allowed';
import { seenOf } from './workspaceView';

/** References that an order takes along at most; of workspaces beyond, it has those scenes alone that lead out of them. */
const mostReferences = 100_000;

/** Those whose scenes are few enough to be named one by one, the smallest first. */
function wholeOnes(rows: readonly WorkspaceRow[]): Set<string> {
  const sized = rows.map((row) => ({ id: row.id, size: seenOf(row)?.references ?? 0 }));
  let sum = 0;
  return new Set(
    sized
      .sort((a, b) => a.size - b.size)
      .filter(({ size }) => (sum += size) <= mostReferences)
      .map(({ id }) => id),
  );
}

/** Those that may be looked into and do not lie inside `root`, with what the index has of where their scenes lead. */
export async function knownNeighbours(h: Hub, root: string): Promise<KnownNeighbour[]> {
  const known = await allowedAmong(h, await listWorkspaces(h.db));
  const others = known.filter((row) => !isWithin(row.root, root));
  const there = await Promise.all(others.map((row) => thereLately(row.root)));
  const rows = others.filter((_, i) => there[i]);
  // Of what lies in the root, scenes and all, nothing is asked: it changes with it.
  const beside = rows.filter((row) => !isWithin(root, row.root));
  const whole = wholeOnes(beside);
  const large = beside.filter((row) => !whole.has(row.id)).map((row) => row.id);
  const found = [
    ...(whole.size > 0 ? await listLeads(h.db, [...whole]) : []),
    ...(large.length > 0 ? await listWaysOut(h.db, large) : []),
  ];
  const leads = new Map<string, LeadRow[]>();
  for (const row of found) {
    const held = leads.get(row.workspace);
    if (held) held.push(row);
    else leads.set(row.workspace, [row]);
  }
  const told = ({ scene, size, modified, target }: LeadRow) => ({ scene, size, modified, target });
  return rows.map(({ id, root: at, name }) => ({
    root: at,
    name,
    whole: !large.includes(id),
    leads: (leads.get(id) ?? []).map(told),
  }));
}
