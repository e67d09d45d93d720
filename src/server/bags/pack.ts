// Packs a workspace as a bag after RFC 8493: payload, SHA-512 manifest, tag files, tag manifest; as a ZIP or as a folder.
// Every file of the root goes in, hidden ones too. The bag appears under its name only when it is whole.

import { createHash } from 'node:crypto';
import fs from 'node:fs';
import path from 'node:path';
import { Readable } from 'node:stream';
import yazl from 'yazl';
import { declaration, emptyFoldersFile, encodePath, writeManifest } from '@/core/bags/manifest';
import { AppError } from '@/core/errors';
import { fileError } from '@/core/files/fileErrors';
import type { CancelSignal } from '@/core/files/fileTree';
import { DiskTree } from '../disk/diskTree';
import { temporaryIn } from '../disk/listing';
import { currentLimits } from '../disk/limits';
import { notePart } from '../disk/parts';
import { fromSystem, toSystem } from '../disk/system';
import { HashThread } from './hashThread';
import { appear, clearAway, isProgram, writeWhole } from './wholeFile';
import { contentsOf, type Contents, type LeftOut } from './contents';
import { insideOf } from '@/core/files/treePath';

export interface PackOptions {
  signal?: CancelSignal | undefined;
  onProgress?: ((done: { files: number; bytes: number; path: string }) => void) | undefined;
  /** Where it is written down what is being made (disk/parts.ts); null: nowhere. */
  parts?: string | null | undefined;
}

export interface Packed {
  bag: string;
  files: number;
  bytes: number;
  /** What is not in the bag, and why: nothing is left out without being named. */
  leftOut: LeftOut[];
}

/** Where the bag's files go. */
interface Sink {
  add(
    name: string,
    of: { modified: number; mode?: number | undefined },
    content: AsyncIterable<Uint8Array>,
  ): Promise<void>;
  finish(): Promise<void>;
  /** Resolves once nothing is written any more. */
  abandon(): Promise<void>;
}

/** Packs the folder `root` to `to`: a ZIP when that ends in .zip, else a folder. Refuses to overwrite. */
export async function pack(root: string, to: string, options: PackOptions = {}): Promise<Packed> {
  const target = toSystem(to);
  if (fs.existsSync(target)) throw new AppError('exists', `${to} is there already.`);
  if (to === root || insideOf(root, to) !== null)
    throw new AppError('bad-request', 'The bag cannot lie inside the workspace it packs.');
  if (!fs.existsSync(path.dirname(target)))
    throw new AppError('not-found', `The folder of ${to} is not there.`);
  const tree = new DiskTree(root);
  const contents = await contentsOf(tree, path.basename(target).replace(/\.zip$/i, ''), options.signal);
  for (;;) {
    try {
      return await packContents(tree, contents, to, options);
    } catch (cause) {
      if (!(cause instanceof ReadFailure)) throw fileError(to, cause);
      // One file that cannot be read to its end does not end the pack: it begins again without that file.
      contents.files = contents.files.filter((f) => f.at !== cause.at);
      contents.leftOut.push({ path: cause.at, why: cause.message });
    }
  }
}

/** A file that failed while it was read. */
class ReadFailure extends Error {
  constructor(
    readonly at: string,
    why: string,
  ) {
    super(why);
  }
}

