// Looks at a folder now and then, where the system does not say what changes: on a share it tells what this machine does there, and nothing of what
// others do. For a thread that may wait: what a share holds up waits here.

import { createHash } from 'node:crypto';
import fs from 'node:fs';
import path from 'node:path';
import { setImmediate as breath } from 'node:timers/promises';
import { ownFolder } from '@/core/files/records';
import { temporaryMark } from './listing';
import { toSystem } from './system';

/** At least so long between two looks at one folder, in ms. */
const every = 10_000;
/** And so many times as long as a look takes: a share is there for work. */
const rests = 20;

interface Look {
  top: string;
  /** What lay there; null: nothing was looked at yet. */
  seen: string | null;
  /** When it is to be looked at next, ms. */
  due: number;
  changed: () => void;
}

/** Names, sizes and times of all files below a folder, as one text that differs once one of them does; null: it is away, or was left. */
async function stateOf(top: string, isOver: () => boolean): Promise<string | null> {
  const hash = createHash('sha256');
  const waiting = [top];
  for (let at = waiting.pop(); at !== undefined; at = waiting.pop()) {
    // Between two folders others are heard.
    await breath();
    if (isOver()) return null;
    let entries: fs.Dirent[];
    try {
      entries = fs.readdirSync(at, { withFileTypes: true });
    } catch {
      if (at === top) return null;
      continue; // gone since it was listed, or not ours to see
    }
    for (const entry of entries.sort((a, b) => (a.name < b.name ? -1 : 1))) {
      if (entry.name.includes(temporaryMark) || (at === top && entry.name === ownFolder)) continue;
      const absolute = path.join(at, entry.name);
      if (entry.isDirectory()) waiting.push(absolute);
      const stat = entry.isFile() ? fs.lstatSync(absolute, { throwIfNoEntry: false }) : null;
      hash.update(`${absolute}\0${stat?.size ?? ''}\0${stat?.mtimeMs ?? ''}\0${stat?.ctimeMs ?? ''}\n`);
    }
  }
  return hash.digest('hex');
}

const looks = new Set<Look>();
let going: Promise<void> | null = null;

/** Looks at what is due, one folder after the other, as long as there are any. */
async function goOn(shortest: number): Promise<void> {
  while (looks.size > 0) {
    const now = Date.now();
    const next = [...looks].sort((a, b) => a.due - b.due)[0]!;
    if (next.due > now) {
      await new Promise((wait) => setTimeout(wait, Math.min(next.due - now, 500)));
      continue;
    }
    const state = await stateOf(next.top, () => !looks.has(next)).catch(() => null);
    next.due = Date.now() + Math.max(shortest, (Date.now() - now) * rests);
    if (state === null) continue; // once it is back it is as it was, or not
    const isNew = state !== next.seen;
    next.seen = state;
    if (isNew && looks.has(next)) next.changed();
  }
}

/** Tells when what lies below a folder ('/'-separated) has changed, until `close` is called; and once it was looked at for the first time: what is read after that misses nothing, since what changes later differs from what was seen. */
export function lookAtFolder(root: string, changed: () => void, shortest = every): { close(): void } {
  const look: Look = { top: toSystem(root), seen: null, due: 0, changed };
  looks.add(look);
  going ??= goOn(shortest).finally(() => {
    going = null;
  });
  return { close: () => void looks.delete(look) };
}
