// Readings of whole workspaces into the index: when they are asked for, and when something has changed on disk.

import { randomUUID } from 'node:crypto';
import type { z } from 'zod';
import { scanResult, type JobView, type scanSaid } from '@/wire/jobs';
import { findWorkspace, type WorkspaceRow } from './database/queries';
import { scanStore } from './jobs/scanStore';
import type { Hub } from './hub';
import { studio } from './studio/mode';
import { refreshSheet } from './sheets';
import { keepWatching } from './watching';

/** Starts a scan of a workspace, unless one is on its way. It is the server's own: the index is everybody's, whatever the one may see who asked for it. */
export async function startScan(
  asked: Hub,
  id: string,
  root: string,
  name: string,
  { isAsked = true } = {},
): Promise<JobView> {
  const h = asked.asServer();
  const base = (await findWorkspace(h.db, id))?.token ?? null;
  const running = h.jobs.list().find((j) => j.work === 'scan' && j.workspace === id && j.ended === null);
  if (running) return running;
  const watched = h.watched.get(id);
  if (watched) watched.asked = Date.now();
  const next = randomUUID();
  return h.jobs.start({
    order: { work: 'scan', root, base, next },
    title: `Read ${name}`,
    workspace: id,
    ...scanStore(h.db, id, next),
    finish: async (given) => {
      const { found, delta } = scanResult.parse(given);
      await refreshSheet(h, id, delta?.scenes ?? null);
      const isAsItWas = delta?.scenes.length === 0 && delta.files.length === 0;
      return { ...found, news: isAsked || !isAsItWas } satisfies z.infer<typeof scanSaid>;
    },
  });
}

// So many workspaces are watched at once; of more, those looked at last.
const mostWatched = { alone: 4, studio: 60 };
const soon = 500; // ms
// Of a studio's workspaces many come and go among those that are watched: what was read so lately (ms) is not read for that alone.
const lately = 600_000;
// A reading that is on its way may have passed what has changed since; after a change of our own another is asked for anyway.
const waitedFor: ReadonlySet<string> = new Set(['scan', 'apply', 'unpack']);

/** Reads a workspace anew whenever files in it change, as long as it is among those looked at last. */
export function keepWatch(asked: Hub, row: Pick<WorkspaceRow, 'id' | 'root' | 'name' | 'scanned'>): void {
  const h = asked.asServer();
  const held = h.watched.get(row.id);
  if (held) {
    h.watched.delete(row.id);
    h.watched.set(row.id, held);
    return;
  }
  let isFirst = true;
  const again = (heard: number) => {
    const isBeginning = isFirst;
    isFirst = false;
    if (isBeginning && studio() && row.scanned !== null && Date.now() - row.scanned < lately) return;
    const watched = h.watched.get(row.id);
    if (!watched || watched.asked > heard) return;
    const isBusy = h.jobs
      .list()
      .some((j) => j.workspace === row.id && j.ended === null && waitedFor.has(j.work));
    if (isBusy) setTimeout(() => again(heard), soon).unref();
    else void startScan(h, row.id, row.root, row.name, { isAsked: false }).catch(() => undefined);
  };
  const { close } = keepWatching(row.root, again);
  h.watched.set(row.id, { asked: 0, close });
  for (const [id, watching] of h.watched) {
    if (h.watched.size <= (studio() ? mostWatched.studio : mostWatched.alone)) break;
    watching.close();
    h.watched.delete(id);
  }
}
