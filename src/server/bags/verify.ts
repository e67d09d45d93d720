// Verifies a bag (RFC 8493 §3: complete, then valid) and unpacks it. Unpacking verifies every byte on its way: the folder
// appears under its name only when all of it is right.

import { createHash, type Hash } from 'node:crypto';
import fs from 'node:fs';
import path from 'node:path';
import {
  algorithms,
  decodePath,
  emptyFoldersFile,
  manifestOf,
  readInfo,
  readManifest,
} from '@/core/bags/manifest';
import { staysInside } from '@/core/bags/archive';
import { AppError } from '@/core/errors';
import type { CancelSignal } from '@/core/files/fileTree';
import { isTreePath } from '@/core/files/treePath';
import type { Problem } from '@/core/problem';
import { temporaryMark } from '../disk/listing';
import { freeBytes } from '../disk/use';
import { fromSystem, toSystem } from '../disk/system';
import { openBag, readTag, type OpenBag } from './openBag';

export interface VerifyOptions {
  signal?: CancelSignal | undefined;
  onProgress?: ((done: { files: number; bytes: number; path: string }) => void) | undefined;
}

export interface Verified {
  bag: string;
  files: number;
  bytes: number;
  algorithms: string[];
  problems: Problem[];
}

/** path → algorithm → digest, for the payload and for tag files. */
type Expected = Map<string, Map<string, string>>;

interface Contents {
  payload: Expected;
  tags: Expected;
  algorithms: string[];
  problems: Problem[];
  bytes: number;
}

type Found = (code: string, message: string, at?: string) => void;

/** What a bag declares and lists, held against what is there. Files are not opened but for tag files. */
async function readContents(bag: OpenBag): Promise<Contents> {
  const problems: Problem[] = [];
  const found: Found = (code, message, at) => problems.push({ code, message, ...(at ? { path: at } : {}) });
  await checkDeclaration(bag, found);
  const { payload, tags, used } = await readManifests(bag, found);
  if (used.length === 0) found('no-manifest', 'There is no payload manifest that can be checked.');
  let bytes = 0;
  let count = 0;
  for (const [name, stat] of bag.files) {
    if (!name.startsWith('data/')) continue;
    bytes += stat.size;
    count++;
    for (const algorithm of used)
      if (!payload.get(name)?.has(algorithm))
        found('unlisted-file', `${name} is in no ${algorithm} manifest.`, name);
  }
  for (const name of [...payload.keys(), ...tags.keys()])
    if (!bag.files.has(name)) found('missing-file', `${name} is listed and not there.`, name);
  if (bag.files.has('fetch.txt'))
    found(
      'fetch',
      'The bag expects files to be fetched from the network (fetch.txt); that is not done.',
      'fetch.txt',
    );
  const info = await readTag(bag, 'bag-info.txt');
  const oxum = info === null ? undefined : readInfo(info).find(([l]) => l === 'Payload-Oxum')?.[1];
  if (oxum !== undefined && oxum !== `${bytes}.${count}`)
    found(
      'oxum',
      `bag-info.txt speaks of ${oxum} (bytes.files), there are ${bytes}.${count}.`,
      'bag-info.txt',
    );
  return { payload, tags, algorithms: used, problems, bytes };
}

async function checkDeclaration(bag: OpenBag, found: Found): Promise<void> {
  const bagit = await readTag(bag, 'bagit.txt');
  if (bagit === null) return found('no-declaration', 'bagit.txt is missing: this is no bag.');
  const lines = readInfo(bagit);
  if (!/^(1\.0|0\.9[67])$/.test(lines.find(([l]) => l === 'BagIt-Version')?.[1] ?? ''))
    found('version', 'bagit.txt names no version that is known (1.0, 0.97, 0.96).', 'bagit.txt');
  if (lines.find(([l]) => l === 'Tag-File-Character-Encoding')?.[1]?.toUpperCase() !== 'UTF-8')
    found('encoding', 'The tag files are not declared as UTF-8.', 'bagit.txt');
}

