// The new folder as a tree, and what a hand does in it.

import type { HandStep } from '@/core/collect/hand';
import type { Placement } from '@/core/collect/placement';
import { folderOf, isWithin, join, nameOf } from '@/core/files/treePath';
import type { Needs } from './needs';

export interface Node {
  /** 'd:' and the path of a folder; 'f:' and what a file or a set comes from. */
  key: string;
  name: string;
  path: string;
  isFolder: boolean;
  files: number;
  size: number;
  /** A hand placed it, or all that lies in it. */
  byHand: boolean;
  /** What it comes from; null for folders. */
  from: string | null;
  /** Why it has another name than it had. */
  told: string | null;
  /** Why it cannot lie here. */
  clash: string | null;
  children: Node[];
}

/** The tree; folders first, each level by name. */
export function treeOf(needs: Pick<Needs, 'files' | 'sets'>, placement: Placement): Node[] {
  const top: Node[] = [];
  const folders = new Map<string, Node>();
  const clashes = new Map(placement.clashes.map((c) => [c.from === '' ? `d:${c.to}` : `f:${c.from}`, c.why]));
  const folderAt = (path: string): Node[] => {
    if (path === '') return top;
    const known = folders.get(path);
    if (known) return known.children;
    const key = `d:${path}`;
    const node: Node = {
      key,
      name: nameOf(path),
      path,
      isFolder: true,
      files: 0,
      size: 0,
      byHand: true,
      from: null,
      told: null,
      clash: clashes.get(key) ?? null,
      children: [],
    };
    folders.set(path, node);
    folderAt(folderOf(path)).push(node);
    return node.children;
  };
  const add = (from: string, path: string, files: number, size: number, about: Omit<Told, 'clash'>) => {
    folderAt(folderOf(path)).push({
      key: `f:${from}`,
      name: nameOf(path),
      path,
      isFolder: false,
      files,
      size,
      from,
      clash: clashes.get(`f:${from}`) ?? null,
      children: [],
      ...about,
    });
    for (let at = folderOf(path); at !== ''; at = folderOf(at)) {
      const folder = folders.get(at)!;
      folder.files += files;
      folder.size += size;
      folder.byHand &&= about.byHand;
    }
  };
  for (const folder of placement.folders) folderAt(folder);
  for (const c of placement.clashes) if (c.from === '') folderAt(c.to);
  const seen = new Set<string>();
  for (const file of needs.files.values()) {
    const { to, byHand, instead } = placement.files.get(file.from)!;
    if (file.set === null) {
      add(file.from, to, 1, file.state.size, { byHand, told: instead && toldOf(instead) });
      continue;
    }
    if (seen.has(file.set)) continue;
    seen.add(file.set);
    const members = needs.sets.get(file.set)!.flatMap((m) => needs.files.get(m) ?? []);
    const size = members.reduce((sum, m) => sum + m.state.size, 0);
    const path = placement.sets.get(file.set)!;
    add(file.set, path, members.length, size, {
      byHand,
      told: instead && 'in a folder of its own: such names lie there',
    });
  }
  const sort = (nodes: Node[]) => {
    nodes.sort((a, b) => Number(b.isFolder) - Number(a.isFolder) || (a.name < b.name ? -1 : 1));
    for (const n of nodes) sort(n.children);
  };
  sort(top);
  return top;
}

type Told = Pick<Node, 'byHand' | 'told' | 'clash'>;

const toldOf = ({ name, why }: { name: string; why: 'taken' | 'illegal' }) =>
  why === 'taken' ? 'another file of this name' : `was ${name}: not legal everywhere`;

/** Every node, by its key. */
export function nodesOf(nodes: readonly Node[], into = new Map<string, Node>()): Map<string, Node> {
  for (const n of nodes) {
    into.set(n.key, n);
    nodesOf(n.children, into);
  }
  return into;
}

/** The step that has a node lie at another path; null where it lies there, or would lie in itself. */
export function stepTo(node: Node, path: string): HandStep | null {
  if (path === node.path || (node.isFolder && isWithin(path, node.path))) return null;
  return node.isFolder
    ? { do: 'folder', path: node.path, to: path }
    : { do: 'put', from: node.from!, to: path };
}

/** The steps that have nodes lie in a folder; those that lie in another of them go with it. */
export function stepsInto(nodes: readonly Node[], folder: string): HandStep[] {
  const inOther = (n: Node) => nodes.some((o) => o !== n && o.isFolder && isWithin(n.path, o.path));
  return nodes.filter((n) => !inOther(n)).flatMap((n) => stepTo(n, join(folder, n.name)) ?? []);
}

/** Where a node goes by Alt and an arrow: out of its folder, or into the folder above it in the list; null: there is no way. */
export function nudged(nodes: readonly Node[], node: Node, way: 'in' | 'out'): string | null {
  const parent = folderOf(node.path);
  if (way === 'out') return parent === '' ? null : folderOf(parent);
  const siblings = (parent === '' ? nodes : nodesOf(nodes).get(`d:${parent}`)!.children).filter(
    (n) => n.isFolder && n !== node,
  );
  const before = siblings.filter((n) => !node.isFolder || n.name < node.name).at(-1);
  return (before ?? siblings[0])?.path ?? null;
}

/** A name for a new folder in a folder. */
export function freshName(nodes: readonly Node[], folder: string): string {
  const there = new Set(
    (folder === '' ? nodes : (nodesOf(nodes).get(`d:${folder}`)?.children ?? [])).map((n) =>
      n.name.toLowerCase(),
    ),
  );
  let name = 'new folder';
  for (let n = 2; there.has(name); n++) name = `new folder ${n}`;
  return name;
}
