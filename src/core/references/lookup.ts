// Finds files letter for letter, from folder listings that are read once. Also tells what would be found if letter case and
// Unicode form were ignored. One Lookup serves one judging run: it does not see what changes on disk meanwhile.

import { folderOf, nameOf, rootPath, treePath, type TreePath } from '../files/treePath';
import { foldName } from '../names/portable';

/** What a lookup needs of a tree. */
export interface Listing {
  entries(folder: TreePath): Promise<readonly { name: string; kind: 'file' | 'folder' }[] | null>;
}

interface Folder {
  names: Map<string, 'file' | 'folder'>;
  folded: Map<string, string[]> | null;
}

export class Lookup {
  private readonly folders = new Map<string, Folder | null>();

  constructor(private readonly listing: Listing) {}

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

  /** The folder's names; null when there is no such folder, letter for letter. */
  private async folder(path: TreePath): Promise<Folder | null> {
    const held = this.folders.get(path);
    if (held !== undefined) return held;
    let folder: Folder | null = null;
    if (path === '' || (await this.kind(path)) === 'folder') {
      const entries = await this.listing.entries(path);
      if (entries) folder = { names: new Map(entries.map((e) => [e.name, e.kind])), folded: null };
    }
    this.folders.set(path, folder);
    return folder;
  }

  /** The file at the path if letter case and Unicode form are ignored; null when there is none or more than one could be meant. */
  async findLoosely(path: TreePath): Promise<TreePath | null> {
    let at: TreePath = rootPath;
    const parts = path.split('/');
    for (let i = 0; i < parts.length; i++) {
      const folder = await this.folder(at);
      if (!folder) return null;
      let name: string | undefined = folder.names.has(parts[i]!) ? parts[i] : undefined;
      if (name === undefined) {
        folder.folded ??= fold(folder.names.keys());
        const same = folder.folded.get(foldName(parts[i]!)) ?? [];
        if (same.length !== 1) return null;
        name = same[0]!;
      }
      const last = i === parts.length - 1;
      if (folder.names.get(name) !== (last ? 'file' : 'folder')) return null;
      at = treePath(at === '' ? name : `${at}/${name}`);
    }
    return at;
  }
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
