// What goes wrong in a studio: workers, the server and the database are killed, connections are cut, a share vanishes and comes back.

import fs from 'node:fs';
import path from 'node:path';
import pg from 'pg';
import { shares, type World } from './world';

/** A time in which something was away, ms. */
export interface Outage {
  what: string;
  from: number;
  to: number;
}

const pause = (ms: number) => new Promise<void>((done) => setTimeout(done, ms));

export class Trouble {
  readonly outages: Outage[] = [];
  private count = 0;

  constructor(
    private readonly world: World,
    private readonly random: () => number,
  ) {}

  private async cut(): Promise<void> {
    const client = new pg.Client({ connectionString: this.world.postgres.url('load') });
    await client.connect();
    await client.query(
      'SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE pid <> pg_backend_pid()',
    );
    await client.end();
  }

  /** Each kind once before any comes again. */
  private async once(): Promise<void> {
    const { world } = this;
    const kinds: [string, () => Promise<void>][] = [
      [
        'a worker killed',
        async () => {
          const worker = world.workers[Math.floor(this.random() * world.workers.length)]!;
          await worker.kill();
          await pause(1000);
          await worker.start();
        },
      ],
      [
        'the server killed',
        async () => {
          await world.server.kill();
          await world.server.start();
        },
      ],
      ['connections cut', () => this.cut()],
      [
        'a share away',
        async () => {
          const share = path.join(world.base, `share${Math.floor(this.random() * shares)}`);
          fs.renameSync(share, `${share} away`);
          await pause(4000);
          fs.renameSync(`${share} away`, share);
        },
      ],
      [
        'the database killed',
        async () => {
          world.postgres.kill();
          await pause(1500);
          world.postgres.start();
        },
      ],
    ];
    const [what, work] = kinds[this.count++ % kinds.length]!;
    const from = Date.now();
    await work();
    this.outages.push({ what, from, to: Date.now() });
  }

  async work(isOver: () => boolean, every: number): Promise<void> {
    for (let last = Date.now(); !isOver();) {
      await pause(200);
      if (Date.now() - last < every || isOver()) continue;
      await this.once();
      last = Date.now();
    }
  }
}
