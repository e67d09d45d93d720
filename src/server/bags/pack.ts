// Packs files as a bag after RFC 8493: payload, SHA-512 manifest, tag files, tag manifest; as a ZIP or as a folder, whole or in volumes. A bag
// appears under its name only when it is whole; of a set of volumes all appear, or none.

import { createHash } from 'node:crypto';
import fs from 'node:fs';
import path from 'node:path';
import { Readable } from 'node:stream';
import yazl from 'yazl';
import { topFolder } from '@/core/bags/archive';
import { bagInfo, declaration, emptyFoldersFile, encodePath, writeManifest } from '@/core/bags/manifest';
import { timesFile, writeTimes } from '@/core/bags/times';
import { volumeName, volumesFor } from '@/core/bags/volumes';
import { AppError } from '@/core/errors';
import { fileError } from '@/core/files/fileErrors';
import type { ByteStream, CancelSignal, OutsideFiles } from '@/core/files/fileTree';
import { bytesOfText } from '@/core/text/bytes';
import { bytes as bytesText } from '@/core/text/figures';
import { diskOutside } from '../disk/diskOutside';
import { DiskReading } from '../disk/diskReading';
import { liesIn } from '../disk/realPlace';
import { temporaryIn } from '../disk/listing';
import { currentLimits } from '../disk/limits';
import { notePart } from '../disk/parts';
import { fromSystem, toSystem } from '../disk/system';
import { freeBytes } from '../disk/use';
import { HashThread } from './hashThread';
import { appear, clearAway, isProgram, writeWhole } from './wholeFile';
import { contentsOf, type BagSource, type Contents, type LeftOut } from './contents';

export interface PackOptions {
  signal?: CancelSignal | undefined;
  onProgress?: ((done: { files: number; bytes: number; path: string }) => void) | undefined;
  /** Where it is written down what is being made (disk/parts.ts); null: nowhere. */
  parts?: string | null | undefined;
  /** Most bytes of one bag; more makes several. */
  volume?: number | undefined;
  /** Files at the top of every bag beside the standard's, from what goes into it. */
  tags?: ((contents: Contents) => Promise<BagTag[]>) | undefined;
  /** More lines of bag-info.txt. */
  info?: readonly (readonly [label: string, value: string])[] | undefined;
  /** What is taken of the root; absent: all of it. */
  select?: ((contents: Contents) => Contents) | undefined;
  /** Where what lies outside the root is read. */
  outside?: OutsideFiles | undefined;
}

/** A tag file: its name at the top of the bag, and its text. */
export interface BagTag {
  name: string;
  text: string;
}

export interface Packed {
  /** The bag; of several volumes the first. */
  bag: string;
  /** All of them, in order. */
  volumes: string[];
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
  if (liesIn(root, to))
    throw new AppError('bad-request', 'The bag cannot lie inside the workspace it packs.');
  if (!fs.existsSync(path.dirname(target)))
    throw new AppError('not-found', `The folder of ${to} is not there.`);
  const tree = new DiskReading(root);
  const all = await contentsOf(tree, baseOf(target), options.signal);
  let contents = options.select ? options.select(all) : all;
  for (;;) {
    try {
      return await packAll(new Sources(tree, options.outside ?? diskOutside), contents, to, options);
    } catch (cause) {
      if (!(cause instanceof ReadFailure)) throw fileError(to, cause);
      // One file that cannot be read to its end does not end the pack: it begins again without that file.
      contents = {
        ...contents,
        files: contents.files.filter((f) => f.at !== cause.at),
        leftOut: [...contents.leftOut, { path: cause.at, why: cause.message }],
      };
    }
  }
}

const baseOf = (target: string) => topFolder(path.basename(target).replace(/\.zip$/i, ''));

/** A file that failed while it was read. */
class ReadFailure extends Error {
  constructor(
    readonly at: string,
    why: string,
  ) {
    super(why);
  }
}

/** Where the bag's files are read. */
class Sources {
  constructor(
    readonly tree: DiskReading,
    private readonly outside: OutsideFiles,
  ) {}

  private range({ from }: BagSource, range?: readonly [number, number]): ByteStream {
    return typeof from === 'string'
      ? this.tree.stream(from, range)
      : this.outside.stream(from.outside, range);
  }

  async *stream(file: BagSource): ByteStream {
    if (!file.rewritten) return yield* this.range(file);
    for (const piece of file.rewritten.pieces)
      if ('copy' in piece) yield* this.range(file, piece.copy);
      else yield bytesOfText(piece.latin1);
  }

  /** Whether it lies as it did when the bag was begun. */
  async isAsItWas(file: BagSource): Promise<boolean> {
    const { from } = file;
    const now = await (typeof from === 'string' ? this.tree.stat(from) : this.outside.stat(from.outside));
    return now?.modified === file.modified && now.size === (file.rewritten?.size ?? file.size);
  }
}

/** What one bag of a set says of the set. */
interface Place {
  n: number;
  of: number;
  /** The same in all bags of a set. */
  group: string;
}

const sumOf = (files: readonly BagSource[]) => files.reduce((sum, f) => sum + f.size, 0);

