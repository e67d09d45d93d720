// Packs a workspace as a bag after RFC 8493: payload, SHA-512 manifest, tag files, tag manifest; as a ZIP or as a folder.
// Every file of the root goes in, hidden ones too. The bag appears under its name only when it is whole.

import { createHash } from 'node:crypto';
import fs from 'node:fs';
import path from 'node:path';
import { Readable } from 'node:stream';
import yazl from 'yazl';
import { declaration, emptyFoldersFile, encodePath, writeManifest } from '@/core/bags/manifest';
import { AppError } from '@/core/errors';
import type { CancelSignal, FileStat } from '@/core/files/fileTree';
import { isTreePath, type TreePath } from '@/core/files/treePath';
import { DiskTree } from '../disk/diskTree';
import { temporaryMark } from '../disk/listing';
import { toSystem } from '../disk/system';
import { HashThread } from './hashThread';

export interface PackOptions {
  signal?: CancelSignal | undefined;
  onProgress?: ((done: { files: number; bytes: number; path: string }) => void) | undefined;
}

export interface Packed {
  bag: string;
  files: number;
  bytes: number;
  /** Links that lead out of the root and were left out. */
  leftOut: string[];
}

/** Where the bag's files go. */
interface Sink {
  add(name: string, modified: number, content: AsyncIterable<Uint8Array>): Promise<void>;
  finish(): Promise<void>;
  abandon(): void;
}

/** Packs the folder `root` to `to`: a ZIP when that ends in .zip, else a folder. Refuses to overwrite. */
export async function pack(root: string, to: string, options: PackOptions = {}): Promise<Packed> {
  const target = toSystem(to);
  if (fs.existsSync(target)) throw new AppError('exists', `${to} is there already.`);
  if (to === root || to.startsWith(`${root}/`))
    throw new AppError('bad-request', 'The bag cannot lie inside the workspace it packs.');
  if (!fs.existsSync(path.dirname(target)))
    throw new AppError('not-found', `The folder of ${to} is not there.`);
  const tree = new DiskTree(root);
  const { files, empty, leftOut } = await contentsOf(tree);
  const bytes = files.reduce((sum, f) => sum + f.size, 0);
  const asZip = /\.zip$/i.test(to);
  const base = path.basename(target).replace(/\.zip$/i, '');
  const temporary = path.join(path.dirname(target), `.${base}${temporaryMark}-${process.pid}`);
  fs.rmSync(temporary, { recursive: true, force: true });
  const sink = asZip ? zipSink(temporary, base) : folderSink(temporary);
  const thread = new HashThread();
  try {
    const tags: { path: string; digest: string }[] = [];
    const addTag = async (name: string, text: string) => {
      tags.push({ path: name, digest: createHash('sha512').update(text).digest('hex') });
      await sink.add(name, Date.now(), one(Buffer.from(text)));
    };
    await addTag('bagit.txt', declaration);
    const date = new Date().toISOString().slice(0, 10);
    await addTag(
      'bag-info.txt',
      `Bagging-Date: ${date}\nPayload-Oxum: ${bytes}.${files.length}\nExternal-Identifier: ${path.basename(root)}\nBag-Software-Agent: Loyal Satchel\n`,
    );
    if (empty.length > 0) await addTag(emptyFoldersFile, empty.map((f) => `${encodePath(f)}\n`).join(''));
    const entries: { path: string; digest: string }[] = [];
    let done = 0;
    for (const [i, file] of files.entries()) {
      options.signal?.throwIfAborted();
      thread.start('sha512');
      let size = 0;
      const tapped = async function* () {
        for await (const part of tree.stream(file.path)) {
          options.signal?.throwIfAborted();
          size += part.length;
          done += part.length;
          await thread.update(part);
          options.onProgress?.({ files: i, bytes: done, path: file.path });
          yield part;
        }
      };
      await sink.add(`data/${file.path}`, file.modified, tapped());
      const now = await tree.stat(file.path);
      if (size !== file.size || now?.modified !== file.modified)
        throw new AppError('stale-plan', `${file.path} was changed while it was packed.`, 'No bag was made.');
      entries.push({ path: `data/${file.path}`, digest: await thread.digest() });
      options.onProgress?.({ files: i + 1, bytes: done, path: file.path });
    }
    await addTag('manifest-sha512.txt', writeManifest(entries));
    await sink.add('tagmanifest-sha512.txt', Date.now(), one(Buffer.from(writeManifest(tags))));
    await sink.finish();
    if (fs.existsSync(target))
      throw new AppError('exists', `${to} has appeared meanwhile.`, 'No bag was made.');
    fs.renameSync(temporary, target);
  } catch (cause) {
    sink.abandon();
    fs.rmSync(temporary, { recursive: true, force: true });
    if (cause instanceof AppError) throw cause;
    if ((cause as Error).name === 'AbortError')
      throw new AppError('cancelled', 'Packing was cancelled.', 'No bag was made.');
    if ((cause as NodeJS.ErrnoException).code === 'ENOSPC')
      throw new AppError(
        'disk-full',
        `There is too little room for the bag in ${path.dirname(to)}.`,
        'No bag was made.',
      );
    throw cause;
  } finally {
    await thread.close();
  }
  return { bag: to, files: files.length, bytes, leftOut };
}

