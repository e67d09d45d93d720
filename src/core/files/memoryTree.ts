// A tree held in memory: for tests, for simulation, and as the plain statement of what a tree must do.

import { AppError } from '../errors';
import { concat, utf8 } from '../text/bytes';
import { digestOf, startDigest, type Digest } from './digest';
import type {
  ByteRange,
  ByteStream,
  Entry,
  FileStat,
  Kind,
  PassedOver,
  WritableFileTree,
  WriteOptions,
} from './fileTree';
import { realPathOf } from './links';
import { comparePaths, folderOf, isWithin, join, nameOf, treePath, type TreePath } from './treePath';

interface Held {
  bytes: Uint8Array;
  modified: number;
  mode?: number | undefined;
}

const statOf = (path: TreePath, { bytes, modified, mode }: Held): FileStat => ({
  path,
  size: bytes.length,
  modified,
  ...(mode === undefined ? {} : { mode }),
});
const missing = (path: string) => new AppError('not-found', `${path} is not there.`);
const taken = (path: string) => new AppError('exists', `${path} is already there.`);

/** A writable tree in memory. `clock` gives the modified time of new files in ms; `root` is what absolute links are measured by. */
export class MemoryTree implements WritableFileTree {
  readonly files = new Map<string, Held>();
  readonly folders = new Set<string>(['']);
  readonly links = new Map<string, string>();

  constructor(
    initial: Record<string, Uint8Array | string> = {},
    private readonly clock: () => number = () => 0,
    readonly root = '/memory',
  ) {
    for (const [path, content] of Object.entries(initial)) this.set(path, content);
  }

  /** Test set-up: lays a file, making its folders. */
  set(path: string, content: Uint8Array | string): void {
    const bytes = typeof content === 'string' ? utf8(content) : content;
    for (let f = folderOf(path) as string; f !== ''; f = folderOf(f)) this.folders.add(f);
    this.files.set(treePath(path), { bytes, modified: this.clock() });
  }

  private has(path: string): boolean {
    return this.files.has(path) || this.folders.has(path) || this.links.has(path);
  }

  private follow(path: TreePath): Promise<TreePath | null> {
    return realPathOf(path, this.root, (p) => this.links.get(p) ?? null);
  }

  /** The path of the entry itself: links above it followed. Null: they lead out. */
  private async entryAt(path: TreePath): Promise<TreePath | null> {
    if (path === '') return path;
    const folder = await this.follow(folderOf(path));
    return folder === null ? null : join(folder, nameOf(path));
  }

  /** The same for what will be written; throws where the folder is not there. */
  private async place(path: TreePath): Promise<TreePath> {
    const at = await this.entryAt(path);
    if (at === null) throw new AppError('no-access', `${path} leads through a link out of the root.`);
    if (!this.folders.has(folderOf(at)))
      throw new AppError('not-found', `The folder of ${path} is not there.`);
    return at;
  }

  private async file(path: TreePath): Promise<Held | null> {
    const real = await this.follow(path);
    return (real !== null && this.files.get(real)) || null;
  }

  async *list(
    folder: TreePath = treePath(''),
    passedOver?: (path: string, why: PassedOver) => void,
  ): AsyncIterable<FileStat> {
    const prefix = folder === '' ? '' : `${folder}/`;
    for (const path of this.links.keys()) if (path.startsWith(prefix)) passedOver?.(path, 'link');
    const paths = [...this.files.keys()].filter((p) => p.startsWith(prefix)).sort(comparePaths);
    for (const path of paths) {
      const held = this.files.get(path);
      if (held) yield statOf(path as TreePath, held);
    }
  }

  async entries(folder: TreePath): Promise<Entry[] | null> {
    const real = await this.follow(folder);
    if (real === null || !this.folders.has(real)) return null;
    const prefix = real === '' ? '' : `${real}/`;
    const inside = (p: string) => p !== '' && p.startsWith(prefix) && !p.slice(prefix.length).includes('/');
    const found: Entry[] = [];
    for (const p of [...this.files.keys()].filter(inside))
      found.push({ name: p.slice(prefix.length), kind: 'file' });
    for (const p of [...this.folders].filter(inside))
      found.push({ name: p.slice(prefix.length), kind: 'folder' });
    for (const [p, link] of [...this.links].filter(([p]) => inside(p))) {
      const to = await this.follow(p as TreePath);
      const kind =
        to === null ? 'other' : this.files.has(to) ? 'file' : this.folders.has(to) ? 'folder' : 'other';
      found.push({ name: p.slice(prefix.length), kind, link });
    }
    return found.sort((a, b) => comparePaths(a.name, b.name));
  }

