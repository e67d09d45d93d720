// A verb that a server for several does for somebody (server/jobs/verb.ts): held to the folders that are theirs to see and to change, and to their role. The server
// says whom it is done for by the environment of this process; on one's own machine nobody is held to anything.

import path from 'node:path';
import { z } from 'zod';
import { AppError } from '@/core/errors';
import { isEnough, roleSchema, type Role } from '@/wire/routes/roles';
import { isWithin } from '@/core/files/treePath';
import { dataFolder } from '@/server/dataFolder';
import { Bounds } from '@/server/disk/bounds';
import { setLimits } from '@/server/disk/limits';
import { fromSystem, isAbsolute } from '@/server/disk/system';
import { absolute, type Call } from './call';
import type { VerbHead } from './verbs';

const schema = z.object({
  see: z.array(z.string()),
  change: z.array(z.string()),
  role: roleSchema,
  by: z.string().nullable(),
});

const refused = (why: string) => new AppError('not-your-role', why);

/** Holds this process to what the server says; returns what looks at each call before it is done. */
export function hold(said: string): (name: string, verb: VerbHead, call: Call) => void {
  const { see, change, role, by } = schema.parse(JSON.parse(said));
  const mayChange = new Bounds(change);
  setLimits({ bounds: new Bounds(see), signal: null, change: mayChange, by });
  const own = fromSystem(dataFolder());
  return (name, verb, call) => {
    const named = [...call.words, ...Object.values(call.flags).flat()].filter((w) => typeof w === 'string');
    // What is no whole path names nothing here (call.ts, `absolute`).
    const inside = named.find(
      (word) => isAbsolute(word) && isWithin(path.posix.normalize(fromSystem(word)), own),
    );
    if (inside !== undefined) throw refused(`${inside} is in Loyal Satchel’s own data folder.`);
    if (verb.stays || call.flags.every !== undefined)
      throw new AppError('bad-request', `“${name}” goes on until it is stopped; a server does not do that.`);
    const written = verb.writes(call).filter((word) => word !== undefined);
    if (written.length === 0) return;
    const needed: Role = verb.manages ? 'manage' : 'change';
    if (!isEnough(role, needed))
      throw refused(
        role === 'look'
          ? 'You may look at everything here, and change nothing.'
          : 'You may look and change here; this is for those who manage.',
      );
    for (const word of written)
      try {
        mayChange.checkPath(absolute(word));
      } catch (cause) {
        if (!(cause instanceof AppError) || cause.code !== 'not-allowed') throw cause;
        throw refused(`What lies at ${word} is not yours to change.`);
      }
  };
}
