// Finds files letter for letter, from folder listings that are read once. Also tells what would be found if letter case and
// Unicode form were ignored. One Lookup serves one judging run: it does not see what changes on disk meanwhile.

import { AppError } from '../errors';
import type { Entry } from '../files/fileTree';
import { realPathOf } from '../files/links';
import { folderOf, nameOf, rootPath, treePath, type TreePath } from '../files/treePath';
import { foldName } from '../names/portable';

/** What a lookup needs of a tree. */
export interface Listing {
  entries(folder: TreePath): Promise<readonly Entry[] | null>;
  stat?(path: TreePath): Promise<{ size: number } | null>;
}

interface Folder {
  names: Map<string, 'file' | 'folder'>;
  /** Texts of the links in it. */
  links: Map<string, string>;
  folded: Map<string, string[]> | null;
}

export class Lookup {
  private readonly folders = new Map<string, Folder | null>();
  /** Folders whose names may not be read: what is asked for in them is not found, and this says why. */
  readonly unread = new Set<TreePath>();
  private readonly empty = new Map<TreePath, boolean>();
  /** Whether any link was met: without one, every path is its own. */
  hasLinks = false;

  /** `root`: the tree's absolute path, by which absolute links are measured. */
  constructor(
    private readonly listing: Listing,
    private readonly root = '',
  ) {}

  /** Whether the file at a path is empty; false where the listing does not tell sizes. */
  async isEmpty(path: TreePath): Promise<boolean> {
    const known = this.empty.get(path);
    if (known !== undefined) return known;
    const stat = await this.listing.stat?.(path)?.catch(() => null);
    const isEmpty = stat?.size === 0;
    this.empty.set(path, isEmpty);
    return isEmpty;
  }

  /** The path of the file itself once links are followed; the same path where there are none. */
  async real(path: TreePath): Promise<TreePath> {
    if (!this.hasLinks) return path;
    const linkAt = async (p: TreePath) => (await this.folder(folderOf(p)))?.links.get(nameOf(p)) ?? null;
    return (await realPathOf(path, this.root, linkAt)) ?? path;
  }

  /** 'file' or 'folder' at the path, letter for letter; null when there is nothing. */
  async kind(path: TreePath): Promise<'file' | 'folder' | null> {
    if (path === '') return 'folder';
    return (await this.folder(folderOf(path)))?.names.get(nameOf(path)) ?? null;
  }

  /** The same, where the folder's names have been read already; undefined where they have not. */
  knownKind(path: TreePath): 'file' | 'folder' | null | undefined {
    if (path === '') return 'folder';
    const held = this.folders.get(folderOf(path));
    return held === undefined ? undefined : (held?.names.get(nameOf(path)) ?? null);
  }

  /** Names of the files directly in a folder; null when there is no such folder. */
  async filesIn(folder: TreePath): Promise<string[] | null> {
    const held = await this.folder(folder);
    return held && [...held.names].filter(([, kind]) => kind === 'file').map(([name]) => name);
  }

  /** The folder's names; null when there is no such folder, letter for letter. Walked from the top: a written path may have thousands of parts. */
  private async folder(path: TreePath): Promise<Folder | null> {
    const held = this.folders.get(path);
    if (held !== undefined) return held;
    let above = null as Folder | null;
    for (let end = 0; ;) {
      const at = path.slice(0, end) as TreePath;
      let folder = this.folders.get(at);
      if (folder === undefined) {
        const isThere: boolean = at === '' || above?.names.get(nameOf(at)) === 'folder';
        const entries: readonly Entry[] | null = isThere ? await this.entriesOf(at) : null;
        folder = entries ? this.folderWith(entries) : null;
        this.folders.set(at, folder);
      }
      if (folder === null) {
        this.folders.set(path, null);
        return null;
      }
      above = folder;
      if (end === path.length) return folder;
      const slash = path.indexOf('/', end + 1);
      end = slash < 0 ? path.length : slash;
    }
  }

  private async entriesOf(path: TreePath): Promise<readonly Entry[] | null> {
    try {
      return await this.listing.entries(path);
    } catch (cause) {
      if (!(cause instanceof AppError)) throw cause;
      this.unread.add(path);
      return null;
    }
  }

  private folderWith(entries: readonly Entry[]): Folder {
    const folder: Folder = { names: new Map(), links: new Map(), folded: null };
    for (const { name, kind, link } of entries) {
      if (kind !== 'other') folder.names.set(name, kind);
      if (link === undefined) continue;
      folder.links.set(name, link);
      this.hasLinks = true;
    }
    return folder;
  }

  /** The path with each of its names as they are on disk, where letter case and Unicode form leave but one that could be meant; the rest as given. */
  async spelled(path: TreePath): Promise<TreePath> {
    let at: TreePath = rootPath;
    const parts = path.split('/');
    for (const [i, part] of parts.entries()) {
      const folder = await this.folder(at);
      if (!folder) return treePath([...(at === '' ? [] : [at]), ...parts.slice(i)].join('/'));
      const name = nameLike(folder, part) ?? part;
      at = treePath(at === '' ? name : `${at}/${name}`);
    }
    return at;
  }

  /** The file at the path if letter case and Unicode form are ignored; null when there is none or more than one could be meant. */
  async findLoosely(path: TreePath): Promise<TreePath | null> {
    let at: TreePath = rootPath;
    const parts = path.split('/');
    for (let i = 0; i < parts.length; i++) {
      const folder = await this.folder(at);
      if (!folder) return null;
      const name = nameLike(folder, parts[i]!);
      if (name === null) return null;
      const last = i === parts.length - 1;
      if (folder.names.get(name) !== (last ? 'file' : 'folder')) return null;
      at = treePath(at === '' ? name : `${at}/${name}`);
    }
    return at;
  }
}

/** The name in a folder that is meant, if letter case and Unicode form are ignored where it is not there as given. */
function nameLike(folder: Folder, name: string): string | null {
  if (folder.names.has(name)) return name;
  folder.folded ??= fold(folder.names.keys());
  const same = folder.folded.get(foldName(name)) ?? [];
  return same.length === 1 ? same[0]! : null;
}

function fold(names: Iterable<string>): Map<string, string[]> {
  const folded = new Map<string, string[]>();
  for (const name of names) {
    const key = foldName(name);
    const held = folded.get(key);
    if (held) held.push(name);
    else folded.set(key, [name]);
  }
  return folded;
}