/** All manifests that are known here; `used`: the algorithms of those for the payload. */
async function readManifests(
  bag: OpenBag,
  found: Found,
): Promise<{ payload: Expected; tags: Expected; used: string[] }> {
  const read = { payload: new Map() as Expected, tags: new Map() as Expected, used: [] as string[] };
  for (const name of bag.files.keys()) {
    const manifest = name.includes('/') ? null : manifestOf(name);
    if (!manifest) continue;
    if (!(manifest.algorithm in algorithms)) {
      found(
        'unknown-algorithm',
        `${name} uses ${manifest.algorithm}, which is not known here; it is not checked.`,
        name,
      );
      continue;
    }
    const { entries, badLines } = readManifest((await readTag(bag, name))!);
    for (const line of badLines) found('bad-manifest', `Line ${line} of ${name} cannot be read.`, name);
    if (!manifest.tags) read.used.push(manifest.algorithm);
    const expected = manifest.tags ? read.tags : read.payload;
    for (const e of entries) {
      const wrong = wrongEntry(name, manifest, e, expected);
      if (wrong) found(wrong.code, wrong.message, name);
      else expected.set(e.path, (expected.get(e.path) ?? new Map()).set(manifest.algorithm, e.digest));
    }
  }
  return read;
}

/** What is wrong with a line of a manifest; null: nothing. */
function wrongEntry(
  name: string,
  manifest: NonNullable<ReturnType<typeof manifestOf>>,
  e: { path: string; digest: string },
  expected: Expected,
): { code: string; message: string } | null {
  const bad = (message: string, code = 'bad-manifest') => ({ code, message: `${name} ${message}` });
  if (!staysInside(e.path))
    return bad(`names ${JSON.stringify(e.path)}, which leaves the bag.`, 'unsafe-path');
  if (!manifest.tags && !e.path.startsWith('data/')) return bad(`names ${e.path}, which is not below data/.`);
  if (e.digest.length !== algorithms[manifest.algorithm as keyof typeof algorithms])
    return bad(`has a checksum of wrong length for ${e.path}.`);
  return expected.get(e.path)?.has(manifest.algorithm) ? bad(`names ${e.path} twice.`) : null;
}

/** Streams a file through every hash its manifests ask for; says what does not match. */
async function checkFile(
  bag: OpenBag,
  name: string,
  expected: ReadonlyMap<string, string>,
  each: (part: Uint8Array) => void,
): Promise<Problem[]> {
  const hashes = new Map<string, Hash>([...expected.keys()].map((a) => [a, createHash(a)]));
  try {
    for await (const part of bag.stream(name)) {
      for (const hash of hashes.values()) hash.update(part);
      each(part);
    }
  } catch (cause) {
    if (
      cause instanceof AppError ||
      (cause as Error).name === 'AbortError' ||
      (cause as NodeJS.ErrnoException).code === 'ENOSPC'
    )
      throw cause;
    return [
      { code: 'unreadable', message: `${name} cannot be read: ${(cause as Error).message}`, path: name },
    ];
  }
  return [...hashes]
    .filter(([a, hash]) => hash.digest('hex') !== expected.get(a))
    .map(([a]) => ({
      code: 'checksum',
      message: `${name} is not as it was packed: its ${a} checksum differs.`,
      path: name,
    }));
}

/** Verifies a bag; findings are listed, not thrown. Throws AppError for hostile archives and files that are no archive. */
export async function verify(bagPath: string, options: VerifyOptions = {}): Promise<Verified> {
  const bag = await openBag(bagPath);
  try {
    const contents = await readContents(bag);
    let bytes = 0;
    let files = 0;
    for (const expected of [contents.tags, contents.payload]) {
      for (const [name, digests] of expected) {
        if (!bag.files.has(name)) continue;
        contents.problems.push(
          ...(await checkFile(bag, name, digests, (part) => {
            options.signal?.throwIfAborted();
            bytes += part.length;
            options.onProgress?.({ files, bytes, path: name });
          })),
        );
        files++;
      }
    }
    return {
      bag: bagPath,
      files: contents.payload.size,
      bytes: contents.bytes,
      algorithms: contents.algorithms,
      problems: contents.problems,
    };
  } finally {
    bag.close();
  }
}

export interface Unpacked {
  root: string;
  files: number;
  bytes: number;
}

