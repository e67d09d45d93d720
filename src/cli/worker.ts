// `satchel worker`: does work of a server for several on this machine, until it is ended.

import os from 'node:os';
import fs from 'node:fs';
import { z } from 'zod';
import { AppError } from '@/core/errors';
import { dataFolder } from '@/server/dataFolder';
import { openServer } from '@/server/database/database';
import { clearAllParts } from '@/server/disk/parts';
import { fromSystem } from '@/server/disk/system';
import { lockData, partsFolder } from '@/server/hub';
import { rightsOn } from '@/server/allowed';
import { openWorker } from '@/server/studio/open';
import { shareIdentity } from '@/server/studio/shared';
import { text, type Verb } from './call';

/** Ends once somebody asks for it. */
const untilEnded = () =>
  new Promise<void>((done) => {
    process.once('SIGINT', () => done());
    process.once('SIGTERM', () => done());
  });

const schema = z.object({ name: z.string(), keeps: z.array(z.string()) });

export const worker: Verb = {
  schema: () => Promise.resolve(schema),
  async run(call) {
    const { flags } = call;
    const url = process.env.SATCHEL_DATABASE_URL ?? '';
    if (!/^postgres(ql)?:\/\//.test(url))
      throw new AppError(
        'bad-request',
        'SATCHEL_DATABASE_URL has to name the PostgreSQL server of the studio (postgres://…).',
      );
    const data = text(call, 'data');
    if (data) process.env.SATCHEL_DATA = data;
    const folder = dataFolder();
    fs.mkdirSync(folder, { recursive: true, mode: 0o700 });
    const lock = lockData(folder);
    const db = await openServer(url);
    const name = text(call, 'name') ?? os.hostname();
    const heads = ((flags.place ?? []) as string[]).map((head) => fromSystem(head));
    const atOnce = Number(text(call, 'at-once') ?? 2);
    if (!Number.isInteger(atOnce) || atOnce < 1 || atOnce > 64)
      throw new AppError('bad-request', '--at-once takes a number from 1 to 64.');
    try {
      await shareIdentity(db);
      clearAllParts(partsFolder(folder));
      const rights = rightsOn(db, folder);
      const parts = partsFolder(folder);
      const working = await openWorker(url, {
        ...{ db, dataFolder: folder, parts, rights, name, heads, of: null, atOnce },
        // Shorter for tests.
        ...(process.env.SATCHEL_LEASE ? { lease: Number(process.env.SATCHEL_LEASE) } : {}),
      });
      process.stderr.write(
        `${name} is at work${heads.length > 0 ? ` for ${heads.join(', ')}` : ''}. Stop it with Ctrl+C; what it has in hand is done first.\n`,
      );
      await untilEnded();
      await working.close();
    } finally {
      await db.close();
      lock.release();
    }
    const json = { name, keeps: heads };
    return { json, text: () => `${name} takes nothing more.`, findings: false };
  },
};
