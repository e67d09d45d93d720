// Unpacks a bag into a folder that is new or empty: all of it, every byte checked on its way, or nothing.

import fs from 'node:fs';
import path from 'node:path';
import { staysInside } from '@/core/bags/archive';
import { decodePath, emptyFoldersFile } from '@/core/bags/manifest';
import { readTimes, timesFile } from '@/core/bags/times';
import { AppError } from '@/core/errors';
import { isTreePath } from '@/core/files/treePath';
import type { Problem } from '@/core/problem';
import { openBag, readTag, type OpenBag } from './openBag';
import { setOf, missingVolumes } from './bagSet';
import { checkFile, inTwoVolumes, readContents, type Contents, type VerifyOptions } from './verify';
import { fillFolder } from './intoFolder';
import { Flushing, writeWhole } from './wholeFile';

export interface UnpackOptions extends VerifyOptions {
  /** Where it is written down what is being made (disk/parts.ts); null: nowhere. */
  parts?: string | null | undefined;
}

export interface Unpacked {
  root: string;
  files: number;
  bytes: number;
}

/** Unpacks the payload to `to`, a folder that is new or empty. All of it is right, or nothing is there. */
export async function unpack(bagPath: string, to: string, options: UnpackOptions = {}): Promise<Unpacked> {
  return fillFolder(
    to,
    { cancelled: 'Unpacking was cancelled.', parts: options.parts },
    async ({ begin, flushing }) => {
      const set = await setOf(bagPath);
      if (set) check(bagPath, missingVolumes(set));
      const opened: Opened[] = [];
      try {
        await openAll(set?.bags ?? [bagPath], opened);
        const temporary = begin(
          opened.reduce((sum, o) => sum + o.contents.bytes, 0),
          'The bag unpacks to',
        );
        const done = await fill(opened, temporary, options, flushing);
        check(bagPath, done.problems);
        return { root: to, files: done.files, bytes: done.bytes };
      } finally {
        for (const { bag } of opened) bag.close();
      }
    },
  );
}

function check(bagPath: string, problems: readonly Problem[]): void {
  if (problems.length === 0) return;
  throw new AppError(
    'bad-bag',
    `${bagPath} was not unpacked: ${problems[0]!.message}`,
    'Nothing was written.',
    problems.map((p) => p.message),
  );
}

/** A bag, opened, and what it says is in it. */
interface Opened {
  bag: OpenBag;
  contents: Contents;
}

/** Opens all bags of a set, into `opened` as they are; what they say must hold. */
async function openAll(bags: readonly string[], opened: Opened[]): Promise<void> {
  const seen = new Map<string, string>();
  for (const at of bags) {
    const bag = await openBag(at);
    const contents: Contents = {
      payload: new Map(),
      tags: new Map(),
      algorithms: [],
      problems: [],
      bytes: 0,
    };
    opened.push({ bag, contents });
    Object.assign(contents, await readContents(bag));
    check(at, [...contents.problems, ...inTwoVolumes(bag, at, seen)]);
  }
}

/** Writes the payload of all bags into a folder, checked on its way. */
async function fill(
  opened: readonly Opened[],
  temporary: string,
  options: UnpackOptions,
  flushing: Flushing,
): Promise<{ files: number; bytes: number; problems: Problem[] }> {
  const all = { files: 0, bytes: 0, problems: [] as Problem[] };
  for (const { bag, contents } of opened) {
    const before = { ...all };
    const onProgress: UnpackOptions['onProgress'] = (d) =>
      options.onProgress?.({ ...d, files: before.files + d.files, bytes: before.bytes + d.bytes });
    const one = await fillFrom(bag, contents, temporary, { ...options, onProgress }, flushing);
    all.files += one.files;
    all.bytes += one.bytes;
    all.problems.push(...one.problems);
  }
  return all;
}

async function fillFrom(
  bag: OpenBag,
  contents: Contents,
  temporary: string,
  options: UnpackOptions,
  flushing: Flushing,
): Promise<{ files: number; bytes: number; problems: Problem[] }> {
  const problems: Problem[] = [];
  for (const [name, digests] of contents.tags)
    problems.push(...(await checkFile(bag, name, digests, () => options.signal?.throwIfAborted())));
  const times = readTimes((await readTag(bag, timesFile)) ?? '');
  let bytes = 0;
  let files = 0;
  for (const [name, digests] of contents.payload) {
    const file = path.join(temporary, ...name.slice(5).split('/'));
    // Rights come from a stranger: only whether it is a program is taken over.
    const write = async (put: (part: Uint8Array) => void) => {
      const wrong = await checkFile(bag, name, digests, (part) => {
        options.signal?.throwIfAborted();
        put(part);
        bytes += part.length;
        options.onProgress?.({ files, bytes, path: name });
      });
      problems.push(...wrong);
    };
    const of = bag.files.get(name)!;
    await writeWhole(file, { ...of, modified: times.get(name) ?? of.modified }, write, flushing);
    files++;
  }
  const empty = (await readTag(bag, emptyFoldersFile)) ?? '';
  for (const folder of empty.split('\n').filter(Boolean).map(decodePath))
    if (isTreePath(folder) && staysInside(folder))
      fs.mkdirSync(path.join(temporary, ...folder.split('/')), { recursive: true });
  return { files, bytes, problems };
}
