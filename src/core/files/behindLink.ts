// What lies behind a link, for what holds no links itself (a bag): the files it leads to, under the link's own name. Links further on are not
// followed.

import type { FileStat, FileTree } from './fileTree';
import { join, type TreePath } from './treePath';

/** A file behind a link by its path through the link; or a path that leads nowhere, out of the root, or round in circles. */
export type BehindLink = { file: FileStat } | { leadsNowhere: TreePath };

export async function* behindLink(tree: FileTree, link: TreePath): AsyncIterable<BehindLink> {
  const stat = await tree.stat(link);
  if (stat) {
    yield { file: { ...stat, path: link } };
    return;
  }
  const entries = await tree.entries(link).catch(() => null);
  const text = await tree.readLink(link);
  // A link to a folder around it has no end.
  const isRound = text !== null && /^[./\\]*$/.test(text);
  if (entries === null || isRound) {
    yield { leadsNowhere: link };
    return;
  }
  const waiting: TreePath[] = [link];
  for (let at = waiting.pop(); at !== undefined; at = waiting.pop())
    for (const e of (await tree.entries(at).catch(() => null)) ?? []) {
      const path = join(at, e.name);
      const below = e.link === undefined && e.kind === 'file' ? await tree.stat(path) : null;
      if (below) yield { file: { ...below, path } };
      else if (e.link === undefined && e.kind === 'folder') waiting.push(path);
      else yield { leadsNowhere: path };
    }
}
