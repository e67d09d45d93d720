// A tree held in memory: for tests, for simulation, and as the plain statement of what a tree must do.

import { AppError } from '../errors';
import { utf8 } from '../text/bytes';
import { digestOf, type Digest } from './digest';
import type { ByteRange, ByteStream, FileStat, WritableFileTree, WriteOptions } from './fileTree';
import { comparePaths, folderOf, isWithin, treePath, type TreePath } from './treePath';

interface Held {
  bytes: Uint8Array;
  modified: number;
}

/** A writable tree in memory. `clock` gives the modified time of new files in ms. */
export class MemoryTree implements WritableFileTree {
  readonly files = new Map<string, Held>();
  readonly folders = new Set<string>(['']);

  constructor(
    initial: Record<string, Uint8Array | string> = {},
    private readonly clock: () => number = () => 0,
  ) {
    for (const [path, content] of Object.entries(initial)) this.set(path, content);
  }

  /** Test set-up: lays a file, making its folders. */
  set(path: string, content: Uint8Array | string): void {
    const bytes = typeof content === 'string' ? utf8(content) : content;
    for (let f = folderOf(path) as string; f !== ''; f = folderOf(f)) this.folders.add(f);
    this.files.set(treePath(path), { bytes, modified: this.clock() });
  }

  async *list(folder: TreePath = treePath('')): AsyncIterable<FileStat> {
    const prefix = folder === '' ? '' : `${folder}/`;
    const paths = [...this.files.keys()].filter((p) => p.startsWith(prefix)).sort(comparePaths);
    for (const path of paths) {
      const held = this.files.get(path);
      if (held) yield { path: path as TreePath, size: held.bytes.length, modified: held.modified };
    }
  }

  async entries(folder: TreePath) {
    if (!this.folders.has(folder)) return null;
    const prefix = folder === '' ? '' : `${folder}/`;
    const inside = (p: string) => p !== '' && p.startsWith(prefix) && !p.slice(prefix.length).includes('/');
    return [
      ...[...this.files.keys()]
        .filter(inside)
        .map((p) => ({ name: p.slice(prefix.length), kind: 'file' as const })),
      ...[...this.folders]
        .filter(inside)
        .map((p) => ({ name: p.slice(prefix.length), kind: 'folder' as const })),
    ].sort((a, b) => comparePaths(a.name, b.name));
  }

  async kind(path: TreePath): Promise<'file' | 'folder' | null> {
    return this.files.has(path) ? 'file' : this.folders.has(path) ? 'folder' : null;
  }

  async stat(path: TreePath): Promise<FileStat | null> {
    const held = this.files.get(path);
    return held ? { path, size: held.bytes.length, modified: held.modified } : null;
  }

  async read(path: TreePath, range?: ByteRange): Promise<Uint8Array> {
    const held = this.files.get(path);
    if (!held) throw new AppError('not-found', `${path} is not there.`);
    return range ? held.bytes.slice(range[0], range[1]) : held.bytes;
  }

  async *stream(path: TreePath, range?: ByteRange): ByteStream {
    yield await this.read(path, range);
  }

  async digest(path: TreePath): Promise<Digest | null> {
    const held = this.files.get(path);
    return held ? digestOf(held.bytes) : null;
  }

  async write(path: TreePath, content: ByteStream, options: WriteOptions) {
    const parts: Uint8Array[] = [];
    for await (const part of content) {
      options.signal?.throwIfAborted();
      parts.push(new Uint8Array(part));
      options.onBytes?.(part.length);
    }
    const bytes = concat(parts);
    const written = { digest: digestOf(bytes), size: bytes.length };
    await options.beforeCommit?.(written);
    if (!this.folders.has(folderOf(path)))
      throw new AppError('not-found', `The folder of ${path} is not there.`);
    if (this.folders.has(path) || (!options.replace && this.files.has(path)))
      throw new AppError('exists', `${path} is already there.`);
    this.files.set(path, { bytes, modified: options.modified ?? this.clock() });
    return written;
  }

  async append(path: TreePath, bytes: Uint8Array) {
    const held = this.files.get(path);
    this.files.set(path, { bytes: concat([held?.bytes ?? new Uint8Array(), bytes]), modified: this.clock() });
  }

  async move(path: TreePath, to: TreePath) {
    const held = this.files.get(path);
    if (!held) throw new AppError('not-found', `${path} is not there.`);
    if (this.files.has(to) || this.folders.has(to)) throw new AppError('exists', `${to} is already there.`);
    if (!this.folders.has(folderOf(to))) throw new AppError('not-found', `The folder of ${to} is not there.`);
    this.files.set(to, held);
    this.files.delete(path);
  }

  async moveFolder(path: TreePath, to: TreePath) {
    if (path === '' || !this.folders.has(path)) throw new AppError('not-found', `${path} is no folder.`);
    if (this.files.has(to) || this.folders.has(to)) throw new AppError('exists', `${to} is already there.`);
    if (!this.folders.has(folderOf(to)) || isWithin(to, path))
      throw new AppError('not-found', `The folder of ${to} is not there.`);
    for (const p of [...this.files.keys()])
      if (p.startsWith(`${path}/`)) {
        this.files.set(to + p.slice(path.length), this.files.get(p)!);
        this.files.delete(p);
      }
    for (const f of [...this.folders])
      if (isWithin(f, path)) {
        this.folders.add(to + f.slice(path.length));
        this.folders.delete(f);
      }
  }

  async keep(path: TreePath, to: TreePath) {
    const held = this.files.get(path);
    if (!held) throw new AppError('not-found', `${path} is not there.`);
    if (!this.files.has(to)) this.files.set(to, { bytes: held.bytes, modified: held.modified });
  }

  async remove(path: TreePath) {
    this.files.delete(path);
  }

  async makeFolder(path: TreePath) {
    if (this.files.has(path)) throw new AppError('exists', `${path} is a file.`);
    if (!this.folders.has(folderOf(path)))
      throw new AppError('not-found', `The folder of ${path} is not there.`);
    this.folders.add(path);
  }

  async removeFolder(path: TreePath): Promise<boolean> {
    if (path === '' || !this.folders.has(path)) return false;
    const inside = (p: string) => p.startsWith(`${path}/`);
    if ([...this.files.keys()].some(inside) || [...this.folders].some(inside)) return false;
    return this.folders.delete(path);
  }

  async clearTemporary() {}
}

/** Joins parts into one array. */
export function concat(parts: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(parts.reduce((sum, p) => sum + p.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}
