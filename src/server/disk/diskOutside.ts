// The disk beyond any root, read only; links are followed. What may not be seen counts as not there: nothing outside is ever changed.

import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { fileError } from '@/core/files/fileErrors';
import type { Entry, OutsideFiles } from '@/core/files/fileTree';
import { startHash } from './blake';
import { nodeCalls } from './calls';
import { readOpen, streamOpen } from './diskReading';
import { byName, listedAt, statOrNull, type Listed } from './listing';
import { fromSystem, toSystem } from './system';

const { O_RDONLY, O_NONBLOCK } = fs.constants;

/** Opens a real file; a pipe is never waited for. */
function openAt(p: string): number {
  try {
    const fd = nodeCalls.open(toSystem(p), O_RDONLY | (O_NONBLOCK ?? 0));
    if (nodeCalls.fstat(fd).isFile()) return fd;
    nodeCalls.close(fd);
    throw Object.assign(new Error(`${p} is no file`), { code: 'ENOENT' });
  } catch (cause) {
    throw fileError(p, cause);
  }
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

export const diskOutside: OutsideFiles = {
  home: fromSystem(os.homedir()),
  async kind(p) {
    const stat = statOrNull(toSystem(p));
    return stat?.isDirectory() ? 'folder' : stat?.isFile() ? 'file' : null;
  },
  async stat(p) {
    const stat = statOrNull(toSystem(p));
    return stat?.isFile() ? { size: stat.size, modified: stat.mtimeMs } : null;
  },
  async entries(p) {
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
    const fd = openAt(p);
    try {
      return readOpen(nodeCalls, fd, range);
    } catch (cause) {
      throw fileError(p, cause);
    } finally {
      nodeCalls.close(fd);
    }
  },
  async *stream(p, range) {
    const fd = openAt(p);
    try {
      yield* streamOpen(nodeCalls, fd, range);
    } catch (cause) {
      throw fileError(p, cause);
    }
  },
  async digest(p) {
    if (!statOrNull(toSystem(p))?.isFile()) return null;
    const hasher = startHash();
    for await (const part of streamOpen(nodeCalls, openAt(p))) hasher.update(part);
    return hasher.digest();
  },
};
