// Names and paths that a machine takes, for a tree that it refuses: as little as possible is changed, frames and tiles of one set alike. A map
// from → to; nothing is read or written. The same paths give the same map.

import { folderOf, nameOf } from '../files/treePath';
import { makeLegal } from '../names/portable';
import { foldName } from '../names/portable';
import { checkNameOn, lengthOn } from './fits';
import type { Machine } from './machine';

export interface NewPaths {
  /** Files that get another path. */
  files: ReadonlyMap<string, string>;
  /** Folders that are called otherwise, outermost first. */
  folders: readonly { path: string; to: string }[];
  /** Files whose path stays too long, or whose name stays refused. */
  unresolved: readonly string[];
}

export interface NewPathsRequest {
  /** `root`: where the workspace lies there, without <name>. */
  machine: Machine;
  names: boolean;
  lengths: boolean;
}

/** A name in its three parts: 'sea_v2.0017.ply' → 'sea', '_v2.0017', '.ply'. Numbers stay what they are. */
function partsOf(name: string): [stem: string, numbers: string, extension: string] {
  const dot = name.lastIndexOf('.');
  const isExtension = dot > 0 && /[a-z]/i.test(name.slice(dot)) && name.length - dot <= 12;
  const [base, extension] = isExtension ? [name.slice(0, dot), name.slice(dot)] : [name, ''];
  const numbers = /(?:[._ -]*v?\d+)+$/i.exec(base)?.[0] ?? '';
  return [base.slice(0, base.length - numbers.length), numbers, extension];
}

// A name is cut no shorter than this, its numbers and extension not counted.
const shortestStem = 6;

interface Node {
  /** As it is called now, and as it will be. */
  was: string;
  name: string;
  parent: Node | null;
  children: Map<string, Node> | null;
}

/** Works them out. `paths`: all files of the tree (and links), '/'-separated. */
export function newPathsFor(paths: readonly string[], request: NewPathsRequest): NewPaths {
  return new Renaming(request).run(paths);
}

class Renaming {
  private readonly root: Node = { was: '', name: '', parent: null, children: new Map() };
  private readonly leaves = new Map<string, Node>();

  constructor(private readonly request: NewPathsRequest) {}

  run(paths: readonly string[]): NewPaths {
    for (const path of paths) this.leaves.set(path, this.nodeOf(path));
    if (this.request.names) {
      this.makeLegal(this.root);
      this.partTwins();
    }
    if (this.request.lengths) this.shortenAll();
    const files = new Map<string, string>();
    const unresolved: string[] = [];
    for (const [path, node] of this.leaves) {
      const to = pathOf(node);
      if (to !== path) files.set(path, to);
      if (!this.isTaken(to)) unresolved.push(path);
    }
    return { files, folders: this.renamedFolders(this.root, ''), unresolved };
  }

  private nodeOf(path: string): Node {
    let at = this.root;
    const parts = path.split('/');
    parts.forEach((part, i) => {
      let next = at.children!.get(part);
      if (!next) {
        next = { was: part, name: part, parent: at, children: i < parts.length - 1 ? new Map() : null };
        at.children!.set(part, next);
      }
      at = next;
    });
    return at;
  }

  private isTaken(path: string): boolean {
    const { machine, names, lengths } = this.request;
    return (
      (!names || path.split('/').every((p) => checkNameOn(machine, p) === null)) &&
      (!lengths || lengthOn(machine, path) <= machine.longestPath)
    );
  }

  private makeLegal(folder: Node): void {
    for (const node of folder.children!.values()) {
      if (checkNameOn(this.request.machine, node.name) !== null) this.call(node, this.legal(node.name));
      if (node.children) this.makeLegal(node);
    }
  }

