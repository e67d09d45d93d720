// Looks after the net of every workspace that has one, while the application runs: a round each so many minutes, in the threads of the jobs, so that
// it never meets a change of ours. A workspace whose drive is away is asked for again at each round, and the stretch is told when it is back.

import { randomBytes } from 'node:crypto';
import { AppError } from '@/core/errors';
import { listWorkspaces } from './database/queries';
import { isThere } from './disk/asking';
import { type Hub } from './hub';
import { allowedAmong } from './allowed';
import type { NetRound } from './workspaces/net';

const looksEvery = 10_000; // ms

/** What is known of a workspace's net. Times in ms. */
interface Watched {
  due: number;
  /** Since when it is away, or nothing can be kept. */
  away: { from: number; why: 'away' | 'failed' } | null;
  isBusy: boolean;
  run: { id: string; from: number };
}

export class NetWatch {
  private readonly watched = new Map<string, Watched>();
  private readonly timer: NodeJS.Timeout;

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

  /** Does the rounds that are due. */
  private async look(): Promise<void> {
    if (!(await this.isOurs())) return;
    const rows = await listWorkspaces(this.hub.db);
    const isDue = ({ id }: { id: string }) => !this.stateOf(id).isBusy && Date.now() >= this.stateOf(id).due;
    for (const row of await allowedAmong(this.hub, rows.filter(isDue)))
      // One by hand may have begun since.
      if (isDue(row)) await this.round(row.id, row.root).catch(() => undefined);
  }

  private stateOf(id: string): Watched {
    let state = this.watched.get(id);
    if (!state) {
      const run = { id: randomBytes(4).toString('hex'), from: Date.now() };
      this.watched.set(id, (state = { due: 0, away: null, isBusy: false, run }));
    }
    return state;
  }

  /** A round now; null where the workspace is away or its net is off. */
  async round(id: string, root: string): Promise<NetRound | null> {
    const state = this.stateOf(id);
    if (!(await isThere(root))) {
      state.away ??= { from: Date.now(), why: 'away' };
      state.due = Date.now() + 60_000;
      return null;
    }
    state.isBusy = true;
    const started = Date.now();
    try {
      const { net } = await this.hub.ask('workspace', root);
      state.due = Date.now() + (net?.every ?? 1) * 60_000;
      if (!net) return null;
      const order = { work: 'net', root, run: state.run, away: state.away } as const;
      const job = this.hub.jobs.start({ order, title: 'Keep what changed', workspace: id, quiet: true });
      const ended = await this.hub.jobs.ended(job.id);
      if (ended?.error) {
        // Told as a hole as soon as something can be written again.
        state.away ??= { from: started, why: 'failed' };
        throw new AppError('apply-failed', ended.error.message);
      }
      state.away = null;
      const round = ended?.result as NetRound | null;
      // A file that was being written is looked at again soon.
      if (round?.skipped.some((s) => s.why === 'being-written' || s.why === 'held'))
        state.due = Date.now() + 20_000;
      return round;
    } finally {
      state.isBusy = false;
    }
  }
}