/** Where a bag is unpacked to: a new folder appears whole, beside which it is made; an empty one (it may be a drive's, or behind a link) is filled from a folder inside it. */
function placeFor(to: string): { target: string; beside: string } {
  const given = toSystem(to);
  if (!fs.existsSync(given)) {
    if (!fs.existsSync(path.dirname(given)))
      throw new AppError('not-found', `The folder of ${to} is not there.`);
    return { target: given, beside: path.dirname(given) };
  }
  const target = fs.realpathSync.native(given);
  if (!fs.statSync(target).isDirectory()) throw new AppError('exists', `${to} is a file.`);
  // What a drive makes for itself when it is formatted is nobody's file.
  const there = fs.readdirSync(target).filter((n) => n !== 'lost+found' && n !== 'System Volume Information');
  if (there.length > 0) throw new AppError('not-empty', `${to} is not empty.`);
  return { target, beside: target };
}

/** Brings what was unpacked into a folder inside `target` up into it; back where that fails. */
function bringOut(temporary: string, target: string): void {
  const done: string[] = [];
  try {
    for (const name of fs.readdirSync(temporary)) {
      fs.renameSync(path.join(temporary, name), path.join(target, name));
      done.push(name);
    }
  } catch (cause) {
    for (const name of done) fs.renameSync(path.join(target, name), path.join(temporary, name));
    throw cause;
  }
  fs.rmdirSync(temporary);
}

/** Unpacks the payload to `to`, a folder that is new or empty. All of it is right, or nothing is there. */
export async function unpack(bagPath: string, to: string, options: VerifyOptions = {}): Promise<Unpacked> {
  const { target, beside } = placeFor(to);
  const bag = await openBag(bagPath);
  const temporary = path.join(beside, `.${process.pid}-${Date.now().toString(36)}${temporaryMark}`);
  try {
    const contents = await readContents(bag);
    const fail = (problems: readonly Problem[]) =>
      new AppError(
        'bad-bag',
        `${bagPath} was not unpacked: ${problems[0]!.message}`,
        'Nothing was written.',
        problems.map((p) => p.message),
      );
    if (contents.problems.length > 0) throw fail(contents.problems);
    if (contents.bytes > freeBytes(fromSystem(beside)))
      throw new AppError('disk-full', `The bag unpacks to ${contents.bytes} bytes; the drive has less free.`);
    fs.rmSync(temporary, { recursive: true, force: true });
    fs.mkdirSync(temporary);
    const problems: Problem[] = [];
    for (const [name, digests] of contents.tags)
      problems.push(...(await checkFile(bag, name, digests, () => options.signal?.throwIfAborted())));
    let bytes = 0;
    let files = 0;
    for (const [name, digests] of contents.payload) {
      const file = path.join(temporary, ...name.slice(5).split('/'));
      fs.mkdirSync(path.dirname(file), { recursive: true });
      const fd = fs.openSync(file, 'wx');
      try {
        problems.push(
          ...(await checkFile(bag, name, digests, (part) => {
            options.signal?.throwIfAborted();
            for (let at = 0; at < part.length;) at += fs.writeSync(fd, part, at, part.length - at);
            bytes += part.length;
            options.onProgress?.({ files, bytes, path: name });
          })),
        );
        fs.fsyncSync(fd);
      } finally {
        fs.closeSync(fd);
      }
      const { modified, mode } = bag.files.get(name)!;
      // Rights come from a stranger: only whether it is a program is taken over.
      if (mode !== undefined && (mode & 0o111) !== 0) fs.chmodSync(file, fs.statSync(file).mode | 0o111);
      if (Number.isFinite(modified)) fs.utimesSync(file, modified / 1000, modified / 1000);
      files++;
    }
    if (problems.length > 0) throw fail(problems);
    for (const folder of ((await readTag(bag, emptyFoldersFile)) ?? '')
      .split('\n')
      .filter(Boolean)
      .map(decodePath)) {
      if (isTreePath(folder) && staysInside(folder))
        fs.mkdirSync(path.join(temporary, ...folder.split('/')), { recursive: true });
    }
    if (beside === target) bringOut(temporary, target);
    else fs.renameSync(temporary, target);
    return { root: to, files, bytes };
  } catch (cause) {
    fs.rmSync(temporary, { recursive: true, force: true });
    if (cause instanceof AppError) throw cause;
    if ((cause as Error).name === 'AbortError')
      throw new AppError('cancelled', 'Unpacking was cancelled.', 'Nothing was written.');
    if ((cause as NodeJS.ErrnoException).code === 'ENOSPC')
      throw new AppError('disk-full', 'The drive became full while unpacking.', 'Nothing was written.');
    throw cause;
  } finally {
    bag.close();
  }
}