async function packAll(
  sources: Sources,
  contents: Contents,
  to: string,
  options: PackOptions,
): Promise<Packed> {
  const tags = (await options.tags?.(contents)) ?? [];
  const bytes = sumOf(contents.files);
  const shares = sharesOf(contents, tags, options.volume);
  const folder = path.dirname(toSystem(to));
  const free = freeBytes(fromSystem(folder));
  if (bytes > free)
    throw new AppError(
      'disk-full',
      `The bag takes ${bytesText(bytes)}; ${fromSystem(folder)} has ${bytesText(free)} free.`,
      'No bag was made.',
    );
  if (shares.length === 1) {
    await packOne(sources, { ...contents, tags }, to, null, options);
    return { bag: to, volumes: [to], files: contents.files.length, bytes, leftOut: contents.leftOut };
  }
  const name = path.basename(to);
  const names = shares.map((_, n) => volumeName(name, n + 1, shares.length));
  const taken = names.find((n) => fs.existsSync(path.join(folder, n)));
  if (taken !== undefined) throw new AppError('exists', `${taken} is there already.`, 'No bag was made.');
  const group = groupOf(path.basename(sources.tree.root), contents);
  const volumes: string[] = [];
  let done = { files: 0, bytes: 0 };
  try {
    for (const [n, files] of shares.entries()) {
      const at = `${fromSystem(folder)}/${names[n]!}`;
      const before = done;
      await packOne(
        sources,
        // Empty folders are told once.
        { files, tags, leftOut: [], empty: n === 0 ? contents.empty : [] },
        at,
        { n: n + 1, of: shares.length, group },
        {
          ...options,
          onProgress: (d) =>
            options.onProgress?.({ ...d, files: before.files + d.files, bytes: before.bytes + d.bytes }),
        },
      );
      volumes.push(at);
      done = { files: before.files + files.length, bytes: before.bytes + sumOf(files) };
    }
  } catch (cause) {
    // They were made just now, by us, and are of no use alone.
    for (const made of volumes) clearAway(toSystem(made));
    throw cause;
  }
  return { bag: volumes[0]!, volumes, files: contents.files.length, bytes, leftOut: contents.leftOut };
}

function sharesOf(contents: Contents, tags: readonly BagTag[], volume: number | undefined): BagSource[][] {
  if (volume === undefined) return [contents.files];
  // Tag files with their checksums, and what of them cannot be known before.
  const perBag = tags.reduce((sum, t) => sum + Buffer.byteLength(t.text) + 1024, 64 * 1024);
  const shares = volumesFor(contents.files, volume, perBag);
  return shares.length === 0 ? [[]] : shares;
}

/** Tells this set from every other: what it is of, and a sum over what is in it. */
function groupOf(name: string, { files }: Contents): string {
  const hash = createHash('sha256').update(String(Date.now()));
  for (const f of files) hash.update(`${f.at}\0${f.size}\0${f.modified}\n`);
  return `${name} ${hash.digest('hex').slice(0, 16)}`;
}

async function packOne(
  sources: Sources,
  { files, empty, tags: ownTags }: Contents & { tags: readonly BagTag[] },
  to: string,
  place: Place | null,
  options: PackOptions,
): Promise<void> {
  const target = toSystem(to);
  const asZip = /\.zip$/i.test(to);
  const base = baseOf(target);
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
    const info: (readonly [string, string])[] = [
      ['Bagging-Date', new Date().toISOString().slice(0, 10)],
      ['Bag-Size', bytesText(sumOf(files))],
      ['Payload-Oxum', `${sumOf(files)}.${files.length}`],
      ['External-Identifier', path.basename(sources.tree.root)],
      ...(place
        ? ([
            ['Bag-Group-Identifier', place.group],
            ['Bag-Count', `${place.n} of ${place.of}`],
          ] as const)
        : []),
      ...(options.info ?? []),
      ['Bag-Software-Agent', 'Loyal Satchel'],
    ];
    await addTag('bag-info.txt', bagInfo(info));
    for (const tag of ownTags) await addTag(tag.name, tag.text);
    if (files.length > 0) await addTag(timesFile, writeTimes(files));
    if (empty.length > 0) await addTag(emptyFoldersFile, empty.map((f) => `${encodePath(f)}\n`).join(''));
    const entries = await addPayload(sources, files, sink, thread, options);
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
}

/** Adds all files; the manifest's lines. */
async function addPayload(
  sources: Sources,
  files: readonly BagSource[],
  sink: Sink,
  thread: HashThread,
  options: PackOptions,
): Promise<{ path: string; digest: string }[]> {
  const entries: { path: string; digest: string }[] = [];
  let done = 0;
  for (const [i, file] of files.entries()) {
    options.signal?.throwIfAborted();
    thread.start('sha512');
    let size = 0;
    let failure: unknown = null;
    const tapped = async function* () {
      try {
        for await (const part of sources.stream(file)) {
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
    if (size !== file.size || !(await sources.isAsItWas(file)))
      throw new AppError('stale-plan', `${file.at} was changed while it was packed.`, 'No bag was made.');
    entries.push({ path: `data/${file.at}`, digest: await thread.digest() });
    options.onProgress?.({ files: i + 1, bytes: done, path: file.at });
  }
  return entries;
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
