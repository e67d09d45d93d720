// Where every path lies after a plan's moves, links and all: those that move, those whose targets do, and what is reached through them.

import { linkTarget, linkText } from '../files/links';
import { isOwnAnywhere } from '../files/records';
import { isAbsolutePath, folderOf, join, joinInside, rootPath, type TreePath } from '../files/treePath';
import type { FileTree } from '../files/fileTree';
import type { Step } from '../changes/plan';
import { normaliseAbsolute } from '../references/written';

/** Where a path will lie. */
export type Place = (path: string) => TreePath;

export interface Moving {
  files: ReadonlyMap<string, string>;
  folders: readonly { path: TreePath; to: TreePath }[];
}

/** Places by moved files (or links) and folders; what is reached through a moved link goes with its name. */
export function placing({ files, folders }: Moving, links: ReadonlyMap<TreePath, string> = new Map()): Place {
  const moved = new Map<string, string>(folders.map((m) => [m.path, m.to]));
  for (const link of links.keys()) if (files.has(link)) moved.set(link, files.get(link)!);
  return (path) => {
    const to = files.get(path);
    if (to !== undefined) return to as TreePath;
    for (let at: string = path; at !== '' && moved.size > 0; at = folderOf(at)) {
      const head = moved.get(at);
      if (head !== undefined) return (head + path.slice(at.length)) as TreePath;
    }
    return path as TreePath;
  };
}

/** Every link of a tree, or below the folders given, with its text, our own records left out. Folders that may not be read are passed over: the scenes' finder names them. */
export async function linksOf(
  tree: FileTree,
  below: readonly TreePath[] = [rootPath],
): Promise<Map<TreePath, string>> {
  const found = new Map<TreePath, string>();
  const waiting: TreePath[] = [...below];
  for (let at = waiting.pop(); at !== undefined; at = waiting.pop())
    for (const e of (await tree.entries(at).catch(() => null)) ?? []) {
      const path = join(at, e.name);
      if (e.link !== undefined) found.set(path, e.link);
      else if (e.kind === 'folder' && !isOwnAnywhere(path)) waiting.push(path);
    }
  return found;
}

/** Links before and after a plan's moves. */
export class LinkWorld {
  private readonly targets = new Map<TreePath, TreePath>();
  /** By new path. */
  private readonly after = new Map<TreePath, TreePath>();

  constructor(
    private readonly links: ReadonlyMap<TreePath, string>,
    private readonly root: string,
    private readonly place: Place,
  ) {
    for (const [path, text] of links) {
      const to = linkTarget(path, text, root);
      if (to !== null) this.targets.set(path, to);
    }
    for (const [path, to] of this.targets)
      this.after.set(place(path), place(this.resolve(to, this.targets) ?? to));
  }

  /** The path of the file itself, links followed, as things are. */
  real(path: TreePath): TreePath {
    return this.resolve(path, this.targets) ?? path;
  }

  /** The same as things will be. */
  realAfter(path: TreePath): TreePath {
    return this.resolve(path, this.after) ?? path;
  }

  private resolve(path: TreePath, targets: ReadonlyMap<TreePath, TreePath>): TreePath | null {
    if (targets.size === 0) return path;
    let real = '';
    let rest = path === '' ? [] : path.split('/');
    for (let hops = 0; rest.length > 0;) {
      const at = (real === '' ? rest[0]! : `${real}/${rest[0]!}`) as TreePath;
      const to = targets.get(at);
      if (to === undefined) {
        real = at;
        rest = rest.slice(1);
        continue;
      }
      if (++hops > 40) return null;
      rest = [...(to === '' ? [] : to.split('/')), ...rest.slice(1)];
      real = '';
    }
    return real as TreePath;
  }

  /** The way to say where `real` will lie that keeps to the links that were used, where these still lead there. */
  sayAfter(alias: TreePath, realAfter: TreePath): TreePath {
    const kept = this.place(alias);
    return this.realAfter(kept) === realAfter ? kept : realAfter;
  }

  /** Steps that give links new texts, at their new places, where the old ones would lead elsewhere. `isThere`: whether a path leads to anything now. */
  async steps(isThere: (path: TreePath) => Promise<boolean>): Promise<(Step & { do: 'link' })[]> {
    const steps: (Step & { do: 'link' })[] = [];
    for (const [path, text] of this.links) {
      const to = this.place(path);
      const after = await this.textAfter(path, to, text, isThere);
      if (after !== text) steps.push({ do: 'link', path: to, before: text, after });
    }
    return steps;
  }

  private async textAfter(
    path: TreePath,
    to: TreePath,
    text: string,
    isThere: (path: TreePath) => Promise<boolean>,
  ): Promise<string> {
    const target = this.targets.get(path);
    if (target === undefined) {
      // It leads out: where it says so relative to itself, the way is another from its new folder.
      if (isAbsolutePath(text) || folderOf(to) === folderOf(path)) return text;
      const outside = normaliseAbsolute(`${this.root}/${folderOf(path)}/${text}`);
      return relativeTo(normaliseAbsolute(`${this.root}/${folderOf(to)}`), outside);
    }
    if (!(await isThere(target))) return text;
    const wanted = this.place(this.real(target));
    const said = isAbsolutePath(text) ? target : joinInside(folderOf(to), text);
    if (said !== null && this.realAfter(said) === wanted) return text;
    return linkText(to, this.sayAfter(target, wanted), text, this.root);
  }
}

function relativeTo(folder: string, to: string): string {
  const [a, b] = [folder.split('/'), to.split('/')];
  let same = 0;
  while (same < a.length && same < b.length && a[same] === b[same]) same++;
  return [...a.slice(same).map(() => '..'), ...b.slice(same)].join('/') || '.';
}
