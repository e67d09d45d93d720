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
const settled = 1500; // ms after work of our own, whose changes are read anyway

/** Reads a workspace anew whenever files in it change, as long as it is among those looked at last. */
export function keepWatch(asked: Hub, row: Pick<WorkspaceRow, 'id' | 'root' | 'name'>): void {
  const h = asked.asServer();
  const held = h.watched.get(row.id);
  if (held) {
    h.watched.delete(row.id);
    h.watched.set(row.id, held);
    return;
  }
  const again = () => {
    const own = h.jobs.list().filter((j) => j.workspace === row.id);
    if (own.some((j) => j.ended === null))
      setTimeout(again, settled).unref(); // its end may come before this change
    else if (!own.some((j) => j.work === 'apply' && j.ended !== null && Date.now() - j.ended < settled))
      void startScan(h, row.id, row.root, row.name).catch(() => undefined);
  };
  h.watched.set(row.id, keepWatching(row.root, again));
  // What happened while nobody watched is in no event: a server that was started anew, a page that a bookmark leads to.
  void startScan(h, row.id, row.root, row.name, { isAsked: false }).catch(() => undefined);
  for (const [id, watching] of h.watched) {
    if (h.watched.size <= (studio() ? mostWatched.studio : mostWatched.alone)) break;
    watching.close();
    h.watched.delete(id);
  }
}
