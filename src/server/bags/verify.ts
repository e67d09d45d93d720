// Verifies a bag (RFC 8493 §3: complete, then valid).

import { createHash, type Hash } from 'node:crypto';
import path from 'node:path';
import { algorithms, manifestOf, readInfo, readManifest } from '@/core/bags/manifest';
import { staysInside } from '@/core/bags/archive';
import { AppError } from '@/core/errors';
import { fileError } from '@/core/files/fileErrors';
import type { CancelSignal } from '@/core/files/fileTree';
import { nameOf } from '@/core/files/treePath';
import type { Problem } from '@/core/problem';
import { missingVolumes, setOf } from './bagSet';
import { openBag, readTag, type OpenBag } from './openBag';

export interface VerifyOptions {
  signal?: CancelSignal | undefined;
  onProgress?: ((done: { files: number; bytes: number; path: string }) => void) | undefined;
}

export interface Verified {
  bag: string;
  /** All bags of its set that are there; one alone. */
  volumes: string[];
  files: number;
  bytes: number;
  algorithms: string[];
  problems: Problem[];
}

/** path → algorithm → digest, for the payload and for tag files. */
type Expected = Map<string, Map<string, string>>;

export interface Contents {
  payload: Expected;
  tags: Expected;
  algorithms: string[];
  problems: Problem[];
  bytes: number;
}

type Found = (code: string, message: string, at?: string) => void;

/** What a bag declares and lists, held against what is there. Files are not opened but for tag files. */
export async function readContents(bag: OpenBag): Promise<Contents> {
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
export async function checkFile(
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
  try {
    const set = await setOf(bagPath);
    if (!set) return { ...(await verified(await openBag(bagPath), bagPath, options)), volumes: [bagPath] };
    const all: Verified = {
      bag: bagPath,
      volumes: set.bags,
      files: 0,
      bytes: 0,
      algorithms: [],
      problems: missingVolumes(set),
    };
    const seen = new Map<string, string>();
    for (const at of set.bags) {
      const before = { files: all.files, bytes: all.bytes };
      const onProgress: VerifyOptions['onProgress'] = (d) =>
        options.onProgress?.({ ...d, files: before.files + d.files, bytes: before.bytes + d.bytes });
      const bag = await openBag(at);
      const twice = inTwoVolumes(bag, nameOf(at), seen);
      const one = await verified(bag, at, { ...options, onProgress });
      all.files += one.files;
      all.bytes += one.bytes;
      all.algorithms = [...new Set([...all.algorithms, ...one.algorithms])];
      all.problems.push(
        ...[...twice, ...one.problems].map((p) => ({ ...p, message: `${nameOf(at)}: ${p.message}` })),
      );
    }
    return all;
  } catch (cause) {
    throw fileError(bagPath, cause);
  }
}

/** A file of the payload that an earlier volume has as well. */
export function inTwoVolumes(bag: OpenBag, name: string, seen: Map<string, string>): Problem[] {
  const found: Problem[] = [];
  for (const file of bag.files.keys()) {
    if (!file.startsWith('data/')) continue;
    const before = seen.get(file);
    if (before === undefined) seen.set(file, name);
    else found.push({ code: 'in-two-volumes', message: `${file} lies in ${before} as well.`, path: file });
  }
  return found;
}

async function verified(
  bag: OpenBag,
  bagPath: string,
  options: VerifyOptions,
): Promise<Omit<Verified, 'volumes'>> {
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
