// Paths inside a tree: '/'-separated, relative to the root, no empty parts, no '.' or '..', letters as on disk.
// The root itself is the empty path.

declare const brand: unique symbol;

/** A path inside a tree, relative to its root. */
export type TreePath = string & { readonly [brand]: 'TreePath' };

/** The root of a tree. */
export const rootPath = '' as TreePath;

/** True when `text` is a well-formed TreePath. */
export function isTreePath(text: string): boolean {
  if (text === '') return true;
  if (text.includes('\0')) return false;
  return text.split('/').every((part) => part !== '' && part !== '.' && part !== '..');
}

/** Brands `text`. Throws a plain Error (a bug, not a user's mistake) when it is not well-formed. */
export function treePath(text: string): TreePath {
  if (!isTreePath(text)) throw new Error(`not a tree path: ${JSON.stringify(text)}`);
  return text as TreePath;
}

/** Joins parts, resolving '.' and '..'; null when the result would leave the root. */
export function joinInside(base: string, relative: string): TreePath | null {
  // Most paths climb first and then only descend.
  let at = 0;
  let from = base;
  while (relative.startsWith('../', at) && from !== '') {
    from = from.slice(0, Math.max(0, from.lastIndexOf('/')));
    at += 3;
  }
  if (!/(?:^|\/)(?:\.{0,2}(?:\/|$))/.test(at === 0 ? relative : relative.slice(at)))
    return (from === '' ? relative.slice(at) : `${from}/${relative.slice(at)}`) as TreePath;
  const parts = base === '' ? [] : base.split('/');
  for (const part of relative.split('/')) {
    if (part === '' || part === '.') continue;
    if (part === '..') {
      if (parts.pop() === undefined) return null;
    } else parts.push(part);
  }
  return parts.join('/') as TreePath;
}

/** Joins well-formed parts. */
export function join(...parts: string[]): TreePath {
  return treePath(parts.filter((p) => p !== '').join('/'));
}

/** Whether a '/'-separated path begins at the top of a drive or share, and so lies in no tree: '/a', 'D:/a', '//host/a'. */
export function isAbsolutePath(path: string): boolean {
  return /^(\/|[A-Za-z]:)/.test(path);
}

/**
 * The path in the tree of an absolute path that lies below its root; null for others, and for the root itself. Both are '/'-separated. On Windows,
 * which a drive letter or share tells, letter case means nothing.
 */
export function insideOf(root: string, absolute: string): TreePath | null {
  const head = root.endsWith('/') ? root : `${root}/`;
  const isWindows = /^([A-Za-z]:|\/\/)/.test(root);
  const isBelow = isWindows
    ? absolute.toLowerCase().startsWith(head.toLowerCase())
    : absolute.startsWith(head);
  return isBelow && absolute.length > head.length ? treePath(absolute.slice(head.length)) : null;
}

/** The folder a path lies in; the root for top-level paths and for the root. */
export function folderOf(path: string): TreePath {
  const at = path.lastIndexOf('/');
  return (at < 0 ? '' : path.slice(0, at)) as TreePath;
}

/** The last part of a path. */
export function nameOf(path: string): string {
  return path.slice(path.lastIndexOf('/') + 1);
}

/** The name without its last extension: 'a/b.tar.gz' → 'b.tar'. A leading dot is no extension. */
export function stemOf(path: string): string {
  const name = nameOf(path);
  const dot = name.lastIndexOf('.');
  return dot > 0 ? name.slice(0, dot) : name;
}

/** The last extension in lower case with its dot, '' when there is none. */
export function extensionOf(path: string): string {
  const name = nameOf(path);
  const dot = name.lastIndexOf('.');
  return dot > 0 ? name.slice(dot).toLowerCase() : '';
}

/** True when `path` is `folder` or lies below it. The root holds everything. */
export function isWithin(path: string, folder: string): boolean {
  return folder === '' || path === folder || path.startsWith(`${folder}/`);
}

/** The relative path from a folder to a path, both measured from the same root: ('scenes', 'textures/a') → '../textures/a'. */
export function relativePath(fromFolder: string, to: string): string {
  const from = fromFolder === '' ? [] : fromFolder.split('/');
  const parts = to.split('/');
  let same = 0;
  while (same < from.length && same < parts.length - 1 && from[same] === parts[same]) same++;
  return [...from.slice(same).map(() => '..'), ...parts.slice(same)].join('/');
}

/** Orders paths by code point: the same order on every system. */
export function comparePaths(a: string, b: string): number {
  return a < b ? -1 : a > b ? 1 : 0;
}
