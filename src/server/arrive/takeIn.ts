// What arrived, put into a folder of its own: a bag verified and unpacked; a ZIP made by other means unpacked without trust; a folder, from a stick or
// anywhere, copied and read back. All of it, or nothing.

import fs from 'node:fs';
import path from 'node:path';
import { refusals, refusedArchive } from '@/core/bags/archive';
import { AppError } from '@/core/errors';
import { behindLink } from '@/core/files/behindLink';
import { whyPassedOver, type ByteStream, type CancelSignal, type PassedOver } from '@/core/files/fileTree';
import { isPassing } from '@/core/files/records';
import { rootPath, type TreePath } from '@/core/files/treePath';
import { isLitter } from '@/core/names/litter';
import { fillFolder, placeFor } from '../bags/intoFolder';
import { openArchive } from '../bags/openBag';
import { unpack } from '../bags/unpack';
import { writeWhole } from '../bags/wholeFile';
import { startHash } from '../disk/blake';
import { DiskReading } from '../disk/diskReading';
import { liesIn } from '../disk/realPlace';
import { toSystem } from '../disk/system';
import { recogniseArrival, type Recognised } from './recognise';

export interface TakeInOptions {
  signal?: CancelSignal | undefined;
  onProgress?: ((done: { files: number; bytes: number; path: string }) => void) | undefined;
  parts?: string | null | undefined;
}

export interface TakenIn {
  root: string;
  files: number;
  bytes: number;
  /** What was left where it was: links that lead out, what cannot be read. */
  left: { path: string; why: string }[];
}

interface Incoming {
  at: string;
  size: number;
  modified: number;
  mode?: number | undefined;
  stream(): ByteStream;
}

/** Takes it in to `to`, a folder that is new or empty. */
export async function takeIn(what: Recognised, to: string, options: TakeInOptions = {}): Promise<TakenIn> {
  if (liesIn(what.path, to)) throw new AppError('bad-request', 'It cannot arrive inside itself.');
  if (what.kind === 'bag') return { ...(await unpack(what.path, to, options)), left: [] };
  if (what.form === 'zip') {
    const archive = await openArchive(what.path);
    try {
      const files = [...archive.files].filter(([p]) => !isLitter(p.slice(p.lastIndexOf('/') + 1)));
      return await fill(
        files.map(([at, f]) => ({ at, ...f, stream: () => archive.stream(at) })),
        [],
        to,
        options,
      );
    } finally {
      archive.close();
    }
  }
  const tree = new DiskReading(what.path);
  const files: Incoming[] = [];
  const left: TakenIn['left'] = [];
  const links: TreePath[] = [];
  const passed = (p: string, why: PassedOver) =>
    why === 'link' ? links.push(p as TreePath) : left.push({ path: p || '.', why: whyPassedOver[why] });
  for await (const f of tree.list(rootPath, passed))
    if (!isPassing(f.path)) files.push({ at: f.path, ...f, stream: () => tree.stream(f.path) });
  // Of a link that leads inside, what it leads to; others cannot come along.
  for (const link of links)
    for await (const found of behindLink(tree, link))
      if ('file' in found)
        files.push({ at: found.file.path, ...found.file, stream: () => tree.stream(found.file.path) });
      else left.push({ path: found.leadsNowhere, why: whyPassedOver.link });
  return fill(files, left, to, options);
}

async function fill(
  files: readonly Incoming[],
  left: TakenIn['left'],
  to: string,
  options: TakeInOptions,
): Promise<TakenIn> {
  const refused = refusals(
    files.map((f, i) => ({
      name: f.at,
      size: f.size,
      packed: f.size,
      offset: i * 2 ** 42,
      mode: null,
      encrypted: false,
    })),
  ).filter((r) => r.code !== 'duplicate' && r.code !== 'overlap' && r.code !== 'bomb');
  if (refused.length > 0) throw refusedArchive('It', refused);
  const filling = { cancelled: 'The arrival was cancelled.', parts: options.parts };
  return fillFolder(to, filling, async ({ begin, flushing }) => {
    const temporary = begin(
      files.reduce((sum, f) => sum + f.size, 0),
      'What arrives has',
    );
    let bytes = 0;
    const written: [file: string, digest: string, at: string][] = [];
    for (const [n, f] of files.entries()) {
      options.signal?.throwIfAborted();
      const file = path.join(temporary, ...f.at.split('/'));
      const hash = startHash();
      const write = async (put: (part: Uint8Array) => void) => {
        for await (const part of f.stream()) {
          options.signal?.throwIfAborted();
          hash.update(part);
          put(part);
          bytes += part.length;
          options.onProgress?.({ files: n, bytes, path: f.at });
        }
      };
      await writeWhole(file, f, write, flushing);
      written.push([file, hash.digest(), f.at]);
    }
    await flushing.end();
    for (const [file, digest, at] of written) await checkWritten(file, digest, at);
    return { root: to, files: files.length, bytes, left };
  });
}

/** What was written, read back. */
async function checkWritten(file: string, digest: string, at: string): Promise<void> {
  const hash = startHash();
  for await (const part of fs.createReadStream(file, { highWaterMark: 1024 * 1024 }))
    hash.update(part as Uint8Array);
  if (hash.digest() !== digest)
    throw new AppError('disk-error', `${at} reads back different from the drive.`);
}

/** What would arrive, looked at: also whether the place it goes to is free. */
export async function lookAtArrival(at: string, to: string): Promise<Recognised> {
  const what = await recogniseArrival(at);
  if (fs.existsSync(toSystem(to))) placeFor(to);
  return what;
}