async function packContents(
  tree: DiskTree,
  { files, empty, leftOut }: Contents,
  to: string,
  options: PackOptions,
): Promise<Packed> {
  const target = toSystem(to);
  const bytes = files.reduce((sum, f) => sum + f.size, 0);
  const asZip = /\.zip$/i.test(to);
  const base = path.basename(target).replace(/\.zip$/i, '');
  const folder = fromSystem(path.dirname(target));
  currentLimits().bounds.checkAt(folder);
  const temporary = temporaryIn(path.dirname(target));
  let strikeOff = notePart(options.parts ?? null, temporary);
  const sink = asZip ? zipSink(temporary, base) : folderSink(temporary);
  const thread = new HashThread();
  try {
    const tags: { path: string; digest: string }[] = [];
    const addTag = async (name: string, text: string) => {
      tags.push({ path: name, digest: createHash('sha512').update(text).digest('hex') });
      await sink.add(name, { modified: Date.now() }, one(Buffer.from(text)));
    };
    await addTag('bagit.txt', declaration);
    const date = new Date().toISOString().slice(0, 10);
    await addTag(
      'bag-info.txt',
      `Bagging-Date: ${date}\nPayload-Oxum: ${bytes}.${files.length}\nExternal-Identifier: ${path.basename(tree.root)}\nBag-Software-Agent: Loyal Satchel\n`,
    );
    if (empty.length > 0) await addTag(emptyFoldersFile, empty.map((f) => `${encodePath(f)}\n`).join(''));
    const entries: { path: string; digest: string }[] = [];
    let done = 0;
    for (const [i, file] of files.entries()) {
      options.signal?.throwIfAborted();
      thread.start('sha512');
      let size = 0;
      let failure: unknown = null;
      const tapped = async function* () {
        try {
          for await (const part of tree.stream(file.from)) {
            options.signal?.throwIfAborted();
            size += part.length;
            done += part.length;
            await thread.update(part);
            options.onProgress?.({ files: i, bytes: done, path: file.at });
            yield part;
          }
        } catch (cause) {
          failure = cause;
          throw cause;
        }
      };
      try {
        await sink.add(`data/${file.at}`, file, tapped());
      } catch (cause) {
        // Of the source, not of the drive that is written to.
        if (failure instanceof AppError && cause === failure) throw new ReadFailure(file.at, failure.message);
        throw cause;
      }
      const now = await tree.stat(file.from);
      if (size !== file.size || now?.modified !== file.modified)
        throw new AppError('stale-plan', `${file.at} was changed while it was packed.`, 'No bag was made.');
      entries.push({ path: `data/${file.at}`, digest: await thread.digest() });
      options.onProgress?.({ files: i + 1, bytes: done, path: file.at });
    }
    await addTag('manifest-sha512.txt', writeManifest(entries));
    await sink.add('tagmanifest-sha512.txt', { modified: Date.now() }, one(Buffer.from(writeManifest(tags))));
    await sink.finish();
    // Where it lies now that it is whole: its folder may have been swapped for a link meanwhile.
    currentLimits().bounds.checkAt(fromSystem(temporary));
    if (fs.existsSync(target))
      throw new AppError('exists', `${to} has appeared meanwhile.`, 'No bag was made.');
    appear(temporary, target);
  } catch (cause) {
    await sink.abandon();
    const unchanged = clearAway(temporary) ?? 'No bag was made.';
    if (fs.existsSync(temporary)) strikeOff = () => {};
    if (cause instanceof AppError || cause instanceof ReadFailure) throw cause;
    if ((cause as Error).name === 'AbortError')
      throw new AppError('cancelled', 'Packing was cancelled.', unchanged);
    const known = fileError(to, cause);
    if (known instanceof AppError) throw new AppError(known.code, known.message, unchanged);
    throw cause;
  } finally {
    await thread.close();
    strikeOff();
  }
  return { bag: to, files: files.length, bytes, leftOut };
}

async function* one(bytes: Uint8Array) {
  yield bytes;
}

// A ZIP's times begin in 1980 and end in 2107 (APPNOTE.TXT 4.4.6, the MS-DOS format); what lies beyond gets the nearest.
const [firstInZip, lastInZip] = [Date.UTC(1980, 0, 2), Date.UTC(2107, 11, 30)];
function inZip(modified: number): Date {
  return new Date(Math.min(lastInZip, Math.max(firstInZip, modified)));
}

function folderSink(temporary: string): Sink {
  fs.mkdirSync(temporary);
  return {
    async add(name, { modified, mode }, content) {
      await writeWhole(path.join(temporary, ...name.split('/')), { modified, mode }, async (write) => {
        for await (const part of content) write(part);
      });
    },
    async finish() {},
    async abandon() {},
  };
}

/** RFC 8493 §4: the base folder is an entry of the serialised bag, so unpacking shows exactly one folder. */
function zipSink(temporary: string, base: string): Sink {
  const zip = new yazl.ZipFile();
  const out = fs.createWriteStream(temporary, { flags: 'wx', highWaterMark: 4 * 1024 * 1024 });
  // Also where it could not be opened: only then can it not appear any more.
  const closed = new Promise<void>((resolve) => out.once('close', resolve));
  const written = new Promise<void>((resolve, reject) => {
    out.on('close', resolve);
    out.on('error', reject);
    zip.outputStream.on('error', reject);
    (zip as unknown as NodeJS.EventEmitter).on('error', reject);
  });
  written.catch(() => {});
  zip.outputStream.pipe(out);
  return {
    add(name, { modified, mode }, content) {
      return new Promise<void>((resolve, reject) => {
        // The source reuses its buffer; the archive holds on to parts, so each gets its own copy.
        const stream = Readable.from(copies(content), { objectMode: false, highWaterMark: 2 * 1024 * 1024 });
        stream.on('end', resolve);
        stream.on('error', reject);
        written.catch(reject);
        zip.addReadStream(stream, `${base}/${name}`, {
          mtime: inZip(modified),
          mode: isProgram(mode) ? 0o100755 : 0o100644,
          compress: false,
        });
      });
    },
    async finish() {
      zip.end();
      await written;
      const fd = fs.openSync(temporary, 'r+');
      fs.fsyncSync(fd);
      fs.closeSync(fd);
    },
    abandon() {
      out.destroy();
      return closed;
    },
  };
}

async function* copies(content: AsyncIterable<Uint8Array>) {
  for await (const part of content) yield Buffer.from(part);
}
