// Links (symbolic ones), decided once: a link is an entry of its own, which is moved, restored and counted as a link. For reading it is
// followed, as long as it leads to something inside the root. Nothing is written through it. Texts are '/'-separated on every system.
//
//     textures/latest -> v3          'v3', measured from textures/
//     kit -> /work/boat/shared/kit   absolute, inside the root /work/boat
//     steal -> ../../home/x          leads out: it is there, but reads as nothing

import { folderOf, isAbsolutePath, isWithin, joinInside, rootPath, type TreePath } from './treePath';

/** What a folder's listing says of one name; `link` is the text of a link. */
export interface LinkEntry {
  name: string;
  kind: 'file' | 'folder' | 'link' | 'other';
  link?: string;
}

/** The text of the link at a path, null where there is none. */
export type LinkAt = (path: TreePath) => string | null | Promise<string | null>;

// As many as Linux follows (path_resolution(7): 40).
const mostHops = 40;

/** Where a link's text leads, by the folder it stands in; null when that is outside the root (or a drive of another system). */
export function linkTarget(link: TreePath, text: string, root: string): TreePath | null {
  if (isAbsolutePath(text)) {
    const clean = text.replace(/\/+$/, '');
    return isWithin(clean, root) ? joinInside('', clean.slice(root.length)) : null;
  }
  return joinInside(folderOf(link), text);
}

/** The real path of what lies at `path` once links are followed; null where they lead out of the root or round in circles. Says nothing of whether it exists. */
export async function realPathOf(path: TreePath, root: string, linkAt: LinkAt): Promise<TreePath | null> {
  let real: string = '';
  let rest = path === '' ? [] : path.split('/');
  for (let hops = 0; rest.length > 0;) {
    const at = (real === '' ? rest[0]! : `${real}/${rest[0]!}`) as TreePath;
    const text = await linkAt(at);
    if (text === null) {
      real = at;
      rest = rest.slice(1);
      continue;
    }
    if (++hops > mostHops) return null;
    const to = linkTarget(at, text, root);
    if (to === null) return null;
    // What it leads to may pass through links in turn: from the top again.
    rest = [...(to === '' ? [] : to.split('/')), ...rest.slice(1)];
    real = '';
  }
  return real as TreePath;
}

/** The text that makes a link at `link` lead to `to`: absolute where `like` was, else relative. */
export function linkText(link: TreePath, to: TreePath, like: string, root: string): string {
  if (isAbsolutePath(like)) return to === rootPath ? root : `${root}/${to}`;
  const from = folderOf(link) === '' ? [] : folderOf(link).split('/');
  const parts = to === '' ? [] : to.split('/');
  let same = 0;
  while (same < from.length && same < parts.length && from[same] === parts[same]) same++;
  const text = [...from.slice(same).map(() => '..'), ...parts.slice(same)].join('/');
  return text === '' ? '.' : text;
}
