// Backs workspaces up by themselves where that is wanted: once the drive is there, and again so many hours after the last time. In the threads of the
// jobs, quietly; what came of it is noted with the target. So is a proof that is due there, part by part.

import { listWorkspaces } from './database/queries';
import { nameOf } from '@/core/files/treePath';
import { isThere } from './disk/asking';
import { type Hub } from './hub';
import { isAllowed } from './allowed';
import { targetsOf } from './backups/targets';
import { backupTo } from './backups/backUp';

const looksEvery = 30_000; // ms
/** A target is written to again so long after the last time. */
export const againAfter = 6 * 3_600_000;
/** What failed is tried again so long after. */
const failedAfter = 15 * 60_000;
/** A proof that is due goes on for so long each time, ms. */
const provesFor = 5 * 60_000;

export class BackupWatch {
  private readonly timer: NodeJS.Timeout;
  private isBusy = false;

  /** `isOurs`: whether it is this server's to look; of several servers one does. */
  constructor(
    private readonly hub: Pick<Hub, 'db' | 'who' | 'jobs' | 'ask'>,
    private readonly isOurs: () => Promise<boolean> = () => Promise.resolve(true),
  ) {
    this.timer = setInterval(() => void this.look().catch(() => undefined), looksEvery);
    this.timer.unref();
  }

  close(): void {
    clearInterval(this.timer);
  }

  /** Does the backups that are due, one after the other. */
  async look(now = Date.now()): Promise<void> {
    if (this.isBusy) return;
    this.isBusy = true;
    try {
      if (!(await this.isOurs())) return;
      for (const { id, root, name } of await listWorkspaces(this.hub.db))
        for (const target of await targetsOf(this.hub, id)) {
          const since = target.last === null ? Infinity : now - Date.parse(target.last.time);
          const isDue = target.auto && since > (target.last?.ok === false ? failedAfter : againAfter);
          if (!isDue || !(await isAllowed(this.hub, root)) || !(await isAllowed(this.hub, target.folder)))
            continue;
          // The folder itself may be made; the drive that holds it has to be there.
          const drive = target.folder.slice(0, target.folder.lastIndexOf('/')) || '/';
          if (!(await isThere(root)) || !(await isThere(drive))) continue;
          const job = backupTo(this.hub, { id, root, name }, target, true);
          await this.hub.jobs.ended(job.id);
        }
      await this.prove(now);
    } finally {
      this.isBusy = false;
    }
  }

  /** Proves, a part at a time, what is due on drives that are backed up to by themselves. */
  private async prove(now: number): Promise<void> {
    const folders = new Set<string>();
    for (const { id } of await listWorkspaces(this.hub.db))
      for (const t of await targetsOf(this.hub, id))
        if (t.auto && t.as === 'snapshots') folders.add(t.folder);
    for (const folder of folders) {
      if (!(await isAllowed(this.hub, folder)) || !(await isThere(folder))) continue;
      const state = await this.hub.ask('proofState', folder);
      if (state === null || state.due === null || Date.parse(state.due) > now) continue;
      const job = this.hub.jobs.start({
        order: { work: 'prove', folder, anew: false, budget: provesFor },
        title: `Prove ${nameOf(folder)}`,
        workspace: null,
        quiet: true,
      });
      await this.hub.jobs.ended(job.id);
    }
  }
}
