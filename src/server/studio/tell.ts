// What of the work that is done web hooks are told, with the workspace it was done in and who asked for it.

import { scanResult } from '@/wire/jobs';
import type { Queries } from '../database/database';
import { happenedBy } from './events';
import { tellHooks, tellReadiness } from './hooks';
import type { WorkDone } from './queue';

export async function tellOf(queries: Queries, done: WorkDone): Promise<void> {
  const [workspace] =
    done.workspace === null
      ? []
      : await queries.query<{ id: string; name: string; root: string }>(
          'SELECT id, name, root FROM workspace WHERE id = $1',
          [done.workspace],
        );
  const data = { workspace: workspace ?? null, by: done.who?.name ?? null };
  if (done.order.work === 'scan') {
    if (!workspace) return;
    const { references, ready } = scanResult.parse(done.result).found;
    const lost = references - ready;
    await tellReadiness(queries, { workspace: workspace.id, lost, data: { ...data, references } });
    return;
  }
  const happened = happenedBy(done.order, done.result);
  if (happened) await tellHooks(queries, happened.event, { ...data, ...happened.data });
}
