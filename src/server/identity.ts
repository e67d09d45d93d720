// Who this installation is: a name and a key in the application's data folder, made once. What is begun here is sealed with the key, so that
// a crash's journal is known again, and one that came with a stranger's folder is not taken for our own.

import { createHmac, randomBytes, timingSafeEqual } from 'node:crypto';
import fs from 'node:fs';
import path from 'node:path';
import { z } from 'zod';
import type { Author, JournalRecord } from '@/core/changes/journal';
import { dataFolder } from './dataFolder';
import { keepFile } from './keptFile';

const shape = z.object({ installation: z.string().min(8), key: z.string().regex(/^[0-9a-f]{64}$/) });
type Identity = z.infer<typeof shape>;

function readIdentity(file: string): Identity | null {
  try {
    return shape.parse(JSON.parse(fs.readFileSync(file, 'utf8')));
  } catch {
    return null;
  }
}

/** The identity as text, to be given to other machines of the same installation; null where there is none and none can be made. */
export function ownIdentity(): string | null {
  const own = identity(true);
  return own && JSON.stringify(own);
}

/** Takes over an identity that another machine of the same installation gave. */
export function adoptIdentity(text: string): void {
  const given = shape.parse(JSON.parse(text));
  keepFile(path.join(dataFolder(), 'installation.json'), JSON.stringify(given));
}

/** The identity; null where none is there and none can be written. */
function identity(makes: boolean): Identity | null {
  const file = path.join(dataFolder(), 'installation.json');
  const there = readIdentity(file);
  if (there || !makes) return there;
  const fresh: Identity = {
    installation: randomBytes(8).toString('hex'),
    key: randomBytes(32).toString('hex'),
  };
  try {
    fs.mkdirSync(path.dirname(file), { recursive: true, mode: 0o700 });
    fs.writeFileSync(file, JSON.stringify(fresh), { flag: 'wx', mode: 0o600 });
    return fresh;
  } catch {
    return readIdentity(file); // another process was first, or the folder cannot be written
  }
}

const sealed = (key: string, seal: string) =>
  createHmac('sha256', Buffer.from(key, 'hex')).update(seal).digest('hex');

/** Signs what is begun here, by somebody of this name where several work here; null where this installation has no key and can make none: what it began is then put back only when asked. */
export function signer(name: string | null = null): ((seal: string) => Author) | null {
  const own = identity(true);
  return (
    own &&
    ((seal) => ({
      installation: own.installation,
      seal: sealed(own.key, seal),
      ...(name === null ? {} : { name }),
    }))
  );
}

/** Whether a record was begun by this installation. */
export function isOwn(record: Pick<JournalRecord, 'by'>, seal: string): boolean {
  const own = identity(false);
  if (!own || record.by?.installation !== own.installation) return false;
  const [a, b] = [Buffer.from(record.by.seal, 'hex'), Buffer.from(sealed(own.key, seal), 'hex')];
  return a.length === b.length && timingSafeEqual(a, b);
}