async function contentsOf(
  tree: DiskTree,
): Promise<{ files: FileStat[]; empty: string[]; leftOut: string[] }> {
  const files: FileStat[] = [];
  for await (const file of tree.list()) files.push(file);
  const empty: string[] = [];
  const leftOut: string[] = [];
  const walk = async (folder: TreePath) => {
    const entries = (await tree.entries(folder)) ?? [];
    const listed = new Set(entries.map((e) => e.name));
    for (const e of fs.readdirSync(toSystem(folder === '' ? tree.root : `${tree.root}/${folder}`), {
      withFileTypes: true,
    })) {
      const at = folder === '' ? e.name : `${folder}/${e.name}`;
      if (!listed.has(e.name) && e.isSymbolicLink()) leftOut.push(at);
      else if (e.isDirectory() && isTreePath(at)) await walk(at as TreePath);
    }
    if (folder !== '' && entries.length === 0) empty.push(folder);
  };
  await walk('' as TreePath);
  return { files, empty, leftOut };
}

async function* one(bytes: Uint8Array) {
  yield bytes;
}

function folderSink(temporary: string): Sink {
  fs.mkdirSync(temporary);
  return {
    async add(name, modified, content) {
      const file = path.join(temporary, ...name.split('/'));
      fs.mkdirSync(path.dirname(file), { recursive: true });
      const fd = fs.openSync(file, 'wx');
      try {
        for await (const part of content)
          for (let at = 0; at < part.length;) at += fs.writeSync(fd, part, at, part.length - at);
        fs.fsyncSync(fd);
      } finally {
        fs.closeSync(fd);
      }
      fs.utimesSync(file, Date.now() / 1000, modified / 1000);
    },
    async finish() {},
    abandon() {},
  };
}

/** RFC 8493 §4: the base folder is an entry of the serialised bag, so unpacking shows exactly one folder. */
function zipSink(temporary: string, base: string): Sink {
  const zip = new yazl.ZipFile();
  const out = fs.createWriteStream(temporary, { flags: 'wx', highWaterMark: 4 * 1024 * 1024 });
  const written = new Promise<void>((resolve, reject) => {
    out.on('close', resolve);
    out.on('error', reject);
    zip.outputStream.on('error', reject);
    (zip as unknown as NodeJS.EventEmitter).on('error', reject);
  });
  written.catch(() => {});
  zip.outputStream.pipe(out);
  return {
    add(name, modified, content) {
      return new Promise<void>((resolve, reject) => {
        // The source reuses its buffer; the archive holds on to parts, so each gets its own copy.
        const stream = Readable.from(copies(content), { objectMode: false, highWaterMark: 2 * 1024 * 1024 });
        stream.on('end', resolve);
        stream.on('error', reject);
        written.catch(reject);
        zip.addReadStream(stream, `${base}/${name}`, {
          mtime: new Date(modified),
          mode: 0o100644,
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
    },
  };
}

async function* copies(content: AsyncIterable<Uint8Array>) {
  for await (const part of content) yield Buffer.from(part);
}