  /** A name that is taken there: forbidden letters by '_', too long ones cut. */
  private legal(name: string): string {
    const { machine } = this.request;
    let next = makeLegal(name);
    // What only this system refuses beside that: a colon on macOS is replaced already.
    for (let room = 240; checkNameOn(machine, next) !== null && room > 20; room -= 20) {
      const [stem, numbers, extension] = partsOf(next);
      next =
        [...stem].slice(0, Math.max(1, room - numbers.length - extension.length)).join('') +
        numbers +
        extension;
    }
    return next;
  }

  /** Gives a node a name that no sibling has, in any letter case. */
  private call(node: Node, wanted: string): void {
    const [stem, numbers, extension] = partsOf(wanted);
    const taken = new Set(
      [...node.parent!.children!.values()].filter((n) => n !== node).map((n) => foldName(n.name)),
    );
    let name = wanted;
    for (let n = 2; taken.has(foldName(name)); n++) name = `${stem}(${n})${numbers}${extension}`;
    node.name = name;
  }

  /** Files that would be one where letter case does not count; also where folders differ only in that. */
  private partTwins(): void {
    if (!this.request.machine.ignoresCase) return;
    const seen = new Set<string>();
    for (const node of this.leaves.values()) {
      let folded = foldName(pathOf(node));
      if (seen.has(folded)) {
        const [stem, numbers, extension] = partsOf(node.name);
        const folder = folderOf(pathOf(node));
        for (let n = 2; seen.has(folded); n++) {
          node.name = `${stem}(${n})${numbers}${extension}`;
          folded = foldName(folder === '' ? node.name : `${folder}/${node.name}`);
        }
      }
      seen.add(folded);
    }
  }

  private shortenAll(): void {
    const { machine } = this.request;
    const over = (node: Node) => lengthOn(machine, pathOf(node)) - machine.longestPath;
    for (const leaf of this.leaves.values())
      for (let n = over(leaf); n > 0; n = over(leaf)) if (!this.shorten(leaf, n)) break;
  }

  /** Cuts the longest name on the way to a file; false where nothing is left to cut. */
  private shorten(leaf: Node, over: number): boolean {
    let best: { node: Node; room: number } | null = null;
    for (let at: Node | null = leaf; at?.parent; at = at.parent) {
      const room = partsOf(at.name)[0].length - shortestStem;
      if (room > 0 && (best === null || room > best.room)) best = { node: at, room };
    }
    if (!best) return false;
    const { node, room } = best;
    const [stem, , extension] = partsOf(node.name);
    // Of one set all are cut alike, by what the longest of them needs.
    const set = [...node.parent!.children!.values()].filter((s) => {
      const [ofStem, , ofExtension] = partsOf(s.name);
      return !s.children === !node.children && ofStem === stem && ofExtension === extension;
    });
    const most = Math.max(...set.map((s) => partsOf(s.name)[1].length)) - partsOf(node.name)[1].length;
    const cut = stem.slice(0, stem.length - Math.min(room, over + most)).replace(/[\uD800-\uDBFF]$/, '');
    const short = cut.replace(/[ ._-]+$/, '') || cut;
    for (const s of set) {
      const [, ofNumbers] = partsOf(s.name);
      this.call(s, short + ofNumbers + extension);
    }
    return true;
  }

  private renamedFolders(folder: Node, at: string): { path: string; to: string }[] {
    const found: { path: string; to: string }[] = [];
    for (const node of folder.children!.values()) {
      if (!node.children) continue;
      const path = at === '' ? node.was : `${at}/${node.was}`;
      const to = pathOf(node);
      if (to !== path) found.push({ path, to });
      found.push(...this.renamedFolders(node, path));
    }
    return found;
  }
}

function pathOf(node: Node): string {
  const parts: string[] = [];
  for (let at: Node | null = node; at?.parent; at = at.parent) parts.unshift(at.name);
  return parts.join('/');
}

/** Whether the last part of a path is all that changed. */
export const isRename = (from: string, to: string) =>
  folderOf(from) === folderOf(to) && nameOf(from) !== nameOf(to);