  async kind(path: TreePath): Promise<Kind | null> {
    const at = await this.entryAt(path);
    if (at === null) return null;
    return this.links.has(at) ? 'link' : this.files.has(at) ? 'file' : this.folders.has(at) ? 'folder' : null;
  }

  async readLink(path: TreePath): Promise<string | null> {
    const at = await this.entryAt(path);
    return at === null ? null : (this.links.get(at) ?? null);
  }

  async stat(path: TreePath): Promise<FileStat | null> {
    const held = await this.file(path);
    return held ? statOf(path, held) : null;
  }

  async read(path: TreePath, range?: ByteRange): Promise<Uint8Array> {
    const held = await this.file(path);
    if (!held) throw missing(path);
    return range ? held.bytes.slice(range[0], range[1]) : held.bytes;
  }

  async *stream(path: TreePath, range?: ByteRange): ByteStream {
    yield await this.read(path, range);
  }

  async digest(path: TreePath): Promise<Digest | null> {
    const held = await this.file(path);
    return held ? digestOf(held.bytes) : null;
  }

  startHash = startDigest;

  async write(path: TreePath, content: ByteStream, options: WriteOptions) {
    const parts: Uint8Array[] = [];
    for await (const part of content) {
      options.signal?.throwIfAborted();
      parts.push(new Uint8Array(part));
      options.onBytes?.(part.length);
    }
    const bytes = concat(parts);
    const modified = options.modified ?? this.clock();
    const written = { digest: digestOf(bytes), size: bytes.length, modified };
    await options.beforeCommit?.(written);
    const at = await this.place(path);
    if (options.replace ? this.folders.has(at) || this.links.has(at) : this.has(at)) throw taken(path);
    this.files.set(at, { bytes, modified, mode: options.mode });
    return written;
  }

  async append(path: TreePath, bytes: Uint8Array) {
    const held = this.files.get(path);
    this.files.set(path, { bytes: concat([held?.bytes ?? new Uint8Array(), bytes]), modified: this.clock() });
  }

  async move(path: TreePath, to: TreePath) {
    const [from, place] = [await this.place(path), await this.place(to)];
    if (this.has(place)) throw taken(to);
    const [held, link] = [this.files.get(from), this.links.get(from)];
    if (held) this.files.set(place, held);
    else if (link !== undefined) this.links.set(place, link);
    else throw missing(path);
    this.files.delete(from);
    this.links.delete(from);
  }

  async moveFolder(path: TreePath, to: TreePath) {
    const [from, place] = [await this.place(path), await this.place(to)];
    if (path === '' || !this.folders.has(from)) throw new AppError('not-found', `${path} is no folder.`);
    if (this.has(place)) throw taken(to);
    if (isWithin(place, from)) throw new AppError('not-found', `The folder of ${to} is not there.`);
    for (const held of [this.files, this.links] as Map<string, unknown>[])
      for (const p of [...held.keys()])
        if (p.startsWith(`${from}/`)) {
          held.set(place + p.slice(from.length), held.get(p));
          held.delete(p);
        }
    for (const f of [...this.folders])
      if (isWithin(f, from)) {
        this.folders.add(place + f.slice(from.length));
        this.folders.delete(f);
      }
  }

  async keep(path: TreePath, to: TreePath) {
    const held = await this.file(path);
    if (!held) throw missing(path);
    if (!this.files.has(to)) this.files.set(to, { ...held });
  }

  async remove(path: TreePath) {
    const at = await this.entryAt(path);
    if (at === null) return;
    this.files.delete(at);
    this.links.delete(at);
  }

  async makeLink(path: TreePath, text: string) {
    const at = await this.place(path);
    if (this.has(at)) throw taken(path);
    this.links.set(at, text);
  }

  async makeFolder(path: TreePath) {
    const at = await this.place(path);
    if (this.files.has(at) || this.links.has(at)) throw taken(path);
    this.folders.add(at);
  }

  async folderMode() {
    return undefined;
  }

  async removeFolder(path: TreePath): Promise<boolean> {
    const at = await this.entryAt(path);
    if (path === '' || at === null || !this.folders.has(at)) return false;
    const inside = (p: string) => p.startsWith(`${at}/`);
    if ([...this.files.keys(), ...this.folders, ...this.links.keys()].some(inside)) return false;
    return this.folders.delete(at);
  }

  async clearTemporary() {}
}
