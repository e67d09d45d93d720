// The nodes of a scene as people pick them: by a name, a way of names, or a pattern. What a node is in its format stands in a file for each.

import { globTest } from '../names/globs';

export interface SceneNode {
  /** Tells it from all others in the file: a number in glTF, a path in USD, a name elsewhere. */
  id: string;
  name: string;
  /** Names from the top, '/' between them. */
  path: string;
  /** Id of the node above; null: it stands at the top. */
  parent: string | null;
  /** What it is, in a word: 'mesh', 'camera', 'Xform'. */
  kind: string;
}

/** What a word of the user's means: all nodes of that name, of that way of names, or that a pattern with * ? or [ fits. */
export function nodesMeant(nodes: readonly SceneNode[], word: string): SceneNode[] {
  const bare = word.replace(/^\/+|\/+$/g, '');
  // A name may hold any character, so what is called like that comes first.
  const called = nodes.filter((n) => n.name === word || n.name === bare);
  if (called.length > 0) return called;
  const below = nodes.filter((n) => n.path === bare || n.path.endsWith(`/${bare}`));
  if (below.length > 0 || !/[*?]/.test(word)) return below;
  const fits = globTest(bare);
  return nodes.filter((n) => fits(bare.includes('/') ? n.path : n.name));
}

/** Names that a mistyped one may have meant: up to five that hold it, or begin alike. */
export function namesLike(nodes: readonly SceneNode[], word: string): string[] {
  const low = word.toLowerCase();
  const near = nodes.filter((n) => {
    const name = n.name.toLowerCase();
    return name !== '' && (name.includes(low) || low.includes(name) || name.slice(0, 3) === low.slice(0, 3));
  });
  return [...new Set((near.length > 0 ? near : nodes).map((n) => n.path))].slice(0, 5);
}

/** Nodes among which none stands below another. */
export function topmost<T extends Pick<SceneNode, 'id' | 'parent'>>(
  nodes: readonly T[],
  all: readonly Pick<SceneNode, 'id' | 'parent'>[],
): T[] {
  const parents = new Map(all.map((n) => [n.id, n.parent]));
  const chosen = new Set(nodes.map((n) => n.id));
  const taken = new Set<string>();
  return nodes.filter((n) => {
    if (taken.has(n.id)) return false;
    taken.add(n.id);
    const seen = new Set<string>();
    for (let at = parents.get(n.id) ?? null; at !== null && !seen.has(at); at = parents.get(at) ?? null) {
      if (chosen.has(at)) return false;
      seen.add(at);
    }
    return true;
  });
}
