// The disk beyond any root, read only; links are followed, as far as the bounds go. What may not be seen counts as not there: nothing outside is
// ever changed. What lies on another machine is asked only where it was allowed, and never waited for longer than a moment.

import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { AppError } from '@/core/errors';
import { fileError } from '@/core/files/fileErrors';
import type { CancelSignal, Entry, OutsideFiles } from '@/core/files/fileTree';
import { isWithin } from '@/core/files/treePath';
import { inTime } from './asking';
import { startHash } from './blake';
import { Bounds, type Allowed } from './bounds';
import { nodeCalls } from './calls';
import { readOpen, streamOpen } from './diskReading';
import { byName, listedAt, statOrNull, type Listed } from './listing';
import { currentLimits } from './limits';
import { currentShares, shareOf } from './shares';
import { fromSystem, toSystem, type Platform } from './system';

const { O_RDONLY, O_NONBLOCK } = fs.constants;

export interface OutsideOptions {
  /** Folders that were allowed; null: all may be read. */
  allowed?: Allowed;
  /** What of shares may be asked: what lies below these; null: all. Unset: what is allowed. */
  asked?: readonly string[] | null;
  signal?: CancelSignal | undefined;
  /** For trying it everywhere: the system, its mounts of other machines, and how a share is asked. */
  platform?: Platform;
  shares?: () => readonly string[];
  askShare?: (system: string) => Promise<fs.Stats>;
}

function entryOf(folder: string, { name, kind }: Listed): Entry {
  if (kind === 'file' || kind === 'folder') return { name, kind };
  if (kind !== 'link') return { name, kind: 'other' };
  const full = path.join(toSystem(folder), name);
  const stat = statOrNull(full);
  return {
    name,
    kind: stat?.isFile() ? 'file' : stat?.isDirectory() ? 'folder' : 'other',
    link: fs.readlinkSync(full),
  };
}

const silentFor = 30_000; // ms for which a share that did not answer is not asked again

/** The outside within bounds. */
export function outsideWithin(options: OutsideOptions = {}): OutsideFiles {
  const { allowed = null, signal, platform = process.platform } = options;
  const asked = options.asked === undefined ? allowed : options.asked;
  const shares = options.shares ?? (() => currentShares(platform));
  const askShare = options.askShare ?? ((system: string) => fs.promises.stat(system));
  const bounds = new Bounds(allowed);
  const silent = new Map<string, number>();

  /** Where several work here, what lies where one may not look is not there at all: not by a link, either. */
  function isHidden(p: string): boolean {
    if (allowed === null || currentLimits().by === null) return false;
    if (!bounds.named(p)) return true;
    try {
      return !bounds.holds(fromSystem(nodeCalls.realpath(toSystem(p, platform))));
    } catch {
      // Nothing is there, or nobody may know: what asks for it is told so.
      return false;
    }
  }

  /** What lies at a path; null: nothing, or it is not to be asked. */
  async function statOf(p: string): Promise<fs.Stats | null> {
    signal?.throwIfAborted();
    if (isHidden(p)) return null;
    const share = shareOf(p, shares(), platform);
    if (share === null) return statOrNull(toSystem(p, platform));
    if (!isAsked(p) || Date.now() - (silent.get(share) ?? -Infinity) < silentFor) return null;
    const late = 'late' as const;
    const found = await inTime<fs.Stats | null | typeof late>(
      askShare(toSystem(p, platform)).catch(() => null),
      late,
    );
    if (found !== late) return found;
    silent.set(share, Date.now());
    return null;
  }
  /** A share is for those who named it: what a stranger's scene points to is not looked at. */
  const isAsked = (p: string) => asked === null || asked.some((at) => isWithin(p, at === '/' ? '' : at));

  /** Opens a real file; a pipe is never waited for. */
  async function openAt(p: string): Promise<number> {
    if (!bounds.named(p)) throw new AppError('not-allowed', `${p} lies in no folder that you have allowed.`);
    if (!(await statOf(p))) throw new AppError('not-found', `${p} is not there.`);
    let fd: number | null = null;
    try {
      fd = nodeCalls.open(toSystem(p), O_RDONLY | (O_NONBLOCK ?? 0));
      if (!nodeCalls.fstat(fd).isFile()) throw new AppError('not-found', `${p} is no file.`);
      bounds.checkOpen(fd, p);
      return fd;
    } catch (cause) {
      if (fd !== null) nodeCalls.close(fd);
      throw fileError(p, cause);
    }
  }

  return {
    home: fromSystem(os.homedir()),
    ...(allowed === null ? {} : { mayRead: (p: string) => bounds.named(p) }),
    async kind(p) {
      const stat = await statOf(p);
      return stat?.isDirectory() ? 'folder' : stat?.isFile() ? 'file' : null;
    },
    async stat(p) {
      const stat = await statOf(p);
      return stat?.isFile() ? { size: stat.size, modified: stat.mtimeMs } : null;
    },
    async entries(p) {
      if (!(await statOf(p))) return null;
      try {
        return (
          listedAt(toSystem(p))
            ?.map((e) => entryOf(p, e))
            .sort(byName) ?? null
        );
      } catch {
        return null;
      }
    },
    async read(p, range) {
      const fd = await openAt(p);
      try {
        return readOpen(nodeCalls, fd, range);
      } catch (cause) {
        throw fileError(p, cause);
      } finally {
        nodeCalls.close(fd);
      }
    },
    async *stream(p, range) {
      const fd = await openAt(p);
      try {
        for await (const part of streamOpen(nodeCalls, fd, range)) {
          signal?.throwIfAborted();
          yield part;
        }
      } catch (cause) {
        throw fileError(p, cause);
      }
    },
    async digest(p) {
      if (!(await statOf(p))?.isFile()) return null;
      const hasher = startHash();
      for await (const part of streamOpen(nodeCalls, await openAt(p))) {
        signal?.throwIfAborted();
        hasher.update(part);
      }
      return hasher.digest();
    },
  };
}

/** The outside without bounds: for what a user names on a command line, and for what was checked before. */
export const diskOutside: OutsideFiles = outsideWithin();
